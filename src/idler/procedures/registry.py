"""Every procedure by its word: what it is about, what it takes, and how it begins."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import partial
from pathlib import Path

from idler.core.errors import Refusal
from idler.core.machine import Axis, Machine
from idler.core.mechanics.scale import Instrument, fitting
from idler.core.proof.claims import STOPS, square_pairs
from idler.core.report.manual import Page
from idler.core.spindle import meters, told_range
from idler.core.trial import touching
from idler.core.values.measures import Measures
from idler.core.values.quantity import parse
from idler.core.values.roles import InputRole
from idler.core.values.units import MM, Dimension
from idler.session.session import Session
from idler.shelf.manual import read_pages

from .actions.action import ActionRun
from .actions.indexing import IndexRun
from .drives.direction import DirectionRun
from .drives.pace import TIMES, HardRun
from .drives.torqueprint import TorquePrintRun
from .engine import Procedure
from .geometry.angle import read_per_metre, usual_tolerance
from .geometry.blade import BladeRun
from .geometry.comeback import BY as RETURN_BY
from .geometry.comeback import WANTED, ComebackRun
from .geometry.kept import KeptRun
from .geometry.level import BY as LEVEL_BY
from .geometry.level import LevelRun, usual_flatness
from .geometry.play import TOLERANCE, PlayRun
from .geometry.runout import TRUE_ENOUGH, RunoutRun
from .geometry.square import SquareRun
from .geometry.tailstock import IN_LINE, TailstockRun
from .homing.repeat import TOUCHES, RepeatRun
from .homing.run import HomingRun
from .jogging.move import MoveRun
from .scale.run import ScaleRun
from .scale.wanted import USUAL_TOLERANCE, instrument_able, read_tolerance, usual_length, usual_reach
from .spindle.engage import EngageRun
from .travel.run import TravelRun
from .trial.figure import FigureRun
from .trial.program import ProgramRun, Way, read_rate
from .trial.touch import TouchRun
from .trial.zero import DOWN, GoToZero, take_zero
from .wiring.learn import LearnRun
from .wiring.signals import SignalsRun
from .wiring.study import FilterStudy
from .wiring.trials import GuidedProof, TouchProof

MOST_RAISED = 1000.0  # mm


@dataclass(frozen=True)
class Wishes:
    """What a person may wish of a procedure; what is empty is proposed. Texts are read with their units."""

    length: str = ""
    instrument: str = ""
    tolerance: str = ""
    way: str = ""
    seconds: int = 10
    spindle: bool = False
    sides: bool = False  # of the rectangle of marks too
    plane: str = ""  # of a square: two letters
    range: int = 0  # of the spindle's speeds, from 1; 0: the one that is engaged
    file: str = ""  # of a program
    figure: str = ""  # its kind, and what it is asked for: texts by the keys of its fields
    of: tuple[str, ...] = ()
    zero: str = ""  # "here", or places as X=12.5,Y=40: the work zero is taken first
    raised: str = ""  # by which Z goes higher
    feed: str = ""  # rates of a path in per cent
    rapid: str = ""
    single: bool = False


@dataclass(frozen=True)
class Told:
    """A procedure as it is told on one line: its word, its axis, and what is wished of it."""

    word: str
    axis: str
    wishes: Wishes


def wishes_of(line: str, wishes: Wishes) -> Told:
    """What a line of the agenda means ("scale --axis X", "figure hook"), on top of what else is wished."""
    word, *rest = line.split()
    axis, figure = "", wishes.figure
    while rest:
        piece = rest.pop(0)
        match piece:
            case "--axis":
                axis = rest.pop(0)
            case "--way":
                wishes = replace(wishes, way=rest.pop(0))
            case "--plane":
                wishes = replace(wishes, plane=rest.pop(0))
            case "--range":
                wishes = replace(wishes, range=int(rest.pop(0)))
            case "--spindle":
                wishes = replace(wishes, spindle=True)
            case _:
                assert not piece.startswith("--"), line
                figure = piece
    return Told(word, axis, replace(wishes, figure=figure))


Begun = tuple[Procedure, str]  # with a sentence where it cannot begin


@dataclass(frozen=True)
class Word:
    """of_axis: whether it is done with one axis at a time; else its slot is -1."""

    about: str
    begin: Callable[[Session, int, Wishes], Begun]
    of_axis: bool = False


def _length(axis: Axis, wishes: Wishes, usual: Fraction) -> float:
    if not wishes.length:
        return float(usual)
    unit = Dimension.TRAVEL.unit(axis.rotary)
    return float(parse(wishes.length, unit, bare=axis.reads.unit(), part="length"))


def _learn(session: Session, _slot: int, _wishes: Wishes) -> Begun:
    run = LearnRun(session)
    return run, run.learn(until_all=True)


def _guided(role: InputRole) -> Callable[[Session, int, Wishes], Begun]:
    def begin(session: Session, _slot: int, _wishes: Wishes) -> Begun:
        run = GuidedProof(session)
        return run, run.prove(role)

    return begin


def _touch(session: Session, _slot: int, _wishes: Wishes) -> Begun:
    run = TouchProof(session)
    return run, run.prove()


def _study(session: Session, _slot: int, wishes: Wishes) -> Begun:
    run = FilterStudy(session)
    return run, run.record(wishes.seconds, spindle=wishes.spindle)


def _signals(session: Session, slot: int, _wishes: Wishes) -> Begun:
    run = SignalsRun(session)
    return run, run.begin_with(slot)


def _direction(session: Session, slot: int, _wishes: Wishes) -> Begun:
    run = DirectionRun(session)
    return run, run.look_at(slot)


def _scale(session: Session, slot: int, wishes: Wishes) -> Begun:
    axis, run = session.machine.axis(slot), ScaleRun(session)
    run.choose(slot)
    tolerance = float(read_tolerance(wishes.tolerance or USUAL_TOLERANCE))
    run.instrument = _instrument(axis, wishes, tolerance)
    run.length = _length(axis, wishes, run.usual_way * usual_length(axis, run.instrument))
    return run, run.prove(tolerance)


def _instrument(axis: Axis, wishes: Wishes, tolerance: float) -> Instrument:
    """The one that was wished for, else the coarsest that could prove the tolerance. Raises Refusal."""
    listed = {item.key: item for item in fitting(axis.rotary)}
    if wishes.instrument:
        if wishes.instrument not in listed:
            raise Refusal("instrument", wishes.instrument, "is not known here", ", ".join(listed))
        return listed[wishes.instrument]
    reach = _length(axis, wishes, Fraction(usual_reach(axis)))
    return instrument_able(axis, tolerance, reach)


def _held(wishes: Wishes, offered: Sequence[Instrument]) -> Instrument:
    """The one that was wished for, else the first. Raises Refusal."""
    listed = {item.key: item for item in offered}
    if wishes.instrument and wishes.instrument not in listed:
        raise Refusal("instrument", wishes.instrument, "cannot do this", ", ".join(listed))
    return listed[wishes.instrument] if wishes.instrument else offered[0]


def _move(session: Session, slot: int, wishes: Wishes) -> Begun:
    run = MoveRun(session)
    return run, run.go(slot, _length(session.machine.axis(slot), wishes, Fraction(1)))


def _home(session: Session, slot: int, _wishes: Wishes) -> Begun:
    run = HomingRun(session)
    run.asks = True
    return run, run.home((slot,) if slot >= 0 else None)


def _repeat(session: Session, slot: int, _wishes: Wishes) -> Begun:
    run = RepeatRun(session)
    return run, run.repeat(slot, TOUCHES)


def _ends(session: Session, slot: int, _wishes: Wishes) -> Begun:
    run = TravelRun(session)
    return run, run.prove(slot)


def _envelope(session: Session, _slot: int, _wishes: Wishes) -> Begun:
    run = TravelRun(session)
    return run, run.go_round()


def _park(session: Session, _slot: int, _wishes: Wishes) -> Begun:
    run = TravelRun(session)
    return run, run.park()


def _play(session: Session, slot: int, wishes: Wishes) -> Begun:
    run = PlayRun(session)
    return run, run.measure(slot, _wanted(wishes, session.machine.axis(slot).reads, Fraction(TOLERANCE)))


def _square(session: Session, _slot: int, wishes: Wishes) -> Begun:
    run = SquareRun(session)
    run.asks = True
    if wishes.instrument:
        run.instrument = _instrument(session.machine.axis(0), wishes, 0.0)
    run.propose()
    run.with_sides = wishes.sides
    usual = usual_tolerance(session.machine)
    return run, run.measure(read_per_metre(wishes.tolerance) if wishes.tolerance else usual)


def _blade(session: Session, _slot: int, wishes: Wishes) -> Begun:
    run = BladeRun(session)
    run.asks = True
    if wishes.plane and run.pair is not None:  # without any, the run says so itself
        run.choose(_plane(session.machine, wishes.plane))
    run.propose()
    run.length = _length(session.machine.axis(0), wishes, Fraction(run.length))
    usual = usual_tolerance(session.machine)
    return run, run.measure(read_per_metre(wishes.tolerance) if wishes.tolerance else usual)


def _plane(machine: Machine, text: str) -> tuple[int, int]:
    """Two axes that are to stand at right angles. Raises Refusal."""
    known = {"".join(machine.names[slot] for slot in pair): pair for pair in square_pairs(machine)}
    if text.upper() not in known:
        raise Refusal("plane", f"“{text[:8]}”", "is no pair of axes to be squared", f"one of {', '.join(known)}")
    return known[text.upper()]


def _wanted(wishes: Wishes, reads: Measures, usual: Fraction) -> float:
    """A tolerance in mm (°). Raises Refusal."""
    if not wishes.tolerance:
        return float(usual)
    return float(parse(wishes.tolerance, Dimension.TRAVEL.unit(reads.rotary), bare=reads.unit(), part="tolerance"))


def _runout(session: Session, slot: int, wishes: Wishes) -> Begun:
    run = RunoutRun(session)
    return run, run.measure(slot, _wanted(wishes, session.machine.reads, TRUE_ENOUGH))


def _tailstock(session: Session, _slot: int, wishes: Wishes) -> Begun:
    run = TailstockRun(session)
    return run, run.measure(_wanted(wishes, session.machine.reads, IN_LINE))


def _kept(session: Session, _slot: int, _wishes: Wishes) -> Begun:
    run = KeptRun(session)
    return run, run.try_it()


def _return(session: Session, slot: int, wishes: Wishes) -> Begun:
    run = ComebackRun(session)
    run.held = _held(wishes, RETURN_BY)
    return run, run.measure(slot, _wanted(wishes, session.machine.axis(slot).reads, WANTED))


def _level(session: Session, _slot: int, wishes: Wishes) -> Begun:
    run = LevelRun(session)
    run.held = _held(wishes, LEVEL_BY)
    run.propose()
    return run, run.measure(_wanted(wishes, session.machine.reads, usual_flatness(session.machine)))


def _search(session: Session, slot: int, wishes: Wishes) -> Begun:
    run = HardRun(session)
    return run, run.find(slot, _length(session.machine.axis(slot), wishes, run.usual_length(slot)), TIMES)


def _pace(session: Session, slot: int, wishes: Wishes) -> Begun:
    run = HardRun(session)
    return run, run.prove(slot, _length(session.machine.axis(slot), wishes, run.usual_length(slot)), 2 * TIMES)


def _spindle(begin: str) -> Callable[[Session, int, Wishes], Begun]:
    def begun(session: Session, _slot: int, wishes: Wishes) -> Begun:
        from .spindle.meter import SpeedMeter  # curves need NumPy and SciPy
        from .spindle.run import SpindleRun

        if wishes.range and wishes.range - 1 != told_range(session.machine):
            engage = EngageRun(session)
            return engage, engage.engage(wishes.range - 1)
        run = SpindleRun(session)
        run.meter = SpeedMeter(session, meters(session.machine)[0])
        starts: dict[str, Callable[[], str]] = {
            "curve": run.measure,
            "speeds": partial(run.check_speeds, mend=True),
            "times": run.time_it,
        }
        return run, starts[begin]()

    return begun


def _spindle_stop(session: Session, _slot: int, wishes: Wishes) -> Begun:
    from .spindle.meter import SpeedMeter
    from .spindle.stops import StopRun

    if wishes.way not in STOPS:
        raise Refusal("way", wishes.way or "none", "is no way of ending it", ", ".join(STOPS))
    run = StopRun(session)
    run.meter = SpeedMeter(session, meters(session.machine)[0])
    return run, run.prove(wishes.way)


def _spindle_way(session: Session, _slot: int, _wishes: Wishes) -> Begun:
    from .spindle.way import WayRun

    run = WayRun(session)
    return run, run.look_at()


def _encoder(session: Session, _slot: int, _wishes: Wishes) -> Begun:
    from .spindle.way import EncoderRun

    run = EncoderRun(session)
    return run, run.count()


def _way(session: Session, run: ProgramRun, wishes: Wishes) -> Way:
    """How it is to be run; the work zero is taken and the rates are told. Raises Refusal."""
    take_zero(session, wishes.zero)
    run.set_rates(read_rate(wishes.feed or "100"), read_rate(wishes.rapid or "100"))
    raised = float(parse(wishes.raised, MM, part="height added")) if wishes.raised else 0.0
    if not 0 <= raised <= MOST_RAISED:
        raise Refusal("height added", f"{raised:g} mm", "is not added", f"0 to {MOST_RAISED:g} mm")
    return Way(not wishes.spindle, raised, wishes.single)


def _program(session: Session, _slot: int, wishes: Wishes) -> Begun:
    if not wishes.file:
        raise Refusal("program", "none", "is named", way_out="name its file")
    run = ProgramRun(session)
    run.asks = True
    return run, run.run_file(Path(wishes.file), _way(session, run, wishes))


def _figure(session: Session, _slot: int, wishes: Wishes) -> Begun:
    from idler.core.trial.figures import PROVING, checked, obstacle, read_wishes

    run = FigureRun(session)
    if why := obstacle(session.machine):
        return run, why
    run.asks = True
    figure = checked(wishes.figure or PROVING, read_wishes(wishes.of))
    return run, run.run_figure(figure, _way(session, run, wishes))


def _action(session: Session, _slot: int, wishes: Wishes) -> Begun:
    run = ActionRun(session)
    return run, run.start(wishes.file, "its name on a terminal")


def _index(session: Session, slot: int, wishes: Wishes) -> Begun:
    run, texts = IndexRun(session), dict(text.partition("=")[::2] for text in wishes.of)
    for key, text in texts.items():
        if key not in ("stop", "lines") or not text.isdecimal():
            raise Refusal("index stop", f"“{key}={text}”", "is not understood", "stop=3 or lines=3")
    if "lines" in texts:
        return run, run.act(slot, int(texts["lines"]))
    return run, run.go(slot, int(texts["stop"])) if "stop" in texts else run.prove(slot)


def _zero(session: Session, _slot: int, wishes: Wishes) -> Begun:
    take_zero(session, wishes.zero)
    run = GoToZero(session)
    return run, run.go(down=wishes.way == DOWN)


def _torque_print(session: Session, slot: int, _wishes: Wishes) -> Begun:
    run = TorquePrintRun(session)
    return run, run.go(slot)


def _probe(session: Session, _slot: int, wishes: Wishes) -> Begun:
    texts = dict(text.partition("=")[::2] for text in wishes.of)
    run = TouchRun(session)
    return run, run.touch(touching.checked(session.machine, wishes.way or "top", touching.read(texts)))


WORDS: dict[str, Word] = {
    "learn": Word("touch each switch once: which input it is, and how it rests", _learn),
    "stop": Word("the emergency stop, with all that it must do", _guided(InputRole.STOP)),
    "guard": Word("the guard, with all that it must do", _guided(InputRole.GUARD)),
    "touch": Word("every other switch, touched when it is asked for", _touch),
    "study": Word("what the inputs pick up while nobody touches the machine", _study),
    "signals": Word("reversals and powerings between touches of the home switch", _signals, True),
    "direction": Word("a small move to +, and what was seen", _direction, True),
    "move": Word("by a length, slowly", _move, True),
    "scale": Word("passes with an instrument, until the scale is proven or is not", _scale, True),
    "home": Word("one axis, or all in their turns", _home),
    "repeat": Word("homing again and again, and its scatter", _repeat, True),
    "ends": Word("both ends, slowly and at top speed", _ends, True),
    "envelope": Word("slowly round the envelope", _envelope),
    "park": Word("to the parking place", _park),
    "play": Word("a dial, and three places reached from both sides", _play, True),
    "square": Word("four marks, and both diagonals between them", _square),
    "return": Word(
        "back to one place from near and far, slowly and fast: by a dial, or its motor alone", _return, True
    ),
    "level": Word("a dial in the spindle over a grid of the bed, or a touch probe", _level),
    "blade": Word("a square and a dial, and the square turned over", _blade),
    "runout": Word("a dial on what an axis holds, at four angles", _runout, True),
    "tailstock": Word("two diameters of a bar between centres", _tailstock),
    "program": Word("a program along its path; dry unless the spindle is asked for", _program),
    "figure": Word("a figure with a pen, and what its paper shows", _figure),
    "probe": Word("a touch plate or a probe: top, a side, a corner, the middle of a bore or a boss", _probe),
    "index": Word("to an index stop by its number; without one, each is looked at once", _index, True),
    "action": Word("an own action by its name", _action),
    "zero": Word("over the work zero, Z up first; down to it, too, by the way “down”", _zero),
    "torque-print": Word("slowly over its travel and back: what its motor gives at each place", _torque_print, True),
    "kept": Word("many moves of all axes at once between touches of their switches", _kept),
    "search": Word("the fastest pace that loses no steps", _search, True),
    "pace": Word("the pace as it is, run hard between touches of the home switch", _pace, True),
    "spindle-curve": Word("levels up and down, and the speed of each", _spindle("curve")),
    "spindle-speeds": Word("speeds over the range, commanded and measured", _spindle("speeds")),
    "spindle-times": Word("to the highest speed and to standstill", _spindle("times")),
    "spindle-way": Word("turned slowly to the right, and what was seen", _spindle_way),
    "spindle-encoder": Word("turned by hand: what is counted in each turn, and its sign", _encoder),
    "spindle-stop": Word("one way of ending it: esc, stop, guard, ready or link", _spindle_stop),
}


def help_pages() -> tuple[Page, ...]:
    """The help: a page for each station and each procedure, and some about the whole."""
    return read_pages({word: each.of_axis for word, each in WORDS.items()})
