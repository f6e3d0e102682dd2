"""Proofs: what was seen to work, when, with what result, and on which values it rests. Stale is worked out, never stored."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from enum import Enum

from ..homing import by_stop, by_switch, homing_keys, two_sides
from ..machine import Address, Axis, Machine
from ..machine.changes import address_text
from ..spindle import Meter, meters
from ..table import AXIS
from ..table.rows.spindle import OWN_DRIVE
from ..table.stations import Station
from ..values.parameter import Parameter
from ..values.roles import InputRole
from ..wiring import CHAIN_RESTS, HOMED_BY_SWITCH, Duty, Input, home_switch, input_of, inputs, outputs, spindle_kind
from ..wiring.filterstudy import studied
from ..wiring.indexing import indexed
from ..wiring.tool import tool_of


class Proof(Enum):
    """How far something has come: key and words. Shown by shape and mark, not by colour alone."""

    NOTHING = ("nothing", "nothing yet")
    ENTERED = ("entered", "entered, not proven")
    PROVEN = ("proven", "proven")
    STALE = ("stale", "proven once; a value changed since")
    FAILED = ("failed", "something must be settled")

    def __init__(self, key: str, words: str) -> None:
        self.key = key
        self.words = words


@dataclass(frozen=True)
class Claim:
    """Something that can be proven at a station. rests: the values that the proof will rest on."""

    key: str
    station: Station
    label: str
    rests: tuple[Address, ...]


class Witness(Enum):
    """What in the world bore something out: key and words. What the controller counted is none."""

    TOUCH = ("touch", "by touch")  # the terminal that answered while the named thing was touched
    SWITCH = ("switch", "by a switch touched again")  # or a mark, its place compared with before
    INSTRUMENT = ("instrument", "by an instrument")
    EYES = ("eyes", "by eye")  # a question, and what a person answered
    TERMINALS = ("terminals", "by what came in at its terminals")  # every edge of them, while nobody touched anything
    SENSOR = ("sensor", "by a second sensor")  # an encoder, pulses of a magnet, the torque of a drive
    WORD = ("word", "by a word given beforehand")  # nobody looked: the answer was there before the question

    def given_beforehand(self) -> Witness:
        """What is left of it where the person's answers were given before anything was asked."""
        return Witness.WORD if self in (Witness.EYES, Witness.INSTRUMENT) else self

    def __init__(self, key: str, words: str) -> None:
        self.key = key
        self.words = words


@dataclass(frozen=True)
class Evidence:
    """One proof. when: seconds since 1970. rests: texts of values by the texts of their addresses, as they were then.
    controller: the serial number of the one with which it was gathered, 0 where that is not known or parts tell their own."""

    claim: str
    when: float
    passed: bool
    result: str
    witness: Witness
    rests: Mapping[str, str]
    controller: int = 0


def value_texts(machine: Machine, addresses: Iterable[Address]) -> dict[str, str]:
    """Values as text that reads back exactly, by the text of their address."""
    known = machine.once(_known_texts)
    found: dict[str, str] = {}
    for address in addresses:
        if address not in known:
            text = address.row.write(machine[address], rotary=machine.is_rotary(address))
            known[address] = address_text(machine, address), text
        name, text = known[address]
        found[name] = text
    return found


def _known_texts(_machine: Machine) -> dict[Address, tuple[str, str]]:
    """What was worked out of it so far."""
    return {}


def evidence(
    machine: Machine, claim: Claim, when: float, passed: bool, result: str, witness: Witness, controller: int = 0
) -> Evidence:
    return Evidence(claim.key, when, passed, result, witness, value_texts(machine, claim.rests), controller)


# What instruments found of iron, whatever drives it: the scale and the direction of what moved it are proven by themselves.
_OF_IRON = ("play", "square", "level", "runout", "tailstock")
_CONTROLLER = "controller"  # among what a proof rested on that was gathered with another one


