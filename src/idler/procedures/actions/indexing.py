"""Index stops: an axis goes to one by its number, its lines are acted from the screen, and each stop is looked at once."""

from __future__ import annotations

import math
from collections.abc import Callable, Generator

from idler.core.machine import Address, Axis
from idler.core.profile.indexing import REPORT, IndexReport, IndexState, index_place
from idler.core.proof.claims import Witness, index_claim
from idler.core.wiring.indexing import (
    StateSpan,
    by_lines,
    hasty,
    home_shift,
    lines,
    number_of,
    seen_wrong,
    state_spans,
    stop_at,
    stops_of_axis,
    way_to,
)
from idler.link.events import Read
from idler.session.session import DRIVES_OFF, Session

from ..engine import Ending, Procedure, Result, Run, Steps, Trouble, Wait
from ..questions import choice
from ..safe import safe_speed

LOOKED = 0.2  # s between two looks
LATELY = 60_000_000  # µs
STOOD = 10.0  # s at rest under way, after which it is not waited for any more
OBEYED = 0.3  # s within which a picked stop is begun, beside its settling time
OTHER = "other"


def index_obstacle(session: Session, axis: Axis, number: int) -> str:
    """Why an axis does not go to a stop now, or an empty text."""
    stops = stops_of_axis(axis)
    if not stops:
        return f"{axis.name} has no index stops. Write them at Trial, Index stops."
    if not 1 <= number <= len(stops):
        return f"{axis.name} has {len(stops)} index stops: {number} is none of them."
    if not session.powered:
        return DRIVES_OFF
    return session.homes.obstacle([axis.slot])


def report_of(run: Procedure, slot: int) -> Generator[Wait, None, IndexReport]:
    """What the controller says of an axis's stops."""
    where = index_place(slot, REPORT)
    yield run.read(where)
    return IndexReport.of(run.raw(where))


def to_stop(run: Procedure, session: Session, axis: Axis, number: int) -> Steps:
    """An axis goes to a stop. Raises Trouble where the controller does not say that it is reached, or it stands elsewhere."""
    if why := index_obstacle(session, axis, number):
        raise Trouble(why.rstrip("."))
    title = stops_of_axis(axis)[number - 1].title(number)
    run.say(f"{axis.name} goes to stop {title}. Esc stops it.")
    speed = safe_speed(session, axis.slot)
    if session.in_force.made_of_parts:
        yield from _by_moves(run, session, axis, number, speed)
        return
    told = yield from run_to(run, session, axis, lambda: session.link.pick_stop(axis.slot, number, speed), number)
    if told.state is not IndexState.REACHED or told.at != number:
        raise Trouble(f"{axis.name} was sent to stop {title}: {told.state.words}")
    if stop_at(axis, session.axes[axis.slot].position) != number:
        raise Trouble(f"{axis.name} is said to be at stop {title} and stands at {_stands(session, axis)}")


def _by_moves(run: Procedure, session: Session, axis: Axis, number: int, speed: float) -> Steps:
    """The same where no controller knows of stops: Idler moves the axis there."""
    stop = stops_of_axis(axis)[number - 1]
    for way in way_to(axis, stop, session.axes[axis.slot].position):
        yield run.move(axis.slot, way, speed)
    if stop_at(axis, session.axes[axis.slot].position) != number:
        raise Trouble(f"{axis.name} was sent to stop {stop.title(number)} and stands at {_stands(session, axis)}")


def run_to(
    run: Procedure, session: Session, axis: Axis, pick: Callable[[], None], goal: int
) -> Generator[Wait, None, IndexReport]:
    """Until the controller has obeyed a pick and its way is over; what it says then."""
    began = moved = session.loop.now()
    pick()
    settles = float(axis.number("index.settle")) / 1000
    while True:
        told = yield from report_of(run, axis.slot)
        since = session.loop.now() - began
        begun = told.goal == goal or told.state in (IndexState.WRONG, IndexState.NOT_READY)
        over = told.state is not IndexState.UNDER_WAY and not session.axes[axis.slot].moving
        if over and (begun or since > settles + OBEYED) and since > OBEYED:
            return told
        moved = session.loop.now() if session.axes[axis.slot].moving else moved
        if session.loop.now() - moved > STOOD:
            raise Trouble(f"{axis.name} stands, and the controller says that it is under way")


def _stands(session: Session, axis: Axis) -> str:
    return axis.reads.length(session.axes[axis.slot].position, trim=True)


