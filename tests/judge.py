"""What is called proven at a sign-off, tried once more against what the rig truly is: ends, squares, the bed, homes, the pace,
and of the spindle its way, what ends it and how long it takes."""

from __future__ import annotations

import math
import time
from collections.abc import Callable, Iterator
from itertools import takewhile
from statistics import median

from idler import OpenMachine
from idler.bench.rigs.rig import Rig
from idler.core.errors import IdlerError
from idler.core.geometry.level import TOLERANCES as LEVEL
from idler.core.geometry.level import largest
from idler.core.machine import Address, Axis
from idler.core.profile.terminals import Condition
from idler.core.spindle import ranges, told_range
from idler.core.spindle.way import WAYS, ways_of
from idler.core.values.roles import OutputRole
from idler.core.wiring import outputs
from idler.link.events import Asked
from idler.procedures.engine import Ending
from idler.procedures.geometry.runout import TRUE_ENOUGH
from idler.procedures.geometry.tailstock import IN_LINE
from tests.person import SWITCHES, Person
from tests.support import Hands

BEYOND = 0.05  # mm (°) by which an end may lie beyond iron: of the switch that it was measured from
HOME = 0.05  # mm (°) between two homes
TURNS, SOON, AGAIN = 20.0, 12.0, 3  # rpm from which a spindle is seen to turn, s in which it does, and presses in them
CLEAR = 1.0  # mm (°) between a turning point and an end of the travel
UNEVEN = 1.5  # times what is wanted of a bed
SLOWEST = 0.7  # share of the highest speed of its range, below which its times are not those of it
STEADY, NEAR, LATE = 3.0, 0.03, 0.3  # s after a wait; share of a speed within which it is there; s that are seen late


def not_so(machine: OpenMachine, rig: Rig, hands: Hands, proven: Callable[[str], bool], wanted: float) -> Iterator[str]:
    """A sentence for each. wanted: mm per m by which two axes may lean."""
    if rig.kind != "lathe":
        for letter, lean in zip("XY", rig.column, strict=True):
            if proven(f"square.{letter}Z") and abs(lean) > wanted:
                yield f"square.{letter}Z: it leans by {lean:.2f} mm per m"
    for axis in machine.machine.axes:
        if axis.whole("axis.output") > 0:
            yield from _of_axis(machine, rig, hands, proven, axis)
    yield from _bed(machine, rig, proven)
    yield from _middles(machine, rig, proven)
    if rig.spindle.top > 0 and not rig.spindle.on_bus:
        if proven("spindle.way"):
            yield from _way(machine, hands)
        for way in ("stop", "guard"):
            if proven(f"spindle.{way}"):
                yield from _ended(machine, hands, way)
        if proven(f"times.{told_range(machine.machine) + 1}"):
            yield from _times(machine, hands)


def _of_axis(machine: OpenMachine, rig: Rig, hands: Hands, proven: Callable[[str], bool], axis: Axis) -> Iterator[str]:
    """Its ends lie within iron, and its home is where it was."""
    name, motor, session = axis.name, rig.motors[axis.whole("axis.output") - 1], machine.session
    if not session.homes.known(axis.slot) or not proven(f"direction.{name}") or not proven(f"scale.{name}"):
        return
    zero, play = _zero(machine, hands, axis), motor.backlash + motor.worn
    low, high = (zero + float(axis.number(f"travel.{end}")) for end in ("low", "high"))
    if proven(f"ends.{name}") and motor.travel and not (low >= -BEYOND and high <= motor.travel + BEYOND):
        yield f"ends.{name}: from {low:.2f} to {high:.2f} of {motor.travel:g}"
    if proven(f"home.{name}"):
        machine.power()
        try:
            got = machine.run("home", name, Person(machine, hands))
        except IdlerError as why:
            yield f"home.{name}: {why.sentence}"
            return
        off = _zero(machine, hands, axis) - zero
        off -= 360 * round(off / 360) if axis.wraps else 0.0
        if got.end is not Ending.PROVEN:
            yield f"home.{name}: {got.words}"
        elif abs(off) > HOME + play:  # which way it came last is not the home's
            yield f"home.{name}: {off:.3f} from where it was"
    if proven(f"pace.{name}") and proven(f"ends.{name}") and not axis.wraps and session.homes.known(axis.slot):
        yield from _pace(machine, hands, axis, play + held_back(rig, axis.whole("axis.output") - 1))