def at_controller(kept: Mapping[str, Evidence], controller: int) -> dict[str, Evidence]:
    """Proofs as they hold at this controller (its serial number, 0 where none is known): with another one, other wires end at
    other terminals. Those of it are stale until it is back."""

    def of_another(found: Evidence) -> bool:
        iron = found.claim.partition(".")[0] in _OF_IRON
        return bool(controller and found.controller) and found.controller != controller and not iron

    return {
        key: replace(found, rests={**found.rests, _CONTROLLER: f"serial number {found.controller}"})
        if of_another(found) else found
        for key, found in kept.items()
    }  # fmt: skip


def state(machine: Machine, claim: Claim, kept: Mapping[str, Evidence]) -> Proof:
    """Where a claim stands on this machine, by the newest evidence for it. What was denied with other values was not proven
    once: it is as if nobody had looked."""
    found = kept.get(claim.key)
    if found is None:
        return Proof.ENTERED
    if found.rests != value_texts(machine, claim.rests):
        return Proof.STALE if found.passed else Proof.ENTERED
    return Proof.PROVEN if found.passed else Proof.FAILED


def changed_since(machine: Machine, claim: Claim, kept: Mapping[str, Evidence]) -> list[tuple[str, str, str]]:
    """What a stale proof rested on and what it is now: part, before, now."""
    found = kept.get(claim.key)
    if found is None:
        return []
    now = {address_text(machine, address): address for address in claim.rests}
    texts = value_texts(machine, claim.rests)
    gone = {_CONTROLLER: "another one"}
    keys = [*found.rests, *(key for key in texts if key not in found.rests)]
    return [
        (machine.part(now[key]) if key in now else key, found.rests.get(key, "—"), texts.get(key, gone.get(key, "—")))
        for key in keys
        if found.rests.get(key) != texts.get(key)
    ]


# -- wiring ---------------------------------------------------------------------------------------------------------

_INPUT_KEYS = ("role", "axis", "rest", "sensor", "filter")


def _input_keys(machine: Machine) -> tuple[str, ...]:
    return (*_INPUT_KEYS, "part") if machine.made_of_parts else _INPUT_KEYS


def _output_keys(machine: Machine) -> tuple[str, ...]:
    return ("role", "inverted", "part") if machine.made_of_parts else ("role", "inverted")


# What no hand can make at will.
_NOT_TRIED = (InputRole.NONE, InputRole.TROUBLE, InputRole.READY, InputRole.PULSE)


def duty_key(duty: Duty) -> str:
    return f"wiring.{duty.role.key}" + (f".{duty.axis}" if duty.axis else "")


def input_claim(machine: Machine, item: Input) -> Claim:
    """That an input is what its role says: the stop and the guard with all that they must do."""
    rests = [Address(item.slot, f"input.{key}") for key in _input_keys(machine)]
    rests += [Address(axis.slot, key) for axis in machine.axes for key in CHAIN_RESTS.get(item.role, ())]
    if item.role in (InputRole.STOP, InputRole.GUARD):
        rests.append(Address(None, "signals.enable_inverted"))
        for out in outputs(machine):
            if out.role.of_spindle:
                rests += [Address(out.slot, f"output.{key}") for key in _output_keys(machine)]
    return Claim(duty_key(item.duty), Station.WIRING, f"{item.duty.label}, input {item.name}", tuple(rests))


def wiring_claims(machine: Machine) -> list[Claim]:
    """The stop first, then the guard, then every input that a hand can try. Drive trouble comes of itself or not at all."""
    tried = [item for item in inputs(machine) if item.role not in _NOT_TRIED]
    first = [InputRole.STOP, InputRole.GUARD]
    tried.sort(key=lambda item: first.index(item.role) if item.role in first else len(first))
    return [input_claim(machine, item) for item in tried]


# -- drives ---------------------------------------------------------------------------------------------------------

_MOTORS = ("axis.output", "axis.second_output", "axis.second_reversed")
# Wrong ones lose steps, each in its own way: at every step, at every reversal, at every powering.
SIGNALS = ("signals.pulse_width", "signals.direction_setup", "signals.step_inverted", "signals.power_delay")
_SENSE = ("axis.kind", "axis.moves", "axis.reversed", "axis.mirrored")


_PLAY = "play.backlash"  # what is taken up at a reversal moves every place that is reached from the other side


def motor_keys(machine: Machine) -> tuple[str, ...]:
    """What moves an axis: its motors, and where they are drives of their own, the very drive."""
    return (*_MOTORS, "axis.part") if machine.made_of_parts else _MOTORS


