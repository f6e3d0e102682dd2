"""What the canopen package's SDO client needs of us: answers that are waited for on our own thread, and refusals in words."""

from __future__ import annotations

import logging
import math
import queue
import struct
import time
from collections import deque
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

import canopen
from canopen.sdo import SdoAbortedError, SdoCommunicationError

from idler.core.profile.cia301 import ABORTS

from ..errors import LinkError, NoAnswer, NotUnderstood, WriteRefused

BYTES_OF_ANSWER = 7  # of a long object in one frame, at most

_SEGMENTS = (0, 1)  # answers that do not say what they are of (CiA 301, 7.2.4.3)

logging.getLogger("canopen").setLevel(logging.CRITICAL)  # what becomes of a transfer is a sentence of ours

Pump = Callable[[float], None]

TRIES, BETWEEN_TRIES = 4, 0.03  # of what may be asked twice, s
SOONEST = 0.25  # s for an answer that may be asked for again; more where it is slow
SLOWER = 8  # times that one took to answer, and it is taken not to
LATELY = 0.3  # share of the last answer in what they take

MOST_BYTES, LONGEST = 4 << 20, 60.0  # of one transfer, s: far above any object that is asked for


class Responses:
    """Stands in for the queue between canopen's two threads: waiting for an answer reads the bus."""

    def __init__(self, pump: Pump, gone: Callable[[], bool] = lambda: False) -> None:
        """gone: whether whoever was asked has started anew meanwhile, and will not answer."""
        self._pump, self._gone = pump, gone
        self._waiting: deque[Any] = deque()
        self._until, self._left, self._asked = math.inf, 0, b""

    def bound(self, seconds: float, most: int, asked: bytes = b"") -> None:
        """A transfer begins, of at most so many bytes and seconds: whoever answers without end is not listened to.

        asked: index and sub-index as they stand in an answer; another computer may be asking the same node for something
        else, and hears our answers as we hear its. Empty for a block, whose parts do not say what they are of.
        """
        self._asked = asked
        self._until, self._left = time.monotonic() + seconds, most // BYTES_OF_ANSWER + 16

    def put(self, item: Any) -> None:
        if not self._asked or item[0] >> 5 in _SEGMENTS or bytes(item[1:4]) == self._asked:
            self._waiting.append(item)

    def empty(self) -> bool:
        """canopen asks before each request, and would put a queue of its own in our place where something is left over.

        What is left over is the late answer to a request that was given up: it is dropped, and the place kept.
        """
        self._waiting.clear()
        return True

    def get(self, block: bool = True, timeout: float | None = None) -> Any:
        deadline = time.monotonic() + (timeout or 0.0)
        while not self._waiting:
            left = deadline - time.monotonic()
            if not block:
                raise queue.Empty
            if left <= 0:  # this thread may have been held up; what has come in meanwhile still counts
                self._pump(0.0)
                if not self._waiting:
                    raise queue.Empty
                break
            self._pump(left)
            if self._gone():
                raise queue.Empty
        self._left -= 1
        if self._left < 0 or time.monotonic() > self._until:
            raise queue.Empty
        return self._waiting.popleft()


def soon(takes: float, longest: float) -> float:
    """s for an answer that may be asked for again, of a node whose last ones took so long; 0: that is not known."""
    return min(longest, max(SOONEST, SLOWER * takes)) if takes else longest


def abort_text(why: SdoAbortedError) -> str:
    return ABORTS.get(why.code, str(why))


@contextmanager
def transfer(
    responses: Responses,
    port: object,
    whom: str,
    label: str,
    refusal: str = "does not give it",
    *,
    asked: bytes = b"",
    most: int = MOST_BYTES,
) -> Iterator[None]:
    """One transfer. Whatever becomes of it other than an answer is LinkLost, NoAnswer, WriteRefused or NotUnderstood.

    port, whom: what the sentences call the link and whoever is asked. asked: see `Responses.bound`.
    """
    responses.bound(LONGEST, most, asked)
    try:
        yield
    except SdoAbortedError as why:
        raise WriteRefused(f"{label}: {whom} {refusal} ({abort_text(why)}).") from None
    except SdoCommunicationError:
        raise NoAnswer(f"{port}: {whom} did not answer for {label}.") from None
    except LinkError:
        raise
    except AttributeError:  # canopen 2.4 stumbles over a name of its own where the end of a block never comes
        raise NoAnswer(f"{port}: {whom} did not end its answer for {label}.") from None
    except (ValueError, TypeError, LookupError, struct.error, canopen.ObjectDictionaryError):
        raise NotUnderstood(f"{label}: {whom} answers with something that is no such value.") from None
