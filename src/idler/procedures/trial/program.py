"""A program, or a figure, on the machine: from where the axes stand, along its path, with pause, single block and stops."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING

from idler.core.actions.steps import Event
from idler.core.errors import IdlerError, Refusal
from idler.core.profile.path import PERIOD_MS
from idler.core.profile.terminals import Condition
from idler.core.proof.claims import trial_claim
from idler.core.spindle import is_on_bus
from idler.core.table.stations import Station, Tab
from idler.core.trial.starting import Need, Now, needs, obstacle_of
from idler.core.values.quantity import parse
from idler.core.values.units import PERCENT
from idler.core.wiring.indexing import turrets
from idler.core.words import capital, duration, listed
from idler.link.along import Along, PathPlace
from idler.link.events import Asked
from idler.session.preparing import Preparation
from idler.session.session import Session
from idler.shelf.programs import comment_of

from ..actions.indexing import to_stop
from ..actions.performing import Performer
from ..at_rest import HEARD_BY
from ..engine import Ending, Procedure, Result, Run, Steps, Trouble
from ..questions import done
from ..safe import NEAR, count_of, go_to
from .zero import HERE, take_zero

if TYPE_CHECKING:
    from idler.core.program.track import Track
    from idler.core.trial.figures import Figure
    from idler.core.trial.made import FeedMade, Mark
    from idler.link.along import PathOrder
    from idler.session.programs import Judged

PERIOD = PERIOD_MS / 1000  # s between two places
FINE = 100.0  # s: shorter times are told by tenths
SETTLES = 0.05  # s between looks at whether it stands


def read_rate(typed: str) -> float:
    """A rate in per cent. Raises Refusal."""
    value = float(parse(typed, PERCENT, part="rate"))
    if not 0 <= value <= 100:
        raise Refusal("rate", f"{value:g} %", "is not a rate of a path", "0 to 100 %")
    return value / 100


def _time(seconds: float) -> str:
    return f"{seconds:.1f} s" if seconds < FINE else duration(seconds)


@dataclass(frozen=True)
class Way:
    """How it is run. raised: mm that Z goes higher. dry: without the spindle. single: it waits after each line."""

    dry: bool = True
    raised: float = 0.0
    single: bool = False


@dataclass(frozen=True)
class Interrupted:
    """Where a run was ended: its leg, and the sample of it that was reached. beside: an axis was stopped by itself."""

    track: Track
    way: Way
    leg: int
    at: int
    line: int
    beside: bool


@dataclass(frozen=True)
class Made:
    """What came of a run: seconds that were reckoned and that it took by the controller's clock, without what was held."""

    predicted: float
    taken: float
    lag: Mapping[str, float]  # worst following error of the axes that have a measured one, mm (°)
    feed: FeedMade | None = None


