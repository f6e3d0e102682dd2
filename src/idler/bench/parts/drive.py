"""A plain drive of the bench (CiA 402): one axis in units of its own, increments of its encoder."""

from __future__ import annotations

from typing import Any

from canopen.sdo import SdoAbortedError

from idler.core.machine import Machine
from idler.core.profile import cia301 as a
from idler.core.profile import cia402 as c
from idler.core.profile.codec import image
from idler.core.profile.homing import HomingResult
from idler.core.table import ACCELERATION_STEP, AXIS, POSITION_STEP, SPEED_STEP

from ..objects.drive import Drive
from ..objects.told import Told, place_of
from ..rigs.parttruth import DriveTruth, MakersCare
from ..wire.hub import Hub
from ..world import World
from . import reports
from .node import PartNode, identity
from .object import Kept, Object
from .sheet import sheet_text

UNIT = 1 / float(
    POSITION_STEP
)  # counts of a "mm" in which one count is the smallest position that the motion code knows
_ATTAINED, _ERROR = 0x1000, 0x2000
_STAYS_ON = (5, 6, 7, 8)  # quick stop options (605Ah) after which it keeps its power
_COASTS = 0
_NO_METHOD = 0x06090030
_NOT_VALID, _CONTROLWORD, _STATUSWORD = 1 << 31, 0x60400010, 0x60410010
EXTERNAL = 0x9000  # its safe torque off was opened
_METHODS = (23, 27, 7, 11, 37)
_AT_STOPS = {-17: -1, -18: -2}  # its maker's own methods, and what the motion code calls them


