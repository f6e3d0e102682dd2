"""Process data objects of a controller, and the identifiers that they use (CiA 301, 7.3.3 and 7.5.2.35 to 38).

A node owns four identifiers each way, its predefined set. A controller of several axes needs more: those are off (bit 31)
until a client has looked which numbers nobody on the bus has, and borrows the set of such a number for an axis.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from enum import Enum
from functools import cached_property
from typing import NamedTuple

from ..errors import About, IdlerError
from . import cia402 as c
from . import terminals as t
from .cia301 import SDO_REQUEST

OFF = 1 << 31  # of a COB-ID: the object is not used
OWN_SET = 0x7FF  # of a COB-ID: the identifier
STEP = 0x10  # a number so much further on is looked at first for the next axis
HIGHEST_NODE = 127
_MISSED = 0x80  # identifiers below it belong to no node


class PdoKind(Enum):
    """(base of its COB-ID, its communication parameters for the first axis)"""

    STATUS = (c.STATUS_PDO, 0x1800)
    MOTION = (c.MOTION_PDO, 0x1801)
    TERMINALS = (t.TERMINAL_PDO, 0x1802)
    LEVELS = (t.LEVEL_PDO, 0x1803)
    SPINDLE = (t.SPINDLE_PDO, 0x1842)
    VELOCITY = (c.VELOCITY_PDO, 0x1400)
    POSITION = (c.POSITION_PDO, 0x1401)
    COMMAND = (t.COMMAND_PDO, 0x1402)

    @property
    def base(self) -> int:
        return int(self.value[0])

    @property
    def first(self) -> int:
        return int(self.value[1])


OF_AXES = (PdoKind.STATUS, PdoKind.MOTION, PdoKind.VELOCITY, PdoKind.POSITION)
OF_CONTROLLER = (PdoKind.TERMINALS, PdoKind.LEVELS, PdoKind.SPINDLE, PdoKind.COMMAND)


class Pdo(NamedTuple):
    """One process data object; slot: its axis, 0 for those of the controller as a whole."""

    kind: PdoKind
    slot: int = 0

    @property
    def parameters(self) -> int:
        """Index of its communication parameters; CiA 402-1 puts those of each axis 40h apart."""
        return self.kind.first + 0x40 * self.slot

    @property
    def owned(self) -> bool:
        """Whether its identifier is one of the four that the node owns."""
        return self.slot == 0 and self.kind is not PdoKind.SPINDLE

    @property
    def usual(self) -> int:
        """Its COB-ID after a start, without the node; OFF where it has none."""
        return self.kind.base if self.owned else OFF


def pdos(axes: int) -> list[Pdo]:
    return [*(Pdo(kind, slot) for slot in range(axes) for kind in OF_AXES), *(Pdo(kind) for kind in OF_CONTROLLER)]


class NoRoom(IdlerError):
    """So many nodes are on the bus that no identifiers are left."""

    about = About.SEVERAL


@dataclass(frozen=True)
class PdoMap:
    """Which identifier each object has. borrowed: the node numbers whose sets are used."""

    node: int
    cobs: Mapping[Pdo, int]
    borrowed: frozenset[int] = frozenset()

    @classmethod
    def usual(cls, node: int, axes: int) -> PdoMap:
        """As after a start of the controller: the first axis only."""
        return cls(node, {pdo: pdo.usual + node for pdo in pdos(axes) if pdo.owned})

    @classmethod
    def planned(cls, node: int, axes: int, there: Collection[int], held: Mapping[Pdo, int]) -> PdoMap:
        """One in which nothing uses an identifier of a number that is `there`. Raises NoRoom.

        held: what the controller has now; what nobody else's number is stays as it is, for another client may use it too.
        """
        cobs: dict[Pdo, int] = {}
        borrowed: set[int] = set()
        for slot in range(axes):
            group = [Pdo(kind, slot) for kind in OF_AXES] + ([Pdo(PdoKind.SPINDLE)] if slot == min(1, axes - 1) else [])
            for pdo in (pdo for pdo in group if pdo.owned):
                cobs[pdo] = pdo.usual + node
            rest = [pdo for pdo in group if not pdo.owned]
            number = _number_of(held, rest)
            if rest and (number is None or number in there or number == node or number in borrowed):
                number = _free(node + STEP * max(1, slot), there, {node, *borrowed})
            if rest and number is not None:
                borrowed.add(number)
                cobs.update({pdo: pdo.kind.base & 0x780 | number for pdo in rest})
        cobs.update({Pdo(kind): kind.base + node for kind in OF_CONTROLLER if Pdo(kind).owned})
        return cls(node, cobs, frozenset(borrowed))

    @cached_property
    def routes(self) -> dict[int, Pdo]:
        """The object of each identifier."""
        return {cob: pdo for pdo, cob in self.cobs.items()}


def _number_of(held: Mapping[Pdo, int], group: Iterable[Pdo]) -> int | None:
    """The node number whose set a group of objects uses now; None where that is not one."""
    cobs = [held.get(pdo, OFF) for pdo in group]
    numbers = {cob & 0x7F for cob in cobs}
    return numbers.pop() if len(numbers) == 1 and not any(cob & OFF for cob in cobs) else None


def _free(first: int, there: Collection[int], used: Collection[int]) -> int:
    numbers: list[int] = [first, *range(HIGHEST_NODE, 0, -1)]
    for number in numbers:
        if 0 < number <= HIGHEST_NODE and number not in there and number not in used:
            return number
    raise NoRoom(
        "All node numbers of this bus are taken: no identifiers are left for the process data of the controller."
    )


def node_of(identifier: int) -> int | None:
    """The number of the node whose predefined set an identifier is of (CiA 301, 7.3.5); None for those of nobody."""
    if not _MISSED < identifier < 0x780 or identifier & 0x780 == SDO_REQUEST:  # whoever is asked need not be there
        return None
    return (identifier & 0x7F) or None
