"""Homing: turn after turn, with what each axis did written down as it goes. STOP ends it anywhere.

What was found is believed where the switch (or stop, or mark) was met where it was before; else it is in doubt until the
person has said why, and homed again.
"""

from __future__ import annotations

from collections.abc import Generator, Mapping
from dataclasses import replace

from idler.core.actions.steps import Event
from idler.core.homing import (
    Rehearsal,
    beside,
    by_index,
    by_stop,
    by_switch,
    distance_to_switch,
    moves,
    rehearse_all,
    turns,
    two_sides,
    way,
)
from idler.core.homing.outcome import CLEAR, Doubt, HomingSeen, answered, causes, doubt
from idler.core.incident import Incident
from idler.core.machine import Address
from idler.core.profile import homing as wire
from idler.core.profile.cia402 import DRIVE_TROUBLE, LAGGED, position_from
from idler.core.profile.codec import Place, place
from idler.core.profile.homing import FIRST_PLACE, INDEX_DISTANCE, RAN_ON, SIDES, TOUCH_PLACE, USUAL_EFFORT, Phase
from idler.core.proof.claims import (
    Proof,
    Witness,
    all_home_claim,
    direction_claim,
    home_claim,
    home_witness,
    input_claim,
    overtravel_claim,
    scale_claim,
    state,
)
from idler.core.table import axis_index
from idler.core.travel import overtravel_seen
from idler.core.values.parameter import Value
from idler.core.wiring import home_switch, homeless, inputs
from idler.link.events import AxisState, Read
from idler.session.session import Session
from idler.session.topic import Topic

from ..actions.performing import Performer
from ..at_rest import Stopwatch
from ..engine import Ending, Procedure, Result, Run, Steps, Trouble, Wait
from ..questions import choice, yes
from .record import Record

FURTHEST = 10.0  # mm (°) that an axis goes off its switch before the homing says that it stays made
_MEASURED = (FIRST_PLACE, TOUCH_PLACE, INDEX_DISTANCE, SIDES, USUAL_EFFORT, RAN_ON)