class PartDrive(PartNode):
    def __init__(self, hub: Hub, world: World, slot: int, truth: DriveTruth, bits: Any) -> None:
        """bits: digital inputs 60FDh of an axis, as the world says it."""
        self._world, self.slot, self.truth, self._bits = world, slot, truth, bits
        self.drive = Drive(world, slot)
        self._methods = (*_METHODS, *(_AT_STOPS if truth.meets_stops else ()))
        objects: dict[Object, Kept] = {
            **identity(0x00020192, truth.product, truth.serial, 0x10000),
            (0x1017, 0): Kept(2, 200, stored=True),
            (0x1010, 0): Kept(1, 1, writable=False), (0x1010, 1): Kept(4, 1),
            (0x6007, 0): Kept(2, 1, signed=True), (c.ERROR_CODE, 0): Kept(2, 0, writable=False),
            (c.CONTROL, 0): Kept(2, 0), (c.STATUS, 0): Kept(2, 0, writable=False),
            (c.QUICK_STOP_OPTION, 0): Kept(2, 2, signed=True, stored=True),
            (c.MODE, 0): Kept(1, c.MODE_POSITION, signed=True), (c.MODE_SHOWN, 0): Kept(1, 0, signed=True, writable=False),
            (c.POSITION, 0): Kept(4, 0, signed=True, writable=False), (c.VELOCITY, 0): Kept(4, 0, signed=True, writable=False),
            (c.FOLLOWING_ERROR, 0): Kept(4, 0, signed=True, writable=False),
            (c.TORQUE, 0): Kept(2, 0, signed=True, writable=False), (c.SUPPLY, 0): Kept(4, truth.supply, writable=False),
            (c.TARGET_POSITION, 0): Kept(4, 0, signed=True), (c.TARGET_VELOCITY, 0): Kept(4, 0, signed=True),
            (c.PROFILE_SPEED, 0): Kept(4, 40_000), (c.DIGITAL_INPUTS, 0): Kept(4, 0, writable=False),
            (c.MODES_KNOWN, 0): Kept(4, 0b100101, writable=False),
            (0x607C, 0): Kept(4, 0, signed=True), (0x607F, 0): Kept(4, 400_000, stored=True),
            (0x6080, 0): Kept(4, 3000, stored=True),
            (0x6083, 0): Kept(4, 400_000, stored=True), (0x6084, 0): Kept(4, 400_000, stored=True),
            (0x6085, 0): Kept(4, 1_200_000, stored=True), (0x6086, 0): Kept(2, 0, signed=True, stored=True),
            (0x6065, 0): Kept(4, 20_000, stored=True), (0x6066, 0): Kept(2, 50, stored=True),
            (0x607D, 0): Kept(1, 2, writable=False), (0x607D, 1): Kept(4, -(2**31), signed=True, stored=True),
            (0x607D, 2): Kept(4, 2**31 - 1, signed=True, stored=True),
            (0x6098, 0): Kept(1, 23, signed=True, stored=True),
            (0x6099, 0): Kept(1, 2, writable=False), (0x6099, 1): Kept(4, 8_000, stored=True),
            (0x6099, 2): Kept(4, 800, stored=True), (0x609A, 0): Kept(4, 100_000, stored=True),
            (0x60E3, 0): Kept(1, len(self._methods), writable=False),
            **{(0x60E3, n): Kept(1, method, signed=True, writable=False) for n, method in enumerate(self._methods, 1)},
        }  # fmt: skip
        if truth.tells_units:
            objects[0x608F, 0] = Kept(1, 2, writable=False)
            objects[0x608F, 1], objects[0x608F, 2] = Kept(4, truth.counts), Kept(4, 1)
            objects[0x60A9, 0] = Kept(4, 0x00B50300)
        if truth.maps:
            for number, cob, first in ((0, 0x200 + truth.node, _CONTROLWORD), (1, _NOT_VALID | 0x300 + truth.node, 0)):
                objects[0x1400 + number, 0] = Kept(1, 2, writable=False)
                objects[0x1400 + number, 1], objects[0x1400 + number, 2] = (
                    Kept(4, cob, stored=True),
                    Kept(1, 255, stored=True),
                )
                objects[0x1600 + number, 0] = Kept(1, int(first != 0), stored=True)
                objects |= {(0x1600 + number, sub): Kept(4, first if sub == 1 else 0, stored=True) for sub in (1, 2)}
            objects |= reports.of(truth.node, _STATUSWORD)
        if truth.guarded:
            objects[0x100C, 0], objects[0x100D, 0] = Kept(2, 0), Kept(1, 0)
        if truth.listens:
            objects[0x1016, 0] = Kept(1, 2, writable=False)
            objects[0x1016, 1] = objects[0x1016, 2] = Kept(4, 0)
        texts = {0x1008: truth.name}
        if truth.sheet is not MakersCare.NONE:
            texts[0x1021] = sheet_text(truth.name, (0x5A5, truth.product), objects, truth.sheet)
            objects[0x1022, 0] = Kept(1, 0, writable=False)
        super().__init__(hub, truth.node, texts, objects, truth.says)
        self.refuse_moving = lambda: not truth.stores_powered and self.drive.state.powered

    def boot(self) -> None:
        self._world.freeze(self.slot)
        self.drive = Drive(self._world, self.slot)
        ax = self._world.firmware[self.slot]
        ax["steps"] = ax["bare_position"] = ax["position"] = 0
        ax["homed"] = ax["limit_chain"] = 0
        self._struck = False
        super().boot()

    def told(self) -> None:
        """Hands its values to the motion code, which knows the table's units."""
        raws: dict[tuple[int, int], int] = {
            (where.index, where.sub): raw for where, raw in image(Machine(("X",))).items() if isinstance(raw, int)
        }
        value = self.values

        def put(key: str, raw: float) -> None:
            raws[place_of(AXIS[key])] = round(raw)

        turn = int(self._world.plant[self.slot]["counts_per_turn"])
        raws |= {(0x608F, 1): turn, (0x608F, 2): 1, (0x6091, 1): 1, (0x6091, 2): 1, (0x6092, 1): turn, (0x6092, 2): 1}
        for key, index in (("acceleration", 0x6083), ("deceleration", 0x6084), ("stop_deceleration", 0x6085)):
            put(f"pace.{key}", value[index, 0] / UNIT / float(ACCELERATION_STEP))
        put("homing.acceleration", value[0x609A, 0] / UNIT / float(ACCELERATION_STEP))
        for key, where in (
            ("pace.top_speed", (0x607F, 0)),
            ("homing.approach", (0x6099, 1)),
            ("homing.touch", (0x6099, 2)),
        ):
            put(key, value[where] / UNIT * 60 / float(SPEED_STEP))
        put("pace.motor_speed", value[0x6080, 0])
        for key, turns in (("back_off", 0.4), ("leave", 0.2), ("search", 2000.0), ("index_within", 1.5)):
            put(f"homing.{key}", turns * turn / UNIT / float(POSITION_STEP))
        put("axis.output", self.slot + 1)
        put("loop.measured", 1)
        put("loop.window", value[0x6065, 0])
        put("loop.window_time", value[0x6066, 0])
        method = value[0x6098, 0]
        raws[0x6098, 0] = _AT_STOPS.get(method, method) if method in self._methods else 37
        self.drive.configure(Told(raws), 1e9, 0)

    def live(self, where: Object) -> int | None:
        index, sub = where
        if sub:
            return None
        drive = self.drive
        if index == c.STATUS:
            return self._status()
        if index == c.VELOCITY:
            return round(c.speed_from(drive.velocity) / 60 * UNIT)
        if index == c.DIGITAL_INPUTS:
            return int(self._bits(self.slot)) & 0x7
        names = {c.POSITION: "position", c.FOLLOWING_ERROR: "following_error", c.TORQUE: "torque", c.ERROR_CODE: "error",
                 c.MODE_SHOWN: "mode"}  # fmt: skip
        return int(getattr(drive, names[index])) if index in names else None

    def _status(self) -> int:
        ax, word = self._world.firmware[self.slot], self.drive.status & ~(c.HOMED | c.MOVING)
        if self.drive.mode == c.MODE_HOMING:
            word &= ~(_ATTAINED | c.TARGET_REACHED)
            if not ax["homing"] and not ax["moving"]:
                result = int(ax["home_result"])
                bad = result not in (HomingResult.NONE.raw, HomingResult.FOUND.raw)
                word |= c.TARGET_REACHED | (_ERROR if bad else _ATTAINED if ax["homed"] else 0)
        return word

    def order(self, where: Object, raw: int) -> bool:
        index, sub = where
        drive = self.drive
        if index == c.CONTROL:
            if self.operational:
                self._control(raw)
            return True
        if index == c.MODE and not drive.set_mode(raw):
            raise SdoAbortedError(a.NOT_IN_THIS_STATE)
        if 0x1600 <= index < 0x1800 and not self.values[index - 0x200, 1] & _NOT_VALID:
            raise SdoAbortedError(a.NOT_IN_THIS_STATE)  # what is heard is not mapped anew meanwhile
        if index == 0x6098 and raw not in self._methods:
            raise SdoAbortedError(_NO_METHOD)
        if index == c.TARGET_POSITION:
            drive.target_position = raw
        elif index == c.TARGET_VELOCITY:
            drive.set_velocity(round(raw / UNIT * 60 / float(SPEED_STEP)))
        elif index == c.PROFILE_SPEED:
            drive.profile_speed = round(raw / UNIT * 60 / float(SPEED_STEP))
        elif index in (0x6007, 0x1016, c.QUICK_STOP_OPTION, c.MODE):
            return False
        elif sub == 0 and self.drive.state.powered and index in (0x608F,):
            raise SdoAbortedError(a.NOT_IN_THIS_STATE)
        return False

    def process_data(self, identifier: int, data: bytes) -> None:
        for index in (0x1400, 0x1401):
            mapped = index + 0x200
            heard = self.values.get((index, 1)) == identifier and self.values[mapped, 0] and len(data) >= 2
            if heard and self.values[mapped, 1] == _CONTROLWORD:
                self._control(int.from_bytes(data[:2], "little"))

    def _control(self, word: int) -> None:
        if not word & 0x04 and word & 0x02 and self.values[c.QUICK_STOP_OPTION, 0] == _COASTS:
            word = 0
        self.drive.home_coordinate = self.values[0x607C, 0]
        self.drive.control(word)

    def unheard(self) -> None:
        if self.values[0x6007, 0] == 3:
            moving = bool(self._world.firmware[self.slot]["moving"])
            self.drive.quick_stop()
            if moving:
                self.emergency(c.CLIENT_LOST)

    def halts(self) -> None:
        if self.values[0x6007, 0]:
            self.drive.quick_stop()

    def tick(self, now: float) -> None:
        ax = self._world.firmware[self.slot]
        stays = self.values[c.QUICK_STOP_OPTION, 0] in _STAYS_ON
        if self.drive.state is c.State.QUICK_STOP and not ax["moving"] and not stays:
            self.drive.control(c.DISABLE_VOLTAGE)
        if ax["lag_hit"]:
            ax["lag_hit"] = 0
            self.drive.fault(c.LAGGED)
            self.emergency(c.LAGGED)
        if ax["limit_hit"]:
            ax["limit_hit"] = 0
            self.drive.quick_stop()
        super().tick(now)

    def torque_off(self, off: bool) -> None:
        """Its safe torque off: wired to the emergency stop."""
        if off and not self._struck:
            self.drive.fault(EXTERNAL)
            self.emergency(EXTERNAL)
        elif self._struck and not off:
            self.emergency(0)
        self._struck = off
