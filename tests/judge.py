"""What is called proven at a sign-off, tried once more against what the rig truly is: ends, squares, homes, the spindle."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from idler import OpenMachine
from idler.bench.rig import Rig
from idler.core.errors import IdlerError
from idler.core.machine import Axis
from idler.core.spindle import ranges, told_range
from idler.link.events import Asked
from idler.procedures.engine import Ending
from tests.person import Person
from tests.support import Hands

BEYOND = 0.05  # mm (°) by which an end may lie beyond iron: of the switch that it was measured from
HOME = 0.05  # mm (°) between two homes
TURNS, SOON = 20.0, 12.0  # rpm from which a spindle is seen to turn, and s in which it does


def not_so(machine: OpenMachine, rig: Rig, hands: Hands, proven: Callable[[str], bool], wanted: float) -> Iterator[str]:
    """A sentence for each. wanted: mm per m by which two axes may lean."""
    if rig.kind != "lathe":
        for letter, lean in zip("XY", rig.column, strict=True):
            if proven(f"square.{letter}Z") and abs(lean) > wanted:
                yield f"square.{letter}Z: it leans by {lean:.2f} mm per m"
    for axis in machine.machine.axes:
        if axis.whole("axis.output") > 0:
            yield from _of_axis(machine, rig, hands, proven, axis)
    if proven("spindle.way") and rig.spindle.top > 0 and not rig.spindle.on_bus:
        yield from _way(machine, hands)


def _of_axis(machine: OpenMachine, rig: Rig, hands: Hands, proven: Callable[[str], bool], axis: Axis) -> Iterator[str]:
    """Its ends lie within iron, and its home is where it was."""
    name, motor, session = axis.name, rig.motors[axis.whole("axis.output") - 1], machine.session
    if not session.homed(axis.slot) or not proven(f"direction.{name}") or not proven(f"scale.{name}"):
        return
    zero = _zero(machine, hands, axis)
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
        elif abs(off) > HOME:
            yield f"home.{name}: {off:.3f} from where it was"


def _zero(machine: OpenMachine, hands: Hands, axis: Axis) -> float:
    """Where its coordinate 0 truly is."""
    machine.wait(lambda: not machine.session.moving, SOON)
    return float(hands.look(axis.name)["at"]) - machine.session.axes[axis.slot].position


def _way(machine: OpenMachine, hands: Hands) -> Iterator[str]:
    session = machine.session
    found = ranges(machine.machine)[told_range(machine.machine)]
    session.link.hold_terminals(Asked(run=1, speed=round(max(found.low, found.high / 10))))

    def turns() -> bool:
        session.link.keep_holding()
        return abs(speed()) > TURNS

    def speed() -> float:
        return float(hands.ask(do="look")["spindle"])

    machine.wait(turns, SOON)
    now = speed()
    session.link.hold_terminals(Asked())
    if now < TURNS:
        yield f"spindle.way: asked to turn right, it turns with {now:.0f} rpm"