class HomingRun(Procedure):
    """records of the last run, by slot; `judged` when it is known what became of one. asks: whether the run waits until the
    person has said why a home was found elsewhere; else `explain` takes that whenever it comes."""

    asks = False

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.judged: Topic[int] = Topic()
        self.records: dict[int, Record] = {}
        self.said: dict[int, Rehearsal] = {}  # what was rehearsed for the last run
        self.slow: dict[int, str] = {}  # axes that approach at their touch speed, with the reason
        self.doubts: dict[int, Doubt] = {}  # homes that were found elsewhere than before
        self.answers: dict[int, str] = {}  # what the person said of them
        self.scatters: Mapping[int, float] = {}  # standard deviations of homes that were found again and again
        self._now: tuple[int, ...] = ()  # the axes whose turn it is
        self._began = Stopwatch(session)
        self._accepted = False  # whether the controller took the command
        self._unread: set[int] = set()  # axes that have ended, and the controller has not said yet what it found
        self._lets_go: dict[int, float] = {}  # of the last run in which it was seen
        self._counts_on: set[int] = set()  # axes in doubt whose counts go on since then
        self._made: frozenset[int] = frozenset()
        self._doubted_before()

    # -- beginning ------------------------------------------------------------------------------------------------

    def obstacle(self, slots: tuple[int, ...]) -> str:
        """Why these cannot be homed now, or an empty text."""
        if why := self._session.axes_obstacle:
            return why
        machine = self._session.machine
        if lost := next((why for slot in slots if (why := homeless(machine, machine.names[slot]))), ""):
            return lost
        rests = [a for slot in slots for a in home_claim(machine, slot).rests]
        moving = "The machine is moving. Wait until it stands, or press Esc." if self._session.moving else ""
        return self._session.motion_obstacle(rests) or moving

    def home(self, slots: tuple[int, ...] | None = None) -> str:
        """Homes these axes together, or all of them in their turns; a sentence where it cannot begin."""
        groups = [slots] if slots is not None else turns(self._session.machine)
        listed = [slot for group in groups for slot in group]
        if not listed:
            return "No axis has a turn of homing. Give each one that is to be homed its turn at Homing first."
        if why := self.obstacle(tuple(listed)):
            return why
        self.records, self.said = {}, {item.slot: item for item in self.rehearsed()}
        names = " ".join(self._session.machine.names[slot] for slot in listed)
        self.what, self._began = f"the homing of {names}", Stopwatch(self._session)
        ends = [self.said[slot].end for slot in listed if slot in self.said]
        first = min((self.said[slot].begin for slot in listed if slot in self.said), default=0.0)
        self.takes = max(ends, default=0.0) - (first if slots is not None else 0.0)
        self._slow_down(listed)
        self.begin(self._in_turns(groups), "Esc stops it.")
        return ""

    def clear(self, slot: int) -> str:
        """Back from the switch on which the axis stands; a sentence where it cannot."""
        session = self._session  # values of the homing that were not sent do not matter for this
        rests = [*direction_claim(session.machine, slot).rests, *scale_claim(session.machine, slot).rests]
        if why := session.axes_obstacle or session.motion_obstacle(rests):
            return why
        session.link.jog_step(slot, *self._way_off(slot))
        return ""

    def _way_off(self, slot: int) -> tuple[float, float]:
        """How far an axis goes back from the switch on which it stands, mm (°) with its sign, and how fast, mm/min (°/min)."""
        axis, made = self._session.machine.axis(slot), self._session.axes[slot].limit_made
        back = max(CLEAR, float(axis.number("homing.back_off")), float(axis.number("homing.leave")))
        ahead = way(axis) if not made else 1 if made == "high" else -1
        return -ahead * back, float(axis.number("homing.touch")) or float(axis.number("homing.approach"))

    def rehearsed(self) -> list[Rehearsal]:
        """As it would go now: what may go wrong approaches at touch speed."""
        machine, axes = self._session.machine, self._session.axes
        slow = [axis for axis in machine.axes if self.unproven(axis.slot)]
        machine = machine.with_values({
            Address(axis.slot, "homing.approach"): min(axis.number("homing.approach"), axis.number("homing.touch"))
            for axis in slow
        })  # fmt: skip
        places = {slot: axis.position if axis.homed else None for slot, axis in enumerate(axes)}
        names = range(len(machine.names))
        return rehearse_all(machine, {slot: distance_to_switch(machine, slot, places.get(slot)) for slot in names})

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
        """What may go the wrong way, or past a switch that is another one's, goes no faster than it may meet iron; the
        approach is put back as it was told at the next rest."""
        self.slow = {slot: why for slot in slots if (why := self.unproven(slot))}
        holding = self._session.holding
        if not self.slow or holding is None:
            return
        tried = {}
        for slot in self.slow:
            approach, touch = (place(Address(slot, f"homing.{key}")) for key in ("approach", "touch"))
            self._spoilt.setdefault(approach, holding.raws[approach])
            tried[approach] = min(int(holding.raws[approach]), int(holding.raws[touch]))
        self._session.link.try_values(tried)

    # -- steps ----------------------------------------------------------------------------------------------------

    def _in_turns(self, groups: list[tuple[int, ...]]) -> Run:
        for group in groups:
            if self.asks:
                yield from self._go_clear(group)
            self._start(group)
            yield self._over
            if any(self.records[slot].result is not wire.HomingResult.FOUND for slot in group):
                break
        self._now = ()
        self._judge_ended()
        self.changed.publish()
        yield lambda: not self._unread
        result = self._result(groups, (yield from self._why_elsewhere()) if self.asks else {})
        if result.end is not Ending.PROVEN:
            return result
        return (yield from self._acted(result))

    def _go_clear(self, group: tuple[int, ...]) -> Steps:
        """Axes that stand on their switches go off them first, where the person lets them; what stays made is said by the
        homing itself. Raises Trouble where iron is met on the way."""
        machine, axes = self._session.machine, self._session.axes
        for slot in group:
            axis = machine.axis(slot)
            proven = state(machine, direction_claim(machine, slot), self._session.proofs) is Proof.PROVEN
            if not (by_switch(axis) and axes[slot].home_made and proven):
                continue
            distance, speed = self._way_off(slot)
            far, reads = 0.0, axis.reads
            words = f"{axis.name} stands on its switch. May it go {reads.length(abs(distance), trim=True)} back from it first?"
            if not (yield from self.ask(yes("home.clear", words, axis.name))):
                continue
            while self._session.axes[slot].home_made and far < FURTHEST:
                far += abs(distance)
                yield self.move(slot, distance, speed, feel=True)
                if self.felt is not None:
                    raise Trouble(f"{axis.name} met something on its way off its switch. Look at the machine.")

    def _acted(self, result: Result) -> Run:
        """What is to be done once after each homing. That it could not be done takes nothing from the homes."""
        performer = Performer(self._session, self)
        try:
            yield from performer.happened(Event.HOMED)
        except Trouble as why:
            return replace(result, words=f"{result.words} {why.result.words}")
        finally:
            performer.let_go()
        return result

    def _why_elsewhere(self) -> Generator[Wait, None, dict[Address, Value]]:
        """Asks why homes were found elsewhere than before; the edits that follow from the answers."""
        edit: dict[Address, Value] = {}
        for slot, found in self.doubts.items():
            if slot in self.records and slot not in self.answers:
                name = self._session.machine.names[slot]
                said = yield from self.ask(choice("home.elsewhere", found.words, dict(found.answers), name))
                assert said is not None
                self.explain(slot, said)
                edit |= answered(self._session.machine, slot, found, said)
        return edit

    def _result(self, groups: list[tuple[int, ...]], edit: dict[Address, Value]) -> Result:
        """What became of the whole run."""
        machine = self._session.machine
        for slot, record in self.records.items():
            name = machine.names[slot]
            if record.result is not wire.HomingResult.FOUND:
                likely = causes(record.machine, slot, self.seen(slot))
                why = f" Likely: {likely[0].title}. {likely[0].words}" if likely else ""
                edit = dict(likely[0].edit) if likely and not likely[0].hides else {}
                return Result(Ending.NOT_PROVEN, f"{name}: {record.result.words}.{why}", edit=edit)
            if slot in self.doubts:
                then = " Home it again." if slot in self.answers else ""
                return Result(Ending.NOT_PROVEN, f"{name} is not homed. {self.doubts[slot].words}{then}", edit=edit)
        together = {slot for group in turns(machine) for slot in group}
        if len(together) > 1 and {slot for group in groups for slot in group} == together:
            seconds = max(record.end for record in self.records.values())
            said = max(item.end for item in self.said.values())
            words = f"all found in {seconds:.1f} s, rehearsed {said:.1f} s"
            self.keep_proof(all_home_claim(machine), True, words, Witness.SWITCH)
        names = " ".join(machine.names[slot] for slot in self.records)
        return Result(Ending.PROVEN, f"{names}: home was found.", {
            machine.names[slot]: record.seconds for slot, record in self.records.items()
        })  # fmt: skip

    def _start(self, group: tuple[int, ...]) -> None:
        self._now, self._accepted = group, False
        for slot in group:
            # a home that was taken by hand says nothing of where the switch was; one in doubt counts on
            counts = (
                self._session.axes[slot].homed and slot not in self._session.homes.by_hand
            ) or slot in self._counts_on
            self._unread.discard(slot)
            self.records[slot] = Record(slot, self._since, self._session.machine, counts)
        self._made = self._session.made_now()
        self._session.link.home(group)
        self.changed.publish()

    @property
    def _since(self) -> float:
        """s since the run began, by the controller's clock."""
        return self._began.look()

    def _over(self) -> bool:
        """Writes down what the axes do; over when each of this turn has ended."""
        made, now, axes = self._session.made_now(), self._since, self._session.axes
        for slot in self._now:
            if slot < len(axes) and self.records[slot].result is wire.HomingResult.NONE:
                self._note(self.records[slot], axes[slot], made, now)
        self.progressed.publish()
        return all(self.records[slot].result is not wire.HomingResult.NONE for slot in self._now)

    def _note(self, record: Record, axis: AxisState, made: frozenset[int], now: float) -> None:
        slot = record.slot
        record.points.append((now, axis.position, axis.home_made))
        if len(self._now) == 1 and axis.moving:
            record.others |= made - self._made
            if self._answered_elsewhere(slot, record):  # before its own switch is run over, and iron comes
                self._session.link.stop_axis(slot)
                record.result, record.end = wire.HomingResult.NOT_FOUND, now
                return
        if axis.homing_phase is not Phase.NONE:
            if not record.phases or record.phases[-1][0] is not axis.homing_phase:
                record.phases.append((axis.homing_phase, now))
        elif self._accepted:
            record.result, record.end = axis.homing_result, now
            if record.result is wire.HomingResult.NONE:  # “home is here” moves nothing
                record.result = wire.HomingResult.FOUND if axis.homed else wire.HomingResult.STOPPED
            if record.result is not wire.HomingResult.FOUND:
                self._session.link.stop_axis(slot)  # whatever the controller thinks of it, it stands
            if moves(record.machine.axis(slot)):
                self._unread.add(slot)
                self._ask_what_was_found()

    # -- what ends it ---------------------------------------------------------------------------------------------

    def _end(self, result: Result) -> None:
        if self._now:
            self._over()
            for slot in self._now:
                record = self.records[slot]
                if record.result is wire.HomingResult.NONE:
                    record.result, record.end = wire.HomingResult.STOPPED, self._since
            self._now = ()
            self._judge_ended()
        super()._end(result)

    def _held(self) -> None:
        super()._held()
        if not self._session.connected:  # what the controller counts from is not known when it is back
            self._counts_on.clear()
        elif self._unread:
            self._unread = {slot for slot in self._unread if self._session.homes.known(slot)}
            self._ask_what_was_found()

    def _incident(self, incident: Incident) -> None:
        if incident.axis in self._now and incident.code in (DRIVE_TROUBLE, LAGGED):
            self.records[incident.axis].gave_up = True
        super()._incident(incident)

    def _failed(self, what: str) -> None:
        """A home of which nobody could read where it was found is none."""
        if what == "homing":
            for slot in self._now:  # one of them may have begun
                self._session.link.stop_axis(slot)
            super()._failed(what)
        elif what == "read" and self._unread:
            for slot in self._unread:
                self._session.link.forget_home(slot)
            self._unread.clear()

    def _done(self, what: str) -> None:
        super()._done(what)
        if what == "homing" and self._now:
            self._accepted = True
        elif what in ("restart", "factory"):
            self._counts_on.clear()

    # -- judging --------------------------------------------------------------------------------------------------

    def _ask_what_was_found(self) -> None:
        self._session.link.ask_for(
            [Place(axis_index(at.index, slot), at.sub) for slot in self._unread for at in _MEASURED]
        )

    def _judge_ended(self) -> None:
        """Keeps a failure as one; a home that is where the axis stands is borne out by who put it there."""
        for slot, record in self.records.items():
            claim, axis = home_claim(self._session.machine, slot), record.machine.axis(slot)
            if record.result in (wire.HomingResult.STOPPED, wire.HomingResult.NONE) or self._session.proof_obstacle(
                claim
            ):
                continue
            if record.result is not wire.HomingResult.FOUND:
                self._session.prove(claim, False, record.result.words, home_witness(axis))
                self.judged.publish(slot)
            elif not moves(axis):
                self._session.prove(claim, True, self.took(record), Witness.EYES)

    def _judge(self, slot: int) -> None:
        """What the controller measured is here: the home is proven where it is not in doubt, and how far it ran on as well."""
        session, machine, record = self._session, self._session.machine, self.records[slot]
        if record.result is not wire.HomingResult.FOUND:
            return
        axis, claim = machine.axis(slot), home_claim(machine, slot)
        if not session.proof_obstacle(claim):
            in_doubt = self.doubts.get(slot)
            if in_doubt is not None:
                session.prove(claim, False, in_doubt.words, home_witness(axis))
            else:
                again = self.seen(slot).off
                where = "" if again is None else f", {axis.reads.length(abs(again))} from where it was last"
                session.prove(claim, True, f"{self.took(record)}{where}", home_witness(axis))
        ran_on = overtravel_claim(machine, slot)
        at_speed = slot not in self.slow  # else it says nothing of the approach speed
        if by_switch(axis) and not axis.rotary and at_speed and not session.proof_obstacle(ran_on):
            session.prove(ran_on, *overtravel_seen(machine, slot, record.found[RAN_ON]), Witness.SWITCH)
        if slot in self.doubts:
            self.judged.publish(slot)

    def took(self, record: Record) -> str:
        """How long it took, in words."""
        said = self.said.get(record.slot)
        if said is None or not said.legs:
            return "home was taken where it stands"
        near = (
            abs(record.seconds - said.seconds) < said.seconds / 2
        )  # it began where the rehearsal said, at the room's clock
        return f"found in {record.seconds:.1f} s" + (f", rehearsed {said.seconds:.1f} s" if near else "")

    def explain(self, slot: int, key: str) -> None:
        """Why a home was found elsewhere, in the person's words. Homed again where it now should be, it is one."""
        if slot in self.doubts:
            self.answers[slot] = key
            self._keep_doubts()
            self.changed.publish()

    def _take(self, event: Read) -> None:
        """What the controller found, once for each axis that has ended."""
        super()._take(event)
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
            if record.result is wire.HomingResult.FOUND:
                self._session.homes.by_hand.discard(slot)
                self._session.homes.found(slot)
                self._weigh(slot)
            self._judge(slot)
            self.changed.publish()

    def _weigh(self, slot: int) -> None:
        """A home that was found elsewhere than last time is none until the person has said why."""
        machine, play = self._session.machine, self._session.in_force.axis(slot).number("play.backlash")
        otherwise = float(abs(play - self._session.homes.play.get(slot, play)))
        found = doubt(machine, slot, self.seen(slot), self.scatters.get(slot), otherwise)
        self._session.homes.play[slot] = play
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
        self._session.homes.doubt(open_)

    def _doubted_before(self) -> None:
        """Homes that were in doubt when Idler was closed still are."""
        machine = self._session.machine
        for name, off in self._session.homes.in_doubt.items():
            if name in machine.names:
                slot = machine.names.index(name)
                found = doubt(machine, slot, HomingSeen(wire.HomingResult.FOUND, off=off))
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

    def seen(self, slot: int) -> HomingSeen:
        """What speaks for one cause of a failure or another, and what a success has measured."""
        record = self.records[slot]
        machine, found = record.machine, record.found
        axis = machine.axis(slot)
        places = [way(axis) * at for _, at, _ in record.points]
        marked = by_index(axis)
        direction = state(machine, direction_claim(machine, slot), self._session.proofs)
        return HomingSeen(
            record.result,
            went=max(places) - places[0] if places and record.phases else None,
            lets_go=self._lets_go.get(slot),
            mark=found.get(INDEX_DISTANCE) if marked else None,
            effort=found.get(USUAL_EFFORT),
            off=self._off(slot) if found and record.was_homed else None,
            sides=found.get(SIDES) if two_sides(machine, axis) else None,
            others=tuple(sorted(record.others)),
            directed=direction is Proof.PROVEN,
            refuted=direction is Proof.FAILED,
            gave_up=record.gave_up,
            touched=all(
                state(machine, input_claim(machine, item), self._session.proofs) is Proof.PROVEN
                for item in inputs(machine)
                if item.role.homes and item.duty.axis == axis.name
            ),
        )

    def _off(self, slot: int) -> float:
        """How far the switch, stop or mark was from where it had been, in mm (°)."""
        found = self.records[slot].found
        return beside(self._session.machine.axis(slot), found[TOUCH_PLACE], found[INDEX_DISTANCE])
