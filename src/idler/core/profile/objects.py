"""Every object of a controller of this profile: CiA 301, CiA 402 and the table's own, as plain entries."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from ..machine import Machine, Shape
from ..table import AXIS_LETTERS, MOST_AXES, TABLE, axis_index, part_index
from ..values.parameter import Parameter, Scope, Wire, WireType
from . import cia402 as c
from . import indexing, path
from . import terminals as t
from .codec import DERIVED, LETTERS, Place, Raw, derived, encode
from .concise import VALUES
from .flight import FLIGHT
from .homing import FIRST_PLACE
from .pdo import Pdo, PdoKind

TABLE_VERSION = 9
VENDOR, PRODUCT, REVISION = 0x0000_0000, 0x1D1E0001, 0x0001_0000
DEVICE_TYPE = 0x0000_0192  # CiA 402, 1000h
AXIS_NAME = Wire(0x4000, 3, WireType.STRING)
UNSTORED = Place(0x2009, 0)  # how many values are other than those that a restart would bring back
CHANGES = Place(0x2003, 0)  # how often values were written since it started, by whomever
MOST_CLIENTS = 4  # whose heartbeats the controller listens to (1016h)
STORE, RESTORE = Place(0x1010, 1), Place(0x1011, 1)
SAVE, LOAD = 0x65766173, 0x64616F6C  # "save", "load" as CiA 301 7.5.2.13 and 7.5.2.14 want them

_U8, _U16, _U32, _I8, _I16, _I32 = (
    WireType.U8, WireType.U16, WireType.U32, WireType.I8, WireType.I16, WireType.I32,
)  # fmt: skip
_STRING = WireType.STRING


@dataclass(frozen=True)
class Entry:
    """One sub-object. node_offset: the default is this plus the node number. slot: the axis or terminal of it, or None."""

    index: int
    sub: int
    title: str
    name: str
    type: WireType
    access: str
    default: Raw = 0
    node_offset: bool = False
    mappable: bool = False
    row: Parameter | None = None
    slot: int | None = None
    derived: bool = False

    @property
    def place(self) -> Place:
        return Place(self.index, self.sub)

    @property
    def stored(self) -> bool:
        """Whether the controller keeps it with 1010h: the table's values and what derives from them."""
        return self.row is not None or self.derived or self.place == LETTERS

    @property
    def restart(self) -> bool:
        """Whether a change of it waits for a restart."""
        return self.place == LETTERS or (self.row is not None and self.row.restart)


def entries(shape: Shape) -> list[Entry]:
    """All objects of a controller with these axes and terminals, in ascending order."""
    found = [*_communication(), *_machine(shape), *_terminals()]
    for slot, name in enumerate(shape.names):
        found += _pdos(slot)
        found += _axis(slot, name)
    for scope in (Scope.INPUT, Scope.OUTPUT, Scope.RANGE):
        for slot in range(shape.count(scope)):
            found += _rows(scope, slot)
    return sorted(found, key=lambda entry: entry.place)


def _communication() -> Iterator[Entry]:
    yield Entry(0x1000, 0, "Device type", "Device type", _U32, "ro", DEVICE_TYPE)
    yield Entry(0x1001, 0, "Error register", "Error register", _U8, "ro")
    yield Entry(0x1008, 0, "Device name", "Device name", _STRING, "const", "Controller")
    yield Entry(0x1009, 0, "Hardware version", "Hardware version", _STRING, "const", "-")
    yield Entry(0x100A, 0, "Software version", "Software version", _STRING, "const", "-")
    yield from _record(0x1010, "Store parameters", [("Save all", _U32, "rw", 1)])
    yield from _record(0x1011, "Restore defaults", [("Restore all", _U32, "rw", 1)])
    yield Entry(0x1014, 0, "Emergency COB-ID", "Emergency COB-ID", _U32, "ro", c.EMERGENCY, node_offset=True)
    yield from _record(
        0x1016, "Consumer heartbeat time", [(f"Client {n}", _U32, "rw", 0) for n in range(1, MOST_CLIENTS + 1)]
    )
    yield Entry(0x1017, 0, "Producer heartbeat time", "Producer heartbeat time", _U16, "rw", 100)
    identity = [
        ("Vendor", _U32, "ro", VENDOR), ("Product", _U32, "ro", PRODUCT),
        ("Revision", _U32, "ro", REVISION), ("Serial number", _U32, "ro", 0),
    ]  # fmt: skip
    yield from _record(0x1018, "Identity", identity)


