"""One connection to one controller. Everything here runs on the thread that owns the bus.

The canopen package encodes and decodes SDO; its queue of responses is replaced by one that reads the bus while it waits,
so that heartbeats go on, STOP goes out and frames are heard in the middle of any transfer.
"""

from __future__ import annotations

import contextlib
import struct
import time
from collections import deque
from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any, TypeVar

import can
import canopen
from canopen.sdo import SdoAbortedError, SdoCommunicationError

from idler.core.machine import Shape
from idler.core.table import AXIS_LETTERS, MOST_AXES, MOST_INPUTS, MOST_OUTPUTS, axis_index
from idler.core.wire import cia402 as c
from idler.core.wire import flight
from idler.core.wire import terminals as t
from idler.core.wire.cia301 import SDO_ANSWER, SDO_REQUEST
from idler.core.wire.codec import LETTERS, Place, Raw
from idler.core.wire.concise import IN_FORCE, VALUES, unpack_values
from idler.core.wire.dictionary import dictionary
from idler.core.wire.edges import EdgeBlock, unpack_edges
from idler.core.wire.objects import AXIS_NAME, entries
from idler.core.wire.speeds import unpack_speeds

from .address import Address
from .bus import open_bus
from .errors import LinkError, LinkLost, NobodyAnswers, NotAllowedNow, Overtaken, WriteRefused
from .events import Asked, AxisState, Identity, PanelState
from .sdo import Pump, Responses, abort_text
from .times import Times
from .wire import Frames, Tap

T = TypeVar("T")
OWN_NODE = 126
HEARTBEAT_PERIOD = 0.02  # s


