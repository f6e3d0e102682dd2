"""Motion of the axes by CiA 402: power, jogging, homing, stopping, by the process data and objects of one controller."""

from __future__ import annotations

import struct
import time
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from idler.core.profile import cia402 as c
from idler.core.profile.codec import LETTERS, Place
from idler.core.profile.homing import FORGET
from idler.core.profile.indexing import AS_THEY_ARE, GO, LINES_AS, index_place
from idler.core.profile.pdo import Pdo, PdoKind
from idler.core.table import axis_index

from ..errors import NoAnswer, NotAllowedNow, Overtaken
from .objects import always

if TYPE_CHECKING:
    from .client import Client


STUBBORN = 0.06  # s that an axis goes on after STOP before it is told by SDO as well
DEAF = 0.25  # s after which its node is stopped
FRESH = 0.05  # s: an older report does not say that it still goes on

_ALL = (c.FAULT_RESET, c.SHUTDOWN, c.SWITCH_ON, c.ENABLE)
# what is left where a drive is on its way, or stopped (CiA 402-2, transitions 3, 4 and 16): it is not led back first
_LEFT: dict[c.State | None, tuple[int, ...]] = {
    c.State.READY: (c.SWITCH_ON, c.ENABLE),
    c.State.SWITCHED_ON: (c.ENABLE,),
    c.State.QUICK_STOP: (c.ENABLE,),
}