def held_back(rig: Rig, number: int) -> float:
    """How far a carriage stands behind when its way turns round, besides its play, in mm (°): the rotor of a motor that pulls
    against friction rests beside its field. A dial sees it, and what takes it up is no mistake."""
    motor = rig.plant()[number]
    lag = math.asin(min(1.0, float(motor["friction"] / motor["torque"]))) / float(motor["rotor_teeth"])
    return 2 * lag * abs(float(motor["lead"])) / (2 * math.pi)


def _zero(machine: OpenMachine, hands: Hands, axis: Axis) -> float:
    """Where its coordinate 0 truly is."""
    machine.wait(lambda: not machine.session.moving, SOON)
    return float(hands.look(axis.name)["at"]) - machine.session.axes[axis.slot].position


def _pace(machine: OpenMachine, hands: Hands, axis: Axis, play: float) -> Iterator[str]:
    """It goes over its travel as fast as it may, to and fro, and stands where it is counted to stand, but for its play."""
    session, slot = machine.session, axis.slot
    _powered(machine)
    zeros = [_zero(machine, hands, axis)]
    low, high = float(axis.number("travel.low")), float(axis.number("travel.high"))
    for goal in (low + CLEAR, high - CLEAR) * 3:
        session.link.jog_step(slot, goal - session.axes[slot].position, float(axis.number("pace.top_speed")))
        if not machine.wait(lambda goal=goal: abs(session.axes[slot].position - goal) < CLEAR / 2, SOON):
            yield f"pace.{axis.name}: it does not come to {goal:.2f}"
            return
        zeros.append(_zero(machine, hands, axis))
    off = max(zeros) - min(zeros)
    if off > HOME + play:
        yield f"pace.{axis.name}: {off:.3f} lost on the way to and fro"


def _bed(machine: OpenMachine, rig: Rig, proven: Callable[[str], bool]) -> Iterator[str]:
    names = machine.machine.names
    if not proven("level.XY") or "X" not in names or "Y" not in names:
        return
    first, second = (machine.machine.axis(names.index(name)) for name in "XY")
    grid, wanted = largest(first, second), LEVEL.get(rig.kind, 0.05)
    if grid is not None and (rise := abs(rig.bed.along_x) * grid.width / 1000) > UNEVEN * wanted:
        yield f"level.XY: it rises by {rise:.3f} over {grid.width:.0f}"


def _middles(machine: OpenMachine, rig: Rig, proven: Callable[[str], bool]) -> Iterator[str]:
    """What turning axes hold, and the centre of the tailstock: each as far beside its middle as was wanted, or no further than
    a dial is off besides."""
    for axis in machine.machine.axes:
        number = axis.whole("axis.output") - 1
        wide = 2 * rig.motors[number].off if number >= 0 else 0.0
        if proven(f"runout.{axis.name}") and wide > UNEVEN * float(TRUE_ENOUGH):
            yield f"runout.{axis.name}: {wide:.3f} to and fro"
    if proven("tailstock") and abs(rig.tail) > UNEVEN * float(IN_LINE):
        yield f"tailstock: {rig.tail:.3f} out of line"


def _speed(hands: Hands) -> float:
    return float(hands.ask(do="look")["spindle"])


def _powered(machine: OpenMachine) -> None:
    """What was pressed and let go of is heard a moment later."""
    session = machine.session
    machine.wait(lambda: not session.panel.conditions & (Condition.STOP | Condition.GUARD), SOON)
    machine.power()


def _turn(machine: OpenMachine, hands: Hands, rpm: float, way: int = 1) -> bool:
    """Until it turns at all; it goes on while it is held. False where it does not."""
    _powered(machine)

    def turns() -> bool:
        machine.session.link.keep_holding()
        return abs(_speed(hands)) > TURNS

    for _ in range(AGAIN):  # the link drops a press that waited behind something long; a person presses again
        machine.session.link.hold_terminals(Asked(run=way, speed=round(rpm)))
        if machine.wait(turns, SOON / AGAIN):
            return True
    return False