class IndexRun(Procedure):
    """reports: by slot, what the controller said last of an axis's stops. passing: what the lines of the axis that is watched
    told lately."""

    what = "index stops"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.reports: dict[int, IndexReport] = {}
        self.passing: list[StateSpan] = []
        self.lines_say: dict[int, int] = {}  # by slot, where Idler watches them
        self._slot = -1
        self._acting = False
        self._looked = 0.0

    def _obstacle(self, axis: Axis, number: int) -> str:
        """Why it cannot begin now, or an empty text."""
        machine = self._session.machine
        why = self._session.motion_obstacle(index_claim(machine, axis.slot).rests)
        return why or index_obstacle(self._session, axis, number)

    def go(self, slot: int, number: int) -> str:
        """To one stop; a sentence where it cannot begin."""
        axis = self._session.machine.axis(slot)
        if why := self._obstacle(axis, number):
            return why
        self.begin(self._going(axis, number), f"{axis.name} goes to stop {number}.")
        return ""

    def look(self, slot: int) -> None:
        """Asks how its stops stand, now and then, for whoever watches."""
        now = self._session.loop.now()
        if not self.running and self._session.connected and now - self._looked > LOOKED:
            self._looked = now
            self.passing = self._states(slot)  # a noisy minute is many edges: not with every picture
            axis = self._session.machine.axis(slot)
            if by_lines(axis):
                settle = float(self._session.in_force.axis(slot).number("index.settle"))
                self._session.see_lines(axis.name, hasty(self.passing, settle))
            if self._session.in_force.made_of_parts:
                self.reports[slot] = self._seen_by_idler(slot)
            else:
                self._session.link.ask_for([index_place(slot, REPORT)])

    def _failed(self, what: str) -> None:
        super()._failed(what)
        if what == "read":  # a controller that knows of no stops is not asked again and again
            self._looked = math.inf

    def _take(self, event: Read) -> None:
        super()._take(event)
        for slot in range(len(self._session.machine.names)):
            if (raw := event.raws.get(index_place(slot, REPORT))) is not None:
                self.reports[slot] = IndexReport.of(int(raw))

    def _seen_by_idler(self, slot: int) -> IndexReport:
        """How its stops stand, where no controller says it."""
        session = self._session
        at = stop_at(session.machine.axis(slot), session.axes[slot].position)
        state = IndexState.UNDER_WAY if session.axes[slot].moving else IndexState.REACHED if at else IndexState.NOWHERE
        return IndexReport(state, at, 0, self.lines_say.get(slot, 0), 0)

    def _states(self, slot: int) -> list[StateSpan]:
        """What its lines told lately, one state after the other; nothing where they are not known."""
        machine, trace = self._session.machine, self._session.trace
        told = lines(machine, machine.axis(slot))
        edges = trace.since(trace.now - LATELY)
        if not told or not len(edges.levels):
            return []
        bits = {item.slot: bit for bit, item in told.items()}
        state = sum(item.made(bool(edges.levels[item.slot])) << bit for bit, item in told.items())
        seen = []
        for time, number, closed in zip(edges.times[::-1], edges.inputs[::-1], edges.closed[::-1], strict=True):
            if (bit := bits.get(int(number))) is not None:
                made = told[bit].made(bool(closed))
                seen.append((int(time), int(number), made))
                state = state & ~(1 << bit) | (not made) << bit  # as it was before
        return state_spans(state, seen[::-1], bits, edges.now - LATELY)

    def _going(self, axis: Axis, number: int) -> Run:
        yield from to_stop(self, self._session, axis, number)
        if self._session.in_force.made_of_parts:
            self.reports[axis.slot] = self._seen_by_idler(axis.slot)
        else:
            yield from report_of(self, axis.slot)
        title = stops_of_axis(axis)[number - 1].title(number)
        return Result(Ending.DONE, f"{axis.name} stands at stop {title}.", {"stop": number})

    # -- as if the lines said so --------------------------------------------------------------------------------------

    def act_obstacle(self, slot: int, state: int) -> str:
        """Why lines cannot be acted now, or an empty text. state: line 1 is the lowest bit."""
        axis = self._session.machine.axis(slot)
        if not by_lines(axis):
            return f"{axis.name}: its stops are not picked by a number on lines."
        most = (1 << max(lines(self._session.machine, axis), default=5) + 1) - 1
        if not 0 <= state <= most:
            return f"{axis.name}: its lines have the states 0 to {most}, and {state} is none of them."
        return self._obstacle(axis, 1)

    def act(self, slot: int, state: int) -> str:
        """As if the lines said this state; what comes of it. A sentence where it cannot begin."""
        if why := self.act_obstacle(slot, state):
            return why
        self._slot = slot
        name = self._session.machine.names[slot]
        self.begin(self._as_if(self._session.machine.axis(slot), state), f"{name}: as if its lines said {state}.")
        return ""

    def _as_if(self, axis: Axis, state: int) -> Run:
        session = self._session
        number = number_of(state, gray=axis.choice("index.pick") == "gray")
        if session.in_force.made_of_parts:
            return (yield from self._as_if_watched(axis, state, number))
        before = yield from report_of(self, axis.slot)
        self._acting, speed = True, safe_speed(session, axis.slot)
        told = yield from run_to(self, session, axis, lambda: session.link.act_lines(axis.slot, state, speed), number)
        self._let_go()
        words = f"As if its lines said {state}, which is number {number}: {axis.name} "
        if told.state is IndexState.REACHED and told.at == number:
            title = stops_of_axis(axis)[number - 1].title(number)
            return Result(Ending.DONE, f"{words}went to stop {title}.", {"stop": number})
        if number == 0 or (before.lines == number and told.state is before.state):
            why = "number 0 is no stop" if number == 0 else "its lines say that already, and only a change counts"
            return Result(Ending.DONE, f"{words}stays: {why}.", {"stop": told.at})
        return Result(Ending.FAILED, f"{words}stays: {told.state.words}.", {"stop": told.at})

    def _as_if_watched(self, axis: Axis, state: int, number: int) -> Run:
        words = f"As if its lines said {state}, which is number {number}: {axis.name} "
        stops = stops_of_axis(axis)
        if not 1 <= number <= len(stops):
            why = "number 0 is no stop" if not number else IndexState.WRONG.words
            return Result(Ending.DONE if not number else Ending.FAILED, f"{words}stays: {why}.")
        yield from to_stop(self, self._session, axis, number)
        return Result(Ending.DONE, f"{words}went to stop {stops[number - 1].title(number)}.", {"stop": number})

    def _let_go(self) -> None:
        """Its lines say again what they say."""
        if self._acting:
            self._acting = False
            if self._session.connected:
                self._session.link.act_lines(self._slot, None)

    def _end(self, result: Result) -> None:
        self._let_go()
        super()._end(result)

    # -- each looked at once ------------------------------------------------------------------------------------------

    def prove(self, slot: int) -> str:
        """Each stop once, not in their order; the person says which one came. A sentence where it cannot begin."""
        axis = self._session.machine.axis(slot)
        if why := self._obstacle(axis, 1):
            return why
        if why := self._session.proof_obstacle(index_claim(self._session.machine, slot)):
            return why
        self._slot = slot
        self.begin(self._proving(axis), f"{axis.name} goes to each of its stops.")
        return ""

    def _proving(self, axis: Axis) -> Run:
        stops = stops_of_axis(axis)
        listed = {str(number): stop.title(number) for number, stop in enumerate(stops, start=1)}
        seen: list[tuple[int, int]] = []
        for number in _order(len(stops)):
            yield from to_stop(self, self._session, axis, number)
            said = yield from self.ask(
                choice(
                    "index.seen", f"{axis.name} was sent to a stop, {len(seen) + 1} of {len(stops)}. Look at the machine: "
                    "which one stands there?", {**listed, OTHER: "none of them, or between two"}, axis.name,
                )
            )  # fmt: skip
            if said == OTHER:
                words = f"{axis.name} was sent to stop {listed[str(number)]}, and none of them stood there."
                self._keep(axis, False, words)
                return Result.of(False, f"{words} Look at its home, its scale, and its pawl.")
            seen.append((number, int(said or 0)))
        wrong = seen_wrong(len(stops), seen)
        words = wrong if wrong else f"{len(stops)} stops, each as it was asked for"
        self._keep(axis, not wrong, words)
        shift = home_shift(axis, seen)
        edit = {Address(axis.slot, "homing.coordinate"): axis.number("homing.coordinate") + shift} if shift else {}
        return Result.of(not wrong, f"{axis.name}: {words}{'' if wrong else '.'}", edit, stops=len(stops))

    def _keep(self, axis: Axis, held: bool, words: str) -> None:
        self.keep_proof(index_claim(self._session.machine, axis.slot), held, words, Witness.EYES)


def _order(count: int) -> list[int]:
    """Each number once, far from the one before: whoever expects the next one does not look."""
    half = (count + 1) // 2
    found = [number for low in range(1, half + 1) for number in (low, low + half) if number <= count]
    return found[1:] + found[:1]