class ProgramRun(Procedure):
    """feed, rapid: rates from 0 to 1; `paused` holds both. track: what is run now, or was last. interrupted: where the last
    run was ended before its end. made: what came of the last one that came to its end."""

    what = "the program"
    asks = False  # whether it asks for the work zero, where none was taken

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.feed = self.rapid = 1.0
        self.paused = False
        self.ran = ""  # what was run last, for a proof
        self.way = Way()
        self._performer = Performer(session, self)
        self.track: Track | None = None
        self.judged: Judged | None = None  # from where the axes stood
        self.interrupted: Interrupted | None = None
        self.made: Made | None = None
        self._from = 0, 0  # leg and sample that the order on the link begins with
        self._follows = self._ordered = False
        self._ready_made: Preparation | None = None
        self._text: bytes | bytearray = b""
        self._marks: Sequence[int] = ()
        self._lags: dict[str, float] = {}
        self._passed: list[Mark] = []
        # Where the measured lag of each axis was largest: places of all axes, both by letter.
        self.worst_at: dict[str, dict[str, float]] = {}
        session.done.subscribe(self._homed_anew)

    def _homed_anew(self, what: str) -> None:
        """Whatever a run lost is gone with the next home: the switches tell nothing of that run any more."""
        if what in ("homing", "home", "restart", "forget"):
            self.made = None
            self.changed.publish()

    # -- before it begins -------------------------------------------------------------------------------------------

    def needs(self, *, dry: bool) -> tuple[Need, ...]:
        """All that must be so before it runs."""
        session, judged = self._session, self._session.program.judged
        machine = session.machine
        if judged is None:
            return (
                Need(
                    "program",
                    "a program is open",
                    Station.TRIAL,
                    "no program is open. Open one, or choose a figure",
                    Tab.PROGRAM,
                ),
            )
        from idler.core.program.saying import why_not

        found, names = judged.verdict, machine.names
        moved = set(found.envelope.extents)
        rests = [
            address for name in moved if name in names for address in trial_claim(machine, names.index(name)).rests
        ]
        now = Now(
            session.axes_obstacle or session.floor.obstacle(self) or session.unsent(tuple(dict.fromkeys(rests))),
            session.powered, {name for slot, name in enumerate(names) if session.homes.known(slot)},
            session.work.valid,
            session.program.changed_on_disk, session.spindle_obstacle(), found.program.tool_unknown,
        )  # fmt: skip
        fits = found.fits and not session.program.shift
        why = "it is looked at with another work zero" if session.program.shift else why_not(found).removesuffix(".")
        return needs(
            machine, moved, found.program.counted, session.work.set.shown, found.program.speeds, fits, why, now,
            session.proofs, dry=dry,
        )  # fmt: skip

    def start(self, way: Way) -> str:
        """From where the axes stand; a sentence where it cannot begin. A figure goes where its pen touches, and no higher."""
        if self._session.program.figure is not None:
            way = replace(way, raised=0.0)
        if why := obstacle_of(self.needs(dry=way.dry)):
            return why
        judged = self._session.program.judged
        assert judged is not None
        self._name(judged.path.name, way)
        self.way, self.interrupted, self.made = way, None, None
        self.begin(self._running(way), "The way of every axis is worked out.")
        return ""

    def run_file(self, path: Path, way: Way) -> str:
        """Opens a program, and runs it where it can be run."""
        return self._run_opened(lambda: self._session.program.open(path), path.name, way)

    def run_figure(self, figure: Figure, way: Way) -> str:
        """Makes a figure the program in hand, and runs it where it can be run."""
        return self._run_opened(lambda: self._session.program.open_figure(figure), figure.kind, way)

    def _run_opened(self, opens: Callable[[], None], name: str, way: Way) -> str:
        if why := self._session.motion_obstacle():
            return why
        self._name(name, way)
        self.way, self.interrupted, self.made = way, None, None
        self.begin(self._opening(opens, way), f"{name} is read.")
        return ""

    def _name(self, name: str, way: Way) -> None:
        self._ordered = False
        figure = self._session.program.figure
        title = f"the figure “{figure.kind}”" if figure is not None else name
        self.ran = self.what = f"a dry run of {title}" if way.dry and figure is None else title

    def _opening(self, opens: Callable[[], None], way: Way) -> Run:
        program = self._session.program
        try:
            opens()
        except IdlerError as why:
            raise Trouble(why.sentence) from None
        yield lambda: program.share is None
        if program.trouble:
            raise Trouble(program.trouble)
        asked = self.needs(dry=way.dry)
        first = next((need.key for need in asked if need.why), "")
        if self.asks and first == "zero" and "other_zero" not in [need.key for need in asked]:
            yield from self._ask_zero()
        if missing := obstacle_of(self.needs(dry=way.dry)):
            raise Trouble(missing)
        return (yield from self._running(way))

    def _ask_zero(self) -> Steps:
        """The place where the axes stand, once the person has jogged there, becomes the work zero."""
        session, program = self._session, self._session.program
        title = session.work.set.title(session.work.set.shown)
        words = (
            f"{title} was never taken. Jog to where it is to be, the tool (or the pen) where it touches, and say so."
        )
        yield from self.ask(done("program.zero", words), free=True)
        before = program.judged
        take_zero(session, HERE)
        yield lambda: program.trouble != "" or (program.judged is not before and program.share is None)

    def go_on_from(self) -> str:
        """Goes on with what was ended before its end; a sentence where it cannot."""
        session, left = self._session, self.interrupted
        if left is None:
            return "Nothing was interrupted."
        if why := obstacle_of(self.needs(dry=left.way.dry)):
            return why
        if left.beside:
            return "The axes were stopped beside the path. Bring the tool clear of the work and start the program anew."
        if not self._stands_at(left):
            names = listed([session.machine.names[slot] for slot in left.track.slots()])
            return f"{names}: moved since it was stopped. Start the program anew."
        self.way = left.way
        self.begin(self._going_on(left), "It goes on where it was stopped.")
        return ""

    def give_up(self) -> None:
        """What was interrupted is not gone on with."""
        self.interrupted = None
        self.changed.publish()

    def _stands_at(self, left: Interrupted) -> bool:
        places = left.track.legs[left.leg].places
        stretch = places[max(0, left.at - 1) : left.at + 2]
        axes = self._session.machine.axes
        for slot in left.track.slots():
            low, high = float(stretch[:, slot].min()), float(stretch[:, slot].max())
            near = NEAR * count_of(self._session, slot)
            if not low - near <= self._session.axes[slot].position <= high + near and not axes[slot].wraps:
                return False
        return True

    # -- while it runs ----------------------------------------------------------------------------------------------

    @property
    def place(self) -> PathPlace:
        """How far it is, by leg and sample of the track; nowhere, until it is on its way."""
        if not self._ordered:
            return PathPlace()
        now = self._session.link.path
        leg, at = self._from
        return PathPlace(
            now.along,
            now.leg + leg,
            now.at + (at if now.leg == 0 else 0),
            now.line,
            now.rate,
            now.ahead,
            now.ran,
            now.why,
        )

    @property
    def done_share(self) -> float:
        """How much of it is done, by time."""
        return self._gone() / max(self.track.seconds, 1e-9) if self.track is not None else 0.0

    @property
    def seconds_left(self) -> float:
        """By its plan, at the rate that was chosen."""
        if self.track is None:
            return 0.0
        return max(0.0, self.track.seconds - self._gone()) / max(0.01, self.feed)

    def _gone(self) -> float:
        assert self.track is not None
        now = self.place
        before = sum(max(0, len(leg.rows) - 1) for leg in self.track.legs[: now.leg])
        return (before + now.at) * PERIOD

    @property
    def lag_words(self) -> str:
        """How far the axis that measures it is behind now; nothing where none does."""
        now = {slot: abs(kept[-1][1]) for slot, kept in self._session.lags.items() if kept and slot in self._lagging}
        if not now:
            return ""
        slot = max(now, key=lambda slot: now[slot])
        axis = self._session.machine.axis(slot)
        return f" · {axis.name} {axis.reads.length(now[slot], 3)} behind"

    def set_rates(self, feed: float, rapid: float) -> None:
        """From 0 to 1; rapids are never faster than they are asked for here."""
        if not (0 <= feed <= 1 and 0 <= rapid <= 1):
            raise Refusal("rate", f"{100 * max(feed, rapid, key=abs):g} %", "is not a rate of a path", "0 to 100 %")
        self.feed, self.rapid = feed, rapid
        self._tell_rates()

    def pause(self) -> None:
        """It stands on its path until `go_on`."""
        self.paused = True
        self._tell_rates()

    def go_on(self) -> None:
        """Ends a pause, or goes on to the end of the next line in single block."""
        self.paused = False
        self._tell_rates()
        if self._follows and self._session.link.path.along is Along.HELD:
            self._session.link.go_on()

    def set_single(self, on: bool) -> None:
        self.way = replace(self.way, single=on)
        self._session.link.single_block(on)
        if not on and self._follows and not self.paused:
            self._session.link.go_on()
        self.changed.publish()

    def hear(self, words: str) -> bool:
        """pause, go, single, lines (no single block), feed 50, rapid 25."""
        match words.split():
            case ["pause" | "p"]:
                self.pause()
            case ["go" | "g"]:
                self.go_on()
            case ["single"]:
                self.set_single(True)
            case ["lines"]:
                self.set_single(False)
            case ["feed", share]:
                self.set_rates(read_rate(share), self.rapid)
            case ["rapid", share]:
                self.set_rates(self.feed, read_rate(share))
            case _:
                return False
        return True

    def _tell_rates(self) -> None:
        stands = self.paused
        self._session.link.path_rates(0.0 if stands else self.feed, 0.0 if stands else self.rapid)
        self.changed.publish()

    # -- steps ------------------------------------------------------------------------------------------------------

    def _running(self, way: Way) -> Run:
        session = self._session
        judged = session.program.judged
        assert judged is not None
        self._text = judged.text
        yield from self._performer.happened(Event.BEFORE)
        self._performer.let_go()
        stands = {name: axis.position for name, axis in zip(session.machine.names, session.axes, strict=True)}
        made = self._ready_made = session.program.prepare(stands, way.raised, PERIOD)
        yield lambda: made.over
        if made.trouble or made.track is None or made.verdict is None:
            raise Trouble(made.trouble or "It was not planned to its end.")
        if (tool := made.verdict.program.tool_unknown) is not None:  # it was known when the program was read
            raise Trouble(f"Nobody knows how long H{tool} is any more. Measure it anew at Tools.")
        self._marks = made.verdict.program.marks
        self.track, self.takes = made.track, made.track.seconds
        if made.strokes is not None:
            self.judged = replace(judged, verdict=made.verdict, strokes=made.strokes)
        session.floor.take(self, self.what, self.takes)
        return (yield from self._along(0, 0))

    def _going_on(self, left: Interrupted) -> Run:
        self.track = left.track
        return (yield from self._along(left.leg, left.at))

    def _along(self, leg: int, at: int) -> Run:
        session, track = self._session, self.track
        assert track is not None
        if not track.slots():
            return Result(Ending.FAILED, "The program moves no axis: nothing of it was done.")
        order = self._order(leg, at)
        self._from, self._lags, self.worst_at = (leg, at), {}, {}
        self._passed = []
        self.interrupted, self.paused = None, False  # a pause ends with the run that it was in
        self._tell_rates()
        session.link.single_block(self.way.single)
        self._watch(True)
        session.link.follow(order)
        self._follows = self._ordered = True
        while True:
            self.say("It runs. Esc stops it.")
            yield self._passes
            along = session.link.path.along
            if along is Along.ASKS:
                yield from self._ask()
                continue
            if along.over:
                break
        if along is Along.REFUSED:
            raise Trouble(session.link.path.why)
        if along is not Along.ENDED:
            raise Trouble(self._stopped_words(), Ending.STOPPED)
        self._follows = False
        self._watch(False)
        yield lambda: not session.moving
        result = yield from self._came_to_its_end(self._result(session.link.path.ran))
        yield from self._performer.happened(Event.AFTER)
        self._performer.let_go()
        return result

    def _came_to_its_end(self, result: Result) -> Run:
        """What is asked after it."""
        yield lambda: True
        return result

    def _order(self, leg: int, at: int) -> PathOrder:
        from idler.link.order import order_of

        assert self.track is not None
        stands = tuple(axis.position for axis in self._session.axes)
        try:
            order = order_of(self.track, switches=not self.way.dry, stands=stands, leg=leg, at=at)
        except Refusal as why:
            raise Trouble(why.sentence) from None
        told_beside = not self.way.dry and is_on_bus(self._session.machine)
        return replace(order, turning=self._session.bus) if told_beside else order

    def _passes(self) -> bool:
        """Whether something is to be done about it; what it does now is looked at on the way."""
        place = self._session.link.path
        self._note_lag()
        self._note_place()
        self.progressed.publish()
        return place.along is Along.ASKS or place.along.over

    def _ask(self) -> Steps:
        """A stop of the program: whoever answers lets it go on."""
        assert self.track is not None
        number = self.place.leg
        leg = self.track.legs[number]
        line = leg.asks
        yield from self._spindle_stands(number)
        if leg.tool is not None:
            yield from self._changed_tool(leg.tool, [float(place) for place in leg.places[0]])
        if leg.tool is not None and turrets(self._session.machine):
            yield from self._leave(number)
            return
        words = comment_of(self._text, self._marks, line)
        starts = bool(leg.spindle) and not self.way.dry
        turns = " The spindle turns." if self._may_turn(number) else " Going on starts the spindle." if starts else ""
        yield from self.ask(done("program.stop", f"Line {line}: {words}.{turns} Go on?"))
        yield from self._leave(number)

    def _asked_for(self, number: int) -> bool:
        """Whether the program wants the spindle to turn before this leg."""
        assert self.track is not None
        asked = next((leg.spindle for leg in reversed(self.track.legs[:number]) if leg.spindle is not None), 0)
        return bool(asked) and not self.way.dry

    @property
    def _turns(self) -> bool:
        """Whether the controller says so; it may be late."""
        return bool(self._session.panel.conditions & (Condition.SPINDLE | Condition.RUNNING_DOWN))

    def _may_turn(self, number: int) -> bool:
        return self._turns or self._asked_for(number)

    def _spindle_stands(self, number: int) -> Steps:
        """Where the program has told it to, that is heard before hands are asked to it."""
        late = self._session.loop.now() + HEARD_BY
        yield lambda: not self._turns or self._asked_for(number) or self._session.loop.now() > late

    def _leave(self, number: int) -> Steps:
        """From the stop before a leg on its path; it may be at the next one before anybody looks."""
        link = self._session.link
        link.go_on()
        yield lambda: (place := link.path).along is not Along.ASKS or place.leg != number

    def _changed_tool(self, tool: int, places: list[float]) -> Steps:
        """What is to be done at a tool change, a turret's turn last; then its axes go back to where the program goes on, Z
        last. places: of all axes, where they stand then."""
        session, track = self._session, self.track
        assert track is not None
        order = sorted(track.slots(), key=lambda slot: session.machine.names[slot] == "Z")
        near = {slot: NEAR * count_of(session, slot) for slot in order}
        yield (
            lambda: (
                not session.moving
                and all(abs(session.axes[slot].position - places[slot]) <= near[slot] for slot in order)
            )
        )
        yield from self._performer.happened(Event.TOOL)
        self._performer.let_go()
        for axis in turrets(session.machine):
            yield from to_stop(self, session, axis, tool)
        for slot in order:
            yield from go_to(self, session, slot, places[slot])

    def _stopped_words(self) -> str:
        where = f"in line {self.place.line}" if self.place.line else "before its first move"
        if self._session.link.path.along is Along.LEFT:
            words = f"It was stopped {where}; the axes stand beside its path."
        else:
            words = f"It was stopped {where}, on its path."
        return f"{words} {self._session.link.path.why}".rstrip()

    def _result(self, taken: float) -> Result:
        assert self.track is not None
        reckoned = self.track.seconds_from(*self._from)
        self.made = Made(reckoned, taken, dict(self._lags), self._feed_made())
        figures = {"predicted_s": reckoned, "taken_s": taken, **self._lags}
        return Result(Ending.DONE, f"It came to its end. {self.made_words}", figures)

    @property
    def made_words(self) -> str:
        """What was asked against what came of it; nothing where no run came to its end."""
        made = self.made
        if made is None:
            return ""
        machine = self._session.machine
        words = f"Reckoned {_time(made.predicted)}, taken {_time(made.taken)}."
        if made.lag:
            behind = [
                f"{name} by {machine.axis(machine.names.index(name)).reads.length(lag, 3)}"
                for name, lag in made.lag.items()
            ]
            words += f" Behind at most: {', '.join(behind)}."
        return f"{words} {capital(told)}." if (told := self.feed_words) else words

    def _feed_made(self) -> FeedMade | None:
        from idler.core.trial.made import feed_made

        judged = self.judged
        if self.track is None or judged is None:
            return None
        return feed_made(self.track, judged.verdict.program.rates, self._passed)

    @property
    def feed_words(self) -> str:
        """How fast it was in its cuts; nothing where nothing was cut."""
        if self.made is None or self.made.feed is None:
            return ""
        reads, feed = self._session.machine.reads, self.made.feed
        return f"feed {reads.speed(feed.made)} on the mean, {reads.speed(feed.asked)} asked"

    def _note_place(self) -> None:
        place = self.place
        if place.along in (Along.RUNS, Along.HELD, Along.ENDED):
            mark = place.leg, place.at, place.ran
            if not self._passed or self._passed[-1] != mark:
                self._passed.append(mark)

    def _watch(self, on: bool) -> None:
        """The following errors of all axes that have a measured one."""
        assert self.track is not None
        axes = self._session.in_force.axes
        measured = tuple(slot for slot in self.track.slots() if axes[slot].flag("loop.measured"))
        self._lagging = measured if on else ()
        self._session.watch_lag(*self._lagging)

    _lagging: tuple[int, ...] = ()

    def _note_lag(self) -> None:
        names = self._session.machine.names
        for slot, kept in self._session.lags.items():
            worst = max((abs(lag) for _, lag in kept[-10:]), default=0.0)
            if slot in self._lagging and worst > self._lags.get(names[slot], 0.0):
                self._lags[names[slot]] = worst
                self.worst_at[names[slot]] = {
                    name: axis.position for name, axis in zip(names, self._session.axes, strict=False)
                }

    def _end(self, result: Result) -> None:
        """Whatever ends it, nothing goes on along the path."""
        if self._ready_made is not None:
            self._ready_made.leave()
            self._ready_made = None
        follows, self._follows = self._follows, False
        self._performer.let_go()
        if follows:
            self._watch(False)
            if not self._session.link.path.along.over:
                self._session.link.stop()
            self._keep_place()
        if not self.way.dry:
            self._session.bus.follow(Asked())
        super()._end(result)

    def _keep_place(self) -> None:
        """Where it was ended is known when the axes stand."""

        def look() -> None:
            place = self.place
            if not place.along.over:
                return
            timer.stop()
            if self.track is not None and place.along in (Along.STOPPED, Along.LEFT) and self._session.connected:
                self.interrupted = Interrupted(
                    self.track, self.way, place.leg, int(place.at), place.line, place.along is Along.LEFT
                )
                self.changed.publish()

        timer = self._session.loop.timer(SETTLES, look)
        timer.start()
