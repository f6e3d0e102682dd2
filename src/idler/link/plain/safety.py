"""Before any motion: how a drive stops when it is told to, and when Idler falls silent. All that is told is read back.

605Ah and 6007h are told and not stored: after its next start a drive is as it was found.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, replace

from idler.core.profile import cia402 as c

from ..errors import NotAllowedNow, WriteRefused
from .part import Object, Part

COASTS = 0  # 605Ah: the drive is switched off, and runs out
STAYS_ON = 6  # 605Ah: slows down on the quick stop ramp and stays in “quick stop active”
GUARD = 50  # ms between two questions for its state, as it is told; Idler asks more often
_PRODUCED: Object = (0x1017, 0)
_GUARD_TIME: Object = (0x100C, 0)
_LIFE_FACTOR: Object = (0x100D, 0)  # so many guard times without a question, and it stops by itself
STOP_ON_LOST = 3  # 6007h: quick stop


@dataclass(frozen=True)
class Watch:
    """What makes sure that a drive stops by itself when Idler falls silent. sub: Idler's place in its 1016h, 0: none. guarded:
    it is asked for its state again and again instead (node guarding, CiA 301, 7.2.8.2.2.1). seen: it was tried, with the drive
    at rest. words: why it is none.
    """

    sub: int = 0
    words: str = ""
    seen: bool = False
    guarded: bool = False

    @property
    def told(self) -> bool:
        """Whether it was told to stop by itself, and says that it will."""
        return bool(self.sub) or self.guarded

    def as_tried(self, before: Watch) -> Watch:
        """What was tried in the same way is not tried again."""
        alike = (self.sub, self.guarded) == (before.sub, before.guarded)
        return replace(self, seen=self.told and alike and before.seen)

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
        if _is_guarded(part, silence):
            return Watch(guarded=True)
    except WriteRefused as why:
        return Watch(words=why.sentence)
    return Watch(words="it listens to no heartbeat (1016h), nor is it guarded (100Ch)")


def _is_guarded(part: Part, silence: float) -> bool:
    """Has it expect to be asked for its state, where it can. A part that says heartbeats of its own is not guarded. Raises
    WriteRefused."""
    if not (part.has(_GUARD_TIME) and part.has(_LIFE_FACTOR)):
        return False
    if part.read_if_there(_PRODUCED):
        part.put(_PRODUCED, 0)
    part.put(_GUARD_TIME, GUARD)
    part.put(_LIFE_FACTOR, _factor(silence))
    return True


def _factor(silence: float) -> int:
    return max(1, math.ceil(1000 * silence / GUARD))


def expect(part: Part, watch: Watch, own_node: int, silence: float) -> None:
    """For how many seconds it goes on without hearing Idler. Raises WriteRefused."""
    if watch.sub:
        part.write((0x1016, watch.sub), own_node << 16 | round(1000 * silence))
    elif watch.guarded:
        part.write(_LIFE_FACTOR, _factor(silence))


def expect_no_more(part: Part, watch: Watch) -> None:
    """Idler goes; waits for nothing."""
    if watch.sub:
        part.say((0x1016, watch.sub), 0, 4)
    elif watch.guarded:
        part.say(_LIFE_FACTOR, 0, 1)
