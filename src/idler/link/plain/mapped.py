"""Process data objects of a part that it has and does not use, taken for Idler and given back (CiA 301, 7.5.2.35 to 7.5.2.38).

One is not in use where bit 31 of its COB-ID is set, or nothing is mapped. What the maker has mapped is never changed.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import NamedTuple

from idler.core.profile.cia301 import PDO_NOT_VALID as NOT_VALID

from ..errors import NoAnswer, WriteRefused
from .part import Object, Part

MOST = 8  # that are looked at
_NO_REMOTE = 1 << 30  # a part may set by itself that nobody can ask for it with a remote frame
_IDENTIFIER = 0x7FF


class Direction(NamedTuple):
    """Indices of the first: how it is spoken, and what is in it."""

    spoken: int
    mapping: int


HEARD, SENT = Direction(0x1400, 0x1600), Direction(0x1800, 0x1A00)


@dataclass(frozen=True)
class Taken:
    """identifier: of its frames. before: objects and what they held, in the order in which they are given back."""

    identifier: int
    before: tuple[tuple[Object, int], ...]


def entry(where: Object, size: int) -> int:
    """An object in a mapping; size in bytes."""
    return where[0] << 16 | where[1] << 8 | 8 * size


def take(
    part: Part, direction: Direction, identifier: Callable[[int], int | None], entries: Sequence[int], kind: int
) -> Taken | None:
    """Maps these into the first that is free; None where the part has none, or refuses. identifier: by the number of the
    object, None for one that is left alone. kind: its transmission type."""
    for number in range(MOST):
        wanted = identifier(number)
        where, how, mapping = (direction.spoken + number, 1), (direction.spoken + number, 2), direction.mapping + number
        held = part.read_if_there(where)
        if held is None:
            return None
        if wanted is None:
            continue
        maps = [(mapping, sub) for sub in range(1 + len(entries))]
        raws = [part.read_if_there(each) or 0 for each in (*maps, how)]
        ours = held & ~_NO_REMOTE == wanted and raws == [len(entries), *entries, kind]
        if ours and direction is SENT:  # as it is wanted, whoever made it so
            return Taken(wanted, ())
        if not (held & NOT_VALID or ours) and raws[0]:
            continue
        if ours:  # an Idler that was killed has left it
            raws[: len(maps)] = [0] * len(maps)
        before = (
            (where, held | NOT_VALID), ((mapping, 0), 0), *zip(maps[1:], raws[1:-1], strict=True), ((mapping, 0), raws[0]),
            (how, raws[-1]), *([] if held & NOT_VALID or ours else [(where, held)]),
        )  # fmt: skip
        try:
            part.write(where, NOT_VALID | held & _NO_REMOTE | wanted)
            part.put((mapping, 0), 0)
            for sub, each in enumerate(entries, start=1):
                part.put((mapping, sub), each)
            part.put((mapping, 0), len(entries))
            part.put(how, kind)
            part.write(where, held & _NO_REMOTE | wanted)
            if part.read(where) & (NOT_VALID | _IDENTIFIER) != wanted:
                raise WriteRefused(f"{part.called} does not speak with {wanted:03X}h.")
        except (WriteRefused, NoAnswer):
            give_back(part, Taken(wanted, before))
            continue
        return Taken(wanted, before)
    return None


def give_back(part: Part, taken: Taken) -> None:
    """As it was; waits for nothing, for each is done in its turn."""
    for where, raw in taken.before:
        part.say(where, raw, part.size_of(where))
