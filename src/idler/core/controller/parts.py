"""A controller that is made of plain parts: which node of the bus is which axis, and which are the terminals.

Written as in an address: "1=X,2=Y,3=Z,4=terminals".
"""

from __future__ import annotations

import re
import zlib
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from ..errors import Refusal
from ..profile.cia402 import fault_text
from ..profile.partunits import Told
from ..profile.pdo import HIGHEST_NODE
from ..table import AXIS_LETTERS, MOST_AXES
from ..values.units import figure
from .nodes import What

if TYPE_CHECKING:
    from ..machine import Axis

TERMINALS, ENCODER, SPINDLE = "terminals", "encoder", "spindle"
_ONE_NODE = (ENCODER, SPINDLE)
_SHOWN = 40


@dataclass(frozen=True)
class Parts:
    """axes: node and letter in the order of the slots. terminals: nodes in the order of their screws. encoder: the node that
    counts the turns of the spindle, spindle: the drive that turns it; 0: none."""

    axes: tuple[tuple[int, str], ...]
    terminals: tuple[int, ...] = ()
    encoder: int = 0
    spindle: int = 0

    def __str__(self) -> str:
        return ",".join(
            [
                *(f"{node}={letter}" for node, letter in self.axes),
                *(f"{node}={TERMINALS}" for node in self.terminals),
                *(f"{node}={role}" for node, role in self._single),
            ]
        )

    @property
    def nodes(self) -> tuple[int, ...]:
        return (*(node for node, _ in self.axes), *self.terminals, *(node for node, _ in self._single))

    @property
    def _single(self) -> list[tuple[int, str]]:
        """What a machine has one of, or none."""
        return [(node, role) for node, role in ((self.encoder, ENCODER), (self.spindle, SPINDLE)) if node]

    @property
    def roles(self) -> tuple[tuple[int, str], ...]:
        """Of each node: the letter of its axis, or what else it is."""
        letters = dict(self.axes)
        return tuple((node, letters.get(node) or self.role(node)) for node in self.nodes)

    def role(self, node: int) -> str:
        """Of a node that is no axis."""
        return dict(self._single).get(node, TERMINALS)

    @property
    def names(self) -> tuple[str, ...]:
        return tuple(letter for _, letter in self.axes)


def parse_parts(text: str) -> Parts:
    """Raises Refusal with the part and the way out."""
    roles: dict[int, str] = {}
    for piece in filter(None, (each.strip() for each in text.split(","))):
        found = re.fullmatch(r"(\d{1,3})\s*=\s*(\w+)", piece)
        if not found:
            raise Refusal(
                "parts", piece[:_SHOWN], "is not understood; write a node and what it is, as 1=X,2=Y,4=terminals"
            )
        node, role = int(found[1]), found[2]
        role = role.upper() if len(role) == 1 else role.lower()
        if not 1 <= node <= HIGHEST_NODE:
            raise Refusal("parts", piece[:_SHOWN], f"is no node; nodes have numbers from 1 to {HIGHEST_NODE}")
        if role not in (TERMINALS, *_ONE_NODE, *AXIS_LETTERS):
            known = f"{', '.join(AXIS_LETTERS)}, {TERMINALS}, {ENCODER} or {SPINDLE}"
            raise Refusal("parts", piece[:_SHOWN], f"is not known; a node is one of {known}")
        if node in roles:
            raise Refusal("parts", piece[:_SHOWN], f"gives node {node} a second role; it has one")
        if role != TERMINALS and role in roles.values():
            raise Refusal("parts", piece[:_SHOWN], f"gives {role} a second node; it is one node here")
        roles[node] = role
    axes = tuple((node, role) for node, role in roles.items() if role in AXIS_LETTERS)
    if not axes:
        raise Refusal("parts", text[:_SHOWN] or "none", "holds no axis; write at least one, as 1=X")
    if len(axes) > MOST_AXES:
        raise Refusal("parts", text[:_SHOWN], f"holds {len(axes)} axes; at most {MOST_AXES} can be used")
    counting, turning = (next((node for node, role in roles.items() if role == each), 0) for each in _ONE_NODE)
    return Parts(axes, tuple(node for node, role in roles.items() if role == TERMINALS), counting, turning)


