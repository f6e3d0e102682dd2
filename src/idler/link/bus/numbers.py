"""Numbers given to the nodes of a bus, and changed (layer setting services, CiA 305). Nothing may move meanwhile.

A node is told apart by its identity (1018h: vendor, product, revision, serial number), or, where it has no number yet, found by
asking for its identity bit by bit. It has its new number from its next start on, which is asked for here.
"""

from __future__ import annotations

import struct
import time
from dataclasses import dataclass

from idler.core.errors import Refusal
from idler.core.profile.pdo import HIGHEST_NODE

from ..errors import LinkError, NoAnswer
from ..times import Times, usual
from .address import BusAddress
from .survey import LISTENED, Survey

ASKED, ANSWERED = 0x7E5, 0x7E4
_GLOBAL, _NUMBER, _STORE, _SCAN = 0x04, 0x11, 0x17, 0x51
_CHOOSE, _CHOSEN, _SCANNED = (0x40, 0x41, 0x42, 0x43), 0x44, 0x4F
_WAITING = 0
_CONFIRM = 0x80
PATIENCE, SCAN_PATIENCES = 0.3, (0.03, 0.08, 0.15)  # s for an answer; to a bit, to which most say nothing
RESET_COMMUNICATION = 0x82  # NMT (CiA 301, 7.2.8.3.1)
BACK = 3.0  # s in which a node must be there with its new number


@dataclass(frozen=True)
class Numbered:
    """Who has got a number: vendor, product, revision, serial. kept: whether it holds it beyond its power."""

    number: int
    identity: tuple[int, int, int, int]
    kept: bool

    @property
    def sentence(self) -> str:
        vendor, product, _, serial = self.identity
        who = f"vendor {vendor:#x}, product {product:#x}, serial number {serial}"
        kept = "." if self.kept else ", until its power goes: it does not store numbers."
        return f"The node of {who} has number {self.number}{kept}"


def give_number(address: BusAddress, number: int, node: int = 0, times: Times = usual) -> Numbered:
    """Gives a node another number; node 0: one that has none yet. Raises Refusal where the number is none or taken, LinkError
    where nobody is there, or it does not take numbers."""
    if not 1 <= number <= HIGHEST_NODE:
        raise Refusal("number", str(number), f"is none for a node; they go from 1 to {HIGHEST_NODE}")
    with Survey(address, times) as bus:
        bus.listen(LISTENED)
        there = bus.ask_all() | bus.heard
        if number in there:
            raise Refusal(
                "number", str(number), "is taken on this bus", way_out="choose another, or give that node one first"
            )
        if node and node not in there:
            raise LinkError(f"{address}: node {node} does not answer. `idler nodes` lists who is there.")
        return _Numbering(bus).give(number, node)


class _Numbering:
    def __init__(self, bus: Survey) -> None:
        self._bus = bus
        self._answers: list[bytes] = []
        bus.subscribe(ANSWERED, self._answers.append)

    def give(self, number: int, node: int) -> Numbered:
        bus = self._bus
        bus.heard.discard(number)
        identity = bus.identity(node) if node else self._scan()
        try:
            if node:
                self._choose(node, identity)
            self._configure(number)
            kept = self._stored()
        finally:
            self._say(_GLOBAL, _WAITING)
        if node:
            bus.manage(RESET_COMMUNICATION, node)
        deadline = time.monotonic() + BACK
        while number not in bus.heard and time.monotonic() < deadline:
            bus.listen(0.05)
        if number not in bus.heard and number not in bus.ask_all():
            raise LinkError(
                f"{bus.address}: the node took number {number} and did not come back with it within {BACK:.0f} s. Take its "
                "power away and give it again; `idler nodes` lists who is there then."
            )
        return Numbered(number, identity, kept)

    # -- words of the protocol ------------------------------------------------------------------------------------

    def _say(self, said: int, *more: int) -> None:
        self._answers.clear()
        self._bus.send(ASKED, bytes((said, *more)).ljust(8, b"\0"))

    def _answer(self, said: int, patience: float = PATIENCE) -> bytes | None:
        """None where none came. This computer may be held up: what has come meanwhile still counts."""
        deadline = time.monotonic() + patience
        while True:
            over = time.monotonic() > deadline
            self._bus.listen(0.002)
            for data in self._answers:
                if data[:1] == bytes((said,)):
                    return data
            if over:
                return None

    def _choose(self, node: int, identity: tuple[int, int, int, int]) -> None:
        if not all(identity[:2]):
            raise LinkError(
                f"{self._bus.address}: node {node} does not say who it is (1018h): no other number can be given to it over the "
                "bus. Look for its switches."
            )
        self._say(_GLOBAL, _WAITING)
        for said, part in zip(_CHOOSE, identity, strict=True):
            self._say(said, *struct.pack("<I", part))
        if self._answer(_CHOSEN) is None:
            raise NoAnswer(
                f"{self._bus.address}: node {node} takes no number over the bus (CiA 305). Look for its switches, or set it in "
                "its maker's way."
            )

    def _configure(self, number: int) -> None:
        self._say(_NUMBER, number)
        answer = self._answer(_NUMBER)
        if answer is None or answer[1]:
            why = "did not answer. Look with `idler nodes`" if answer is None else "refuses it. Nothing was changed"
            raise LinkError(f"{self._bus.address}: the node was to have number {number} and {why}.")

    def _stored(self) -> bool:
        self._say(_STORE)
        answer = self._answer(_STORE)
        return answer is not None and not answer[1]

    def _scan(self) -> tuple[int, int, int, int]:
        """The identity of one node without a number, bit by bit (fastscan); it is open for what follows. An answer that came
        too late was taken for none: it is asked again with more patience. Raises NoAnswer."""
        for patience in SCAN_PATIENCES:
            if (found := self._scanned(patience)) is not None:
                return found
        raise NoAnswer(f"{self._bus.address}: a node without a number answered, and then did not. Try again.")

    def _scanned(self, patience: float) -> tuple[int, int, int, int] | None:
        """None where what was found answers to nothing. patience: s for each bit. Raises NoAnswer where nobody is there."""
        self._say(_GLOBAL, _WAITING)
        self._ask_bits(0, _CONFIRM, 0, 0)
        if self._answer(_SCANNED) is None:
            raise NoAnswer(
                f"{self._bus.address}: no node without a number answers. `idler nodes` lists those that have one."
            )
        found = [0, 0, 0, 0]
        for sub in range(4):
            for bit in range(31, -1, -1):
                self._ask_bits(found[sub], bit, sub, sub)
                if self._answer(_SCANNED, patience) is None:
                    found[sub] |= 1 << bit
            following = (sub + 1) % 4
            self._ask_bits(found[sub], 0, sub, following)
            if self._answer(_SCANNED) is None:
                return None
        return found[0], found[1], found[2], found[3]

    def _ask_bits(self, number: int, bit: int, sub: int, following: int) -> None:
        self._say(_SCAN, *struct.pack("<IBBB", number, bit, sub, following))
