"""The controller on the bus: objects, storing and restarting, heartbeats, process data, emergency messages.

The protocol itself (SDO server, NMT) is the canopen package's; here is what the objects mean.
"""

from __future__ import annotations

import math
import struct
import time
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import replace
from typing import Any

import canopen
from canopen.sdo import SdoAbortedError

from idler.core.machine import Shape
from idler.core.profile import cia301 as a
from idler.core.profile import cia402 as c
from idler.core.profile import terminals as t
from idler.core.profile.codec import LETTERS, Place, Raw, image
from idler.core.profile.concise import IN_FORCE, VALUES, pack_values
from idler.core.profile.dictionary import dictionary
from idler.core.profile.homing import FIRST_PLACE, FORGET
from idler.core.profile.indexing import FIRST as INDEX_STOPS
from idler.core.profile.objects import AXIS_NAME, CHANGES, LOAD, SAVE, UNSTORED, Entry, entries
from idler.core.profile.path import RECORDS
from idler.core.profile.pdo import OFF, OWN_SET, Pdo, PdoKind, pdos
from idler.core.table import AXIS_LETTERS, MOST_AXES, axis_index
from idler.core.values.parameter import WireType

from ..wire.hub import Hub, Sender
from ..wire.mischief import Mischief
from ..world import World
from .blocks import BlockDownload, BlockUpload
from .drive import Drive
from .indexpanel import IndexPanel
from .memory import Memory
from .panel import Panel
from .pathbuffer import PathBuffer
from .told import POWER_DELAY, STEP_RATE, Told

PDO_PERIOD = 0.02  # s, of the wall clock
RESTART_TIME = 0.3  # s, of the wall clock: how long the controller is silent
# Of an axis: what one count is, and which way is +. They count together, when the last of them was written.
_SCALING = {(0x607E, 0), (0x608F, 1), (0x608F, 2), (0x6091, 1), (0x6091, 2), (0x6092, 1), (0x6092, 2)}
_SCALING_WAITS = 0.05  # s for the next of them
_START, _STOP, _PREPARE, _RESETS = 0x01, 0x02, 0x80, (0x81, 0x82)  # NMT commands (CiA 301, 7.2.8.3.1)
_OPERATIONAL, _STOPPED, _PREPARED = 0x05, 0x04, 0x7F


def _every_axis(shape: Shape) -> Shape:
    """The controller has objects for as many axes as it has drive outputs; those in use come first."""
    rest = [letter for letter in AXIS_LETTERS if letter not in shape.names]
    return shape._replace(names=(*shape.names, *rest)[:MOST_AXES])


def _are_letters(text: str) -> bool:
    return 1 <= len(text) <= MOST_AXES and len(set(text)) == len(text) and set(text) <= set(AXIS_LETTERS)


