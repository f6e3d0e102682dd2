"""All values of a controller that is made of parts: read from where each lives, and sent as one transaction."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator, Mapping, Sequence
from fractions import Fraction
from typing import TYPE_CHECKING, NamedTuple

from idler.core.controller.standing import ControllerImage
from idler.core.errors import IdlerError, Refusal
from idler.core.machine import Address, Machine, Shape
from idler.core.profile import homes
from idler.core.profile.cia402 import MODES_KNOWN
from idler.core.profile.codec import Place, Raw, decode, derived, encode, image, machine_from, place
from idler.core.profile.objects import SAVE
from idler.core.profile.partunits import WIDEST, Measure, PartUnits, row_raw, row_value, told_units
from idler.core.profile.partunits import Told as UnitsTold
from idler.core.table.rows.spindle import OWN_DRIVE

from ..errors import LinkError, NotAllowedNow, NotStored, WriteRefused
from .facts import given, part_facts
from .part import Object, Part

if TYPE_CHECKING:
    from ..client import Told
    from ..plan import Plan
    from .axis import Axis
    from .client import Client
    from .terminals import Screw

_UNIT_OBJECTS: tuple[Object, ...] = (
    (0x608F, 1), (0x608F, 2), (0x6091, 1), (0x6091, 2), (0x6092, 1), (0x6092, 2), (0x60A9, 0),
)  # fmt: skip
STORE: Object = (0x1010, 1)
SIGNED = (0x6086, 0), (0x607D, 1), (0x607D, 2)
FILTER = "input.filter"
MOST = 4  # names in one sentence


class InPart(NamedTuple):
    """One value of an axis that lies in its part."""

    axis: Axis
    key: str
    where: Object
    measure: Measure

    @property
    def place(self) -> Place:
        return place(Address(self.axis.slot, self.key))

    @property
    def part(self) -> Part:
        return self.axis.part

    def read(self, label: str = "") -> int:
        return self.part.read(self.where, label, signed=self.where in SIGNED)

    def write(self, raw: int, label: str = "") -> None:
        self.part.write(self.where, raw, label)

    def told(self, raw: Raw, units: Sequence[PartUnits]) -> int:
        """What the part is told where the table's raw value is this one. units: of each axis."""
        return units[self.axis.slot].to_part(self.measure, row_value(self.key, self.measure, raw))

    def understood(self, held: int, units: Sequence[PartUnits]) -> Raw:
        """A part's number as the table has it; what the table has no room for is taken for what is usual, and left in the part
        as it is until that value itself is sent."""
        row = Address(self.axis.slot, self.key).row
        if not held and self.measure in (
            Measure.SPEED,
            Measure.ACCELERATION,
        ):  # nobody goes at nothing: it was never told
            return encode(row, row.default)
        raw = row_raw(self.key, self.measure, units[self.axis.slot].from_part(self.measure, held))
        try:
            row.check(decode(row, raw), rotary=self.axis.rotary)
        except Refusal:
            return encode(row, row.default)
        return raw

    def scaled_anew(self, raws: Mapping[Place, Raw], held: int, units: Sequence[PartUnits]) -> bool:
        """Whether a part is to be told the same value in other units; not one that it held as found, and that nobody
        understood."""
        was = self.axis.units
        to = was.to_part(self.measure, row_value(self.key, self.measure, raws[self.place]))
        return units[self.axis.slot] != was and to == held

    @property
    def name(self) -> str:
        return f"{self.axis.name} {self.key}"


class InTerminal(NamedTuple):
    """Whether an input is filtered by its terminals, who know no time for it."""

    screw: Screw
    slot: int

    @property
    def place(self) -> Place:
        return place(Address(self.slot, FILTER))

    @property
    def part(self) -> Part:
        return self.screw.part

    @property
    def _where(self) -> Object:
        assert self.screw.filter is not None
        return self.screw.filter

    def read(self, label: str = "") -> int:
        return self.part.read(self._where, label) >> self.screw.bit & 1

    def write(self, raw: int, label: str = "") -> None:
        group = self.part.read(self._where, label) & ~(1 << self.screw.bit)
        self.part.write(self._where, group | raw << self.screw.bit, label)

    def told(self, raw: Raw, _units: Sequence[PartUnits]) -> int:
        return int(raw != 0)

    def understood(self, held: int, _units: Sequence[PartUnits]) -> Raw:
        row = Address(self.slot, FILTER).row
        return encode(row, row.default if held else Fraction(0))

    def scaled_anew(self, _raws: Mapping[Place, Raw], _held: int, _units: Sequence[PartUnits]) -> bool:
        return False

    @property
    def name(self) -> str:
        return f"{self.screw.name} {FILTER}"