def _addresses(slot: int | None, *keys: str) -> tuple[Address, ...]:
    return tuple(Address(slot, key) for key in keys)


def direction_claim(machine: Machine, slot: int) -> Claim:
    """That + of an axis goes where it should."""
    name = machine.names[slot]
    rests = (*_addresses(slot, *_SENSE, *motor_keys(machine)), *_addresses(None, "build.kind", "build.post"))
    return Claim(f"direction.{name}", Station.DRIVES, f"direction of {name}", rests)


def pace_claim(machine: Machine, slot: int) -> Claim:
    """That an axis loses no steps at its pace: it rests on the pace, the train, the motors, what a drive is told, and the play
    that is taken up beside its move."""
    axis = machine.axis(slot)
    own = _addresses(slot, "axis.kind", _PLAY, *_pace_keys(axis), *motor_keys(machine))
    rests = (*own, *_addresses(None, *SIGNALS, "signals.step_rate"))
    return Claim(f"pace.{axis.name}", Station.DRIVES, f"pace of {axis.name}", rests)


# -- scale ----------------------------------------------------------------------------------------------------------


_TRAIN = tuple(row for row in AXIS.values() if row.group == "chain")
_PACE = tuple(row for row in AXIS.values() if row.group in ("pace", "loop"))


def _pace_keys(axis: Axis) -> list[str]:
    """How fast it goes, what watches it on its way, and the train that it goes by."""
    return [*(row.key for row in _PACE if axis.uses(row)), *(row.key for row in _train_rows(axis))]


def _train_rows(axis: Axis) -> list[Parameter]:
    """The rows of the train that are in use."""
    return [row for row in _TRAIN if axis.uses(row)]


def scale_claim(machine: Machine, slot: int) -> Claim:
    """That one unit of an axis is one unit: it rests on the whole train in use, and on signals that lose no steps."""
    axis = machine.axis(slot)
    rows = _train_rows(axis)
    rests = (
        *_addresses(slot, *motor_keys(machine), "axis.kind", _PLAY), *(Address(slot, row.key) for row in rows),
        *_addresses(None, *SIGNALS),
    )  # fmt: skip
    return Claim(f"scale.{axis.name}", Station.SCALE, f"scale of {axis.name}", rests)


# -- homing ---------------------------------------------------------------------------------------------------------


def home_witness(axis: Axis) -> Witness:
    """What tells where an axis is: its switch; the effort of its drive at a hard stop; or whoever put it where it stands."""
    if by_switch(axis):
        return Witness.SWITCH
    return Witness.SENSOR if by_stop(axis) else Witness.EYES


def home_claim(machine: Machine, slot: int) -> Claim:
    """That an axis finds its home: it rests on its homing, its direction, its train and its switch."""
    axis = machine.axis(slot)
    keys = (*homing_keys(machine, slot), *(row.key for row in _train_rows(axis)), _PLAY)
    number = home_switch(machine, slot)
    switch = _addresses(number, *(f"input.{key}" for key in _input_keys(machine))) if number is not None else ()
    rests = (*_addresses(slot, *keys, *_SENSE, *motor_keys(machine)), *switch)
    return Claim(f"home.{axis.name}", Station.HOMING, f"home of {axis.name}", rests)


def repeat_claim(machine: Machine, slot: int) -> Claim:
    """That an axis finds its home at the same place again, however often it turned round: it rests on the same as its home, and
    on signals that lose no steps."""
    name = machine.names[slot]
    rests = (*home_claim(machine, slot).rests, *_addresses(None, *SIGNALS))
    return Claim(f"repeat.{name}", Station.HOMING, f"repeatability of {name}", rests)


# -- travel ---------------------------------------------------------------------------------------------------------

_ENDS = ("low", "high", "limits_on", "beyond", "cushion", "cushion_speed", "switches_on")


