"""What a run left: the switches of the axes that it moved are touched again, and say whether steps were lost."""

from __future__ import annotations

from idler.core.homing import by_index
from idler.core.proof.claims import home_witness, trial_claim
from idler.core.words import listed
from idler.session.session import Session

from ..engine import Result, Run
from ..witness import WitnessRun
from .program import ProgramRun


class StepsAfter(WitnessRun):
    """shifts: by axis, how far its switch was found from where its home put it, mm (°), of the last run."""

    what = "a look whether steps were lost"

    def __init__(self, session: Session, after: ProgramRun) -> None:
        super().__init__(session)
        self._after = after
        self.shifts: dict[str, float] = {}

    def check(self) -> str:
        """Touches the switches, that of Z first, for it brings the tool up; a sentence where it cannot begin."""
        session, track = self._session, self._after.track
        if self._after.made is None or track is None:
            return "No run has come to its end since the axes were homed. Run a program or a figure first."
        if why := session.motion_obstacle():
            return why
        moved = track.slots()
        slots = [
            slot
            for slot in moved
            if not self.witness_obstacle(slot) and session.homes.known(slot) and self._tells(slot)
        ]
        if not slots:
            return "No axis that it moved has a home switch that could tell lost steps."
        names = session.machine.names
        self.shifts = {}
        slots.sort(key=lambda slot: names[slot] != "Z")
        untried = [names[slot] for slot in moved if slot not in slots]
        self.begin(self._checking(slots, untried), "The switches are touched.")
        return ""

    @property
    def _ran(self) -> str:
        """What was run, and how fast: steps that were kept at a low rate say nothing of a higher one."""
        feed = self._after.feed_words
        return f"{self._after.ran}, {feed}" if feed else self._after.ran

    def _tells(self, slot: int) -> bool:
        """Whether the place where its switch is met says where the axis is: not where an index mark has the say, or it turns
        without an end."""
        axis = self._session.machine.axis(slot)
        return not by_index(axis) and not axis.wraps

    def _checking(self, slots: list[int], untried: list[str]) -> Run:
        session = self._session
        machine, held = session.machine, True
        for slot in slots:
            axis = machine.axis(slot)
            self.say(f"The switch of {axis.name} is touched. Esc stops it.")
            yield from self.witness(slot)
            self.shifts[axis.name] = shift = self.off_home(slot)
            kept = not self.lost(slot, shift)
            told = f"its switch is {axis.reads.length(shift, 3, sign=True)} from where it was before"
            if not axis.rotary:
                self.keep_proof(trial_claim(machine, slot), kept, f"{self._ran}; {told}", home_witness(axis))
            held = held and kept
        figures = ", ".join(
            f"{name} {machine.axis(machine.names.index(name)).reads.length(shift, 3, sign=True)}"
            for name, shift in self.shifts.items()
        )
        words = f"{'No steps were lost' if held else 'Steps were lost'}: {figures}."
        if untried:
            words += f" {listed(untried)} cannot tell it."
        return Result.of(held, words, None, **self.shifts)
