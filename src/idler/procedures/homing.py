"""Running the homing: turn after turn, with what each axis did written down as it goes. STOP ends it anywhere."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

from idler.core.homing import by_index, by_stop, met_at, moves, turns, two_sides, way
from idler.core.homing_outcome import Doubt, Seen, doubt
from idler.core.incident import Incident
from idler.core.machine import Address, Machine
from idler.core.proofs import Proof, direction_claim, home_claim, input_claim, state
from idler.core.table import axis_index
from idler.core.wire.cia402 import DRIVE_TROUBLE, LAGGED, position_from
from idler.core.wire.codec import Place, Raw, place
from idler.core.wire.homing import FIRST_PLACE, INDEX_DISTANCE, RAN_ON, SIDES, TOUCH_PLACE, USUAL_EFFORT, Phase, Result
from idler.core.wiring import home_switch, inputs
from idler.link.events import Read
from idler.session.session import Session
from idler.session.topic import Topic

LOOK = 0.02  # s
_MEASURED = (FIRST_PLACE, TOUCH_PLACE, INDEX_DISTANCE, SIDES, USUAL_EFFORT, RAN_ON)


@dataclass
class Record:
    """What one axis did. begin: seconds after the run began; machine: as it was told then; gave_up: its drive did.

    points    seconds, coordinate, and whether its switch was made
    phases    each phase with the second at which it began
    others    inputs of other things that were made while it moved
    found     what the controller measured, by place: mm (°), or a share of the torque; empty until it was read
    """

    slot: int
    begin: float
    machine: Machine
    was_homed: bool = False
    gave_up: bool = False
    points: list[tuple[float, float, bool]] = field(default_factory=list)
    phases: list[tuple[Phase, float]] = field(default_factory=list)
    end: float = 0.0
    result: Result = Result.NONE
    others: set[int] = field(default_factory=set)
    found: dict[Place, float] = field(default_factory=dict)

    @property
    def seconds(self) -> float:
        return self.end - self.begin

    def during(self, *phases: Phase) -> list[tuple[float, float, bool]]:
        """The points of these phases."""
        if not self.phases:
            return []
        ends = [begin for _, begin in self.phases[1:]] + [math.inf]
        spans = [(begin, end) for (phase, begin), end in zip(self.phases, ends, strict=True) if phase in phases]
        return [point for point in self.points if any(begin <= point[0] < end for begin, end in spans)]

    def places(self, met_at: float) -> list[float]:
        """Coordinates of the run as they were to become: what comes before home was found is shifted by what was found."""
        if self.was_homed and self.result is not Result.FOUND:
            return [place for _, place, _ in self.points]
        known = self.found.get(TOUCH_PLACE if self.result is Result.FOUND else FIRST_PLACE)
        if known is None or not self.during(Phase.HALT, Phase.BACK_OFF):
            return []
        leaves = next((begin for phase, begin in self.phases if phase is Phase.LEAVE), math.inf)
        return [place + (met_at - known if time < leaves else 0.0) for time, place, _ in self.points]

    def let_go(self, towards: int) -> float | None:
        """How far behind the place where it made the switch was seen to let go on the way back; None where it was not."""
        first = self.found.get(FIRST_PLACE)
        back = self.during(Phase.BACK_OFF)
        clear = [towards * place for _, place, made in back if not made]
        return towards * first - max(clear) if first is not None and clear and back[0][2] else None


class HomingRun:
    """`changed` at every step; `ended` when the last turn is over, or one failed; `measured` when `found` of one is there."""

    def __init__(self, session: Session) -> None:
        self.changed: Topic[()] = Topic()
        self.ended: Topic[()] = Topic()
        self.measured: Topic[int] = Topic()
        self._session = session
        self.records: dict[int, Record] = {}
        self._waiting: list[tuple[int, ...]] = []
        self._now: tuple[int, ...] = ()
        self._began = 0.0
        self._taken = False  # whether the controller took the command
        self._unread: set[int] = (
            set()
        )  # axes that have ended, and of which the controller has not said yet what it found
        self._lets_go: dict[int, float] = {}  # of the last run in which it was seen
        self._slowed: dict[Place, Raw] = {}  # values of the approach that are to be put back
        self.slow: dict[int, str] = {}  # axes that approach at their touch speed, with the reason
        self.doubts: dict[int, Doubt] = {}  # homes that were found elsewhere than before
        self._counts_on: set[int] = set()  # axes in doubt whose counts go on since then
        self.answers: dict[int, str] = {}  # what the person said of them
        self._doubted_before()
        self._made: set[int] = set()
        self._timer = session.loop.timer(LOOK, self._look)
        session.halted.subscribe(self._halt)
        session.stopped.subscribe(self._stopped)
        session.held.subscribe(self._held)
        self._later = session.loop.timer(10 * LOOK, self._speed_up, once=True)
        self.scatters: Mapping[int, float] = {}  # standard deviations of homes that were found again and again
        session.done.subscribe(self._done)
        session.read.subscribe(self._measured)
        session.failed.subscribe(self._failed)

    def _held(self) -> None:
        if (
            not self._session.connected
        ):  # the link was lost; what the controller counts from is not known when it is back
            self._counts_on.clear()
            self._slowed.clear()
            self._halt()
        elif self._unread:
            self._unread = {slot for slot in self._unread if self._session.homed(slot)}
            self._ask_what_was_found()

    def _stopped(self, incident: Incident) -> None:
        if incident.axis in self._now and incident.code in (DRIVE_TROUBLE, LAGGED):
            self.records[incident.axis].gave_up = True
        self._halt()

    def _failed(self, what: str) -> None:
        """A home of which nobody could read where it was found is none."""
        if what == "homing":
            for slot in self._now:  # one of them may have begun
                self._session.link.stop_axis(slot)
            self._halt()
        elif what == "read" and self._unread:
            for slot in self._unread:
                self._session.link.forget_home(slot)
            self._unread.clear()

    def _ask_what_was_found(self) -> None:
        self._session.link.ask_for(
            [Place(axis_index(at.index, slot), at.sub) for slot in self._unread for at in _MEASURED]
        )

    @property
    def running(self) -> bool:
        return bool(self._now)

    def obstacle(self, slots: tuple[int, ...]) -> str:
        """Why these cannot be homed now, or an empty text."""
        if why := self._session.axes_obstacle:
            return why
        rests = [a for slot in slots for a in home_claim(self._session.machine, slot).rests]
        moving = "The machine is moving. Wait until it stands, or press Esc." if self._session.moving else ""
        return self._session.motion_obstacle(rests) or moving

    def home(self, slots: tuple[int, ...] | None = None) -> str:
        """Homes these axes together, or all of them in their turns; a sentence where it cannot begin."""
        groups = [slots] if slots is not None else turns(self._session.machine)
        if why := self.obstacle(tuple(slot for group in groups for slot in group)):
            return why
        self.records = {}
        self._waiting, self._began = list(groups), self._session.loop.now()
        names = " ".join(self._session.machine.names[slot] for group in groups for slot in group)
        self._session.floor.take(self, f"the homing of {names}")
        self._slow_down([slot for group in groups for slot in group])
        self._next()
        return ""

    def unproven(self, slot: int) -> str:
        """What is not proven yet and could send the approach into iron, or an empty text."""
        machine, kept = self._session.machine, self._session.proofs
        if by_stop(machine.axis(slot)) or not moves(machine.axis(slot)):
            return ""
        if state(machine, home_claim(machine, slot), kept) is Proof.PROVEN:
            return ""
        name, switch = machine.names[slot], home_switch(machine, slot)
        if state(machine, direction_claim(machine, slot), kept) is not Proof.PROVEN:
            return f"the direction of {name} is not proven"
        wired = inputs(machine)[switch] if switch is not None else None
        if wired is not None and state(machine, input_claim(machine, wired), kept) is not Proof.PROVEN:
            return f"its switch at input {wired.name} was not touched yet"
        return ""

    def _slow_down(self, slots: list[int]) -> None:
        """What may go the wrong way, or past a switch that is another one's, goes no faster than it may meet iron."""
        self.slow = {slot: why for slot in slots if (why := self.unproven(slot))}
        holding = self._session.holding
        if not self.slow or holding is None:
            return
        tried: dict[Place, Raw] = {}
        for slot in self.slow:
            approach, touch = (place(Address(slot, f"homing.{key}")) for key in ("approach", "touch"))
            self._slowed[approach] = holding.raws[approach]
            tried[approach] = min(int(holding.raws[approach]), int(holding.raws[touch]))
        self._session.link.try_values(tried)

    def _speed_up(self) -> None:
        """Puts the approach back as it was told, at rest."""
        if not self._slowed or self.running:
            return
        if not self._session.connected:
            self._slowed.clear()  # it is read anew when it is back
        elif not self._session.moving:
            values, self._slowed = self._slowed, {}
            self._session.link.try_values(values)
        else:
            self._later.start()

    def answer(self, slot: int, key: str) -> None:
        """Why a home was found elsewhere, in the person's words. Homed again where it now should be, it is one."""
        if slot in self.doubts:
            self.answers[slot] = key
            self._keep_doubts()
            self.changed.publish()

    def _next(self) -> None:
        if not self._waiting:
            self._finish()
            return
        self._now, self._taken = self._waiting.pop(0), False
        for slot in self._now:
            # a home that was taken by hand says nothing of where the switch was; one in doubt counts on
            counts = (
                self._session.axes[slot].homed and slot not in self._session.homes_by_hand
            ) or slot in self._counts_on
            self._unread.discard(slot)
            self.records[slot] = Record(slot, self._session.loop.now() - self._began, self._session.machine, counts)
        self._made = self._made_now()
        self._session.link.home(self._now)
        self._timer.start()
        self.changed.publish()

    def _done(self, what: str) -> None:
        if what == "homing" and self._now:
            self._taken = True
        elif what in ("restart", "factory"):
            self._counts_on.clear()

    def _measured(self, event: Read) -> None:
        """What the controller found, once for each axis that has ended; `measured` follows."""
        for slot, record in self.records.items():
            raws = {at: event.raws.get(Place(axis_index(at.index, slot), at.sub)) for at in _MEASURED}
            if slot not in self._unread or any(raw is None for raw in raws.values()):
                continue
            self._unread.discard(slot)
            record.found = {
                at: int(raw) / 1000 if at == USUAL_EFFORT else position_from(int(raw))
                for at, raw in raws.items()
                if raw is not None
            }
            let_go = record.let_go(way(self._session.machine.axis(slot)))
            if let_go is not None:
                self._lets_go[slot] = let_go
            if record.result is Result.FOUND:
                self._session.homes_by_hand.discard(slot)
                self._weigh(slot)
            self.measured.publish(slot)
            self.changed.publish()

    def _weigh(self, slot: int) -> None:
        """A home that was found elsewhere than last time is none until the person has said why."""
        machine = self._session.machine
        found = doubt(machine, slot, self.seen(slot), self.scatters.get(slot))
        before, said = self.doubts.pop(slot, None), self.answers.pop(slot, "")
        self._counts_on.discard(slot)
        if found is None and before is not None and not said:
            found = before  # found twice at the new place, and nobody has said why it is another one
        if found is not None:
            self.doubts[slot] = found
            self._counts_on.add(slot)
            self._session.link.forget_home(slot)
            self._session.tell("warn", f"{machine.names[slot]} is not homed. {found.words}")

        if before is not None or found is not None:
            self._keep_doubts()

    def _keep_doubts(self) -> None:
        """Those of which nobody has said why: an answer given twice would move a coordinate twice."""
        names = self._session.machine.names
        open_ = {names[slot]: found.off for slot, found in self.doubts.items() if slot not in self.answers}
        self._session.doubt_homes(open_)

    def _doubted_before(self) -> None:
        """Homes that were in doubt when Idler was closed still are."""
        machine = self._session.machine
        for name, off in self._session.homes_in_doubt.items():
            if name in machine.names:
                slot = machine.names.index(name)
                found = doubt(machine, slot, Seen(Result.FOUND, off=off))
                if found is not None:
                    self.doubts[slot] = found

    def _answered_elsewhere(self, slot: int, record: Record) -> bool:
        """Whether a switch that is told to be another axis's was made while only this one moves to find its own."""
        machine, own = self._session.machine, home_switch(self._session.machine, slot)
        if own in record.others or not record.phases or record.phases[-1][0] is not Phase.APPROACH:
            return False
        others = [inputs(machine)[each] for each in record.others]
        return any(
            (item.role.homes or item.role.limits) and item.duty.axis not in ("", machine.names[slot]) for item in others
        )

    def _made_now(self) -> set[int]:
        """Inputs that are not at their rest."""
        panel = self._session.link.panel
        return {item.slot for item in inputs(self._session.machine) if item.made(panel.is_closed(item.slot))}

    def seen(self, slot: int) -> Seen:
        """What speaks for one cause of a failure or another, and what a success has measured."""
        record = self.records[slot]
        machine, found = record.machine, record.found
        axis = machine.axis(slot)
        places = [way(axis) * at for _, at, _ in record.points]
        marked = by_index(axis)
        return Seen(
            record.result,
            went=max(places) - places[0] if places and record.phases else None,
            lets_go=self._lets_go.get(slot),
            mark=found.get(INDEX_DISTANCE) if marked else None,
            effort=found.get(USUAL_EFFORT),
            off=self._off(slot) if found and record.was_homed else None,
            sides=found.get(SIDES) if two_sides(machine, axis) else None,
            others=tuple(sorted(record.others)),
            directed=state(machine, direction_claim(machine, slot), self._session.proofs) is Proof.PROVEN,
            gave_up=record.gave_up,
            touched=all(
                state(machine, input_claim(machine, item), self._session.proofs) is Proof.PROVEN
                for item in inputs(machine)
                if item.role.homes and item.duty.axis == axis.name
            ),
        )

    def _off(self, slot: int) -> float:
        """How far the switch, stop or mark was from where it had been, in mm (°); on an endless axis the shorter way."""
        axis, found = self._session.machine.axis(slot), self.records[slot].found
        home = float(axis.number("homing.coordinate"))
        off = found[TOUCH_PLACE] - (home + way(axis) * found[INDEX_DISTANCE] if by_index(axis) else met_at(axis))
        return (off + 180) % 360 - 180 if axis.wraps or (axis.rotary and by_index(axis)) else off

    def _halt(self) -> None:
        if self._now:
            self._look()
            for slot in self._now:
                record = self.records[slot]
                if record.result is Result.NONE:
                    record.result, record.end = Result.STOPPED, self._session.loop.now() - self._began
            self._waiting = []
            self._finish()

    def _finish(self) -> None:
        self._now = ()
        self._timer.stop()
        self._session.floor.leave(self)
        self._speed_up()
        self.changed.publish()
        self.ended.publish()

    def _look(self) -> None:
        made = self._made_now()
        now, axes = self._session.loop.now() - self._began, self._session.axes
        for slot in self._now:
            record = self.records[slot]
            if slot >= len(axes) or record.result is not Result.NONE:
                continue
            axis = axes[slot]
            record.points.append((now, axis.position, axis.home_made))
            if len(self._now) == 1 and axis.moving:
                record.others |= made - self._made
                if self._answered_elsewhere(slot, record):  # before its own switch is run over, and iron comes
                    self._session.link.stop_axis(slot)
                    record.result, record.end = Result.NOT_FOUND, now
                    continue
            if axis.homing_phase is not Phase.NONE:
                if not record.phases or record.phases[-1][0] is not axis.homing_phase:
                    record.phases.append((axis.homing_phase, now))
            elif self._taken:
                record.result, record.end = axis.homing_result, now
                if record.result is Result.NONE:  # “home is here” moves nothing
                    record.result = Result.FOUND if axis.homed else Result.STOPPED
                if record.result is not Result.FOUND:
                    self._session.link.stop_axis(slot)  # whatever the controller thinks of it, it stands
                if moves(record.machine.axis(slot)):
                    self._unread.add(slot)
                    self._ask_what_was_found()
        results = [self.records[slot].result for slot in self._now]
        if results and all(result is not Result.NONE for result in results):
            if any(result is not Result.FOUND for result in results):
                self._waiting = []
            self._next()
        else:
            self.changed.publish()
