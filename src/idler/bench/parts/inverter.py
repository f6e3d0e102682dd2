"""An inverter of the bench that turns the spindle (CiA 402): in velocity mode, or in profile velocity mode."""

from __future__ import annotations

from canopen.sdo import SdoAbortedError

from idler.core.profile import cia301 as a
from idler.core.profile import cia402 as c

from ..rigs.parttruth import InverterTruth, Speaks
from ..wire.hub import Hub
from ..world import World
from .node import PartNode, identity
from .object import Kept, Object

EXTERNAL = 0x9000  # its safe torque off was opened
_VL_TARGET, _VL_ACTUAL, _RAMPED, _HELD = 0x6042, 0x6044, 0x70, 1 << 30
_STANDS = 5.0  # rpm of its motor
_STAYS_ON = (5, 6, 7, 8)  # quick stop options (605Ah) after which it keeps its power


class PartInverter(PartNode):
    def __init__(self, hub: Hub, world: World, truth: InverterTruth, serial: int) -> None:
        self._world, self.truth = world, truth
        self.state, self._error, self._word, self._struck = c.State.OFF, 0, 0, False
        vl = truth.speaks is Speaks.TURNS
        objects: dict[Object, Kept] = {
            **identity(0x00010192, 0x40F, serial), (0x1017, 0): Kept(2, 200),
            (0x6007, 0): Kept(2, 0, signed=True), (c.ERROR_CODE, 0): Kept(2, 0, writable=False),
            (c.CONTROL, 0): Kept(2, 0), (c.STATUS, 0): Kept(2, 0, writable=False),
            (c.QUICK_STOP_OPTION, 0): Kept(2, 2, signed=True),
            (c.MODE, 0): Kept(1, 0, signed=True), (c.MODE_SHOWN, 0): Kept(1, 0, signed=True, writable=False),
            (c.MODES_KNOWN, 0): Kept(4, 0b10 if vl else 0b100, writable=False),
        }  # fmt: skip
        if vl:
            objects |= {
                (_VL_TARGET, 0): Kept(2, 0, signed=True), (_VL_ACTUAL, 0): Kept(2, 0, signed=True, writable=False),
                (0x6046, 0): Kept(1, 2, writable=False), (0x6046, 1): Kept(4, 0), (0x6046, 2): Kept(4, truth.fastest),
                (0x604C, 0): Kept(1, 2, writable=False), **{(0x604C, sub): Kept(4, 1, signed=True) for sub in (1, 2)},
            }  # fmt: skip
        else:
            objects |= {
                (c.TARGET_VELOCITY, 0): Kept(4, 0, signed=True), (c.VELOCITY, 0): Kept(4, 0, signed=True, writable=False),
                (0x608F, 0): Kept(1, 2, writable=False), (0x608F, 1): Kept(4, truth.counts), (0x608F, 2): Kept(4, 1),
                (0x6080, 0): Kept(4, truth.fastest),
            }  # fmt: skip
        if truth.listens:
            objects[0x1016, 0], objects[0x1016, 1] = Kept(1, 1, writable=False), Kept(4, 0)
        super().__init__(hub, truth.node, {0x1008: "Inverter 0.8"}, objects)

    def boot(self) -> None:
        self.state, self._error, self._word, self._struck = c.State.OFF, 0, 0, False
        super().boot()

    def told(self) -> None:
        """Has the motor follow: the ramps of the world are its own."""
        spindle = self._world.spindle
        rpm = self._target if self.state is c.State.ENABLED and self.values[c.MODE, 0] == self._mode else 0.0
        if self.truth.speaks is Speaks.TURNS and self._word & _RAMPED != _RAMPED:
            rpm = 0.0
        most = min(self.truth.fastest, float(spindle["top"]))
        rpm = min(max(rpm, -most), most)
        spindle["bus_run"] = (rpm > 0) - (rpm < 0)
        spindle["bus_level"] = abs(rpm) / spindle["top"]
        spindle["bus_left"] = _HELD

    @property
    def _mode(self) -> int:
        return 2 if self.truth.speaks is Speaks.TURNS else 3

    @property
    def _target(self) -> float:
        if self.truth.speaks is Speaks.TURNS:
            return self.values[_VL_TARGET, 0] * self.values[0x604C, 1] / self.values[0x604C, 2]
        return self.values[c.TARGET_VELOCITY, 0] * 60 / self.truth.counts

    def live(self, where: Object) -> int | None:
        motor = float(self._world.spindle["motor"])
        match where[0]:
            case c.STATUS:
                return self.state.value[1] | c.TARGET_REACHED
            case c.ERROR_CODE:
                return self._error
            case c.MODE_SHOWN:
                return self.values[c.MODE, 0]
            case 0x6044:
                return round(motor * self.values[0x604C, 2] / self.values[0x604C, 1])
            case c.VELOCITY:
                return round(motor / 60 * self.truth.counts)
        return None

    def order(self, where: Object, raw: int) -> bool:
        if where[0] == c.CONTROL:
            if self.operational:
                self._control(raw)
                self.told()
            return True
        if where[0] == c.MODE and raw != self._mode:
            raise SdoAbortedError(a.BAD_VALUE)
        return False

    def _control(self, word: int) -> None:
        reset, self._word = word & 0x80 and not self._word & 0x80, word
        if self.state is c.State.FAULT:
            if reset and not self._struck:
                self.state, self._error = c.State.OFF, 0
            return
        on = self.state is c.State.ENABLED
        if not word & 0x02:
            self.state = c.State.OFF
        elif not word & 0x04:
            self.state = c.State.QUICK_STOP if on or self.state is c.State.QUICK_STOP else c.State.OFF
        elif word & 0x0F == c.SHUTDOWN and self.state is not c.State.QUICK_STOP:
            self.state = c.State.READY
        elif word & 0x0F == c.SWITCH_ON and self.state in (c.State.READY, c.State.ENABLED):
            self.state = c.State.SWITCHED_ON
        elif word & 0x0F == c.ENABLE and self.state in (c.State.SWITCHED_ON, c.State.QUICK_STOP):
            self.state = c.State.ENABLED

    def unheard(self) -> None:
        if self.values[0x6007, 0] == 3 and self.state is c.State.ENABLED and not self.truth.deaf:
            turned = abs(float(self._world.spindle["motor"])) > _STANDS
            self.state = c.State.QUICK_STOP
            self.told()
            if turned:
                self.emergency(c.CLIENT_LOST)

    def halts(self) -> None:
        if self.state is c.State.ENABLED:
            self.state = c.State.QUICK_STOP
        self.told()

    def tick(self, now: float) -> None:
        stands = abs(float(self._world.spindle["motor"])) <= _STANDS
        if self.state is c.State.QUICK_STOP and stands and self.values[c.QUICK_STOP_OPTION, 0] not in _STAYS_ON:
            self.state = c.State.OFF
        super().tick(now)

    def torque_off(self, off: bool) -> None:
        """Its safe torque off: wired to the emergency stop."""
        if off and not self._struck:
            self.fault(EXTERNAL)
        elif self._struck and not off:
            self.emergency(0)
        self._struck = off

    def fault(self, code: int) -> None:
        self.state, self._error = c.State.FAULT, code
        self.told()
        self.emergency(code)
