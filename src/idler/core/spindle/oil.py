"""Way oil over a working day: when the pump strokes, for what the machine does, and how much oil that is."""

from __future__ import annotations

from dataclasses import dataclass

from ..machine import Address, Machine
from ..values.units import several
from . import quantity

SHIFT = 480.0  # minutes


@dataclass(frozen=True)
class Spell:
    """Minutes of the day, from and to, in which something is so."""

    begin: float
    end: float

    @property
    def long(self) -> float:
        return self.end - self.begin


@dataclass(frozen=True)
class Day:
    """A made-up working day: when the drives are powered, when axes move, and when the spindle runs."""

    name: str
    power: tuple[Spell, ...]
    motion: tuple[Spell, ...]
    spindle: tuple[Spell, ...]


def _batches(starts: tuple[float, ...], long: float, setting: float) -> tuple[tuple[Spell, ...], tuple[Spell, ...]]:
    """Setting up moves axes now and then; then a batch moves them and turns the spindle."""
    spindle = tuple(Spell(start + setting, start + setting + long) for start in starts)
    motion = [Spell(start + k * setting / 3, start + k * setting / 3 + 2) for start in starts for k in range(3)]
    return tuple(sorted([*motion, *spindle], key=lambda spell: spell.begin)), spindle


def days() -> tuple[Day, ...]:
    """Three kinds of shift of eight hours."""
    powered = (Spell(10, 235), Spell(270, SHIFT - 5))
    motion, spindle = _batches((15, 120, 275, 375), 62, 22)
    long_motion, long_spindle = _batches((20, 290), 190, 15)
    long_motion = tuple(Spell(s.begin, min(s.end, SHIFT)) for s in long_motion)
    long_spindle = tuple(Spell(s.begin, min(s.end, SHIFT)) for s in long_spindle)
    little_motion, little_spindle = _batches((30, 130, 280, 400), 12, 55)
    return (
        Day("four batches", powered, motion, spindle),
        Day("two long programs", (Spell(10, SHIFT - 5),), long_motion, long_spindle),
        Day("mostly setting up", powered, little_motion, little_spindle),
    )


def counted(machine: Machine, day: Day) -> tuple[Spell, ...]:
    """The time that the controller counts, without overlaps."""
    kind = machine[Address(None, "oil.of")]
    of = {
        "motion": day.motion, "spindle": day.spindle, "power": day.power,
        "either": tuple(sorted([*day.motion, *day.spindle], key=lambda spell: spell.begin)),
    }[str(kind)]  # fmt: skip
    merged: list[Spell] = []
    for spell in of:
        if merged and spell.begin <= merged[-1].end:
            merged[-1] = Spell(merged[-1].begin, max(merged[-1].end, spell.end))
        else:
            merged.append(spell)
    return tuple(merged)


def strokes(machine: Machine, day: Day) -> tuple[float, ...]:
    """Minutes of the day at which the pump begins a stroke; none where it is never on."""
    if not quantity(machine, "oil.seconds"):
        return ()
    every, done, found = quantity(machine, "oil.every"), 0.0, []
    for spell in counted(machine, day):
        at = spell.begin
        while at + (every - done) <= spell.end + 1e-9:
            at += every - done
            done = 0.0
            found.append(at)
        done += spell.end - at
    return tuple(found)


def now_in_words(machine: Machine, done: int, towards: int) -> str:
    """Of what the controller counts itself. machine: as the controller holds it. done: strokes since it was made.
    towards: counted seconds since the last one."""
    begun = f"{several(done, 'stroke')} so far, as the controller counts"
    if not quantity(machine, "oil.seconds"):
        return f"{begun}. The controller is told to give none."
    left = max(0.0, quantity(machine, "oil.every") - towards / 60)
    return f"{begun}; the next one after {max(1, round(left))} min of {machine.show(Address(None, 'oil.of'))}."


def day_in_words(machine: Machine, day: Day) -> str:
    """How often, how much, and the longest time of work without oil."""
    found = strokes(machine, day)
    dose = quantity(machine, "oil.dose")
    if not found:
        return "The pump does not stroke once in this shift."
    words = f"{several(len(found), 'stroke')} in this shift"
    if dose:
        words += f", {len(found) * dose:.3g} ml of oil"
    gaps = [after - before for before, after in zip((0.0, *found), (*found, SHIFT), strict=True)]
    return f"{words}; the longest time without one is {max(gaps):.0f} min by the clock."