def _machine(shape: Shape) -> Iterator[Entry]:
    counts: list[tuple[str, WireType, str, Raw]] = [
        ("Axes", _U8, "const", len(shape.names)), ("Table version", _U16, "const", TABLE_VERSION),
        ("Inputs", _U8, "const", shape.inputs), ("Outputs", _U8, "const", shape.outputs),
        ("Letters of the axes", _STRING, "rw", "".join(shape.names)), ("Drive outputs", _U8, "const", MOST_AXES),
    ]  # fmt: skip
    yield from _record(0x2000, "Controller", counts)
    yield Entry(CHANGES.index, CHANGES.sub, "Changes of values", "Changes of values", _U32, "ro")
    yield Entry(UNSTORED.index, UNSTORED.sub, "Values not stored", "Values not stored", _U16, "ro")
    blocks = [("All values", WireType.DOMAIN, "ro", ""), ("In force instead of what waits", WireType.DOMAIN, "ro", "")]
    yield from _record(VALUES.index, "Values, concise", blocks)
    yield from _rows(Scope.MACHINE, None)


def _terminals() -> Iterator[Entry]:
    """What the terminals do now, what they are asked to do, and the process data that carries both."""
    yield from _record(
        t.EDGES.index,
        "Edges of the inputs",
        [
            ("Next edge", _U32, "rw", 0),
            ("Block of edges", WireType.DOMAIN, "ro", ""),
            ("Whether edges wait, and the clock", _U32, "ro", 0),
        ],
    )
    now = [("Inputs closed", _U32, "ro", 0), ("Outputs energised", _U16, "ro", 0), ("Conditions", _U16, "ro", 0)]
    yield from _record(t.LEVELS_NOW.index, "Terminals now", now, mappable=True)
    levels = [(f"Level output {n}, ‰", _U16, "ro", 0) for n in range(1, t.LEVEL_OUTPUTS + 1)]
    yield from _record(t.LEVEL_OUTPUT, "Levels now", levels, mappable=True)
    asked = [
        ("Spindle runs", _I8, "rw", 0), ("Spindle level, ‰", _U16, "rw", 0), ("Output tried", _U8, "rw", 0),
        ("Level tried, ‰", _U16, "rw", 0), ("Spindle speed, rpm", _U16, "rw", 0),
    ]  # fmt: skip
    yield from _record(t.TRIED.index, "Asked of the terminals", asked, mappable=True)
    turning = [
        ("Encoder counts", _I32, "ro", 0), ("Spindle speed, 0.1 rpm", _I32, "ro", 0), ("Range engaged", _U8, "ro", 0),
        ("Oil strokes", _U32, "ro", 0), ("Time towards the next stroke, s", _U32, "ro", 0),
        ("Clock when the spindle was told something else, ms", _U32, "ro", 0),
    ]  # fmt: skip
    yield from _record(t.SPINDLE_COUNTS.index, "Spindle now", turning, mappable=True)
    yield from _record(t.SPEED_RECORD.index, "Spindle since then", [("Record of its speed", WireType.DOMAIN, "ro", "")])
    flight: list[tuple[str, WireType, str, Raw]] = [
        ("State", _U8, "ro", 0),
        ("Let go", _U8, "rw", 0),
        ("Last seconds", WireType.DOMAIN, "ro", ""),
    ]
    yield from _record(FLIGHT.index, "Flight record", flight)
    along: list[tuple[str, WireType, str, Raw]] = [
        ("Records", WireType.DOMAIN, "rw", ""), ("Rate of feeds, ‰", _U16, "rw", path.WHOLE_RATE),
        ("Rate of rapids, ‰", _U16, "rw", path.WHOLE_RATE), ("Waits at record", _U32, "rw", path.NOWHERE),
        ("Report", WireType.DOMAIN, "ro", ""),
    ]  # fmt: skip
    yield from _record(path.RECORDS.index, "Path", along)
    for kind, place, widths, title in (
        (PdoKind.TERMINALS, t.LEVELS_NOW.index, (32, 16, 16), "Transmit PDO, terminals"),
        (PdoKind.LEVELS, t.LEVEL_OUTPUT, (16,) * t.LEVEL_OUTPUTS, "Transmit PDO, levels"),
        (PdoKind.SPINDLE, t.SPINDLE_COUNTS.index, (32, 32), "Transmit PDO, spindle"),
        (PdoKind.COMMAND, t.TRIED.index, (8, 16, 8, 16, 16), "Receive PDO, terminals"),
    ):
        yield from _pdo(Pdo(kind), title, [place << 16 | sub << 8 | bits for sub, bits in enumerate(widths, start=1)])


