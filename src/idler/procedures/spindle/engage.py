"""Another speed range: the person moves the belt or the gear, and the machine is told which one is engaged."""

from __future__ import annotations

from idler.core.machine import Address
from idler.core.spindle import ranges, ranges_by_input, told_range

from ..engine import Ending, Procedure, Result, Run
from ..questions import done


class EngageRun(Procedure):
    """What is proposed at its end tells the machine."""

    what = "a change of the speed range"
    moves = False
    slot = 0  # that is to be engaged

    def engage(self, slot: int) -> str:
        """A sentence where it cannot begin, or where the range is engaged already."""
        machine = self._session.machine
        if not 0 <= slot < len(ranges(machine)):
            return f"There is no range {slot + 1}: the machine has {len(ranges(machine))}."
        if ranges_by_input(machine):
            return "Inputs say which range is engaged. Move the belt or the gear, and see that they say so."
        if slot == told_range(machine):
            return f"Of its ranges, {ranges(machine)[slot].title} is engaged already."
        self.slot = slot
        self.begin(self._engaging(slot), "")
        return ""

    def _engaging(self, slot: int) -> Run:
        found = ranges(self._session.machine)[slot]
        words = f"Let the spindle stand, and move the belt (or the gear) so that {found.title}, is engaged."
        self.say(words)
        yield from self.ask(done("spindle.belt", words))
        edit = {Address(None, "spindle.engaged"): slot + 1}
        return Result(
            Ending.DONE, f"{found.title.capitalize()} is engaged. Send it, so that the controller knows.", edit=edit
        )