def ends_claim(machine: Machine, slot: int) -> Claim:
    """That an axis stops at both ends of its travel: it rests on them, on where its zero is, and on its pace."""
    axis = machine.axis(slot)
    keys = [*(f"travel.{key}" for key in _ENDS), "homing.coordinate", "homing.towards", "homing.method", _PLAY]
    rests = (*_addresses(slot, *keys, *_pace_keys(axis), *_SENSE, *motor_keys(machine)), *_addresses(None, *SIGNALS))
    return Claim(f"ends.{axis.name}", Station.TRAVEL, f"ends of {axis.name}", rests)


def overtravel_claim(machine: Machine, slot: int) -> Claim:
    """That an axis comes to rest between its home switch and the hard stop behind it, from the approach speed."""
    axis, number = machine.axis(slot), home_switch(machine, slot)
    keys = (
        "homing.approach", "homing.acceleration", "homing.towards", "travel.stop_low", "travel.stop_high",
        "travel.switches_on",
    )  # fmt: skip
    filtered = _addresses(number, "input.filter") if number is not None else ()
    rests = (
        *_addresses(slot, *keys, *(row.key for row in _train_rows(axis)), *_SENSE, *motor_keys(machine)),
        *filtered,
    )
    return Claim(f"overtravel.{axis.name}", Station.TRAVEL, f"overtravel of {axis.name}", rests)


def work_rests(machine: Machine, slot: int) -> tuple[Address, ...]:
    """What a work zero of an axis rests on: where its coordinates come from, and how long one of them is."""
    axis = machine.axis(slot)
    keys = (
        "homing.method",
        "homing.towards",
        "homing.coordinate",
        *(row.key for row in _train_rows(axis)),
        "axis.reversed",
    )
    return _addresses(slot, *keys, *motor_keys(machine))


def index_claim(machine: Machine, slot: int) -> Claim:
    """That the stop which is asked for is the one that comes: it rests on its table and way, on its home and its train."""
    axis = machine.axis(slot)
    keys = (row.key for row in AXIS.values() if row.group == "index" and axis.uses(row))
    rests = dict.fromkeys((*_addresses(slot, *keys), *home_claim(machine, slot).rests))
    return Claim(f"index.{axis.name}", Station.TRIAL, f"index stops of {axis.name}", tuple(rests))


def all_home_claim(machine: Machine) -> Claim:
    """That all axes find their homes one after the other in their turns."""
    slots = [axis.slot for axis in machine.axes if axis.whole("axis.output") and axis.whole("homing.turn")]
    rests = dict.fromkeys(address for slot in slots for address in home_claim(machine, slot).rests)
    return Claim("home.all", Station.HOMING, "home of all axes, in turns", tuple(rests))


# -- spindle --------------------------------------------------------------------------------------------------------

STOPS = {
    "esc": "Esc and STOP end the spindle", "stop": "the emergency stop ends the spindle",
    "guard": "the guard ends the spindle", "ready": "a drive that trips ends the spindle",
    "link": "a lost link ends the spindle",
}  # fmt: skip
_TURNING = ("kind", "rest", "frequency", "start_speed")
_MEASURED = ("spindle.counts", "spindle.pulses")  # by which its speed is read


def _switching(machine: Machine) -> tuple[Address, ...]:
    """What switches the spindle: the roles of its outputs, and where it has a drive of its own, the very drive."""
    of = [out for out in outputs(machine) if out.role.of_spindle]
    told = tuple(Address(out.slot, f"output.{key}") for out in of for key in _output_keys(machine))
    own = machine.made_of_parts and spindle_kind(machine) == OWN_DRIVE
    return (*told, Address(None, "spindle.part")) if own else told


def spindle_way_claim(machine: Machine) -> Claim:
    """That right is right, as seen from the spindle towards the work, and the encoder agrees (ISO 841)."""
    rests = (*_addresses(None, "spindle.kind", "spindle.counts", "spindle.counts_reversed"), *_switching(machine))
    return Claim("spindle.way", Station.SPINDLE, "direction of the spindle", rests)


def speed_witness(meter: Meter) -> Witness:
    return Witness.INSTRUMENT if meter is Meter.TYPED else Witness.SENSOR