def _pdos(slot: int) -> Iterator[Entry]:
    """Two process data objects each way; CiA 402-1 puts those of each axis 40h apart."""

    def at(index: int) -> int:
        return axis_index(index, slot)

    for kind, title, mapped in (
        (PdoKind.VELOCITY, "Receive PDO 1", ((at(c.CONTROL), 16), (at(c.TARGET_VELOCITY), 32))),
        (PdoKind.POSITION, "Receive PDO 2", ((at(c.CONTROL), 16), (at(c.TARGET_POSITION), 32))),
        (PdoKind.STATUS, "Transmit PDO 1", ((at(c.STATUS), 16), (at(c.POSITION), 32))),
        (PdoKind.MOTION, "Transmit PDO 2", ((at(c.VELOCITY), 32), (at(c.DIGITAL_INPUTS), 32))),
    ):
        yield from _pdo(Pdo(kind, slot), f"{title}, axis {slot + 1}", [index << 16 | bits for index, bits in mapped])


def _pdo(pdo: Pdo, title: str, mapped: Sequence[int]) -> Iterator[Entry]:
    """Parameters of one process data object and its mapping, 200h further on (CiA 301, 7.5.2.35 and 36)."""
    index = pdo.parameters
    yield Entry(index, 0, title, "Highest sub-index", _U8, "const", 2)
    yield Entry(index, 1, title, "COB-ID", _U32, "rw", pdo.usual, node_offset=pdo.owned)
    yield Entry(index, 2, title, "Transmission type", _U8, "ro", 0xFF)
    mapping = [(f"Object {i}", _U32, "ro", word) for i, word in enumerate(mapped, start=1)]
    yield from _record(index + 0x200, title + " mapping", mapping)


