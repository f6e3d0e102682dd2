"""What parts say of themselves all at once: places and contacts in one frame of each, at one SYNC (CiA 301, 7.2.5).

A SYNC is one question to all of them, and its frames are the answers: a place and a contact that come in one frame were so
at one moment. There are stacks that say for ever what was so when they were told to say it. So nothing is taken from frames
before it was seen to change there, and nothing that was seen to be otherwise than the part answers. A part that has no process
data to spare, or refuses, is asked object by object.
"""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Iterable, Sequence
from typing import NamedTuple

from idler.core.profile.cia301 import PDO_BETWEEN, PDO_NOT_VALID, PDO_SENT, SYNC

from ..bus.line import Line
from ..bus.sdo import Pump
from ..errors import LinkError, WriteRefused
from .mapped import SENT, Taken, entry, give_back, take
from .part import Object, Part

AT_EACH = 1  # transmission type: at each SYNC (CiA 301, 7.5.2.37)
MOST_BYTES = 8
USUAL = 4  # objects that have an identifier in the predefined connection set (CiA 301, 7.3.3)
UNANSWERED = 0.1  # s after which a SYNC is not answered, and what it asked for is asked for singly
MOST_SILENT = 3  # questions without an answer, and it is not waited for any more before the next
KEPT = 64  # frames that an answer is compared with
TRIES, HEARD = 3, 0.5  # comparisons before it is believed, and s for each
MOST_WRONG = 2  # comparisons in a row, and it is believed no more
JITTER = 4  # counts by which a place that stands may differ
_COUNTER, _COB = (0x1019, 0), (0x1005, 0)  # of SYNC
_GENERATES = 1 << 30


class _Answered(NamedTuple):
    """What a part answered to a question for one object; times of time.monotonic."""

    where: Object
    data: bytes
    asked: float
    came: float


class Reports:
    """Of one part: objects that it says in one frame. places: those of them that count on. believed: whether they were seen to
    be what it answers."""

    def __init__(self, taken: Taken, objects: Sequence[tuple[Object, int]], places: frozenset[Object]) -> None:
        self.taken, self.objects, self._places = taken, dict(objects), places
        self.believed = False
        self.wrong = dict.fromkeys(self.objects, 0)  # comparisons of each in a row
        self.judged = dict.fromkeys(self.objects, 0)  # comparisons of each in all
        self._open: deque[float] = deque(maxlen=KEPT)  # when it was asked and has not answered
        self._silent = 0  # questions since its last answer
        self._said: deque[tuple[float, dict[Object, bytes]]] = deque(maxlen=KEPT)  # when it came, and what was in it
        self._answered: dict[Object, _Answered] = {}  # what is to be compared
        self._live: set[Object] = set()  # what was seen to change

    @property
    def given_up(self) -> bool:
        return max(self.wrong.values(), default=0) >= MOST_WRONG

    def tells(self, where: Object) -> bool:
        """Whether what it says of this is taken for so: it was seen to change there, and not seen to be otherwise."""
        return self.believed and where in self._live

    def ask(self, now: float) -> None:
        """One that has answered since it was asked last, and owes more answers than that, has lost them."""
        if not self._silent:
            self._open.clear()
        self._open.append(now)
        self._silent += 1

    def awaited(self, now: float) -> bool:
        """Whether its answer is to be waited for before it is asked again: two that are on their way are not told apart."""
        return bool(self._open) and self._silent <= MOST_SILENT and now - self._open[-1] < UNANSWERED

    def answer(self, data: bytes, now: float) -> tuple[float, dict[Object, bytes]] | None:
        """Takes a frame: when it was asked for, and what is in it; None for one that nobody asked for or that is none of
        these."""
        if not self._open or len(data) < sum(self.objects.values()):
            return None
        asked = self._open.popleft()
        self._silent = 0
        found, at = {}, 0
        for where, size in self.objects.items():
            found[where] = data[at : at + size]
            at += size
        if self._said:
            self._live |= {where for where, raw in found.items() if raw != self._said[-1][1][where]}
        self._said.append((now, found))
        for answered in [each for each in self._answered.values() if asked > each.came]:
            self._judge(answered)
        return asked, found

    # -- whether they are so --------------------------------------------------------------------------------------

    def compare(self, where: Object, data: bytes, asked: float, came: float) -> None:
        """Has an answer compared with the frames before, about and after it."""
        self._answered.setdefault(where, _Answered(where, data, asked, came))

    def _judge(self, answered: _Answered) -> None:
        """With all frames from the last that came before it was asked for to the first that was asked for after it came."""
        del self._answered[answered.where]
        first = max((n for n, (came, _) in enumerate(self._said) if came < answered.asked), default=None)
        if first is None:
            return
        said = [found[answered.where] for _, found in list(self._said)[first:]]
        if answered.where in self._places:
            count = int.from_bytes(answered.data, "little", signed=True)
            counts = [int.from_bytes(each, "little", signed=True) for each in said]
            so = min(counts) - JITTER <= count <= max(counts) + JITTER
        else:
            so = answered.data in said
        self.judged[answered.where] += 1
        self.wrong[answered.where] = 0 if so else self.wrong[answered.where] + 1
        self.believed &= not self.given_up

    # -- answers that do not come ---------------------------------------------------------------------------------

    def overdue(self, now: float) -> bool:
        return bool(self._open) and now - self._open[0] > UNANSWERED