def written(roles: Mapping[int, str], axes: Sequence[str] = ()) -> Parts:
    """The parts by the role of each node, the axes in the order that a machine has them already. Raises Refusal."""
    order = {letter: place for place, letter in enumerate(axes)}
    listed = sorted(roles.items(), key=lambda each: order.get(each[1], len(order)))
    return parse_parts(",".join(f"{node}={role}" for node, role in listed))


def exchanged(parts: Parts, first: str, second: str) -> Parts:
    """The drives of two axes change places; everything else, and the order of the axes, stays."""
    other = {first: second, second: first}
    nodes = {letter: node for node, letter in parts.axes}
    return replace(parts, axes=tuple((nodes[other.get(letter, letter)], letter) for _, letter in parts.axes))


def proposed(nodes: Iterable[tuple[int, What]], axes: Iterable[str] = ()) -> dict[int, str]:
    """A first guess by number and kind of each node: the letters in the order of the numbers. axes: letters that a machine has
    already; others follow them."""
    known = list(dict.fromkeys(axes))
    letters = iter([*known, *(letter for letter in AXIS_LETTERS if letter not in known)][:MOST_AXES])
    found: dict[int, str] = {}
    for node, kind in sorted(nodes, key=lambda each: each[0]):
        role = next(letters, "") if kind is What.DRIVE else next(iter(roles_of(kind)), "")
        if role and (role == TERMINALS or role not in found.values()):
            found[node] = role
    return found


def roles_of(kind: What) -> tuple[str, ...]:
    """What a node of this kind may be; nothing where Idler has no use for it."""
    if kind is What.DRIVE:
        return (*AXIS_LETTERS, SPINDLE)
    return {What.INVERTER: (SPINDLE,), What.TERMINALS: (TERMINALS,), What.ENCODER: (ENCODER,)}.get(kind, ())


@dataclass(frozen=True)
class PartIdentity:
    """One node as it says of itself (1000h, 1008h, 1018h)."""

    node: int
    name: str
    vendor: int
    product: int
    serial: int

    @property
    def mark(self) -> str:
        """What tells this very part from all others; one without a serial number is told by its place."""
        return f"{self.vendor:X}-{self.product:X}-{self.serial or f'node {self.node}'}"


@dataclass(frozen=True)
class PartFacts:
    """What was seen of one part. slot: of the axis that it drives; None for others, whose role says what they are. told: what
    it says of its units.

    sizes: bytes of each object (index and sub) that was read. missing: objects that it was asked for and has not.
    """

    identity: PartIdentity
    slot: int | None
    told: Told
    sizes: Mapping[tuple[int, int], int]
    missing: frozenset[tuple[int, int]]
    role: str = ""


@dataclass(frozen=True)
class PartCondition:
    """How a drive is at this moment, as it says itself; None for what it does not say. supply: V of its power stage (6079h).
    effort: share of its rated torque (6077h). lag: following error (60F4h), mm (°). fault: error code (603Fh), 0: none."""

    supply: float | None = None
    effort: float | None = None
    lag: float | None = None
    fault: int = 0

    def words(self, axis: Axis | None) -> str:
        """axis: that it drives, in whose unit a lag is said."""
        found = [f"supply {figure(self.supply, 1)} V"] if self.supply is not None else []
        found += [f"{figure(100 * self.effort, 1)} % of its torque"] if self.effort is not None else []
        found += [f"{axis.reads.length(self.lag, 4)} behind"] if self.lag is not None and axis is not None else []
        found += [fault_text(self.fault)] if self.fault else []
        return (
            f"Now: {', '.join(found)}."
            if found
            else "It says nothing of its supply, its torque or its following error."
        )


def serial_of(parts: Iterable[PartIdentity]) -> int:
    """One number for a controller made of parts: it changes where one of them is exchanged, or two change places.

    A part without a serial number is told by its node alone.
    """
    words = ";".join(f"{p.node}:{p.vendor}:{p.product}:{p.serial}" for p in sorted(parts, key=lambda p: p.node))
    return zlib.crc32(words.encode())
