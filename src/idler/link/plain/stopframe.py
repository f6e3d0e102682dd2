"""STOP in one frame for all drives: each takes its controlword from a process data object that all of them listen to.

Only an object that the drive has and does not use is taken (CiA 301, 7.5.2.35: bit 31 of its COB-ID), and given back. STOP goes
to each drive alone as well, in any case.
"""

from __future__ import annotations

from dataclasses import dataclass

from ..errors import NoAnswer, WriteRefused
from .part import Object, Part

_FIRST, _MAPS, _MOST = 0x1400, 0x1600, 8  # communication and mapping of what a node hears; how many are looked at
_NOT_VALID = 1 << 31
_CONTROLWORD = 0x60400010  # its 16 bits, as they are mapped
_AT_ONCE = 0xFF  # transmission type: taken as it comes
RECEIVED = 0x200  # with the number of Idler's own heartbeat, which nobody else has: an identifier of nobody's


@dataclass(frozen=True)
class Heard:
    """What was taken: objects and what they held before, in the order in which they are given back."""

    before: tuple[tuple[Object, int], ...]


def listen(part: Part, identifier: int) -> Heard | None:
    """Has a drive take its controlword from frames of this identifier too; None where it cannot."""
    for number in range(_MOST):
        where, kind, mapped = (_FIRST + number, 1), (_FIRST + number, 2), _MAPS + number
        held = part.read_if_there(where)
        if held is None:
            return None
        ours = held == identifier and part.read_if_there((mapped, 1)) == _CONTROLWORD
        if not (held & _NOT_VALID or ours):
            continue
        entries = [(mapped, 0), (mapped, 1), kind]
        raws = [part.read_if_there(each) or 0 for each in entries]
        if ours:  # an Idler that was killed has left it
            raws[:2] = 0, 0
        before = (
            (where, held | _NOT_VALID), ((mapped, 0), 0), ((mapped, 1), raws[1]), ((mapped, 0), raws[0]), (kind, raws[2]),
        )  # fmt: skip
        try:
            part.write(where, _NOT_VALID | identifier)
            part.put((mapped, 0), 0)
            part.put((mapped, 1), _CONTROLWORD)
            part.put((mapped, 0), 1)
            part.put(kind, _AT_ONCE)
            part.put(where, identifier)
        except (WriteRefused, NoAnswer):
            give_back(part, Heard(before))
            continue
        return Heard(before)
    return None


def give_back(part: Part, heard: Heard) -> None:
    """As it was; waits for nothing, for each is done in its turn."""
    for where, raw in heard.before:
        part.say(where, raw, part.size_of(where))