class Sync:
    """Says SYNC as often as the quickest of the parts is to be looked at. Nobody else may: then all are asked singly."""

    def __init__(self, line: Line, wait: Pump) -> None:
        self._line, self._wait = line, wait
        self._next = 0.0
        self.by_others = False

    def step(self, parts: Iterable[Part], now: float) -> None:
        reporting = [(part, found) for part in parts if (found := part.reports) is not None and not found.given_up]
        if self.by_others or not reporting or now < self._next:
            return
        if any(reports.awaited(now) for _, reports in reporting):
            return
        self._next = now + min(part.period for part, _ in reporting)
        self._line.send(SYNC, b"")
        for _, reports in reporting:
            reports.ask(now)

    def heard(self, parts: Iterable[Part]) -> None:
        """Somebody else says it: an answer may be one to that."""
        self.by_others = True
        for part in parts:
            if part.reports is not None:
                part.reports.believed = False

    def take(self, part: Part) -> None:
        """Has a part say in one frame what is worth to be seen at one moment, where it can, and what it says is so."""
        if part.reports is not None or self.by_others or not part.together:
            return
        sync, counts = part.read_if_there(_COB), part.read_if_there(_COUNTER)
        if counts or (sync is not None and (sync & _GENERATES or sync & 0x7FF != SYNC)):
            return
        objects = _fitting(part)
        for most in range(len(objects), 0, -1):  # one of them may be none that can be mapped
            entries = [entry(where, size) for where, size in objects[:most]]
            taken = take(part, SENT, lambda number: _identifier(part, number), entries, AT_EACH)
            if taken is not None:
                part.reports = Reports(taken, objects[:most], part.places)
                break
        if part.reports is not None:
            part.reports.believed = self._agrees(part, part.reports)
            if not part.reports.believed:
                self.give_back(part)

    def give_back(self, part: Part) -> bool:
        """Whether there was anything to give back; waits for nothing."""
        if (reports := part.reports) is None:
            return False
        part.reports = None
        give_back(part, reports.taken)
        return True

    def _agrees(self, part: Part, reports: Reports) -> bool:
        """Whether its frames say of each object what it answers. In motion that is looked at again and again (part.py)."""
        try:
            return all(self._agrees_in(part, reports, where) for where in reports.objects)
        except (WriteRefused, LinkError):
            return False

    def _agrees_in(self, part: Part, reports: Reports, where: Object) -> bool:
        for _ in range(TRIES):
            self._wait(part.period)
            asked = time.monotonic()
            data, came = part.bytes_of(where), time.monotonic()
            before = reports.judged[where]
            reports.compare(where, data, asked, came)
            while reports.judged[where] == before and time.monotonic() - came < HEARD:
                self._wait(0.005)
            if reports.judged[where] == before:
                return False
            if not reports.wrong[where]:
                return True
        return False


def _fitting(part: Part) -> list[tuple[Object, int]]:
    found: list[tuple[Object, int]] = []
    for where in part.together:
        try:
            size = part.size_of(where)
        except WriteRefused:
            continue
        if sum(each for _, each in found) + size <= MOST_BYTES:
            found.append((where, size))
    return found


def _identifier(part: Part, number: int) -> int | None:
    """The usual one of this object, if nobody was heard with it and the part does not speak with it already."""
    found = PDO_SENT + PDO_BETWEEN * number + part.node
    if number >= USUAL or found in part.strange:
        return None
    others = (part.read_if_there((SENT.spoken + each, 1)) for each in range(USUAL) if each != number)
    if any(held is not None and not held & PDO_NOT_VALID and held & 0x7FF == found for held in others):
        return None
    part.taken.add(found)  # before it may speak with it: others are asked by SYNC already
    return found
