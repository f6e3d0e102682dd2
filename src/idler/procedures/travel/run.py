"""Moves of the Travel station: to both ends and beyond, round the envelope, to the parking place."""

from __future__ import annotations

from collections.abc import Generator

from idler.core.homing import way
from idler.core.incident import Incident
from idler.core.machine import Address
from idler.core.mechanics.reliable import gentler, shift_allowed
from idler.core.profile.cia402 import DRIVE_TROUBLE, LAGGED
from idler.core.proof.claims import ends_claim, home_witness
from idler.core.travel import beyond, ends_of, open_linear, parking_order, proposed_ends
from idler.core.travel.ends import (
    EndsVerdict,
    Reached,
    at_fault,
    counts_apart,
    judge_end,
    judge_ends,
    lost_words,
    slow_from,
)
from idler.core.values.parameter import Value
from idler.session.session import Session
from idler.session.topic import Topic

from ..engine import Ending, Result, Run, Steps, Trouble, Wait
from ..witness import WitnessRun

SLOW = 600.0  # mm/min or °/min
CLEAR = 5.0  # mm (°) from the ends while top speed is tried


class TravelRun(WitnessRun):
    """trail: coordinates of all axes, as often as a run round the envelope was looked at."""

    what = "a run of the Travel station"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.proven: Topic[int, EndsVerdict] = Topic()  # by slot
        self._driving: tuple[int, str, float] | None = None  # slot, end and speed of the drive that goes on
        self.trail: list[dict[str, float]] = []

    def obstacle(self, slots: list[int]) -> str:
        """Why these axes cannot be driven to their ends now, or an empty text."""
        if why := self._lost_obstacle(slots):
            return why
        machine = self._session.machine
        open_ends = [machine.names[slot] for slot in slots if not machine.axis(slot).flag("travel.limits_on")]
        return f"The soft limits of {', '.join(open_ends)} are off." if open_ends else ""

    def _lost_obstacle(self, slots: list[int]) -> str:
        """Why these cannot go to a coordinate now, or an empty text."""
        machine = self._session.machine
        rests = [a for slot in slots for a in ends_claim(machine, slot).rests]
        if why := self._session.motion_obstacle(rests):
            return why
        return self._session.homes.obstacle(slots)

    def prove(self, slot: int) -> str:
        """Drives to both ends and asks for more, slowly and at top speed; a sentence where it cannot begin."""
        axis, edit = self._session.machine.axis(slot), proposed_ends(self._session.machine, slot)
        if not axis.flag("travel.limits_on") and edit and not self._lost_obstacle([slot]):
            self.begin(self._proposing(slot, edit), "")
            return ""
        if why := self.obstacle([slot]) or self.witness_obstacle(slot):
            return why
        self.begin(self._proving(slot), "First slowly to both ends.")
        return ""

    def go_round(self) -> str:
        """Slowly round the envelope of X and Y, or X and Z; Z first takes the tool to its high end where it is neither."""
        names = self._session.machine.names
        slots = [names.index(name) for name in ("X", "Y" if "Y" in names else "Z") if name in names]
        if len(slots) < 2:
            return "The envelope needs X and Y, or X and Z."
        clear = names.index("Z") if "Z" in names and "Y" in names else None
        if why := self.obstacle([*slots, *([clear] if clear is not None else [])]):
            return why
        self.trail = []
        self.begin(self._round(slots, clear), "Slowly round the envelope. Esc stops it.")
        return ""

    def park(self) -> str:
        order = parking_order(self._session.machine)
        if not order:
            return "No axis has a parking place. Give one its place first."
        slots = [slot for group in order for slot in group]
        if why := self._lost_obstacle(slots):
            return why
        open_ends = [slot for slot in slots if slot in open_linear(self._session.machine)]
        if open_ends:
            names = ", ".join(self._session.machine.names[slot] for slot in open_ends)
            return f"The soft limits of {names} are off: a parking place might lie beyond a stop."
        self.begin(self._parking(order), "To the parking place. Esc stops it.")
        return ""

    # -- steps ----------------------------------------------------------------------------------------------------

    def _proposing(self, slot: int, edit: dict[Address, Value]) -> Run:
        """Nothing is driven to ends that do not hold."""
        axis = self._session.machine.with_values(edit).axis(slot)
        ends = axis.reads.range(axis.number("travel.low"), axis.number("travel.high"), 3)
        yield lambda: True
        return Result.of(
            False, f"The soft limits of {axis.name} are off. By what is told of its stops they would hold at {ends}. Take "
            "them, send them, and prove them.", edit,
        )  # fmt: skip

    def _proving(self, slot: int) -> Run:
        """To each end slowly first, once, then at top speed; after each the home switch is touched again."""
        axis, seen = self._session.machine.axis(slot), list[Reached]()
        refuses = axis.choice("travel.beyond") == "refuse"
        top = float(axis.number("pace.top_speed"))
        far, near = ("low", "high") if way(axis) > 0 else ("high", "low")
        self.say(f"{axis.name} touches its home first. Esc stops it.")
        yield from self.witness(slot)
        if self.lost(slot, off := self.off_home(slot)):
            raise Trouble(
                f"{axis.name} is not where it counts: its home was found {axis.reads.length(abs(off), 3)} from its "
                "place. Home it, then prove its ends. Where that is so again, steps are lost although it goes gently: "
                "take a gentler approach and stop.",
                edit=gentler(axis, float(axis.number("homing.approach"))),
            )
        for speed in dict.fromkeys((self.touch_speed(slot), top)):
            if seen and speed == top:
                yield from self._tried_inside(slot, top)
            for end in (far, near):
                self.say(
                    f"{axis.name} goes to its {end} end at {axis.reads.speed(speed, 0)}, and asks for more. Esc stops it."
                )
                reached = yield from self._drive_to(slot, end, speed, refuses)
                if self._unexplained(slot, reached):
                    self.say(f"{axis.name} lost steps on the way: once more, slowly all of it. Esc stops it.")
                    yield self.find_home(slot)  # what was lost would else keep it that far from the same end
                    yield from self.witness(slot, crawls=True)
                    again = yield from self._drive_to(slot, end, speed, refuses, crawls=True)
                    reached = at_fault(self._session.machine, slot, reached, again, self.approach_speed(slot))
                seen.append(reached)
                verdict = judge_end(self._session.machine, slot, reached)
                if not verdict.held:
                    self.lost(slot, reached.shift or 0.0)
                    return self._judged(slot, verdict)
        verdict = judge_ends(self._session.machine, slot, seen, 0.0 if refuses else beyond(axis))
        return self._judged(slot, verdict)

    def _judged(self, slot: int, verdict: EndsVerdict) -> Result:
        """Keeps the verdict as a proof, and tells it."""
        axis = self._session.machine.axis(slot)
        self.keep_proof(ends_claim(self._session.machine, slot), verdict.held, verdict.words, home_witness(axis))
        self.proven.publish(slot, verdict)
        held = f"Both ends of {axis.name} held" if verdict.held else axis.name
        return Result.of(verdict.held, f"{held}: {verdict.words}.", verdict.edit)

    def _incident(self, incident: Incident) -> None:
        """A drive that watches its motor gives up where it meets iron: that is seen as well as felt."""
        driving, self._driving = self._driving, None
        felt = driving is not None and incident.axis == driving[0] and incident.code in (DRIVE_TROUBLE, LAGGED)
        if driving is None or not felt or not self.running:
            super()._incident(incident)
            return
        slot, end, speed = driving
        axis = self._session.machine.axis(slot)
        stood = self._session.link.axes[slot].position
        reached = Reached(end, float(axis.number(f"travel.{end}")), stood, speed, iron=stood)
        self._end(self._judged(slot, judge_end(self._session.machine, slot, reached)))

    def _unexplained(self, slot: int, seen: Reached) -> bool:
        """Whether steps were lost on a slow drive where no iron was felt: its quicker part may have lost them."""
        lost = seen.shift is not None and abs(seen.shift) > shift_allowed(self._session.machine, slot)
        return lost and seen.iron is None and not seen.crawled and seen.speed <= self.touch_speed(slot)

    def _drive_to(
        self, slot: int, end: str, speed: float, refuses: bool, *, crawls: bool = False
    ) -> Generator[Wait, None, Reached]:
        """To one end and, from there, further; then back to the switch, which tells what is true of it."""
        axis = self._session.machine.axis(slot)
        told, touch = float(axis.number(f"travel.{end}")), self.touch_speed(slot)
        ahead, before = (-1.0 if end == "low" else 1.0), self.place
        slowly, iron, refused = speed <= touch, None, None
        self.feel_anew()
        self._driving = (slot, end, speed) if slowly else None
        if crawls:  # softly, too: what is lost then, iron took
            yield self.try_values(self.soft(slot))
        elif slowly and not self.known(slot) and self.scaled(slot):
            begins = slow_from(axis, end)
            if (begins - self._session.axes[slot].position) * ahead > 0:
                yield from self.to(slot, begins, self.approach_speed(slot))
        elif slowly and self.known(slot):  # it was there before: only the last of the way
            begins = told - ahead * min(5.0, abs(float(axis.number("travel.high") - axis.number("travel.low"))) / 4)
            if (begins - self._session.axes[slot].position) * ahead > 0:
                yield from self.to(slot, begins, self.approach_speed(slot))
        yield from self.to(slot, told + (0.0 if refuses else ahead * beyond(axis)), speed, feel=slowly)
        if refuses and self.felt is None:
            stood = self._session.axes[slot].position
            yield self.move(slot, ahead * beyond(axis), touch)
            refused = abs(self._session.axes[slot].position - stood) < 2 * float(
                counts_apart(self._session.machine, slot)
            )
        felt, state = self.felt, self._session.axes[slot]
        stood, switched = state.position, state.home_made or bool(state.limit_made)
        self._driving = None
        if felt is not None:  # clear of the iron first: an axis that feels its home would feel it there
            yield self.move(slot, -ahead * self.back(slot), touch)
        yield from self.witness(slot, crawls=crawls)
        shift = self.shift_since(slot, before)
        if felt is not None:
            iron = stood - ahead * abs(shift)
        return Reached(end, told, stood, speed, shift, iron, switched, refused, crawls)

    def _tried_inside(self, slot: int, top: float) -> Steps:
        """Before top speed goes to the very ends it is tried clear of them: what it loses there meets no iron."""
        axis = self._session.machine.axis(slot)
        low, high = (float(axis.number(f"travel.{end}")) for end in ("low", "high"))
        clear = min((high - low) / 4, CLEAR + (top / 60) ** 2 / float(axis.number("pace.deceleration")))
        self.say(f"{axis.name} tries its top speed clear of its ends. Esc stops it.")
        far, near = (low + clear, high - clear) if way(axis) > 0 else (high - clear, low + clear)
        for place, speed in ((near, self.approach_speed(slot)), (far, top)):
            yield from self.to(slot, place, speed)
        yield from self._compared(slot, top)
        for place, speed in ((far, self.approach_speed(slot)), (near, top)):
            yield from self.to(slot, place, speed)
        yield from self._compared(slot, top)

    def _compared(self, slot: int, speed: float) -> Steps:
        """Touches the switch and ends the run where steps were lost."""
        before = self.place
        yield from self.witness(slot)
        shift = self.shift_since(slot, before)
        if self.lost(slot, shift):
            machine = self._session.machine
            verdict = EndsVerdict(False, lost_words(machine, slot, shift, speed), gentler(machine.axis(slot), speed))
            raise Trouble(self._judged(slot, verdict).words, Ending.NOT_PROVEN, verdict.edit)

    def _going(self, slot: int) -> float:
        """Top speed between ends that are proven, else the speed at which iron may be met; an endless axis has no ends."""
        axis = self._session.machine.axis(slot)
        free = self.known(slot) or axis.rotary
        return float(axis.number("pace.top_speed")) if free else self.touch_speed(slot)

    def _round(self, slots: list[int], clear: int | None) -> Run:
        machine = self._session.machine
        if clear is not None:
            yield from self._noted(self.to(clear, ends_of(machine, clear).high, min(SLOW, self._going(clear))))
        first, second = slots
        a, b = ends_of(machine, first), ends_of(machine, second)
        for slot, place in (
            (first, a.low), (second, b.low), (first, a.high), (second, b.high), (first, a.low), (second, b.low),
        ):  # fmt: skip
            yield from self._noted(self.to(slot, place, min(4 * SLOW, self._going(slot))))
        return Result(Ending.DONE, "Round the envelope, and nothing was met.")

    def _noted(self, steps: Steps) -> Steps:
        """The same steps, with what the axes do written down."""
        for wait in steps:

            def ready(wait: Wait = wait) -> bool:
                places = zip(self._session.machine.names, self._session.axes, strict=True)
                self.trail.append({name: axis.position for name, axis in places})
                self.progressed.publish()
                return wait()

            yield ready

    def _parking(self, order: list[tuple[int, ...]]) -> Run:
        machine = self._session.machine
        for group in order:
            for slot in group:
                axis = machine.axis(slot)
                self.say(f"{axis.name} goes to {axis.reads.length(axis.number('travel.park'), trim=True)}.")
                yield from self.to(slot, float(axis.number("travel.park")), self._going(slot))
        return Result(Ending.DONE, "Parked.")