def meter_claim(machine: Machine, meter: Meter) -> Claim | None:
    """That what tells how fast the spindle turns counts a turn as one; None of a hand tachometer, which counts nothing."""
    match meter:
        case Meter.ENCODER:
            rests = _addresses(None, "spindle.counts", "spindle.counts_reversed")
            return Claim("spindle.encoder", Station.SPINDLE, "counts of the spindle's encoder", rests)
        case Meter.PULSE:
            item = input_of(machine, Duty(InputRole.PULSE))
            told = () if item is None else tuple(Address(item.slot, f"input.{key}") for key in _input_keys(machine))
            rests = (*_addresses(None, "spindle.pulses"), *told)
            return Claim("spindle.pulses", Station.SPINDLE, "pulses in a turn of the spindle", rests)
        case Meter.TYPED:
            return None


def curve_claim(machine: Machine, slot: int) -> Claim:
    """That a commanded speed is the speed, over one range."""
    keys = tuple(f"range.{key}" for key in ("ratio", "low", "high", "points"))
    turning = (*(f"spindle.{key}" for key in _TURNING), *_MEASURED)
    rests = (*_addresses(slot, *keys), *_addresses(None, *turning), *_switching(machine))
    return Claim(f"speed.{slot + 1}", Station.SPINDLE, f"speed in range {slot + 1}", rests)


def quiet_claim(machine: Machine) -> Claim:
    """That the filters let nothing through of what the inputs pick up while the spindle runs."""
    listening = _addresses(None, "spindle.kind", "spindle.frequency")
    for item in studied(machine):
        listening += _addresses(item.slot, "input.role", "input.rest", "input.filter")
    return Claim("quiet", Station.WIRING, "inputs quiet while the spindle runs", (*listening, *_switching(machine)))


def quiet_claims(machine: Machine) -> list[Claim]:
    """None where nothing turns, or where the terminals are parts of others, which say no edges."""
    heard = spindle_kind(machine) != "none" and studied(machine) and not machine.made_of_parts
    return [quiet_claim(machine)] if heard else []


def times_claim(machine: Machine, slot: int) -> Claim:
    """That the waits of a range are long enough."""
    rests = (
        *_addresses(slot, "range.ratio", "range.high", "range.run_up", "range.run_down"),
        *_addresses(None, "spindle.waits", *_MEASURED), *_switching(machine),
    )  # fmt: skip
    return Claim(f"times.{slot + 1}", Station.SPINDLE, f"times of range {slot + 1}", rests)


def stop_claim(machine: Machine, way: str) -> Claim:
    """That one way of stopping brings the spindle to standstill, and nothing starts it again by itself."""
    rests = [*_switching(machine), *_addresses(None, "spindle.needs_drives")]
    rests += [] if tool_of(machine).turns else _addresses(None, "build.kind", "build.cutter")
    for item in inputs(machine):
        if item.role.key == way:
            rests += _addresses(item.slot, *(f"input.{key}" for key in _input_keys(machine)))
    return Claim(f"spindle.{way}", Station.SPINDLE, STOPS[way], tuple(rests))


def spindle_claims(machine: Machine) -> list[Claim]:
    kind = spindle_kind(machine)
    if kind == "none":
        return []
    count = machine[Address(None, "spindle.ranges")]
    assert isinstance(count, int)
    wired = {item.role.key for item in inputs(machine)}
    turns = tool_of(machine).turns
    found = [spindle_way_claim(machine)] if turns else []
    if turns and (counted := meter_claim(machine, meters(machine)[0])) is not None:
        found.append(counted)
    for slot in range(count if turns else 0):
        found += [curve_claim(machine, slot)] if kind != "relay" else []
        found.append(times_claim(machine, slot))
    return [*found, *(stop_claim(machine, way) for way in STOPS if way in ("esc", "link") or way in wired)]


# -- geometry -------------------------------------------------------------------------------------------------------


def play_claim(machine: Machine, slot: int) -> Claim:
    """That hardly anything is left of the play of an axis: it rests on what is taken up, and on the train that has it."""
    axis = machine.axis(slot)
    rests = (
        *_addresses(slot, _PLAY, "axis.kind", *(row.key for row in _train_rows(axis)), *motor_keys(machine)),
        *_addresses(None, *SIGNALS),
    )
    return Claim(f"play.{axis.name}", Station.GEOMETRY, f"play of {axis.name}", rests)