class Drives:
    """wanted, in what moves: asked just before the first frame of motion; False where STOP came meanwhile."""

    def __init__(self, client: Client) -> None:
        self._client, self._objects = client, client.objects
        self._mode: dict[int, int] = {}  # what each axis was told last; unknown after a restart
        self._speed: dict[int, int] = {}
        self._endings: dict[int, tuple[int, float]] = {}  # controlword that ends motion, and when it was said first

    def forget(self) -> None:
        """The controller has started anew: nothing of what it was told holds any more."""
        self._mode.clear()
        self._speed.clear()
        self._endings.clear()

    def insist(self, now: float) -> None:
        """Says again what ends motion until the controller reports that it has ended: a frame may be lost."""
        stubborn = 0.0
        for slot, (word, since) in list(self._endings.items()):
            axis = self._client.axes[slot]
            if axis.moving and (word == c.QUICK_STOP or axis.state is c.State.ENABLED):
                self._control(slot, word)
                if word == c.QUICK_STOP and axis.state is c.State.ENABLED and now - self._client.heard_at < FRESH:
                    stubborn = max(stubborn, now - since)
                    if now - since > STUBBORN:
                        self._stop_by_object(slot)
            elif now - since > self._client.times.report:
                del self._endings[slot]
        if stubborn > DEAF:
            self._client.stop_node()

    # -- power ----------------------------------------------------------------------------------------------------

    def power(self, on: bool, wanted: Callable[[], bool] = lambda: True) -> None:
        """Takes all drives to "operation enabled" or off. Raises NotAllowedNow with the reason that a drive gives."""
        if on:
            self._client.need_operational()
        else:
            self._come_to_rest()
        self._endings.clear()
        if on and LETTERS in self._objects.in_force():
            raise NotAllowedNow("The controller was given other axes, and waits for a restart. Restart it first.")
        aim = c.State.ENABLED if on else c.State.OFF
        slots = range(len(self._client.names))
        # what is on would let go for a moment, and what hangs would sag
        before = {slot: self._state(slot) for slot in slots} if on else {}
        told = [slot for slot in slots if before.get(slot) is not aim]
        if on and not wanted():
            raise Overtaken("STOP came first.")
        for slot in told:
            self._lead(slot, before.get(slot), on=on)
        begun = said = time.monotonic()
        deadline = begun + self._client.times.power
        while any(axis.state is not aim for axis in self._client.axes) or (
            on and any(self._state(slot) is not aim for slot in told)
        ):
            if time.monotonic() > deadline or (on and any(axis.stop_pressed for axis in self._client.axes)):
                raise NotAllowedNow(self._why_not(aim))
            if time.monotonic() - said > self._client.times.power / 4:  # nobody answers: a frame may have been lost
                states = {slot: self._state(slot) for slot in told}
                if on and not wanted():
                    raise Overtaken("STOP came first.")
                for slot in told:
                    if states[slot] is not aim:
                        self._lead(slot, states[slot], on=on)
                said = time.monotonic()
            self._client.wait(0.02)

    def _lead(self, slot: int, state: c.State | None, *, on: bool) -> None:
        """The controlwords that take a drive from its state to "operation enabled", or off."""
        for word in _LEFT.get(state, _ALL) if on else (c.DISABLE_VOLTAGE,):
            self._control(slot, word)

    def _state(self, slot: int) -> c.State:
        """As the controller answers; what was heard last may be older."""
        return c.State.of(int(self._objects.read(Place(axis_index(c.STATUS, slot), 0), "statusword")))

    def _come_to_rest(self) -> None:
        """Stops what moves before its power goes: what coasts is counted by nobody."""
        if any(axis.moving for axis in self._client.axes):
            self.stop()
        deadline = time.monotonic() + self._client.times.power
        while any(axis.moving for axis in self._client.axes) and time.monotonic() < deadline:
            self._client.wait(0.02)

    def _why_not(self, wanted: c.State) -> str:
        slot = next(slot for slot, axis in enumerate(self._client.axes) if axis.state is not wanted)
        axis = self._client.axes[slot]
        if axis.stop_pressed:
            return "The drives stay off: the emergency stop is pressed. Release it at the machine, then power the drives again."
        code = int(self._objects.read(Place(axis_index(c.ERROR_CODE, slot), 0), "error code"))
        return f"The drive of {self._client.names[slot]} does not follow: {c.fault_text(code)}."

    # -- motion ---------------------------------------------------------------------------------------------------

    def _control(self, slot: int, word: int, velocity: int = 0) -> None:
        at = self._client.map.cobs[Pdo(PdoKind.VELOCITY, slot)]
        self._client.send(at, struct.pack(c.TARGET_FORMAT, word, velocity))

    def stop(self) -> None:
        """Quick stop of every axis; needs no answer of the controller."""
        for slot in range(len(self._client.names)):
            self.stop_axis(slot)
        if self._client.nmt_words:  # it hears no process data
            for slot in range(len(self._client.names)):
                self._stop_by_object(slot)
            self._client.stop_node()

    def stop_axis(self, slot: int) -> None:
        """Quick stop of one axis."""
        self._control(slot, c.QUICK_STOP)
        self._endings[slot] = c.QUICK_STOP, time.monotonic()

    def _stop_by_object(self, slot: int) -> None:
        """The same by SDO; its answer is not waited for."""
        self._client.say_object(Place(axis_index(c.CONTROL, slot), 0), c.QUICK_STOP, 2)

    def _ready(self, slot: int, mode: int) -> None:
        self._client.need_operational()
        state = self._client.axes[slot].state
        if not state.powered:
            reason = "the emergency stop is pressed" if self._client.axes[slot].stop_pressed else "the drives are off"
            raise NotAllowedNow(f"{self._client.names[slot]} cannot move: {reason}. Power the drives first.")
        if self._mode.get(slot) != mode:
            self._objects.write(
                Place(axis_index(c.MODE, slot), 0), mode, f"mode of {self._client.names[slot]}", again=always
            )
            self._mode[slot] = mode

    def _begin(self, slot: int, wanted: Callable[[], bool]) -> None:
        """The last look before motion: nothing that takes time comes after it, so STOP cannot slip in between."""
        if not wanted():
            raise Overtaken("STOP came first.")
        self._endings.pop(slot, None)
        if self._client.axes[slot].state is not c.State.ENABLED:
            self._control(slot, c.ENABLE)

    def jog_hold(self, slot: int, velocity: float, wanted: Callable[[], bool] = lambda: True) -> None:
        """Moves at a velocity (mm/min or °/min, signed) until `let_go`. Raises Overtaken where it is not wanted any more."""
        self._ready(slot, c.MODE_VELOCITY)
        self._client.expect(self._client.times.hold)
        self._begin(slot, wanted)
        self._control(slot, c.ENABLE, c.raw_speed(velocity))

    def let_go(self, slot: int) -> None:
        """Ends a held jog with the usual deceleration; with a quick stop where it is not yet reported to be enabled."""
        if self._mode.get(slot) != c.MODE_VELOCITY:
            return
        if self._client.axes[slot].state is c.State.ENABLED:
            self._control(slot, c.ENABLE)
            self._endings[slot] = c.ENABLE, time.monotonic()
        else:  # an "enable" might power what has been switched off meanwhile
            self.stop_axis(slot)

    def _at_most(self, slot: int, speed: float) -> None:
        """The profile speed of what is asked for next, mm/min (°/min)."""
        raw = c.raw_speed(speed)
        if self._speed.get(slot) != raw:
            self._objects.write(
                Place(axis_index(c.PROFILE_SPEED, slot), 0),
                raw,
                f"jog speed of {self._client.names[slot]}",
                again=always,
            )
            self._speed[slot] = raw

    def jog_step(
        self, slot: int, distance: float, speed: float, wanted: Callable[[], bool] = lambda: True, *, seek: bool = False
    ) -> None:
        """Moves by a distance (mm or °, signed) at a speed (mm/min or °/min). Steps asked for while moving add up.

        seek: the move ends at the next edge of the axis's home switch or index mark.
        Raises Overtaken where it is not wanted any more.
        """
        self._ready(slot, c.MODE_POSITION)
        self._client.expect(self._client.times.motion)
        self._at_most(slot, speed)
        self._begin(slot, wanted)
        at = self._client.map.cobs[Pdo(PdoKind.POSITION, slot)]
        target = c.raw_position(distance)
        word = c.ENABLE | c.NEW_SETPOINT | c.AT_ONCE | c.RELATIVE | (c.UNTIL_SWITCH if seek else 0)
        for each in (
            c.ENABLE,
            c.ENABLE,
            word,
            word,
        ):  # nobody answers: a frame may be lost, and a word twice is one edge
            self._client.send(at, struct.pack(c.TARGET_FORMAT, each, target))

    # -- index stops ----------------------------------------------------------------------------------------------

    def pick_stop(self, slot: int, number: int, speed: float, wanted: Callable[[], bool]) -> None:
        """The controller takes the axis to one of its index stops, by its number from 1, at mm/min (°/min) at most. Raises
        Overtaken after STOP."""
        self._ready(slot, c.MODE_POSITION)
        self._client.expect(self._client.times.motion)
        self._at_most(slot, speed)
        self._begin(slot, wanted)
        self._objects.write(index_place(slot, GO), number, f"index stop of {self._client.names[slot]}")

    def act_lines(self, slot: int, state: int | None, speed: float, wanted: Callable[[], bool]) -> None:
        """The controller takes the lines of an axis for a state; None: they say again what they say."""
        if state is not None:
            self._ready(slot, c.MODE_POSITION)
            self._client.expect(self._client.times.motion)
            self._at_most(slot, speed)
            self._begin(slot, wanted)
        raw = AS_THEY_ARE if state is None else state
        self._objects.write(index_place(slot, LINES_AS), raw, f"lines of {self._client.names[slot]}")

    # -- a path -----------------------------------------------------------------------------------------------------

    def follow(self, slots: Sequence[int], wanted: Callable[[], bool]) -> None:
        """These axes go along the path that the controller was given. Raises Overtaken after STOP, WriteRefused where they do
        not stand at its begin."""
        for slot in slots:
            self._ready(slot, c.MODE_PATH)
        self._client.expect(self._client.times.motion)
        for slot in slots:
            self._begin(slot, wanted)
        for word in (c.ENABLE, c.ENABLE | c.FOLLOW):
            for slot in slots:
                self._say(slot, word, f"the path of {self._client.names[slot]}", wanted)

    # -- homing ---------------------------------------------------------------------------------------------------

    def home_here(self, slot: int) -> None:
        """Gives the place where the axis stands its home coordinate (homing method 37 of CiA 402-2).

        The method that it was told is put back afterwards; nothing is stored.
        """
        if self._client.axes[slot].moving:
            raise NotAllowedNow(f"{self._client.names[slot]} is moving; its home can be set only at rest.")
        method = Place(axis_index(0x6098, slot), 0)
        told = self._objects.read(method, "homing method")
        self._objects.write(method, 37, "homing method", again=always)
        try:
            self.home(slot, lambda: True)
        finally:
            self._objects.write(method, told, "homing method", again=always)

    def home(self, slot: int, wanted: Callable[[], bool]) -> None:
        """Begins the homing that the axis was told; how it goes and ends is in its inputs. Raises Overtaken after STOP."""
        if self._client.axes[slot].moving:
            raise NotAllowedNow(f"{self._client.names[slot]} is moving; it can be homed only from rest.")
        self._ready(slot, c.MODE_HOMING)
        self._client.expect(self._client.times.motion)
        self._begin(slot, wanted)
        for word in (c.ENABLE, c.ENABLE | c.NEW_SETPOINT, c.ENABLE):
            self._say(slot, word, f"controlword of {self._client.names[slot]}", wanted)

    def _say(self, slot: int, word: int, label: str, wanted: Callable[[], bool]) -> None:
        """One controlword, with an answer; once more where none comes, for the same word is no second edge. Raises Overtaken:
        STOP may have gone out while the answer to this one or to the last was waited for."""
        try:
            if wanted():
                self._objects.write(Place(axis_index(c.CONTROL, slot), 0), word, label, again=wanted)
                return
        except NoAnswer:
            if wanted():
                raise
        raise Overtaken("STOP came first.")

    def forget_home(self, slot: int) -> None:
        """Home is not known any more; soft limits hold no longer."""
        self._objects.write(Place(axis_index(FORGET.index, slot), FORGET.sub), 1, "forget home", again=always)
