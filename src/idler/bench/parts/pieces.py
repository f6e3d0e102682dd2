"""A controller that is made of plain parts, as the bench has it: drives and terminals, each a node of its own."""

from __future__ import annotations

import time

import numpy as np

from idler.core.profile import cia402 as c
from idler.core.profile.codec import Place
from idler.core.values.roles import InputRole, OutputRole

from ..objects.memory import Memory
from ..wire.hub import Hub
from ..wire.mischief import Mischief
from ..world import World
from .drive import PartDrive
from .encoder import PartEncoder
from .inverter import PartInverter
from .node import PartNode, identity
from .object import Kept, Object
from .reports import of as reports

GROUP = 8
FILTER_US = 2000
_NUMBER = 0x2FFF  # in the file alone: the number that was given to a part
_TURNED, _FILTERED = 0x6002, 0x6003
_CONTACTS = 0x60000108  # its first eight inputs, as they are mapped
_LEVEL, _LEVEL_SAFE_MODE, _LEVEL_SAFE, _FULL = 0x6411, 0x6443, 0x6444, 32767  # 7FFFh is 10 V


class PartTerminals(PartNode):
    """CiA 401: inputs and outputs of the world from `first` on, eight in an object."""

    def __init__(self, hub: Hub, world: World, node: int, groups: tuple[int, int], serial: int) -> None:
        self._world = world
        objects: dict[Object, Kept] = {
            **identity(0x00030191, 0x401, serial),
            (0x1016, 0): Kept(1, 1, writable=False), (0x1016, 1): Kept(4, 0), (0x1017, 0): Kept(2, 0),
            (0x1010, 0): Kept(1, 1, writable=False), (0x1010, 1): Kept(4, 1), **reports(node, _CONTACTS),
        }  # fmt: skip
        self._levels = len(world.outputs) % GROUP
        for index, usual in ((_LEVEL, 0), (_LEVEL_SAFE_MODE, 1), (_LEVEL_SAFE, 0)):
            objects[index, 0] = Kept(1, self._levels, writable=False)
            size, signed = {_LEVEL: (2, True), _LEVEL_SAFE_MODE: (1, False), _LEVEL_SAFE: (4, True)}[index]
            objects |= {(index, sub): Kept(size, usual, signed=signed) for sub in range(1, 1 + self._levels)}
        for index, count in ((0x6000, groups[0]), (0x6200, groups[1]), (0x6206, groups[1]), (0x6207, groups[1])):
            objects[index, 0] = Kept(1, count, writable=False)
            usual = 0xFF if index == 0x6206 else 0
            objects |= {(index, sub): Kept(1, usual, writable=index != 0x6000) for sub in range(1, count + 1)}
        for index in (_TURNED, _FILTERED):
            objects[index, 0] = Kept(1, groups[0], writable=False)
            usual = 0xFF if index == _FILTERED else 0
            objects |= {(index, sub): Kept(1, usual, stored=True) for sub in range(1, groups[0] + 1)}
        super().__init__(hub, node, {0x1008: "Terminals 8/8"}, objects)

    def told(self) -> None:
        """An output without a role gives the level of its rest: that is what it is told here."""
        for (index, sub), raw in self.values.items():
            if index == _FILTERED and sub:
                for bit in range(GROUP):
                    self._world.inputs["filter"][(sub - 1) * GROUP + bit] = FILTER_US if raw >> bit & 1 else 0
        for number, out in enumerate(self._world.outputs):
            sub = 1 + number - (len(self._world.outputs) - self._levels)
            if sub >= 1:
                # the firmware of the world gives its level at rest while nothing runs
                out["role"], out["level_kind"] = OutputRole.SPINDLE_LEVEL.raw, 1
                self._world.controller["rest"] = min(1000.0, max(0.0, self.values[_LEVEL, sub] / _FULL * 1000))
            elif (0x6200, 1 + number // GROUP) in self.values:
                out["role"] = 0
                out["inverted"] = self.values[0x6200, 1 + number // GROUP] >> number % GROUP & 1

    def live(self, where: Object) -> int | None:
        if where[0] != 0x6000 or not where[1]:
            return None
        first = (where[1] - 1) * GROUP
        levels = self._world.inputs["level"][first : first + GROUP]
        return sum(1 << n for n, level in enumerate(levels) if level) ^ self.values[_TURNED, where[1]]

    def unheard(self) -> None:
        self.halts()

    def halts(self) -> None:
        """Every output to its safe level (6206h, 6207h)."""
        for (index, sub), raw in list(self.values.items()):
            if index == 0x6200 and sub:
                mode, safe = self.values[0x6206, sub], self.values[0x6207, sub]
                self.values[index, sub] = raw & ~mode | safe & mode
            if index == _LEVEL and sub and self.values[_LEVEL_SAFE_MODE, sub]:
                self.values[index, sub] = self.values[_LEVEL_SAFE, sub]
        self.told()


class Pieces:
    """What the server takes for its controller."""

    def __init__(self, world: World, hub: Hub, memory: Memory) -> None:
        self._world, self._hub = world, hub
        self.mischief, self._memory = Mischief(), memory
        self.id = world.rig.parts[0].node
        hub.asked = self.asked
        self._build()

    def _build(self) -> None:
        rig = self._world.rig
        wired = rig.drive_inputs
        for number in range(len(self._world.inputs)):
            role, axis, closed = wired.get(number, (InputRole.NONE.raw, -1, 1))
            self._world.set_input(number, role, axis, closed, FILTER_US)
        stop = next((wire for wire in rig.wires if wire.name == "emergency stop"), None)
        if stop is not None:
            self._world.set_input(stop.input, InputRole.STOP.raw, -1, int(stop.closed_at_rest), FILTER_US)
        self._world.controller["enable_inverted"] = self._world.controller["step_inverted"] = 0
        self._world.controller["pulse_width"], self._world.controller["direction_setup"] = 10.0, 10.0
        self.drives = [
            PartDrive(self._hub, self._world, slot, truth, self._bits) for slot, truth in enumerate(rig.parts)
        ]
        groups = (len(self._world.inputs) - len(wired)) // GROUP, len(self._world.outputs) // GROUP
        self.terminals = PartTerminals(self._hub, self._world, rig.terminals, groups, rig.serial + 100)
        self.nodes: list[PartNode] = [*self.drives, self.terminals]
        if rig.encoder:
            self.nodes.append(PartEncoder(self._hub, self._world, rig.encoder, rig.serial + 200))
        kept = self._memory.load() or {}
        self._numbers = {where.sub >> 8: int(raw) for where, raw in kept.items() if where.index == _NUMBER}
        self.inverter = None
        if rig.inverter is not None:
            self.inverter = PartInverter(self._hub, self._world, rig.inverter, rig.serial + 300)
            self.nodes.append(self.inverter)
        for node in self.nodes:
            node.mischief, node.stored = self.mischief, self._store
            own = {
                (where.index, where.sub & 0xFF): int(raw) for where, raw in kept.items() if where.sub >> 8 == node.born
            }
            number = own.pop((_NUMBER, 0), node.born)
            node.numbering.stored = lambda number, node=node: self._store_number(node, number)  # type: ignore[misc]
            if number != node.born:
                node.numbering.wanted = number
                node.boot()
            if own:
                node.memory |= own
                node.boot()

    def _bits(self, slot: int) -> int:
        """60FDh of a drive: what hangs on its own inputs."""
        inputs, found = self._world.inputs, 0
        for number in np.flatnonzero(inputs["made"]):
            role, axis = int(inputs["role"][number]), int(inputs["axis"][number])
            if axis == slot:
                found |= {InputRole.HOME.raw: c.INPUT_HOME, InputRole.LIMIT_LOW.raw: c.INPUT_LOW,
                          InputRole.LIMIT_HIGH.raw: c.INPUT_HIGH}.get(role, 0)  # fmt: skip
        return found

    @property
    def names(self) -> tuple[str, ...]:
        return tuple(motor.name for motor in self._world.rig.motors)

    def frame(self, identifier: int, data: bytes, now: float) -> None:
        match 0x600 <= identifier < 0x680 and self.mischief.comes("cut", "deaf"):
            case "cut":
                self._hub.cut = True
                return
            case "deaf":
                return
        for node in self.nodes:
            node.frame(identifier, data, now)

    def asked(self, identifier: int) -> None:
        for node in self.nodes:
            node.guard(identifier, time.monotonic())

    def tick(self, now: float) -> None:
        ctl = self._world.controller
        for drive in self.drives:
            drive.torque_off(bool(ctl["stop"]))
        if self.inverter is not None:
            self.inverter.torque_off(bool(ctl["stop"]))
        ctl["stop_hit"] = ctl["guard_hit"] = ctl["trouble_hit"] = 0
        for node in self.nodes:
            node.tick(now)

    @property
    def due(self) -> float:
        """When one of them next says something by itself (time.monotonic)."""
        return min(node.due for node in self.nodes)

    def restart(self, now: float) -> None:
        for node in self.nodes:
            node.restart(now)

    def _store(self) -> None:
        """All parts in one file: the node stands above the sub-index. Raises OSError."""
        kept: dict[Place, int | str] = {Place(_NUMBER, born << 8): number for born, number in self._numbers.items()}
        for node in self.nodes:
            kept |= {Place(at[0], node.born << 8 | at[1]): raw for at, raw in node.memory.items()}
        self._memory.store(kept)

    def _store_number(self, node: PartNode, number: int) -> None:
        self._numbers[node.born] = number
        self._store()

    def deliver(self) -> None:
        self._memory.forget()
        self._build()

    def keep_count(self) -> None:
        """Nothing is counted here."""