def comeback_claim(machine: Machine, slot: int) -> Claim:
    """That an axis finds a place again: it rests on its pace, and on what its play rests on."""
    axis = machine.axis(slot)
    rests = dict.fromkeys((*pace_claim(machine, slot).rests, *play_claim(machine, slot).rests))
    return Claim(f"return.{axis.name}", Station.GEOMETRY, f"{axis.name} comes back", tuple(rests))


def square_claim(machine: Machine, first: int, second: int) -> Claim:
    """That two axes stand at right angles: it rests on how both go, and on how a beam with two motors finds its home."""
    found: dict[Address, None] = {}
    for slot in (first, second):
        found |= dict.fromkeys((*scale_claim(machine, slot).rests, *_addresses(slot, *_SENSE)))
        if two_sides(machine, machine.axis(slot)):
            found |= dict.fromkeys(home_claim(machine, slot).rests)
    names = [machine.names[slot] for slot in (first, second)]
    return Claim(f"square.{names[0]}{names[1]}", Station.GEOMETRY, f"{names[0]} and {names[1]} square", tuple(found))


def level_claim(machine: Machine, first: int, second: int) -> Claim:
    """That the bed lies level under the tool: it rests on where X and Y go, and on what brings the dial back to its height."""
    found: dict[Address, None] = {}
    for slot in (first, second, machine.names.index("Z")):
        found |= dict.fromkeys((*scale_claim(machine, slot).rests, *_addresses(slot, *_SENSE)))
    return Claim("level", Station.GEOMETRY, "bed level", tuple(found))


def kept_claim(machine: Machine) -> Claim:
    """That no axis loses steps where all of them go at once: it rests on the pace of each, and on the switch that tells it."""
    found: dict[Address, None] = {}
    for axis in machine.axes:
        if axis.whole("axis.output"):
            found |= dict.fromkeys((*pace_claim(machine, axis.slot).rests, *home_claim(machine, axis.slot).rests))
    return Claim("kept", Station.GEOMETRY, "steps kept", tuple(found))


def runout_claim(machine: Machine, slot: int) -> Claim:
    """That what an axis holds turns true: it rests on the angles that it goes to."""
    name = machine.names[slot]
    return Claim(f"runout.{name}", Station.GEOMETRY, f"{name} turns true", scale_claim(machine, slot).rests)


def tailstock_claim(machine: Machine) -> Claim:
    """That the centre of a lathe's tailstock stands in line: no value of the controller moves it."""
    return Claim("tailstock", Station.GEOMETRY, "tailstock in line", _addresses(None, "build.kind"))


def flat_pair(machine: Machine) -> tuple[int, int] | None:
    """The two linear axes along the bed, X and Y of ISO 841; None where the machine has no such bed."""
    if not {"X", "Y"} <= set(machine.names) or machine[Address(None, "build.kind")] == "lathe":
        return None
    pair = machine.names.index("X"), machine.names.index("Y")
    return (
        pair
        if not any(machine.axis(slot).rotary or not machine.axis(slot).whole("axis.output") for slot in pair)
        else None
    )


def square_pairs(machine: Machine) -> list[tuple[int, int]]:
    """The pairs of axes that are to stand at right angles: those along the bed, and each of them with what goes up and down."""
    pair = flat_pair(machine)
    if pair is None:
        return []
    return [pair, *((slot, machine.names.index("Z")) for slot in pair if has_height(machine))]


def geometry_claims(machine: Machine) -> list[Claim]:
    driven = [axis for axis in machine.axes if axis.whole("axis.output")]
    found = [play_claim(machine, axis.slot) for axis in driven]
    found += [comeback_claim(machine, axis.slot) for axis in driven]
    homes = any(axis.whole("axis.output") and axis.whole("homing.turn") for axis in machine.axes)
    found += [kept_claim(machine)] if homes else []
    found += [runout_claim(machine, axis.slot) for axis in machine.axes if axis.whole("axis.output") and axis.rotary]
    found += [tailstock_claim(machine)] if machine[Address(None, "build.kind")] == "lathe" else []
    pair = flat_pair(machine)
    found += [square_claim(machine, *each) for each in square_pairs(machine)]
    return [*found, *([level_claim(machine, *pair)] if pair is not None and has_height(machine) else [])]