Held = InPart | InTerminal


def held(client: Client) -> list[Held]:
    """All that the parts have."""
    filtered = [InTerminal(screw, slot) for slot, screw in enumerate(client.terminals.ins) if screw.filter is not None]
    return [*in_parts(client.drawn), *filtered]


def in_parts(axes: Sequence[Axis]) -> Iterator[InPart]:
    """Those that the drives have."""
    for axis in axes:
        for key, lives in homes.keys_in_parts().items():
            if lives.object is not None and axis.part.has(lives.object):
                yield InPart(axis, key, lives.object, lives.measure)


def units_of(part: Part) -> UnitsTold:
    """What a drive says of its units."""
    raws = {where: part.read_if_there(where) for where in _UNIT_OBJECTS}
    return told_units({where: raw for where, raw in raws.items() if raw is not None})


def find_units(axis: Axis) -> None:
    axis.told = units_of(axis.part)
    axis.part.read_if_there((MODES_KNOWN, 0))


def read_all(client: Client, progress: Told = lambda _done, _total: None) -> ControllerImage:
    """Every value of the table: from the part that holds it, else as Idler keeps it.

    What a part holds is taken for what was sent where that made it: rounding to the part's units is no difference.
    """
    shape, kept = client.shape, client.kept
    raws = dict(image(Machine.shaped(shape)))
    raws.update(_as_found(client, shape))
    raws.update({where: raw for where, raw in kept.raws.items() if where in raws})
    raws.update(given(client))
    there = held(client)
    units = _units(raws, client)
    for done, item in enumerate(there):
        progress(done, len(there))
        raw = item.read()
        if item.place not in kept.raws or item.told(raws[item.place], units) != raw:
            raws[item.place] = item.understood(raw, units)
    machine = machine_from(raws, shape)
    for axis in machine.axes:
        raws.update(derived(axis))
    objects = {
        (item.axis.slot, item.where) if isinstance(item, InPart) else (item.slot, homes.FILTERED) for item in there
    }
    lives = homes.homes(shape, objects)
    client.configure(machine)
    client.in_use = raws
    return ControllerImage(shape, raws, unstored=len(kept.sending), homes=lives, parts=part_facts(client))


def _units(raws: Mapping[Place, Raw], client: Client) -> list[PartUnits]:
    machine = machine_from(raws, client.shape)
    return [PartUnits.of(axis, drawn.told) for axis, drawn in zip(machine.axes, client.drawn, strict=True)]


def _as_found(client: Client, shape: Shape) -> dict[Place, Raw]:
    """What is known of a controller of which Idler keeps nothing yet: its counts per turn, those of an encoder on the spindle,
    and its soft limits."""
    found: dict[Place, Raw] = {}
    if client.parts.spindle:
        kind = Address(None, "spindle.kind")
        found[place(kind)] = encode(kind.row, OWN_DRIVE)
    if client.counts_per_turn:
        counts = Address(None, "spindle.counts")
        with contextlib.suppress(IdlerError):
            found[place(counts)] = encode(counts.row, client.counts_per_turn)
    for axis in client.drawn:

        def put(key: str, value: object, slot: int = axis.slot) -> None:
            address = Address(slot, key)
            with contextlib.suppress(IdlerError):
                found[place(address)] = encode(address.row, value)  # type: ignore[arg-type]

        put("chain.motor", "counts")
        put("axis.output", axis.slot + 1)
        if axis.told.turn:
            put("chain.motor_counts", axis.told.turn)
        limits = [axis.part.read_if_there(where, signed=True) for where in homes.SOFT_LIMITS]
        if None not in limits and all(limit is not None and abs(limit) < WIDEST for limit in limits) and any(limits):
            machine = machine_from({**image(Machine.shaped(shape)), **found}, shape)
            units = PartUnits.of(machine.axis(axis.slot), axis.told)
            low, high = (units.from_part(Measure.PLACE, limit or 0) for limit in limits)
            for key, value in (("travel.low", low), ("travel.high", high)):
                put(key, Fraction(value))
            put("travel.limits_on", True)
    return found