def _way(machine: OpenMachine, hands: Hands) -> Iterator[str]:
    found = ranges(machine.machine)[told_range(machine.machine)]
    for way in ways_of(machine.machine):
        _turn(machine, hands, max(found.low, found.high / 10), way)
        now = _speed(hands)
        machine.session.link.hold_terminals(Asked())
        if now * way < TURNS:
            yield f"spindle.way: asked to turn {WAYS[way]}, it turns with {now:.0f} rpm"
        machine.wait(lambda: abs(_speed(hands)) < TURNS, SOON)


def _ended(machine: OpenMachine, hands: Hands, way: str) -> Iterator[str]:
    found = ranges(machine.machine)[told_range(machine.machine)]
    if not _turn(machine, hands, max(found.low, found.high / 10)):
        yield f"spindle.{way}: it does not turn to begin with"
        return
    hands.ask(do="press", switch=SWITCHES[way])

    def stands() -> bool:
        machine.session.link.keep_holding()
        return abs(_speed(hands)) < TURNS

    if not machine.wait(stands, SOON):
        yield f"spindle.{way}: it turns on with {_speed(hands):.0f} rpm"
    machine.session.link.hold_terminals(Asked())
    hands.ask(do="release", switch=SWITCHES[way])


def _times(machine: OpenMachine, hands: Hands) -> Iterator[str]:
    """From rest to the highest speed of its range, and back, by the clock of the rig at the pace of the room."""
    told = machine.machine
    number = told_range(told)
    found, wait = ranges(told)[number], {
        end: float(told[Address(number, f"range.run_{end}")]) / 1000 for end in ("up", "down")
    }  # fmt: skip
    hands.ask(do="pace", factor=1)
    _powered(machine)
    for end, asked in (("up", Asked(run=1, speed=round(found.high))), ("down", Asked())):
        speeds = _record(machine, hands, asked, wait[end] + STEADY, wait["down"] + SOON)
        last = median(speed for at, speed in speeds if at > wait[end] + STEADY / 2)
        if asked.run and last < SLOWEST * found.high:
            yield f"times.{number + 1}: it comes to {last:.0f} rpm, and {found.high:.0f} were asked for"
        if (there := _there(speeds, wait[end] + STEADY / 2)) > wait[end] + LATE:
            yield f"times.{number + 1}: {there:.2f} s {end}, and {wait[end]:.2f} s are waited for"


def _record(
    machine: OpenMachine, hands: Hands, asked: Asked, seconds: float, before: float
) -> list[tuple[float, float]]:
    """s and rpm from when the spindle is told; before that its controller may wait so long for a run down to be over."""
    link, outs = machine.session.link, outputs(machine.machine)
    slots = [out.slot for out in outs if out.role in (OutputRole.SPINDLE_ON, OutputRole.TURN_RIGHT)]

    def told() -> bool:
        link.keep_holding()
        return not slots or bool(hands.ask(do="look")["outputs"][slots[0]]) is bool(asked.run)

    for _ in range(AGAIN):
        link.hold_terminals(asked)
        if machine.wait(told, before / AGAIN):
            break
    began, speeds = time.monotonic(), list[tuple[float, float]]()

    def over() -> bool:
        link.keep_holding()
        speeds.append((time.monotonic() - began, _speed(hands)))
        return speeds[-1][0] > seconds

    machine.wait(over, seconds + SOON)
    return speeds


def _there(speeds: list[tuple[float, float]], steady: float) -> float:
    """s until a spindle first has the speed that it has from `steady` s on: what ends it later is no part of its way there."""
    last = median(speed for at, speed in speeds if at > steady)
    not_yet = takewhile(lambda each: abs(each[1] - last) > max(TURNS, NEAR * abs(last)), speeds)
    return max((at for at, _ in not_yet), default=0.0)
