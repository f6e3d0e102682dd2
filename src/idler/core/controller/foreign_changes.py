"""What somebody else has changed in a controller since it was last heard."""

from __future__ import annotations

from collections.abc import Collection, Mapping

from ..errors import Refusal
from ..machine import Machine
from ..machine.changes import axes_changed, differences
from ..profile.codec import LETTERS, Place, Raw, machine_from
from .standing import ControllerImage


def changed_places(heard: Mapping[Place, Raw], holding: ControllerImage, own: Collection[Place]) -> list[Place]:
    """Places that hold something else than was heard. own: those that Idler itself may have changed since."""
    return [where for where, raw in holding.raws.items() if where not in own and heard.get(where) != raw]


def machine_heard(heard: Mapping[Place, Raw], holding: ControllerImage) -> Machine | None:
    """The machine that was heard, with the axes of then; None where too little is known of it."""
    shape = holding.shape._replace(names=tuple(str(heard.get(LETTERS, "".join(holding.shape.names)))))
    try:
        return machine_from({**holding.raws, **heard}, shape)
    except (Refusal, KeyError):
        return None


def changes_in_words(before: Machine, now: Machine, most: int = 3) -> str:
    """ "X pitch of the screw 5 mm → 8 mm; … and 2 more", or an empty text where no value differs."""
    listed = [line for line in (axes_changed(before, now).rstrip("."),) if line]
    listed += [str(change) for change in differences(before, now)]
    return "; ".join(listed[:most]) + (f" and {len(listed) - most} more" if len(listed) > most else "")