def _axis(slot: int, name: str) -> Iterator[Entry]:
    def at(index: int, label: str, type_: WireType, access: str, default: int = 0, mappable: bool = False) -> Entry:
        title = f"{label}, axis {slot + 1}"
        return Entry(axis_index(index, slot), 0, title, title, type_, access, default, mappable=mappable, slot=slot)

    yield from _rows(Scope.AXIS, slot)
    title = f"axis {slot + 1}"
    yield Entry(axis_index(AXIS_NAME.index, slot), AXIS_NAME.sub, title, "letter", _STRING, "ro", name, slot=slot)
    usual = derived(Machine(tuple(AXIS_LETTERS[: slot + 1])).axis(slot))
    tops = {item.index: max(other.sub for other in DERIVED if other.index == item.index) for item in DERIVED}
    for item in DERIVED:
        place = Place(axis_index(item.index, slot), item.sub)
        label = f"{item.label}, axis {slot + 1}"
        if item.sub == 1:
            yield Entry(place.index, 0, label, "Highest sub-index", _U8, "const", tops[item.index], slot=slot)
        type_ = _I8 if item.index == 0x6098 else _U32
        yield Entry(place.index, item.sub, label, label, type_, "rw", usual[place], slot=slot, derived=True)
    yield at(c.ABORT_CONNECTION, "Abort connection option", _I16, "ro", 3)
    yield at(c.ERROR_CODE, "Error code", _U16, "ro")
    yield at(c.CONTROL, "Controlword", _U16, "rw", mappable=True)
    yield at(c.STATUS, "Statusword", _U16, "ro", mappable=True)
    yield at(c.QUICK_STOP_OPTION, "Quick stop option", _I16, "ro", 6)
    yield at(c.MODE, "Mode of operation", _I8, "rw", c.MODE_POSITION)
    yield at(c.MODE_SHOWN, "Mode of operation shown", _I8, "ro", c.MODE_POSITION)
    yield at(c.COUNTS_ACTUAL, "Position in counts", _I32, "ro")
    yield at(c.POSITION, "Position", _I32, "ro", mappable=True)
    yield at(c.VELOCITY, "Velocity", _I32, "ro", mappable=True)
    yield at(c.TARGET_POSITION, "Target position", _I32, "rw", mappable=True)
    yield at(c.PROFILE_SPEED, "Profile speed", _U32, "rw")
    yield at(c.TARGET_VELOCITY, "Target velocity", _I32, "rw", mappable=True)
    yield at(c.DIGITAL_INPUTS, "Digital inputs", _U32, "ro", mappable=True)
    yield at(c.FOLLOWING_ERROR, "Following error", _I32, "ro", mappable=True)
    yield at(c.TORQUE, "Torque now, ‰", _I16, "ro", mappable=True)
    yield at(c.LATCHED, "Position at the last edge of home switch or index mark", _I32, "ro")
    yield at(c.LATCHES, "Number of such edges", _U16, "ro")
    places = [
        (words, _I32, "ro", 0)
        for words in ("Switch met on the approach", "Switch met on the touch", "Index mark from it")
    ]
    places += [
        ("Forget home", _U8, "rw", 0), ("Second side further to +", _I32, "ro", 0), ("Usual effort, ‰", _U16, "ro", 0),
        ("Ran on after the switch", _I32, "ro", 0),
    ]  # fmt: skip
    for entry in _record(axis_index(FIRST_PLACE.index, slot), f"Homing, axis {slot + 1}", places):
        yield replace(entry, slot=slot)
    stops: list[tuple[str, WireType, str, Raw]] = [
        ("Stop to go to", _U8, "rw", 0), ("State that its lines are taken for", _U8, "rw", indexing.AS_THEY_ARE),
        ("Report", _U32, "ro", 0),
    ]  # fmt: skip
    for entry in _record(axis_index(indexing.FIRST, slot), f"Index stops, axis {slot + 1}", stops):
        yield replace(entry, slot=slot)
    yield at(c.INTERPOLATION, "Interpolation: straight", _I16, "ro", 0)
    of_path: list[tuple[int, str, list[tuple[str, WireType, str, Raw]]]] = [
        (c.SET_POINT, "Set-point of the path", [("Set-point now", _I32, "ro", 0)]),
        (c.INTERPOLATION_TIME, "Time between set-points", [("Time", _U8, "const", path.PERIOD_MS),
                                                           ("Power of ten, s", _I8, "const", -3)]),
        (c.INTERPOLATION_BUFFER, "Buffer of set-points", [("Largest", _U32, "const", path.BUFFER),
                                                         ("In use", _U32, "ro", 0)]),
    ]  # fmt: skip
    for index, words, subs in of_path:
        for entry in _record(axis_index(index, slot), f"{words}, axis {slot + 1}", subs):
            yield replace(entry, slot=slot)
    modes = (c.MODE_POSITION, c.MODE_VELOCITY, c.MODE_HOMING, c.MODE_PATH)
    yield at(c.MODES_KNOWN, "Modes known", _U32, "const", sum(1 << mode - 1 for mode in modes))


def _rows(scope: Scope, slot: int | None) -> Iterator[Entry]:
    """The objects of the table's rows for the machine (slot None), or for one axis or terminal."""
    rows = TABLE[scope].values()
    tops: dict[int, int] = {}
    own = [AXIS_NAME] if scope is Scope.AXIS else []
    for wire in [*(row.wire for row in rows), *own]:
        tops[wire.index] = max(tops.get(wire.index, 0), wire.sub)
    shown = set()
    for row in rows:
        index = part_index(row, slot)
        place = "" if slot is None else f", axis {slot + 1}" if scope is Scope.AXIS else f" {slot + 1}"
        title = row.group + place
        if row.wire.sub and index not in shown:
            shown.add(index)
            yield Entry(index, 0, title, "Highest sub-index", _U8, "const", tops[row.wire.index], slot=slot)
        raw = encode(row, row.default)
        yield Entry(index, row.wire.sub, title if row.wire.sub else f"{title}: {row.label}", row.label,
                    row.wire.type, "ro" if row.given else "rw", raw, row=row, slot=slot)  # fmt: skip


def _record(
    index: int, title: str, subs: Sequence[tuple[str, WireType, str, Raw]], *, mappable: bool = False
) -> Iterator[Entry]:
    yield Entry(index, 0, title, "Highest sub-index", _U8, "const", len(subs))
    for sub, (name, type_, access, default) in enumerate(subs, start=1):
        yield Entry(index, sub, title, name, type_, access, default, mappable=mappable)
