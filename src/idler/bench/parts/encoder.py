"""An encoder of the bench that is a node of its own (CiA 406), on the spindle."""

from __future__ import annotations

from ..wire.hub import Hub
from ..world import World
from .node import PartNode, identity
from .object import Kept, Object
from .reports import of as reports

TURNS = 4096  # before it begins anew


class PartEncoder(PartNode):
    def __init__(self, hub: Hub, world: World, node: int, serial: int) -> None:
        self._world = world
        per_turn = abs(int(world.spindle["lines"]))
        self._range = per_turn * TURNS
        objects: dict[Object, Kept] = {
            **identity(0x00020196, 0x406, serial), (0x1017, 0): Kept(2, 0),
            (0x6001, 0): Kept(4, per_turn), (0x6002, 0): Kept(4, self._range),
            (0x6004, 0): Kept(4, 0, writable=False), (0x6501, 0): Kept(4, per_turn, writable=False),
            (0x6502, 0): Kept(2, TURNS, writable=False), **reports(node),
        }  # fmt: skip
        super().__init__(hub, node, {0x1008: "Encoder 1000"}, objects)

    def live(self, where: Object) -> int | None:
        return int(self._world.spindle["counts"]) % self._range if where == (0x6004, 0) else None
