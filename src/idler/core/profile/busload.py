"""What goes over a bus: who sends how much, and what share of the bus it takes.

A frame of CAN 2.0A with n bytes has 44 + 8 n bits and three of space before the next one; of the first 34 + 8 n every fourth
after the first may bring one bit more (ISO 11898-1, bit stuffing). Loads here are those of the worst case.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from statistics import median

from .cia301 import SDO_ANSWER, SDO_REQUEST
from .cia402 import EMERGENCY, HEARTBEAT
from .pdo import node_of

MOST_BYTES = 8
SERVICES = {HEARTBEAT: "heartbeat", EMERGENCY: "emergency", SDO_ANSWER: "SDO", SDO_REQUEST: "SDO asked"}
NOBODY = 0  # SYNC, NMT and what belongs to no node


def most_bits(length: int) -> int:
    """Bits of a data frame with so many bytes (0 to 8), space and stuffing included. Raises ValueError."""
    if not 0 <= length <= MOST_BYTES:
        raise ValueError(f"a frame has 0 to {MOST_BYTES} bytes, not {length}")
    return 47 + 8 * length + (33 + 8 * length) // 4


@dataclass
class Talker:
    """One node by what was heard of it. gaps: s between two heartbeats. spoke: whether it said anything; else it was asked."""

    node: int
    frames: int = 0
    bits: int = 0
    services: dict[str, int] = field(default_factory=dict)
    gaps: list[float] = field(default_factory=list)
    spoke: bool = False
    _last_beat: float | None = None

    @property
    def widest(self) -> float:
        """The longest time between two heartbeats, s; 0 where there were not two."""
        return max(self.gaps, default=0.0)

    @property
    def usual(self) -> float:
        """The usual one: half of them are no longer."""
        return median(self.gaps) if self.gaps else 0.0

    def hear(self, when: float, identifier: int, length: int) -> None:
        self.frames += 1
        self.bits += most_bits(length)
        self.spoke |= identifier & 0x780 != SDO_REQUEST
        service = SERVICES.get(identifier & 0x780, "process data") if self.node != NOBODY else "for all"
        self.services[service] = self.services.get(service, 0) + 1
        if identifier & 0x780 == HEARTBEAT and self.node != NOBODY:
            if self._last_beat is not None:
                self.gaps.append(when - self._last_beat)
            self._last_beat = when


def talkers(frames: Iterable[tuple[float, int, int]]) -> list[Talker]:
    """Who spoke, by number. frames: seconds, identifier and number of bytes, in order of time."""
    found: dict[int, Talker] = defaultdict(lambda: Talker(NOBODY))
    for when, identifier, length in frames:
        number = node_of(identifier)
        if number is None and identifier & 0x780 == SDO_REQUEST:
            number = identifier & 0x7F
        number = number or NOBODY
        if number not in found:
            found[number] = Talker(number)
        found[number].hear(when, identifier, length)
    return [found[number] for number in sorted(found)]


@dataclass(frozen=True)
class Health:
    """load: share of the bus in the worst case. troubles: sentences, none where all is well."""

    load: float
    talkers: tuple[Talker, ...]
    troubles: tuple[str, ...]


BUSY = 0.7  # of the bus; above it what is asked for waits noticeably
FEW = 4  # times between heartbeats from which on the usual one is known
LATE = 1.8  # times the usual one: a heartbeat was lost, or came late


def health(
    frames: Iterable[tuple[float, int, int]], seconds: float, rate: int, faulty: int = 0, own: int = NOBODY
) -> Health:
    """frames: as of `talkers`, of so many seconds. rate: bit/s. faulty: frames that the adapter called faulty. own: number of
    Idler, which falls silent on purpose to see whether drives notice."""
    found = tuple(talkers(frames))
    load = share(sum(each.bits for each in found), seconds, rate)
    troubles = []
    if faulty:
        troubles.append(f"{faulty} faulty frames: look at the cable, its two terminating resistors and the bit rate.")
    if load > BUSY:
        most = max(found, key=lambda each: each.bits)
        who = f"node {most.node}" if most.node != NOBODY else "what is sent to all"
        troubles.append(
            f"{100 * load:.0f} % of the bus are taken, {100 * share(most.bits, seconds, rate):.0f} % by {who}: what is asked "
            "for waits. Let it send less often, or take a higher bit rate."
        )
    for each in found:
        if each.node != own and len(each.gaps) >= FEW and each.widest > LATE * each.usual:
            troubles.append(
                f"Node {each.node} was not heard for {1000 * each.widest:.0f} ms, and its heartbeats come every "
                f"{1000 * each.usual:.0f} ms else: frames are lost, or it was busy."
            )
    return Health(load, found, tuple(troubles))


def share(bits: int, seconds: float, rate: int) -> float:
    """Of the bus, 0 to 1. rate: bit/s."""
    return bits / (seconds * rate) if seconds > 0 and rate > 0 else 0.0
