"""Where a value stands between screen and controller. Derived from the draft and the controller, never stored."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from enum import Enum
from typing import Literal

from ..machine import Address, Machine, Shape
from ..mechanics.chain import Chain
from ..profile.codec import LETTERS, Place, Raw, located, place, raws_of
from ..profile.homes import Home, Where
from ..values.units import several
from .parts import PartFacts


class Standing(Enum):
    """key and words."""

    UNKNOWN = ("unknown", "no controller is connected")
    SAME = ("same", "the controller and the newest revision hold this value")
    IN_FORCE = ("in_force", "sent and in force; no revision holds it yet")
    EDITED = ("edited", "edited here, not sent")
    WAITING = ("waiting", "sent and stored; waits for a restart of the controller")
    KEPT = ("kept", "kept and done by Idler; no part of this controller holds it")
    ABSENT = ("absent", "not to be had with this controller")

    def __init__(self, key: str, words: str) -> None:
        self.key = key
        self.words = words


@dataclass(frozen=True)
class ControllerImage:
    """What a controller held when it was last read: its shape, and raw values by place.

    old: what is still in force of the values that wait for a restart.
    unstored: how many of its values are other than those that a restart would bring back.
    foreign: somebody else has written values since it was read before.
    homes: where values live in a controller that is made of parts; what stands not there lives in the controller.
    parts: what was seen of each of them.
    """

    shape: Shape
    raws: Mapping[Place, Raw]
    old: Mapping[Place, Raw] = field(default_factory=dict)
    unstored: int = 0
    foreign: bool = False
    homes: Mapping[Place, Where] = field(default_factory=dict)
    parts: tuple[PartFacts, ...] = ()

    def home(self, where: Place) -> Home:
        found = self.homes.get(where)
        return found.home if found is not None else Home.PART

    @property
    def waiting(self) -> Collection[Place]:
        """The places whose value waits for a restart."""
        return self.old.keys()


def standing(
    machine: Machine, holding: ControllerImage | None, address: Address, base: Machine | None = None
) -> Standing:
    """Values are compared as they are on the wire, so that rounding there is no difference.

    base: the newest revision, where a value that only the controller holds is to be told from one that is kept.
    """
    if holding is None:
        return Standing.UNKNOWN
    kept = _kept(machine, base)
    return _against(holding, raws_of(machine)[address], kept is None or kept[address], place(address))


def _kept(machine: Machine, base: Machine | None) -> Mapping[Address, Raw | None] | None:
    """What the newest revision holds; None where there is none with these axes. Terminals that it does not know yet are as the
    table has them."""
    if base is None or base.names != machine.names:
        return None
    return raws_of(base if base.shape == machine.shape else base.shaped_as(machine.shape))


def _against(holding: ControllerImage, raw: Raw | None, kept: Raw | Literal[True] | None, where: Place) -> Standing:
    """raw, kept: of the machine and of the newest revision; True: whatever it is, it is kept."""
    if holding.home(where) is Home.ABSENT:
        return Standing.ABSENT
    if raw is None or raw != holding.raws.get(where):
        return Standing.EDITED
    if where in holding.old:
        return Standing.WAITING
    if kept is not True and kept != raw:
        return Standing.IN_FORCE
    return Standing.KEPT if holding.home(where) is Home.OURS else Standing.SAME


@dataclass(frozen=True)
class Count:
    """Addresses that differ from the controller; known is False where no controller was read."""

    edited: tuple[Address, ...]
    waiting: tuple[Address, ...]
    in_force: tuple[Address, ...]
    known: bool
    axes: Standing = Standing.SAME  # of the letters of the axes in their order

    @property
    def to_send(self) -> bool:
        return bool(self.edited) or self.axes is Standing.EDITED

    @property
    def to_restart(self) -> bool:
        return bool(self.waiting) or self.axes is Standing.WAITING

    @property
    def short(self) -> str:
        """The same in few words: "1 edited · 24 in no revision"."""
        parts = ["other axes"] if self.axes in (Standing.EDITED, Standing.WAITING) else []
        for listed, words in (
            (self.edited, "edited"), (self.waiting, "wait for a restart"), (self.in_force, "in no revision"),
        ):  # fmt: skip
            parts += [f"{len(listed)} {words}"] if listed else []
        return " · ".join(parts) or ("all held" if self.known else "no controller")

    @property
    def words(self) -> str:
        parts = []
        if self.axes is Standing.EDITED:
            parts.append("other axes, not sent")
        elif self.axes is Standing.WAITING:
            parts.append("other axes wait for a restart")
        if self.edited:
            parts.append(f"{several(len(self.edited), 'value')} edited, not sent")
        if self.waiting:
            parts.append(f"{several(len(self.waiting), 'value')} waiting for a restart")
        if self.in_force:
            parts.append(f"{several(len(self.in_force), 'value')} in force, in no revision")
        return " · ".join(parts) or ("the controller holds every value" if self.known else "no controller is connected")


def count(machine: Machine, holding: ControllerImage | None, base: Machine | None = None) -> Count:
    if holding is None:
        return Count((), (), (), known=False, axes=Standing.UNKNOWN)
    by_standing: dict[Standing, list[Address]] = {kind: [] for kind in Standing}
    raws, kept = raws_of(machine), _kept(machine, base)
    for address, where, given in located(machine.shape):
        if not given:
            before = kept is None or kept[address]
            by_standing[_against(holding, raws[address], before, where)].append(address)
    edited, waiting, in_force = (
        tuple(by_standing[kind]) for kind in (Standing.EDITED, Standing.WAITING, Standing.IN_FORCE)
    )
    return Count(edited, waiting, in_force, known=True, axes=_axes(machine, holding))


def _axes(machine: Machine, holding: ControllerImage) -> Standing:
    """Where the axes themselves stand: their letters and their order."""
    if holding.raws.get(LETTERS) != "".join(machine.names):
        return Standing.EDITED
    return Standing.WAITING if LETTERS in holding.waiting else Standing.SAME


@dataclass(frozen=True)
class Change:
    """One line of "if you send this": a name, and what it is before and after."""

    label: str
    before: str
    after: str


def consequences(before: Machine, after: Machine, slot: int) -> list[Change]:
    """What follows for one axis from going from one machine to the other: counts, resolution, steps and motor at speed."""
    old, new = before.axis(slot), after.axis(slot)
    chains = Chain.of(old), Chain.of(new)
    speeds = old.number("pace.top_speed"), new.number("pace.top_speed")

    def both(label: str, first: str, second: str) -> Change:
        return Change(label, first, second)

    lines = [
        both(
            f"counts per {new.reads.name}",
            *(f"{float(chain.counts_shown):.4f}".rstrip("0").rstrip(".") for chain in chains),
        ),
        both("one count", *(chain.resolution_text for chain in chains)),
        both(
            "steps at top speed",
            *(f"{float(c.step_rate(v)) / 1000:.1f} kHz" for c, v in zip(chains, speeds, strict=True)),
        ),
        both("motor at top speed", *(f"{float(c.motor_rpm(v)):.0f} rpm" for c, v in zip(chains, speeds, strict=True))),
    ]
    return [line for line in lines if line.before != line.after]
