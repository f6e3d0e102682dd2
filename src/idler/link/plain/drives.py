"""Motion of all axes of a controller that is made of plain drives."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from idler.core.profile import cia402 as c
from idler.core.profile.codec import homing_method

from ..client import Wanted
from ..errors import NotAllowedNow, Overtaken
from . import leashed, power
from .axis import AGAIN, Axis, Way
from .spindledrive import SpindleDrive

if TYPE_CHECKING:
    from .client import Client

SILENCE, NOTICED = (
    0.1,
    0.5,
)  # s that a drive is told to wait for a heartbeat when that is tried, and in which it must have noticed
SHORT_OF = 0.05  # s
NO_STOPS = "Index stops need a controller that watches their lines; plain drives do not."
NO_PATH = (
    "A program is read, checked and drawn with plain drives, and not run: a desktop cannot tell several drives their places "
    "evenly enough, and these have no buffer."
)


class Drives:
    def __init__(self, client: Client) -> None:
        self._client = client
        self._stopping, self._said_at = False, 0.0  # whether all were told to stop, and when last

    @property
    def _axes(self) -> list[Axis]:
        return self._client.drawn

    # -- power ----------------------------------------------------------------------------------------------------

    def power(self, on: bool, wanted: Wanted = lambda: True) -> None:
        """All drives to "operation enabled", one after the other, or off. Raises NotAllowedNow with the reason of a drive."""
        client = self._client
        if not on:
            self._come_to_rest()
            for axis in self._axes:
                axis.control(c.DISABLE_VOLTAGE)
            self._until(lambda: not any(axis.state.state.powered for axis in self._axes), c.DISABLE_VOLTAGE)
            return
        client.need_operational()
        for axis in self._axes:
            axis.make_safe(client.own_node, client.times.motion)
            axis.hear_stop(client.stop_frame)
        client.ask_together()
        with client.fed():
            self._enable(wanted)
            untried = [axis for axis in self._axes if axis.watch.told and not axis.watch.seen]
            if untried and not self.busy:
                self._see_silence(untried)
                self._enable(wanted)
        if client.turning is not None and client.turning.tripped:
            client.turning.reset(client.times.power, client.wait, wanted)

    def _enable(self, wanted: Wanted) -> None:
        for axis in self._axes:
            if not wanted():
                raise Overtaken("STOP came first.")
            power.to_enabled(axis, self._client.times.power, self._client.wait, wanted)

    def ready_spindle(self, drive: SpindleDrive, wanted: Wanted) -> None:
        """Makes sure that the drive of the spindle stops by itself when Idler falls silent: told, and tried before it turns for
        the first time. Raises NotAllowedNow."""
        client = self._client
        if not drive.listens:
            if self.busy:
                raise NotAllowedNow(
                    "Before the spindle turns for the first time, Idler falls silent for a moment and looks whether its drive "
                    "notices. Let the axes come to rest first."
                )
            client.need_operational()
            drive.make_safe(client.own_node, client.times.terminals)
        if drive.tripped or not drive.listens:
            with drive.tried():
                drive.switch_on(client.times.power, client.wait, wanted)
                if not drive.listens:
                    self._see_silence([drive])
            drive.expect(client.own_node, client.times.terminals)

    def _see_silence(self, axes: Sequence[Axis | SpindleDrive]) -> None:
        """Falls silent for a moment, with all at rest: a drive that stays as it is does not stop by itself, whatever it says,
        and goes on its leash from then on."""
        client = self._client
        for axis in axes:
            axis.expect(client.own_node, SILENCE)
        self._let_pass(SILENCE)  # it listens from the next heartbeat on
        longest = min(NOTICED, client.times.terminals - SHORT_OF) if client.feeds else NOTICED
        with client.silent():  # no longer than what feeds them stays on for
            self._let_pass(longest, lambda: not any(axis.enabled for axis in axes))
        for axis in axes:
            axis.expect(client.own_node, client.times.motion)
            axis.silence_was_seen(not axis.enabled)

    def _let_pass(self, seconds: float, over: Callable[[], bool] = lambda: False) -> None:
        deadline = time.monotonic() + seconds
        while not over() and (left := deadline - time.monotonic()) > 0:
            self._client.wait(min(left, 0.01))

    def _come_to_rest(self) -> None:
        """Stops what moves before its power goes: what coasts is counted by nobody."""
        if any(axis.state.moving for axis in self._axes):
            self.stop()
        deadline = time.monotonic() + self._client.times.power
        while any(axis.state.moving for axis in self._axes) and time.monotonic() < deadline:
            self._client.wait(0.02)

    def _until(self, reached: Callable[[], bool], word: int) -> None:
        deadline = time.monotonic() + self._client.times.power
        again = time.monotonic() + 0.1
        while not reached():
            now = time.monotonic()
            if now > deadline:
                axis = next(axis for axis in self._axes if axis.state.state.powered)
                raise NotAllowedNow(f"The drive of {axis.name} does not follow: {power.why_not(axis)}.")
            if now > again:
                again = now + 0.1
                for axis in self._axes:
                    axis.control(word)
            self._client.wait(0.02)

    # -- stopping -------------------------------------------------------------------------------------------------

    def stop(self) -> None:
        """Quick stop of every axis: one frame that all hear who can, then each alone; needs no answer."""
        self._stopping = True
        self._say_to_all()
        for axis in self._axes:
            axis.stop()

    def _say_to_all(self) -> None:
        self._said_at = time.monotonic()
        if any(axis.heard is not None for axis in self._axes):
            self._client.say_to_all(c.QUICK_STOP)

    def insist(self, now: float) -> None:
        """Says STOP again while one of them is not seen to stand; each alone is told again by its axis."""
        if now - self._said_at > AGAIN and self._stopping and any(axis.runs_on for axis in self._axes):
            self._say_to_all()
        elif not any(axis.runs_on for axis in self._axes):
            self._stopping = False

    def stop_axis(self, slot: int) -> None:
        self._axes[slot].stop()

    def let_go(self, slot: int) -> None:
        self._axes[slot].let_go()

    # -- moving ---------------------------------------------------------------------------------------------------

    def _begin(self, axis: Axis, wanted: Wanted) -> Callable[[], None]:
        def look() -> None:
            """The last look before motion: nothing that takes time comes after it."""
            if not wanted():
                raise Overtaken("STOP came first.")

        self._client.need_operational()
        if axis.untrue:
            raise NotAllowedNow(
                f"{axis.untrue} Say what a turn of its motor is in counts, and look in its maker's papers for the unit of its "
                "speed; disconnect and connect again when it is mended."
            )
        return look

    def jog_hold(self, slot: int, velocity: float, wanted: Wanted = lambda: True) -> None:
        axis = self._axes[slot]
        look = self._begin(axis, wanted)
        axis.expect(self._client.own_node, self._client.times.hold)
        axis.hold(velocity, look)

    def jog_step(
        self, slot: int, distance: float, speed: float, wanted: Wanted = lambda: True, *, seek: bool = False
    ) -> None:
        axis = self._axes[slot]
        look = self._begin(axis, wanted)
        axis.expect(self._client.own_node, self._client.times.motion)
        axis.go(distance, speed, look, seek=seek)

    def home(self, slot: int, wanted: Wanted) -> None:
        """By the drive's own method. Raises NotAllowedNow where the drive has not what is wanted."""
        axis, client = self._axes[slot], self._client
        if axis.state.moving:
            raise NotAllowedNow(f"{axis.name} is moving; it can be homed only from rest.")
        look = self._begin(axis, wanted)
        machine = client.machine
        method = self._turned(homing_method(machine.axis(slot)), axis)
        if method == HERE:
            axis.home_here()
            return
        at_stop = method < 0
        if at_stop:
            method = self._makers(axis, method)
        elsewhere = not at_stop and not client.terminals.home_at_drive(axis)
        if axis.watch.leashed or elsewhere:
            if method not in (23, 27):
                why = (
                    "its switch does not hang at it, and it would not see it"
                    if elsewhere
                    else f"{axis.watch.words}, so that it would run on when Idler falls silent"
                )
                raise NotAllowedNow(
                    f"{axis.name} is not homed by its drive: {why}. Idler homes it on a leash, by its switch alone: choose "
                    "“switch”."
                )
            axis.expect(client.own_node, client.times.motion)
            axis.home_leashed(leashed.Plan.of(machine.axis(slot)), look)
            return
        known = axis.part.read_if_there((0x60E3, 0))
        if known:
            listed = {axis.part.read_if_there((0x60E3, sub), signed=True) for sub in range(1, min(known, 64) + 1)}
            if method not in listed:
                ways = ", ".join(str(each) for each in sorted(m for m in listed if m is not None))
                raise NotAllowedNow(
                    f"{axis.name}: {axis.part.called} has no homing method {method} (CiA 402). It has {ways}. Choose another "
                    "way."
                )
        axis.expect(client.own_node, client.times.motion)

        def word(raw: int) -> None:
            axis.part.tell((c.CONTROL, 0), raw, look, f"controlword of {axis.name}")

        axis.home(method, look, word)

    def _makers(self, axis: Axis, way: int) -> int:
        """Raises NotAllowedNow where the maker's number of it is not known."""
        found = self._client.makers_method(axis.part, way)
        if found is None:
            who = axis.part.identity
            raise NotAllowedNow(
                f"{axis.name}: homing at a hard stop is each maker's own way, and nobody has said the number that "
                f"{axis.part.called} has for it (vendor {who.vendor:X}h, product {who.product:X}h). Choose a switch, home "
                "where it stands, or write that number into a file: docs/ordinary-drives.md, “Homing”."
            )
        told = self._client.machine.axis(axis.slot)
        approach, touch = (float(told.number(f"homing.{name}")) for name in ("approach", "touch"))
        if approach > touch:  # which of both it goes for a stop with is the maker's secret
            raise NotAllowedNow(
                f"{axis.name}: its drive may meet iron at its approach of {approach:g} mm/min. Lower that to the touch, "
                f"{touch:g} mm/min, and send it."
            )
        return found

    @staticmethod
    def _turned(method: int, axis: Axis) -> int:
        """The same for a drive whose direction is turned round by Idler."""
        return _OTHER_WAY.get(method, method) if axis.units.place < 0 else method

    def home_here(self, slot: int) -> None:
        axis = self._axes[slot]
        if axis.state.moving:
            raise NotAllowedNow(f"{axis.name} is moving; its home can be set only at rest.")
        axis.home_here()

    def forget_home(self, slot: int) -> None:
        self._axes[slot].forget_home()

    # -- not to be had --------------------------------------------------------------------------------------------

    def pick_stop(self, slot: int, number: int, speed: float, wanted: Wanted) -> None:
        raise NotAllowedNow(NO_STOPS)

    def act_lines(self, slot: int, state: int | None, speed: float, wanted: Wanted) -> None:
        raise NotAllowedNow(NO_STOPS)

    def follow(self, slots: Sequence[int], wanted: Wanted) -> None:
        raise NotAllowedNow(NO_PATH)

    @property
    def busy(self) -> bool:
        return any(axis.way is not Way.NOTHING or axis.leashed is not None for axis in self._axes)


HERE = 37
_OTHER_WAY = {23: 27, 27: 23, 7: 11, 11: 7, -1: -2, -2: -1, -3: -4, -4: -3}
