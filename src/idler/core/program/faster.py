"""What a faster axis would save of a program's time: it is planned once more with another pace."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from ..errors import Refusal
from ..machine import Address, Machine
from ..values.units import figure
from ..words import duration
from .planning import plan_program
from .verdict import Verdict

MORE = Fraction(2)  # times its acceleration
WORTH = 0.01  # of the time: less is not worth a word
MOST_MOVES = 300_000  # of a program that is planned once more without being asked to


@dataclass(frozen=True)
class Saving:
    """With this acceleration (mm/s², °/s²) on an axis a program would take so many seconds less."""

    axis: str
    acceleration: float
    seconds: float
    unit: str

    @property
    def words(self) -> str:
        return f"With {figure(self.acceleration, 0)} {self.unit}/s² on {self.axis} it would take {duration(self.seconds)} less"


def savings(found: Verdict) -> tuple[Saving, ...]:
    """For each axis that keeps feeds from being reached, what twice its acceleration would save; the most first."""
    machine, saved = found.program.machine, []
    for name in dict.fromkeys(part.axis for part in found.unreached if part.axis):
        slot = machine.names.index(name)
        quicker = faster(machine, slot)
        timing = plan_program(found.program, quicker) if quicker is not None else None
        if quicker is None or timing is None:
            continue
        less = found.timing.total - timing.total
        if less > WORTH * found.timing.total:
            axis = quicker.axis(slot)
            saved.append(Saving(name, float(axis.number("pace.acceleration")), less, axis.unit))
    return tuple(sorted(saved, key=lambda saving: -saving.seconds))


def faster(machine: Machine, slot: int) -> Machine | None:
    """The machine with twice the acceleration on an axis; None where that cannot be stored."""
    axis = machine.axis(slot)
    try:
        return machine.with_values(
            {Address(slot, key): axis.number(key) * MORE for key in ("pace.acceleration", "pace.deceleration")}
        )
    except Refusal:
        return None