class Client:
    """wait(seconds) is called while time passes: it must call `hear` when the bus has something to read."""

    def __init__(self, address: Address, wait: Pump, times: Times, frames: Frames | None = None) -> None:
        self.address = address
        self._times = times
        self._wait = wait
        self._bus = Tap(open_bus(address), frames or Frames())
        self._network = canopen.Network(bus=self._bus)
        self._dictionary = dictionary(entries(Shape(tuple(AXIS_LETTERS[:MOST_AXES]), MOST_INPUTS, MOST_OUTPUTS)), 1)
        self.axes: list[AxisState] = []
        self.panel = PanelState()
        self.shape = Shape(())
        self.node = 0
        self._remote: Any = None
        self._last_heard = time.monotonic()
        self._next_beat = 0.0
        self._beats = False
        self._limit = 0
        self._mode: dict[int, int] = {}
        self._speed: dict[int, int] = {}
        self._asked = Asked()
        self._endings: dict[int, tuple[int, float]] = {}  # controlword that ends motion, and when it was said first
        self.booted = False
        self.emergencies: deque[bytes] = deque()

    @property
    def names(self) -> tuple[str, ...]:
        return self.shape.names

    def fileno(self) -> int:
        return int(self._bus.fileno())

    def close(self) -> None:
        """Ends the heartbeat politely: the controller is told not to expect it any more."""
        if self._remote is not None and self._beats:
            with contextlib.suppress(LinkError, can.CanError, OSError):
                self.write(Place(0x1016, 1), 0)
        self.abandon()

    def abandon(self) -> None:
        """Lets go of the port without a word to the controller."""
        with contextlib.suppress(can.CanError, OSError):
            self._bus.shutdown()

    # -- the bus --------------------------------------------------------------------------------------------------

    def hear(self) -> None:
        """Takes every frame that has come in. Raises LinkLost where the line is gone."""
        try:
            while (message := self._bus.recv(0)) is not None:
                if not message.is_error_frame and not message.is_remote_frame:
                    self._frame(message.arbitration_id, message.data)
        except (can.CanError, OSError) as why:
            raise LinkLost(f"{self.address}: the line is gone ({why}).") from None

    def beat(self) -> None:
        """Sends Idler's heartbeat when it is due, and looks whether the controller's is missing."""
        now = time.monotonic()
        if self._beats and now >= self._next_beat:
            self._next_beat = now + HEARTBEAT_PERIOD
            self._send(c.HEARTBEAT + OWN_NODE, b"\x05")
            self._insist(now)
        if self._beats and now - self._last_heard > self._times.silence:
            raise LinkLost(f"{self.address}: the controller is not heard any more. Check its power and the cable.")

    def _insist(self, now: float) -> None:
        """Says again what ends something until the controller reports that it has ended: a frame may be lost."""
        for slot, (word, since) in list(self._endings.items()):
            axis = self.axes[slot]
            if axis.moving and (word == c.QUICK_STOP or axis.state is c.State.ENABLED):
                self._control(slot, word)
            elif now - since > self._times.report:
                del self._endings[slot]
        if self._asked == Asked() and self.panel.conditions & (t.Condition.TRYING | t.Condition.SPINDLE):
            self.ask(Asked())

    @property
    def due(self) -> float:
        """Seconds until the next heartbeat."""
        return max(0.0, self._next_beat - time.monotonic()) if self._beats else HEARTBEAT_PERIOD

    def _send(self, identifier: int, data: bytes) -> None:
        try:
            self._network.send_message(identifier, data)
        except (can.CanError, OSError) as why:
            raise LinkLost(f"{self.address}: nothing can be sent ({why}).") from None

    def _frame(self, identifier: int, data: bytearray) -> None:
        base, rest = identifier & 0x780, identifier & 0x7F
        if base == c.HEARTBEAT and rest == self.node:
            self._last_heard = time.monotonic()
            if data and data[0] == 0:
                self.booted = True
            return
        slot, odd = divmod(rest - self.node, c.AXIS_PDO_STEP)
        if base in (c.STATUS_PDO, c.MOTION_PDO) and not odd and 0 <= slot < len(self.axes):
            old = self.axes[slot]
            if base == c.STATUS_PDO and len(data) == 6:
                status, position = struct.unpack(c.STATUS_FORMAT, data)
                self.axes[slot] = AxisState(status, c.position_from(position), old.velocity, old.inputs)
            elif base == c.MOTION_PDO and len(data) == 8:
                velocity, inputs = struct.unpack(c.MOTION_FORMAT, data)
                self.axes[slot] = AxisState(old.status, old.position, c.speed_from(velocity), inputs)
            return
        if base == c.EMERGENCY and rest == self.node and len(data) == 8:
            self.emergencies.append(bytes(data))
            return
        if identifier == t.TERMINAL_PDO + self.node and len(data) == 8:
            closed, energised, conditions = struct.unpack(t.TERMINAL_FORMAT, data)
            self.panel = replace(self.panel, closed=closed, energised=energised, conditions=t.Condition(conditions))
            return
        if identifier == t.LEVEL_PDO + self.node and len(data) == 8:
            self.panel = replace(self.panel, levels=struct.unpack(f"<{t.LEVEL_OUTPUTS}H", data))
            return
        if identifier == t.SPINDLE_PDO + self.node and len(data) == 8:
            counts, tenths = struct.unpack(t.SPINDLE_FORMAT, data)
            self.panel = replace(self.panel, counts=counts, speed=tenths / 10)
            return
        self._network.notify(identifier, data, 0.0)

    # -- single objects -------------------------------------------------------------------------------------------

    def _variable(self, where: Place) -> Any:
        try:
            found = self._remote.sdo[where.index]
            return found if isinstance(found, canopen.sdo.SdoVariable) else found[where.sub]
        except KeyError:
            raise WriteRefused(f"{where}: there is no such object in this profile.") from None

    def read(self, where: Place, label: str = "") -> Raw:
        """One object. Raises LinkError with the label and what the controller said."""
        try:
            raw = self._variable(where).raw
        except SdoAbortedError as why:
            raise WriteRefused(f"{label or where}: the controller does not give it ({abort_text(why)}).") from None
        except SdoCommunicationError:
            raise LinkLost(f"{self.address}: the controller did not answer for {label or where}.") from None
        return raw if isinstance(raw, str) else int(raw)

    def write(self, where: Place, raw: Raw, label: str = "") -> None:
        """One object. Raises LinkError with the label and what the controller said."""
        try:
            self._variable(where).raw = raw
        except SdoAbortedError as why:
            raise WriteRefused(f"{label or where}: the controller refused {raw} ({abort_text(why)}).") from None
        except SdoCommunicationError:
            raise LinkLost(f"{self.address}: the controller did not answer for {label or where}.") from None

    def _block(self, where: Place, label: str, unpack: Callable[[bytes], T]) -> T:
        """A long object, read as a block (CiA 301, 7.2.4.3.9). Raises LinkLost where it does not come, or comes spoilt."""
        lost = LinkLost(f"{self.address}: the controller did not give its {label}.")
        variable = self._variable(where)
        try:
            with variable.open("rb", block_transfer=True) as block:
                data = block.read()
        except (SdoAbortedError, SdoCommunicationError):
            raise lost from None
        except AttributeError:  # canopen 2.4 stumbles over a name of its own where the end of a block never comes
            raise lost from None
        try:
            return unpack(data)
        except ValueError:
            raise lost from None

    def values(self) -> dict[Place, Raw]:
        """Every value that the controller keeps, of the axes that it has in use. Raises like `_block`."""
        return self._values(VALUES)

    def in_force(self) -> dict[Place, Raw]:
        """What is in force instead of each value that waits for a restart. Raises like `_block`."""
        return self._values(IN_FORCE)

    def _values(self, place: Place) -> dict[Place, Raw]:
        found = self._block(place, "values", unpack_values)
        return {where: self._decode(where, data) for where, data in found.items()}

    def _decode(self, where: Place, data: bytes) -> Raw:
        raw = self._variable(where).od.decode_raw(data)
        return raw if isinstance(raw, str) else int(raw)

    # -- connecting -----------------------------------------------------------------------------------------------

    def identify(self) -> Identity:
        """Looks for the controller and asks who it is; from here on the heartbeat goes both ways."""
        self.node = self._search()
        self._attach()
        self._take_shape()
        say = self.read
        vendor, product, revision, serial = (int(say(Place(0x1018, sub), "identity")) for sub in (1, 2, 3, 4))
        identity = Identity(
            str(self.address), self.node, str(say(Place(0x1008, 0))), str(say(Place(0x1009, 0))), str(say(Place(0x100A, 0))),
            vendor, product, revision, serial, self.names,
        )  # fmt: skip
        self.expect_heartbeat()
        self._read_panel()
        return identity

    def _take_shape(self) -> None:
        """Which axes and terminals the controller has; all of them are unheard as yet."""
        say = self.read
        count = int(say(Place(0x2000, 1), "number of axes"))
        if not 1 <= count <= MOST_AXES:
            raise LinkError(
                f"{self.address}: the controller says that it has {count} axes; 1 to {MOST_AXES} can be used."
            )
        names = tuple(
            str(say(Place(axis_index(AXIS_NAME.index, slot), AXIS_NAME.sub), "axis letter")) for slot in range(count)
        )
        inputs, outputs = (int(say(Place(0x2000, sub), "number of terminals")) for sub in (3, 4))
        self.shape = Shape(names, inputs, outputs)
        self.axes = [AxisState() for _ in range(count)]

    def _read_panel(self) -> None:
        """The terminals as they are: process data tells only what changes."""
        closed, energised, conditions = (
            int(self.read(place, "terminals now")) for place in (t.LEVELS_NOW, t.OUTPUTS_NOW, t.CONDITIONS)
        )
        self.panel = PanelState(closed, energised, t.Condition(conditions))

    def expect_heartbeat(self) -> None:
        """Tells the controller to stop motion when Idler is not heard (1016h), and begins to be heard."""
        self._mode.clear()
        self._speed.clear()
        self._limit = 0
        self._expect(self._times.motion)
        self._beats = True
        self._last_heard = time.monotonic()
        self.beat()

    def _expect(self, seconds: float) -> None:
        """How long the controller goes on without hearing Idler."""
        milliseconds = round(1000 * seconds)
        if self._limit != milliseconds:
            self.write(Place(0x1016, 1), OWN_NODE << 16 | milliseconds, "consumer heartbeat time")
            self._limit = milliseconds

    def _attach(self) -> None:
        remote = canopen.RemoteNode(self.node, self._dictionary)
        self._network.add_node(remote)
        remote.sdo.responses = Responses(self._wait)
        remote.sdo.RESPONSE_TIMEOUT = self._times.answer
        remote.sdo.MAX_RETRIES = 1
        self._remote = remote

    def _search(self) -> int:
        """Asks nodes 1 to 15 for their device type (1000h) all at once; the first that answers is it."""
        answered: list[int] = []
        for node in range(1, c.HIGHEST_NODE + 1):
            self._network.subscribe(SDO_ANSWER + node, lambda cob, _data, _time: answered.append(cob - SDO_ANSWER))
        for patience in self._times.search:
            for node in range(1, c.HIGHEST_NODE + 1):
                self._send(SDO_REQUEST + node, bytes((0x40, 0x00, 0x10, 0, 0, 0, 0, 0)))
            deadline = time.monotonic() + patience
            while not answered and time.monotonic() < deadline:
                self._wait(deadline - time.monotonic())
            if answered:
                break
        for node in range(1, c.HIGHEST_NODE + 1):
            self._network.unsubscribe(SDO_ANSWER + node)
        if not answered:
            raise NobodyAnswers(
                f"{self.address}: the port is open, but no controller answers at {self.address.rate // 1000} kbit/s. "
                "Check its power, the bus ends, and the bit rate: write ?bitrate=250000 behind the address to try another."
            )
        return answered[0]

    # -- restart and power ----------------------------------------------------------------------------------------

    def restart(self) -> None:
        """Resets the controller (NMT reset node) and waits until it is back."""
        if any(axis.moving for axis in self.axes):
            raise NotAllowedNow("The controller is restarted only while nothing moves.")
        self.booted = False
        self._beats = False
        self._send(0, bytes((0x81, self.node)))
        deadline = time.monotonic() + self._times.return_
        while not self.booted:
            if time.monotonic() > deadline:
                raise LinkLost(
                    f"{self.address}: the controller did not come back within {self._times.return_:.0f} s of its restart."
                )
            self._wait(0.05)
        self.back_again()

    def back_again(self) -> None:
        self.booted = False
        self._take_shape()
        self.panel, self._asked = PanelState(), Asked()
        self._endings.clear()
        self.expect_heartbeat()
        self._read_panel()

    def power(self, on: bool, wanted: Callable[[], bool] = lambda: True) -> None:
        """Takes all drives to "operation enabled" or off. Raises NotAllowedNow with the reason that a drive gives."""
        if on and not wanted():
            raise Overtaken("STOP came first.")
        self._endings.clear()
        if on and LETTERS in self.in_force():
            raise NotAllowedNow("The controller was given other axes, and waits for a restart. Restart it first.")
        words = (c.FAULT_RESET, c.SHUTDOWN, c.SWITCH_ON, c.ENABLE) if on else (c.DISABLE_VOLTAGE,)
        for word in words:
            for slot in range(len(self.names)):
                self._control(slot, word)
        deadline = time.monotonic() + self._times.power
        aim = c.State.ENABLED if on else c.State.OFF
        while any(axis.state is not aim for axis in self.axes):
            if time.monotonic() > deadline or (on and any(axis.stop_pressed for axis in self.axes)):
                raise NotAllowedNow(self._why_not(aim))
            self._wait(0.02)

    def _why_not(self, wanted: c.State) -> str:
        slot = next(slot for slot, axis in enumerate(self.axes) if axis.state is not wanted)
        axis = self.axes[slot]
        if axis.stop_pressed:
            return "The drives stay off: the emergency stop is pressed. Release it at the machine, then power the drives again."
        code = int(self.read(Place(axis_index(c.ERROR_CODE, slot), 0), "error code"))
        return f"The drive of {self.names[slot]} does not follow: {c.fault_text(code)}."

    # -- motion ---------------------------------------------------------------------------------------------------

    def _control(self, slot: int, word: int, velocity: int = 0) -> None:
        at = c.VELOCITY_PDO + self.node + c.AXIS_PDO_STEP * slot
        self._send(at, struct.pack(c.TARGET_FORMAT, word, velocity))

    def stop(self) -> None:
        """Quick stop of every axis, spindle off, no output tried; needs no answer of the controller."""
        for slot in range(len(self.names)):
            self._control(slot, c.QUICK_STOP)
            self._endings[slot] = c.QUICK_STOP, time.monotonic()
        self.ask(Asked())

    def _ready(self, slot: int, mode: int) -> None:
        state = self.axes[slot].state
        if not state.powered:
            reason = "the emergency stop is pressed" if self.axes[slot].stop_pressed else "the drives are off"
            raise NotAllowedNow(f"{self.names[slot]} cannot move: {reason}. Power the drives first.")
        if self._mode.get(slot) != mode:
            self.write(Place(axis_index(c.MODE, slot), 0), mode, f"mode of {self.names[slot]}")
            self._mode[slot] = mode

    def _begin(self, slot: int, wanted: Callable[[], bool]) -> None:
        """The last look before motion: nothing that takes time comes after it, so STOP cannot slip in between."""
        if not wanted():
            raise Overtaken("STOP came first.")
        self._endings.pop(slot, None)
        if self.axes[slot].state is not c.State.ENABLED:
            self._control(slot, c.ENABLE)

    def jog_hold(self, slot: int, velocity: float, wanted: Callable[[], bool] = lambda: True) -> None:
        """Moves at a velocity (mm/min or °/min, signed) until `let_go`. Raises Overtaken where it is not wanted any more."""
        self._ready(slot, c.MODE_VELOCITY)
        self._expect(self._times.hold)
        self._begin(slot, wanted)
        self._control(slot, c.ENABLE, c.raw_speed(velocity))

    def let_go(self, slot: int) -> None:
        """Ends a held jog with the usual deceleration."""
        if self._mode.get(slot) == c.MODE_VELOCITY and self.axes[slot].state is c.State.ENABLED:
            self._control(slot, c.ENABLE)
            self._endings[slot] = c.ENABLE, time.monotonic()

    def jog_step(
        self, slot: int, distance: float, speed: float, wanted: Callable[[], bool] = lambda: True, *, seek: bool = False
    ) -> None:
        """Moves by a distance (mm or °, signed) at a speed (mm/min or °/min). Steps asked for while moving add up.

        seek: the move ends at the next edge of the axis's home switch or index mark.
        Raises Overtaken where it is not wanted any more.
        """
        self._ready(slot, c.MODE_POSITION)
        self._expect(self._times.motion)
        raw = c.raw_speed(speed)
        if self._speed.get(slot) != raw:
            self.write(Place(axis_index(c.PROFILE_SPEED, slot), 0), raw, f"jog speed of {self.names[slot]}")
            self._speed[slot] = raw
        self._begin(slot, wanted)
        at = c.POSITION_PDO + self.node + c.AXIS_PDO_STEP * slot
        target = c.raw_position(distance)
        self._send(at, struct.pack(c.TARGET_FORMAT, c.ENABLE, target))
        word = c.ENABLE | c.NEW_SETPOINT | c.AT_ONCE | c.RELATIVE | (c.UNTIL_SWITCH if seek else 0)
        self._send(at, struct.pack(c.TARGET_FORMAT, word, target))

    # -- terminals ------------------------------------------------------------------------------------------------

    def ask(self, asked: Asked) -> None:
        """Asks for spindle and outputs; sends one frame and waits for nothing."""
        self._asked = asked
        self._send(t.COMMAND_PDO + self.node, struct.pack(t.COMMAND_FORMAT, *asked))

    def hold(self, asked: Asked, wanted: Callable[[], bool] = lambda: True) -> None:
        """Asks for something that must end when nobody holds it: the controller ends it too when Idler is not heard.

        Raises Overtaken where STOP came first.
        """
        self._expect(self._times.terminals)
        if not wanted():
            raise Overtaken("STOP came first.")
        self.ask(asked)

    def let_go_of_outputs(self) -> None:
        """Ends whatever is asked of the terminals."""
        if self._asked != Asked():
            self.ask(Asked())

    def edges_from(self, number: int) -> None:
        """The next block of edges will begin with this one."""
        self.write(t.NEXT_EDGE, number, "next edge")

    def edges(self) -> EdgeBlock:
        """The next block of edges of the inputs."""
        return self._block(t.EDGES, "edges", unpack_edges)

    def speeds(self) -> list[tuple[float, float]]:
        """The spindle since it was told something else: seconds and rpm, by its encoder."""
        return self._block(t.SPEED_RECORD, "record of speeds", unpack_speeds)

    def flight_state(self) -> flight.State:
        """Whether something has stopped the machine, and its record is whole."""
        return flight.State(int(self.read(flight.FLIGHT_STATE, "state of the flight record")))

    def take_flight(self) -> bytes:
        """The flight record that is held; the controller lets it go with that."""
        data = self._block(flight.FLIGHT, "flight record", bytes)
        self.write(flight.FLIGHT_GO, 1, "letting the flight record go")
        return data

    def following_error(self, slot: int) -> float:
        """How far an axis is behind, in mm (or °)."""
        return c.position_from(int(self.read(Place(axis_index(c.FOLLOWING_ERROR, slot), 0), "following error")))

    def try_values(self, values: Mapping[Place, Raw]) -> None:
        """Writes values that are not stored: they last until something else is written, or the controller restarts."""
        for where, raw in values.items():
            self.write(where, raw)

    def home_here(self, slot: int) -> None:
        """Gives the place where the axis stands its home coordinate (homing method 37 of CiA 402-2).

        The method that it was told is put back afterwards; nothing is stored.
        """
        if self.axes[slot].moving:
            raise NotAllowedNow(f"{self.names[slot]} is moving; its home can be set only at rest.")
        method = Place(axis_index(0x6098, slot), 0)
        told = self.read(method, "homing method")
        self.write(method, 37, "homing method")
        try:
            self.home(slot, lambda: True)
        finally:
            self.write(method, told, "homing method")

    def home(self, slot: int, wanted: Callable[[], bool]) -> None:
        """Begins the homing that the axis was told; how it goes and ends is in its inputs. Raises Overtaken after STOP."""
        if self.axes[slot].moving:
            raise NotAllowedNow(f"{self.names[slot]} is moving; it can be homed only from rest.")
        self._ready(slot, c.MODE_HOMING)
        self._expect(self._times.motion)
        self._begin(slot, wanted)
        where = Place(axis_index(c.CONTROL, slot), 0)
        self.write(where, c.ENABLE, f"controlword of {self.names[slot]}")
        self.write(where, c.ENABLE | c.NEW_SETPOINT, f"controlword of {self.names[slot]}")
        self.write(where, c.ENABLE, f"controlword of {self.names[slot]}")
