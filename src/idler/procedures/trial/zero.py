"""Work zeros: taken where the axes stand or at places that are told, and gone to, Z up first and down last."""

from __future__ import annotations

from idler.core.errors import Refusal
from idler.core.machine import Address
from idler.core.proof.claims import ends_claim
from idler.core.travel import ends_of
from idler.core.values.quantity import parse
from idler.core.values.units import DEG, MM
from idler.core.words import listed
from idler.session.session import Session

from ..engine import Ending, Procedure, Result, Run
from ..safe import go_to, safe_speed

HERE, DOWN = "here", "down"


def take_zero(session: Session, text: str) -> None:
    """ "here": of every linear axis where it stands; "here:XY" of these; or machine coordinates, as X=12.5,Y=40. Raises
    Refusal."""
    words = text.strip()
    if not words:
        return
    if words.partition(":")[0].casefold() == HERE:
        letters = words.partition(":")[2].upper()
        for axis in session.machine.axes:
            if axis.name in letters if letters else not axis.rotary and axis.whole("axis.output"):
                session.work.place(axis.slot, session.heard_axes[axis.slot].position)
        return
    for part in words.replace(";", ",").split(","):
        name, equals, value = part.partition("=")
        letter = name.strip().upper()
        if not equals or letter not in session.machine.names:
            raise Refusal(
                "work zero", f"“{part.strip()[:40]}”", "is no place of an axis", way_out="write it as X=12.5, or here"
            )
        axis = session.machine.axis(session.machine.names.index(letter))
        session.work.place(axis.slot, float(parse(value, DEG if axis.rotary else MM, part=f"work zero of {letter}")))


class GoToZero(Procedure):
    """Over the work zero that is shown, Z up first; down to it last, where that is wanted."""

    what = "a move to the work zero"

    def go(self, *, down: bool = False) -> str:
        """A sentence where it cannot begin."""
        session, machine = self._session, self._session.machine
        work = session.work
        slots = [
            axis.slot
            for axis in machine.axes
            if axis.whole("axis.output") and not axis.rotary and work.of(axis.name) is not None
        ]
        title = work.set.title(work.set.shown)
        if not slots:
            return f"{title} has no place yet. Take it first."
        up = (
            machine.names.index("Z")
            if "Z" in machine.names and machine[Address(None, "build.kind")] != "lathe"
            else None
        )
        moved = sorted({*slots, *([up] if up is not None else [])})
        rests = dict.fromkeys(address for slot in moved for address in ends_claim(machine, slot).rests)
        if why := session.motion_obstacle(rests):
            return why
        if why := session.homes.obstacle(moved):
            return why
        if open_ := [machine.names[slot] for slot in moved if not machine.axis(slot).flag("travel.limits_on")]:
            return f"{listed(open_)}: soft limits are off, and a work zero might lie beyond a stop."
        for slot in slots:
            at, ends = work.of(machine.names[slot]), ends_of(machine, slot)
            if at is None or not ends.low <= at <= ends.high:
                return f"{title}: {machine.names[slot]} lies beyond the soft limits."
        self.begin(self._going(slots, up, down), f"To {title}. Esc stops it.")
        return ""

    def _going(self, slots: list[int], up: int | None, down: bool) -> Run:
        session, machine = self._session, self._session.machine
        work = session.work
        if up is not None:
            yield from go_to(self, session, up, ends_of(machine, up).high, safe_speed(session, up))
        last = [up] if up is not None and down and up in slots else []
        for slot in [slot for slot in slots if slot != up] + [slot for slot in last if slot is not None]:
            at = work.of(machine.names[slot])
            if at is not None:
                axis = machine.axis(slot)
                self.say(f"{axis.name} goes to {axis.reads.length(at)}. Esc stops it.")
                speed = self.touch_speed(slot) if slot == up else safe_speed(session, slot)
                yield from go_to(self, session, slot, at, speed)
        return Result(Ending.DONE, f"It stands at {work.set.title(work.set.shown)}.")
