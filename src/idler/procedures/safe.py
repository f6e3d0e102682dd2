"""How fast an axis may go while it is measured, and how it gets to a place."""

from __future__ import annotations

from collections.abc import Generator

from idler.core.mechanics.chain import Chain
from idler.core.proof.claims import Proof, ends_claim, pace_claim, state
from idler.core.wiring import home_switch
from idler.session.session import Session

from .at_rest import HEARD_BY
from .engine import TOUCH_SPEED, Procedure, Trouble, Wait

NEAR = 2  # counts beside the place where an axis was sent


def is_held_back(session: Session, slot: int) -> bool:
    """Whether an axis is not moved at its top speed before its pace and its ends are proven, which they can be: by the switch
    that tells lost steps."""
    machine = session.machine
    return home_switch(machine, slot) is not None and safe_speed(session, slot) < float(
        session.in_force.axis(slot).number("pace.top_speed")
    )


def safe_speed(session: Session, slot: int) -> float:
    """Top speed where the pace is proven and the ends hold, else that at which iron may be met, in mm/min (°/min): what is
    measured must be the machine, and not what a pace loses."""
    axis = session.in_force.axis(slot)
    top = float(axis.number("pace.top_speed"))
    claims = (pace_claim(session.machine, slot), ends_claim(session.machine, slot))
    proven = [state(session.machine, claim, session.proofs) is Proof.PROVEN for claim in claims]
    if proven[0] and (axis.rotary or (proven[1] and session.homes.known(slot))):
        return top
    slow = axis.number("homing.approach") if axis.rotary else axis.number("homing.touch")  # what turns meets no iron
    return min(top, float(slow) or TOUCH_SPEED)


def count_of(session: Session, slot: int) -> float:
    """mm or ° of one count."""
    return 1 / max(1.0, float(Chain.of(session.in_force.axis(slot)).counts_per_unit))


def go_to(
    run: Procedure, session: Session, slot: int, place: float, speed: float | None = None, *, by: float | None = None
) -> Generator[Wait, None, None]:
    """To a place in machine coordinates, at mm/min (°/min) or as fast as is safe. Raises Trouble where it ends elsewhere.

    From which side it comes is up to the caller, so an endless axis goes no shorter way. by: mm (°), so far in place of what is
    left to the place, which it must come to.
    """
    axis, near = session.machine.axis(slot), NEAR * count_of(session, slot)

    def off() -> float:
        way = place - session.axes[slot].position
        return (way + 180) % 360 - 180 if axis.wraps else way

    way = place - session.axes[slot].position if by is None else by
    if abs(off() if by is None else by) > near / 4:
        yield run.move(slot, way, speed or safe_speed(session, slot))
        late = session.loop.now() + HEARD_BY  # where it stands may be heard later than that it stands
        yield lambda: abs(off()) <= near or (session.loop.now() > late and not session.axes[slot].moving)
    if abs(off()) > near:
        stands, reads = session.axes[slot].position, axis.reads
        raise Trouble(f"{axis.name} was sent to {reads.length(place)} and stands at {reads.length(stands)}.")