# -- trial ----------------------------------------------------------------------------------------------------------


def trial_claim(machine: Machine, slot: int) -> Claim:
    """That an axis keeps its place over a whole program: it rests on its scale, its pace, its ends and its home."""
    name = machine.names[slot]
    makes = (scale_claim, pace_claim, ends_claim, home_claim)
    rests = dict.fromkeys(address for make in makes for address in make(machine, slot).rests)
    return Claim(f"trial.{name}", Station.TRIAL, f"{name} over a program", tuple(rests))


def figure_claim(machine: Machine, first: int, second: int) -> Claim:
    """That a figure of two axes is drawn as it was asked for: neither mirrored nor turned, and of its size."""
    found: dict[Address, None] = {}
    for slot in (first, second):
        found |= dict.fromkeys((*scale_claim(machine, slot).rests, *direction_claim(machine, slot).rests))
    names = [machine.names[slot] for slot in (first, second)]
    return Claim(f"figure.{names[0]}{names[1]}", Station.TRIAL, f"figure of {names[0]} and {names[1]}", tuple(found))


def trial_claims(machine: Machine) -> list[Claim]:
    """Of linear axes whose home switch or stop can tell it, and of two along the bed; none where nothing follows a path."""
    if machine.made_of_parts:
        return []
    pair = flat_pair(machine)
    slots = [
        axis.slot
        for axis in machine.axes
        if axis.whole("axis.output") and axis.whole("homing.turn") and not axis.rotary
    ]
    told = [slot for slot in slots if machine.axis(slot).choice("homing.method") != "here"]
    return [
        *(trial_claim(machine, slot) for slot in told),
        *([figure_claim(machine, *pair)] if pair is not None and has_height(machine) else []),
    ]


def has_height(machine: Machine) -> bool:
    """Whether a linear Z carries the tool up and down over the bed."""
    return "Z" in machine.names and any(
        axis.name == "Z" and axis.whole("axis.output") and not axis.rotary for axis in machine.axes
    )


def staled(before: Machine, after: Machine, kept: Mapping[str, Evidence]) -> list[Claim]:
    """What is proven on a machine and would not be on another: all that is to be proven again, and nothing else."""
    proven = [claim for claim in claims(before) if state(before, claim, kept) is Proof.PROVEN]
    there = {claim.key: claim for claim in claims(after)}
    return [
        claim for claim in proven if claim.key not in there or state(after, there[claim.key], kept) is not Proof.PROVEN
    ]


def claims(machine: Machine) -> tuple[Claim, ...]:
    """Everything that can be proven on this machine."""
    return machine.once(_claims)


def _claims(machine: Machine) -> tuple[Claim, ...]:
    tool = tool_of(machine)
    return tuple(replace(claim, label=tool.worded(claim.label)) for claim in _all_claims(machine))


def _all_claims(machine: Machine) -> tuple[Claim, ...]:
    slots = [axis.slot for axis in machine.axes if axis.whole("axis.output")]
    of_axes = [make(machine, slot) for make in (direction_claim, pace_claim, scale_claim) for slot in slots]
    homed = [slot for slot in slots if machine.axis(slot).whole("homing.turn")]
    of_axes += [home_claim(machine, slot) for slot in homed]
    looks = [slot for slot in homed if machine.axis(slot).choice("homing.method") != "here"]
    of_axes += [repeat_claim(machine, slot) for slot in looks]
    of_axes += [all_home_claim(machine)] if len(homed) > 1 else []
    of_axes += [ends_claim(machine, slot) for slot in slots if not machine.axis(slot).rotary]
    of_axes += [
        overtravel_claim(machine, slot) for slot in homed
        if machine.axis(slot).choice("homing.method") in HOMED_BY_SWITCH and not machine.axis(slot).rotary
    ]  # fmt: skip
    return (
        *wiring_claims(machine),
        *of_axes,
        *spindle_claims(machine),
        *quiet_claims(machine),
        *geometry_claims(machine),
        *trial_claims(machine),
        *(index_claim(machine, axis.slot) for axis in indexed(machine) if axis.slot in homed),
    )