def try_values(client: Client, values: Mapping[Place, Raw]) -> None:
    """Values that are in use until others are, and that neither a part nor Idler stores. Raises WriteRefused."""
    target = {**client.in_use, **values}
    units = _units(target, client)
    for item in held(client):
        if item.place in values or (isinstance(item, InPart) and units[item.axis.slot] != item.axis.units):
            raw = item.told(target[item.place], units)
            if item.read() != raw:
                item.write(raw)
    client.configure(machine_from(target, client.shape))
    client.in_use = target


# -- sending ------------------------------------------------------------------------------------------------------


def send(client: Client, made: Plan, progress: Told) -> ControllerImage:
    """All values of a plan, to all parts, or none of them. Raises WriteRefused naming the value and why, and what became of
    the others; LinkLost."""
    if any(axis.state.moving for axis in client.drawn):
        raise NotAllowedNow("Values are sent only while nothing moves. Stop, then send again.")
    before = made.before
    target = {**before.raws, **{where: raw for where, raw in made.wanted.items() if where in before.raws}}
    units = _units(target, client)
    there = held(client)
    old = {item: item.read(_name(made, item)) for item in there}
    changed = {}
    for item in there:
        raw = item.told(target[item.place], units)
        if raw != old[item] and (item.place in made.wanted or item.scaled_anew(before.raws, old[item], units)):
            changed[item] = raw
    hearing = [axis for axis in client.drawn if axis.heard is not None]
    for axis in hearing:  # what is stored is as it was found
        axis.hear_no_more()
    together = client.ask_singly()
    made.begun({where: before.raws[where] for where in made.wanted if where in before.raws}, made.wanted)
    kept = client.kept
    kept.sending = tuple(made.wanted)
    client.keep(kept)
    total, stored = len(changed) + 2, list[Part]()
    try:
        for done, (item, raw) in enumerate(changed.items()):
            progress(done, total)
            item.write(raw, _name(made, item))
            back = item.read(_name(made, item))
            if back != raw:
                raise WriteRefused(f"{_name(made, item)}: {item.part.called} holds {back} after {raw} was written.")
        for part in {item.part.node: item.part for item in changed}.values():
            _store(part)
            stored.append(part)
        progress(total - 1, total)
    except WriteRefused as why:
        raise type(why)(f"{why.sentence} {_put_back(client, made, old, stored)}") from None
    kept.raws, kept.sending = target, ()
    client.keep(kept)
    for axis in hearing:
        axis.hear_stop(client.stop_frame)
    if together and not made.restart:
        client.ask_together()
    if made.restart:
        client.restart()
    holding = read_all(client)
    lost = [
        made.names.get(where, str(where))
        for where, raw in made.wanted.items()
        if where in holding.raws and holding.raws[where] != raw and not _worked_out(where)
    ]
    if lost:
        raise WriteRefused(f"The parts do not hold {', '.join(lost[:MOST])} after they were stored. Compare with them.")
    return holding


def _worked_out(where: Place) -> bool:
    """Whether it follows from other values, and is told to nobody here."""
    return where.index >= 0x6000 and (where.index - 0x6000) % 0x800 + 0x6000 in (0x608F, 0x6091, 0x6092, 0x6098)


def _name(made: Plan, item: Held) -> str:
    return made.names.get(item.place, item.name)


def _store(part: Part) -> None:
    """Has it keep what it was told (1010h). A part that has no such object keeps what it is told anyway, or cannot."""
    if not part.has(STORE):
        return
    try:
        part.write(STORE, SAVE, "storing")
    except WriteRefused as why:
        raise NotStored(
            f"{part.called} did not store: {why.sentence} Many drives store only without power: power the drives off, "
            "then send again."
        ) from None


def _put_back(client: Client, made: Plan, old: Mapping[Held, int], stored: Sequence[Part]) -> str:
    """stored: those that have stored new values, and are to store the old ones again."""
    left = []
    for item, raw in old.items():
        with contextlib.suppress(WriteRefused):
            if item.read() != raw:
                item.write(raw)
        if item.read() != raw:
            left.append(_name(made, item))
    if left:
        return f"These could not be put back: {', '.join(left[:MOST])}."
    try:
        for part in stored:
            _store(part)
        client.kept.sending = ()
        client.keep(client.kept)
    except LinkError as why:
        return f"The parts hold their old values, but could not store them: {why.sentence}"
    return "The parts hold their old values; your edits are still here."
