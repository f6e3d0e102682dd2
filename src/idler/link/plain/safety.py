"""Before any motion: how a drive stops when it is told to, and when Idler falls silent. All that is told is read back.

605Ah and 6007h are told and not stored: after its next start a drive is as it was found.
"""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass

from idler.core.profile import cia402 as c

from ..errors import NotAllowedNow, WriteRefused
from .part import Object, Part

COASTS = 0  # 605Ah: the drive is switched off, and runs out
STAYS_ON = 6  # 605Ah: slows down on the quick stop ramp and stays in “quick stop active”
STOP_ON_LOST = 3  # 6007h: quick stop


@dataclass(frozen=True)
class Watch:
    """What makes sure that a drive stops by itself when Idler falls silent. sub: Idler's place in its 1016h, 0: none. seen: it
    was tried, with the drive at rest. words: why it is none.
    """

    sub: int = 0
    words: str = ""
    seen: bool = False

    @property
    def leashed(self) -> bool:
        return not self.seen


SHOWN = (c.STATUS, 0), (c.POSITION, 0)  # what a drive of an axis must say of itself


def make_safe(part: Part, name: str, own_node: int, silence: float, shown: Sequence[Object] = SHOWN) -> Watch:
    """Tells a drive to stop when it does not hear own_node for so many seconds. shown: what it must say. Raises NotAllowedNow
    where it cannot even be stopped."""
    if part.read_if_there((c.QUICK_STOP_OPTION, 0), signed=True) == COASTS:
        raise NotAllowedNow(
            f"{name} is not moved: a quick stop of {part.called} switches it off and lets it run out (605Ah is 0). "
            "Set its quick stop option to 2 or 6."
        )
    if part.has((c.QUICK_STOP_OPTION, 0)):  # it stays on, so that what hangs does not sag
        with suppress(WriteRefused):
            part.put((c.QUICK_STOP_OPTION, 0), STAYS_ON, signed=True)
    if not all(part.has(where) for where in shown):
        raise NotAllowedNow(
            f"{name} is not moved: {part.called} does not say its state, or where it stands (6041h, 6064h)."
        )
    return _watched(part, own_node, silence)


def _watched(part: Part, own_node: int, silence: float) -> Watch:
    try:
        if part.read_if_there((0x6007, 0), signed=True) is None:
            return Watch(words="it has no object that says what a lost connection does (6007h)")
        part.put((0x6007, 0), STOP_ON_LOST, signed=True)
        for sub in range(1, 1 + (part.read_if_there((0x1016, 0)) or 0)):
            held = part.read((0x1016, sub))
            if not held or held >> 16 & 0x7F == own_node:
                part.put((0x1016, sub), own_node << 16 | round(1000 * silence))
                return Watch(sub)
    except WriteRefused as why:
        return Watch(words=why.sentence)
    return Watch(words="it listens to no heartbeat (1016h)")