class Node:
    """The controller with its drives. All times given to it are seconds of the wall clock."""

    def __init__(self, world: World, hub: Hub, memory: Memory) -> None:
        self._world, self._hub, self._memory = world, hub, memory
        rig = world.rig
        self.id = rig.node
        own = {0x1008: rig.device, 0x1009: rig.hardware, 0x100A: rig.software}
        listed = [
            replace(entry, default=own[entry.index]) if entry.index in own else entry
            for entry in entries(_every_axis(rig.told.shape))
        ]
        self._entries = {entry.place: entry for entry in listed}
        # of each axis: place, the same with the index of the first axis, and whether it waits for a restart
        self._of_axis: list[list[tuple[Place, tuple[int, int], bool]]] = [[] for _ in range(MOST_AXES)]
        for entry in listed:
            base, slot = self._split(entry.index)
            if entry.stored and slot is not None:
                self._of_axis[slot].append((entry.place, (base, entry.sub), entry.restart))
        self._dictionary = dictionary(listed, self.id)
        self._dictionary[0x1018][4].value = rig.serial
        self._panel = Panel(world)
        self._blocks = BlockUpload(lambda data: hub.broadcast(a.SDO_ANSWER + self.id, data), self._long)
        self._path = PathBuffer(world)
        self._index = IndexPanel(world)
        self._writes = BlockDownload(
            lambda data: hub.broadcast(a.SDO_ANSWER + self.id, data),
            lambda place: place == RECORDS,
            lambda _place, data: self._path.take(data, self.drives),
        )
        self._stop_told = False
        self._trouble_told = 0
        self._restart_at: float | None = None
        self._nmt = _OPERATIONAL
        self._scaling: dict[int, float] = {}  # slots whose scaling was written, and until when more is waited for
        self._next_pdo = self._next_heartbeat = 0.0
        self._consumers: dict[int, int] = {}  # by sub-index of 1016h: node and ms
        self._heard: dict[int, float] = {}  # when each of them was heard, from its first heartbeat on
        self._factory_next = False
        self._sent: dict[int, bytes] = {}
        self.mischief = Mischief()
        self._pdo_round = 0
        self._world.controller["strokes"], self._world.controller["oil_done"] = self._memory.oil
        self._boot()

    # -- start and restart ----------------------------------------------------------------------------------------

    def _boot(self) -> None:
        self._network = canopen.Network(bus=Sender(self._hub))
        self._node = canopen.LocalNode(self.id, self._dictionary)
        self._network.add_node(self._node)
        self._node.sdo._index = self._node.sdo._subindex = 0  # what an abort names where no request came before it
        self._node.add_read_callback(self._read)
        self._node.add_write_callback(self._write)
        self._values: dict[Place, Raw] = {p: e.default for p, e in self._entries.items() if e.stored}
        kept = {**image(self._world.rig.told), **(self._memory.load() or {})}
        self._kept = {p: kept.get(p, raw) for p, raw in self._values.items()}
        for p, raw in self._kept.items():  # factory values last until they are stored, or the next restart
            row = self._entries[p].row
            if not self._factory_next or (row is not None and row.given):  # what is told of the terminals is no setting
                self._values[p] = raw
        self._factory_next = False
        self._in_force = dict(self._values)
        self._world.use(len(self.names))
        self.drives = [Drive(self._world, slot) for slot in range(len(self.names))]
        for slot in range(MOST_AXES):
            ax = self._world.firmware[slot]
            self._world.freeze(slot)
            ax["steps"] = ax["bare_position"] = ax["position"] = 0
            ax["output"] = ax["second"] = ax["slack"] = -1
            ax["homed"] = ax["limit_chain"] = 0  # who met a chain before is not known any more
            self._configure(slot)
        self._parameters = {pdo.parameters: pdo for pdo in pdos(MOST_AXES)}
        self._cobs = {pdo: pdo.usual + (self.id if pdo.owned else 0) for pdo in self._parameters.values()}
        self._taken: dict[int, Pdo] = {}
        for pdo in (Pdo(PdoKind.COMMAND), Pdo(PdoKind.VELOCITY), Pdo(PdoKind.POSITION)):
            self._give_identifier(pdo, self._cobs[pdo])
        self._world.forget_path()
        self._panel.boot(self.names)
        self._index.boot()
        self._panel.configure(self._values, self._in_force)
        self._stop_told, self._trouble_told = False, 0
        self._heard.clear()
        self._consumers.clear()
        self._changes = 0
        self._producer_ms = 100
        self._scaling.clear()
        self._nmt = _OPERATIONAL  # at once: the profile needs no NMT master (CiA 301, 7.3.2.2.1)
        self._hub.broadcast(c.HEARTBEAT + self.id, b"\0")

    @property
    def names(self) -> tuple[str, ...]:
        """The letters of the axes that are in force."""
        return tuple(str(self._in_force[LETTERS]))

    def deliver(self) -> None:
        """As it came: nothing stored, nothing pressed, started anew."""
        self._memory.forget()
        self._world.controller["oil_done"] = self._world.controller["strokes"] = 0
        self._restart_at = None
        self._boot()

    def keep_count(self) -> None:
        """The count of the way oil into the memory: at each stroke, and when the power goes."""
        ctl = self._world.controller
        with suppress(OSError):
            self._memory.count(int(ctl["strokes"]), int(ctl["oil_done"]))

    def restart(self, now: float) -> None:
        """As after a dip of its power: everything that was not stored is gone."""
        for slot in range(len(self.drives)):
            self._world.freeze(slot)
        self._panel.rest()
        self._restart_at = now + RESTART_TIME

    # -- frames in ------------------------------------------------------------------------------------------------

    def frame(self, identifier: int, data: bytes, now: float) -> None:
        if self._restart_at is not None:
            return
        match identifier == a.SDO_REQUEST + self.id and self.mischief.comes("cut", "deaf"):
            case "cut":
                self._hub.cut = True
                return
            case "deaf":
                return
        base, rest = identifier & 0x780, identifier & 0x7F
        if base == c.HEARTBEAT:
            for sub, told in self._consumers.items():
                if told and rest == (told >> 16) & 0x7F:
                    self._heard[sub] = now
            return
        if identifier == 0:
            if len(data) == 2 and data[1] in (0, self.id):
                self._manage(data[0], now)
            return
        if self._nmt == _STOPPED or (self._nmt != _OPERATIONAL and identifier != a.SDO_REQUEST + self.id):
            return
        if (pdo := self._taken.get(identifier)) is not None:
            self._take(pdo, data)
            return
        if identifier == a.SDO_REQUEST + self.id and (
            len(data) != 8 or self._writes.take(data) or self._blocks.take(data)
        ):
            return  # a request has eight bytes (CiA 301, 7.2.4.3)
        self._network.notify(identifier, bytearray(data), now)

    def _take(self, pdo: Pdo, data: bytes) -> None:
        """Process data that the controller was sent; a frame of another length is none of its."""
        if pdo.kind is PdoKind.COMMAND:
            if len(data) == struct.calcsize(t.COMMAND_FORMAT):
                self._panel.command(*struct.unpack(t.COMMAND_FORMAT, data))
        elif pdo.slot < len(self.drives) and len(data) == struct.calcsize(c.TARGET_FORMAT):
            self._settle_scaling()
            control, target = struct.unpack(c.TARGET_FORMAT, data)
            drive = self.drives[pdo.slot]
            if pdo.kind is PdoKind.VELOCITY:
                drive.target_velocity = target
            else:
                drive.target_position = target
            drive.control(control)
            self._path.begin(self.drives)

    def _give_identifier(self, pdo: Pdo, cob: int) -> None:
        """CiA 301, 7.5.2.35: an object that is in use keeps its identifier until it was switched off."""
        old, identifier = self._cobs[pdo], cob & OWN_SET
        if not cob & OFF and not 0x180 < identifier < 0x580:
            raise SdoAbortedError(a.BAD_VALUE)
        if not (old | cob) & OFF and identifier != old & OWN_SET:
            raise SdoAbortedError(a.BAD_VALUE)
        self._cobs[pdo] = cob
        self._taken = {
            at & OWN_SET: pdo
            for pdo, at in self._cobs.items()
            if not at & OFF and pdo.kind in (PdoKind.COMMAND, PdoKind.VELOCITY, PdoKind.POSITION)
        }
        self._sent.clear()

    def _manage(self, command: int, now: float) -> None:
        """NMT: only an operational node moves anything or sends process data (CiA 301, 7.3.2.2)."""
        if command in _RESETS:
            self.restart(now)
        elif command == _START:
            self._nmt = _OPERATIONAL
            self._sent.clear()
        elif command in (_STOP, _PREPARE):
            self._nmt = _STOPPED if command == _STOP else _PREPARED
            for drive in self.drives:
                drive.quick_stop()
            self._panel.unheard()
            self._index.unheard()

    # -- objects --------------------------------------------------------------------------------------------------

    def _split(self, index: int) -> tuple[int, int | None]:
        """The index of the first axis and the slot, for objects of the axes."""
        if index >= 0x6000:
            return 0x6000 + (index - 0x6000) % 0x800, (index - 0x6000) // 0x800
        if 0x4000 <= index < 0x4000 + 0x100 * MOST_AXES:
            return 0x4000 + (index - 0x4000) % 0x100, (index - 0x4000) // 0x100
        return index, None

    def _long(self, place: Place) -> bytes | None:
        """Objects that are given in blocks."""
        if place == VALUES:
            used = len(self.names)
            return self._packed({p: r for p, r in self._values.items() if (self._split(p.index)[1] or 0) < used})
        if place == IN_FORCE:
            return self._packed({p: self._in_force[p] for p in self._waiting()})
        found = self._panel.read(place)
        return found if isinstance(found, bytes) else None

    def _packed(self, values: Mapping[Place, Raw]) -> bytes:
        find = self._dictionary.get_variable
        return pack_values({p: find(p.index, p.sub).encode_raw(raw) for p, raw in values.items()})

    def _read(self, *, index: int, subindex: int, od: Any) -> Raw | bytes | None:
        place = Place(index, subindex)
        if place in self._values:
            return self._values[place]
        live_of_panel: Raw | None = self._panel.read(place)
        if live_of_panel is not None:
            return live_of_panel
        if place == CHANGES:
            return self._changes
        if (of_path := self._path.read(place)) is not None:
            return of_path
        if place == UNSTORED:
            return sum(raw != self._kept[p] for p, raw in self._values.items())
        if subindex == 1 and (pdo := self._parameters.get(index)) is not None:
            return self._cobs[pdo]
        if index == 0x1001:
            return int(any(drive.error for drive in self.drives))
        if index == 0x1016 and subindex:
            return self._consumers.get(subindex, 0)
        if place == Place(0x2000, 1):
            return len(self.names)
        base, slot = self._split(index)
        if base == INDEX_STOPS and slot is not None and slot < len(self.drives):
            return self._index.read(slot, subindex)
        if base == FIRST_PLACE.index and slot is not None and slot < len(self.drives):
            return self.drives[slot].homing_places.get(subindex)
        if (base, subindex) == (AXIS_NAME.index, AXIS_NAME.sub) and slot is not None:
            return self.names[slot] if slot < len(self.names) else "-"
        if slot is None or slot >= len(self.drives) or index < 0x6000:
            return None
        drive = self.drives[slot]
        if (base, subindex) == (c.INTERPOLATION_BUFFER, 2):
            return self._path.in_use
        if subindex and base != c.SET_POINT:
            return None
        live = {
            c.STATUS: "status", c.POSITION: "position", c.VELOCITY: "velocity", c.COUNTS_ACTUAL: "counts",
            c.ERROR_CODE: "error", c.MODE: "mode", c.MODE_SHOWN: "mode", c.SET_POINT: "position",
            c.TARGET_POSITION: "target_position", c.TARGET_VELOCITY: "target_velocity", c.PROFILE_SPEED: "profile_speed",
            c.FOLLOWING_ERROR: "following_error", c.LATCHED: "latched", c.LATCHES: "latches", c.TORQUE: "torque",
        }  # fmt: skip
        if base == c.DIGITAL_INPUTS:
            return self._panel.bits(slot)
        name = live.get(base)
        return None if name is None else int(getattr(drive, name))

    def _write(self, *, index: int, subindex: int, od: Any, data: bytes) -> None:
        place = Place(index, subindex)
        entry = self._entries[place]
        raw: Raw = od.decode_raw(data) if place != RECORDS else ""
        base, slot = self._split(index)
        if entry.stored:
            self._check(entry, raw, slot)
            raw = self._spoiled(raw)
            self._changes = (self._changes + 1) & 0xFFFFFFFF
            old = self._values[place]
            self._values[place] = raw
            if slot is not None and (base, subindex) in _SCALING:
                self._scaling[slot] = time.monotonic() + _SCALING_WAITS
                return
            self._settle_scaling()
            if slot is not None:
                try:
                    self._configure(slot)
                except (KeyError, ZeroDivisionError):
                    self._values[place] = old
                    raise SdoAbortedError(a.BAD_VALUE) from None
            else:
                self._panel.reconfigure(entry, self._values)
            if place == LETTERS:
                for drive in self.drives:
                    drive.lock(raw != self._in_force[LETTERS])
        elif index == 0x1010 and subindex:
            self._store(raw)
        elif index == 0x1011 and subindex:
            if raw != LOAD:
                raise SdoAbortedError(a.NOT_STORED)
            self._factory_next = True
        elif subindex == 1 and (pdo := self._parameters.get(index)) is not None:
            self._give_identifier(pdo, int(raw))
        elif index == 0x1016 and subindex:
            self._consumers[subindex] = int(raw)
            self._heard.pop(subindex, None)
        elif index == 0x1017:
            self._producer_ms = int(raw)
        elif (base, subindex) == (FORGET.index, FORGET.sub) and slot is not None:
            self._world.firmware[slot]["homed"] = 0
        elif base == INDEX_STOPS and slot is not None:
            self._index.write(slot, subindex, int(raw), self.drives[slot].profile_speed)
        elif place == RECORDS:
            if code := self._path.take(data, self.drives):
                raise SdoAbortedError(code)
        elif self._path.write(place, raw) or self._panel.write(place, int(raw)):
            return
        elif slot is not None and index >= 0x6000:
            self._command(base, self.drives[slot], int(raw))

    def _settle_scaling(self, now: float = math.inf) -> None:
        """What one count is counts from now on, for axes of which no more of it comes."""
        for slot in [slot for slot, until in self._scaling.items() if until <= now]:
            del self._scaling[slot]
            self._configure(slot)

    def _spoiled(self, raw: Raw) -> Raw:
        """What becomes of a value on its way into the controller: usually nothing."""
        match self.mischief.comes("refuse", "clip", "restart"):
            case "refuse":
                raise SdoAbortedError(a.BAD_VALUE)
            case "clip" if isinstance(raw, int):
                return raw - 1 if raw else raw + 1
            case "restart":
                self.restart(time.monotonic())
        return raw

    def _check(self, entry: Entry, raw: Raw, slot: int | None) -> None:
        moving = self._world.firmware[slot]["moving"] if slot is not None else self._world.moving
        if moving:
            raise SdoAbortedError(a.NOT_IN_THIS_STATE)
        row = entry.row
        if entry.place == LETTERS and not _are_letters(str(raw)):
            raise SdoAbortedError(a.BAD_VALUE)
        if entry.derived and entry.type is WireType.U32 and raw == 0:
            raise SdoAbortedError(a.BAD_VALUE)
        if row is None or isinstance(raw, str):
            return
        if row.choices and raw not in [choice.raw for choice in row.choices]:
            raise SdoAbortedError(a.BAD_VALUE)
        if row.low != row.high:
            if raw * row.wire.resolution > row.high:
                raise SdoAbortedError(a.TOO_HIGH)
            if raw * row.wire.resolution < row.low:
                raise SdoAbortedError(a.TOO_LOW)

    def _command(self, base: int, drive: Drive, raw: int) -> None:
        self._settle_scaling()
        if base == c.CONTROL:
            drive.home_coordinate = int(self._values[Place(axis_index(0x607C, drive.slot), 0)])
            drive.control(raw)
            if not self._path.begin(self.drives):
                raise SdoAbortedError(a.NOT_IN_THIS_STATE)
        elif base == c.MODE:
            if not drive.set_mode(raw):
                raise SdoAbortedError(a.NOT_IN_THIS_STATE)
        elif base == c.TARGET_POSITION:
            drive.target_position = raw
        elif base == c.TARGET_VELOCITY:
            drive.set_velocity(raw)
        elif base == c.PROFILE_SPEED:
            drive.profile_speed = raw

    def _store(self, raw: Raw) -> None:
        self._settle_scaling()
        if raw != SAVE:
            raise SdoAbortedError(a.NOT_STORED)
        try:
            if self.mischief.comes("store"):
                raise OSError
            self._memory.store(self._values)
        except OSError:
            raise SdoAbortedError(a.MEMORY_FAILED) from None
        self._kept = dict(self._values)

    def _waiting(self) -> list[Place]:
        return [
            place
            for place, raw in self._values.items()
            if self._entries[place].restart and raw != self._in_force[place]
        ]

    def _configure(self, slot: int) -> None:
        """Gives a drive what it was told; values that need a restart are those that were there at the start."""
        if slot >= len(self.drives):
            return
        told: dict[tuple[int, int], int] = {}
        for place, of_first, waits in self._of_axis[slot]:
            raw = (self._in_force if waits else self._values)[place]
            if isinstance(raw, int):
                told[of_first] = raw
        signals = self._in_force
        rate = int(signals[Place(*STEP_RATE)])  # Hz
        self.drives[slot].configure(Told(told), float(rate), int(signals[Place(*POWER_DELAY)]))
        self._index.configure(slot, self._values)

    # -- time -----------------------------------------------------------------------------------------------------

    def _judge(self) -> None:
        """Speaks of what the stepping code did by itself since it was last asked: stop, guard, drive trouble."""
        ctl = self._world.controller
        number = int(ctl["hit_input"]) + 1
        if ctl["stop_hit"] and not self._stop_told:
            self._stop_told = True
            for drive in self.drives:
                drive.fault(c.STOP_PRESSED)
            self._emergency(c.STOP_PRESSED, 0, number)
        elif self._stop_told and not ctl["stop"]:
            self._stop_told = False
            for drive in self.drives:
                drive.clear_stop()
            self._node.emcy.reset()
        trouble = int(ctl["trouble"])
        new = int(ctl["trouble_hit"]) & ~self._trouble_told
        if trouble:  # what came back at once is said too
            new |= trouble & sum(1 << drive.slot for drive in self.drives if drive.state.powered)
        if new:
            for drive in self.drives:
                if new & 1 << drive.slot:
                    drive.fault(c.DRIVE_TROUBLE)
                    self._world.firmware[drive.slot]["homed"] = 0
                    self._emergency(c.DRIVE_TROUBLE, drive.slot + 1, number)
                else:
                    drive.quick_stop()
        self._trouble_told = trouble | new
        for drive in self.drives:
            ax = self._world.firmware[drive.slot]
            if ax["limit_hit"]:
                ax["limit_hit"] = 0
                for each in self.drives:
                    each.quick_stop()
                self._emergency(c.LIMIT_MET, drive.slot + 1, int(ax["limit_input"]) + 1)
            if ax["lag_hit"]:
                ax["lag_hit"] = 0
                drive.fault(c.LAGGED)
                for other in self.drives:
                    if other is not drive:
                        other.quick_stop()
                self._emergency(c.LAGGED, drive.slot + 1)
        if ctl["guard_hit"] and ctl["was_running"]:
            self._world.stop_path()
            self._emergency(c.GUARD_OPENED, 0, 0)
        ctl["stop_hit"] = ctl["guard_hit"] = ctl["trouble_hit"] = 0
        self._panel.keep_recording()
        ctl["was_running"] = ctl["run"]
        ctl["faulted"] = any(drive.error for drive in self.drives)

    def tick(self, now: float) -> None:
        """Whatever is due on the wall clock: heartbeats, process data, the end of a restart."""
        if self._restart_at is not None:
            if now < self._restart_at:
                return
            self._restart_at = None
            self._boot()
        self._settle_scaling(now)
        self._writes.tick(now)
        self._judge()
        if self._world.controller["strokes"] != self._memory.oil[0]:
            self.keep_count()
        limits = {sub: (told & 0xFFFF) / 1000 for sub, told in self._consumers.items()}
        late = [sub for sub, heard in self._heard.items() if limits.get(sub) and now - heard > limits[sub]]
        for sub in late:
            del self._heard[sub]
        if late:
            moving = self._world.moving
            self._panel.unheard()
            self._index.unheard()
            for drive in self.drives:
                drive.quick_stop()
            if moving:
                self._emergency(c.CLIENT_LOST)
        if now >= self.due:
            along = now + PDO_PERIOD / 2  # what is due soon goes along: the computer wakes once for both
            if self._producer_ms and along >= self._next_heartbeat:
                self._next_heartbeat = max(self._next_heartbeat + self._producer_ms / 1000, now)
                self._hub.broadcast(c.HEARTBEAT + self.id, bytes((self._nmt,)))
            if self._nmt == _OPERATIONAL and along >= self._next_pdo:
                self._next_pdo = max(self._next_pdo + PDO_PERIOD, now - PDO_PERIOD)
                self._process_data()

    @property
    def due(self) -> float:
        """When it next says something by itself (time.monotonic)."""
        if self._restart_at is not None:
            return self._restart_at
        if not self._hub.lines:
            return math.inf
        return min(
            self._next_heartbeat if self._producer_ms else math.inf,
            self._next_pdo if self._nmt == _OPERATIONAL else math.inf,
        )

    def _process_data(self) -> None:
        if not self._hub.lines:
            return  # nobody hears it
        self._pdo_round += 1
        if self._pdo_round % 25 == 0:  # so that a client that has just come hears what has not changed
            self._sent.clear()
        for drive in self.drives:
            status = struct.pack(c.STATUS_FORMAT, drive.status, drive.position)
            motion = struct.pack(c.MOTION_FORMAT, drive.velocity, self._panel.bits(drive.slot))
            self._say(Pdo(PdoKind.STATUS, drive.slot), status, always=True)
            self._say(Pdo(PdoKind.MOTION, drive.slot), motion)
        for kind, data in self._panel.frames().items():
            self._say(Pdo(kind), data)

    def _say(self, pdo: Pdo, data: bytes, *, always: bool = False) -> None:
        """Process data that has not changed is not sent again."""
        cob = self._cobs[pdo]
        if not cob & OFF and (always or self._sent.get(cob) != data):
            self._sent[cob] = data
            self._hub.broadcast(cob & OWN_SET, data)

    def _emergency(self, code: int, axis: int = 0, number: int = 0) -> None:
        """axis and number of the input that it came from, from 1; 0 where there is none."""
        self._world.hold_flight()
        self._panel.stopped_by = self._panel.stopped_by or code
        self._node.emcy.send(code, 0x01, bytes((axis, number)))
