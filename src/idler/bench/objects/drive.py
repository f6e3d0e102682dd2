"""One axis as a logical device of CiA 402-2: its state machine, its commands, and the values that it reports."""

from __future__ import annotations

from typing import Any

from idler.core.profile import cia402 as c
from idler.core.profile.cia402 import State
from idler.core.profile.homing import FIRST_PLACE, INDEX_DISTANCE, RAN_ON, SIDES, TOUCH_PLACE, USUAL_EFFORT
from idler.core.table import POSITION_STEP, SHARE_STEP, SPEED_STEP

from ..state import AT_VELOCITY, BARRED, CONSTANT, FOLLOWING, IDLE, LIMITED, SMOOTHEST, TO_POSITION
from ..world import World
from .told import FEED, GEAR, METHOD, POLARITY, TURN, Told

_RESET_TICKS = 100  # how long the output “drive reset” stays on
HERE = 37
_TOWARDS_HIGH, _WITH_INDEX, _BY_STOP = (23, 7, -1, -3), (7, 11, -3, -4), (-1, -2, -3, -4)
_ENDLESS = (2, 3)  # kinds of axis that begin again at 360°
_SHAPES = {0: CONSTANT, 3: LIMITED, -1: SMOOTHEST}
_UNTOLD = (-1.0, 1.0)  # hard stops of an axis that was told none
_MOST_COUNTS = 2.0**52
_LOWEST, _HIGHEST = -(2**31), 2**31 - 1


_PLACE, _SPEED = float(POSITION_STEP), float(SPEED_STEP)


def _fits(raw: float) -> int:
    """A figure as an object of 32 bits can say it: what is beyond stands at the bound."""
    return round(min(max(raw, _LOWEST), _HIGHEST))


class Drive:
    """One axis. Positions, speeds and coordinates that come over the wire are raw, in the units of cia402."""

    def __init__(self, world: World, slot: int) -> None:
        self._world = world
        self.slot = slot
        self.state = State.OFF
        self.mode = c.MODE_POSITION
        self.error = 0
        self._control = 0
        self._setpoint_taken = False
        self._limited = False
        self.follows = False  # whether it was told to go along the path
        self.target_position = 0
        self.target_velocity = 0
        self.profile_speed = 0
        self.home_coordinate = 0
        self._power_delay = 0
        self._beyond_refused = False
        self._locked = False
        self._here = True

    @property
    def _ax(self) -> Any:
        return self._world.firmware[self.slot]

    @property
    def state(self) -> State:
        return self._state

    @state.setter
    def state(self, state: State) -> None:
        self._state = state
        self._ax["enabled"] = state is State.ENABLED  # what the stepping code begins by itself it begins then only

    # -- what it was told -----------------------------------------------------------------------------------------

    def configure(self, told: Told, step_ceiling: float, power_delay_ms: int) -> None:
        """Takes new values.

        A change of the counts per unit or of the direction loses home, for it moves every mark."""
        ax = self._ax
        turn, feed = told.ratio(TURN), told.ratio(FEED) * 1e-4  # mm or °
        ax["shape"] = _SHAPES[told["pace.shape"]]
        per_unit = turn * told.ratio(GEAR) / feed
        sign = -1.0 if told[POLARITY] & 0x80 else 1.0
        if per_unit != ax["counts_per_unit"] or sign != ax["sign"]:
            ax["homed"] = 0
        ax["counts_per_unit"], ax["turn_counts"], ax["sign"] = per_unit, turn, sign
        motor = told["pace.motor_speed"] / 60 * turn
        ax["step_ceiling"] = step_ceiling
        ax["speed_limit"] = min(told.speed("pace.top_speed") * per_unit, motor, step_ceiling)
        for name in ("acceleration", "deceleration", "stop_deceleration"):
            ax[name] = max(told.acceleration(f"pace.{name}") * per_unit, 1.0)
        method = told[METHOD]
        ax["home_way"] = 1.0 if method in _TOWARDS_HIGH else -1.0
        ax["home_index"], ax["home_stop"] = method in _WITH_INDEX, method in _BY_STOP
        self._here = method == HERE
        for name in ("approach", "touch"):
            ax[f"home_{name}"] = told.speed(f"homing.{name}") * per_unit
        ax["home_acceleration"] = max(told.acceleration("homing.acceleration") * per_unit, 1.0)
        for name, key in (("back", "back_off"), *((each, each) for each in (
            "leave", "search", "index_within", "mark_distance", "mark_spread", "squaring", "apart", "coordinate",
        ))):  # fmt: skip
            ax[f"home_{name}"] = told.length(f"homing.{key}") * per_unit
        stops = told.length("travel.stop_low"), told.length("travel.stop_high")
        ax["span"] = max(0.0, stops[1] - stops[0]) * per_unit if stops != _UNTOLD and not ax["wraps"] else 0.0
        ax["home_effort"] = told["homing.effort"] * float(SHARE_STEP)
        ax["switches_on"] = told["travel.switches_on"]
        for name in ("acceleration", "deceleration", "shape"):
            ax[f"usual_{name}"] = ax[name]
        ax["jerk"] = told.acceleration("pace.jerk") * per_unit
        ax["output"], ax["second"] = told["axis.output"] - 1, told["axis.second_output"] - 1
        ax["second_sign"] = -1.0 if told["axis.second_reversed"] else 1.0
        ax["wraps"] = told["axis.kind"] in _ENDLESS
        ax["backlash"] = told.length("play.backlash") * per_unit
        ax["measured"] = told["loop.measured"]
        ax["lag_window"], ax["lag_ticks"] = told.length("loop.window") * per_unit, told["loop.window_time"]
        ax["limits_on"] = told["travel.limits_on"] and not ax["wraps"]
        ax["low"], ax["high"] = (told.length(f"travel.{end}") * per_unit for end in ("low", "high"))
        ax["cushion"] = told.length("travel.cushion") * per_unit
        ax["cushion_speed"] = told.speed("travel.cushion_speed") * per_unit
        self._beyond_refused = told["travel.beyond"] == 1
        self._power_delay = power_delay_ms

    def lock(self, on: bool) -> None:
        """While other axes wait for a restart there is no power: the letters no longer say what would move."""
        self._locked = on
        if on and self.state is not State.FAULT:
            self._go(State.OFF)

    # -- commands -------------------------------------------------------------------------------------------------

    def control(self, word: int) -> None:
        """The controlword 6040h."""
        rising = word & ~self._control
        self._control = word
        if self.state is State.FAULT:
            if rising & c.FAULT_RESET and self.error != c.STOP_PRESSED:
                self.error = 0
                self.state = State.OFF
                self._world.controller["reset_ticks"] = _RESET_TICKS
            return
        if not word & 0x02:
            self._go(State.OFF)
        elif not word & 0x04:
            self._quick_stop_command()
        elif word & 0x0F == 0x0F:
            if self.state in (State.READY, State.SWITCHED_ON, State.QUICK_STOP):
                self._go(State.ENABLED)
        elif word & 0x07 == 0x07:
            if self.state in (State.READY, State.ENABLED):
                self._go(State.SWITCHED_ON)
        elif word & 0x07 == 0x06:
            self._go(State.READY)
        if self.state is State.ENABLED:
            self._move_command(word, rising)
        if not word & c.NEW_SETPOINT:
            self._setpoint_taken = False

    def _go(self, state: State) -> None:
        ax = self._ax
        if self._locked and state.powered:
            return
        if state.powered and not ax["powered"]:
            ax["wait_ticks"] = self._power_delay
        if not state.powered and ax["powered"]:
            self._world.freeze(self.slot)
        ax["powered"] = int(state.powered)
        if state is State.ENABLED and self.state is not State.ENABLED:
            self.target_velocity = 0
            if not ax["moving"]:
                ax["mode"] = IDLE
        if state is State.SWITCHED_ON and ax["moving"]:
            self._world.stop(self.slot)
        self.state = state
        self.follows = False

    def _quick_stop_command(self) -> None:
        if self.state is State.ENABLED:
            self._world.stop(self.slot)
            self.state = State.QUICK_STOP
        elif self.state in (State.READY, State.SWITCHED_ON):
            self._go(State.OFF)

    def _move_command(self, word: int, rising: int) -> None:
        ax = self._ax
        if word & c.HALT:
            if ax["mode"] == TO_POSITION or ax["mode"] == AT_VELOCITY:
                ax["mode"], ax["target_velocity"] = AT_VELOCITY, 0.0
        elif self.mode == c.MODE_VELOCITY:
            self._velocity_command()
        elif self.mode == c.MODE_POSITION and rising & c.NEW_SETPOINT:
            self._position_command(bool(word & c.RELATIVE))
            ax["until"] = 1 if word & c.UNTIL_SWITCH else 0
        elif self.mode == c.MODE_HOMING and rising & c.NEW_SETPOINT:
            self._home_command()
        elif self.mode == c.MODE_PATH:
            self.follows = bool(word & c.FOLLOW)
            if not self.follows and ax["mode"] == FOLLOWING:
                self._world.stop(self.slot)

    def _blocked(self, way: float) -> bool:
        """Whether a made limit switch forbids this way; the way off it is open, of a chain to the axis that made it."""
        ax = self._ax
        if way and ax["unwatched"] == BARRED:
            return True
        return bool((ax["limit_high"] and way * ax["high_way"] > 0) or (ax["limit_low"] and way * ax["low_way"] > 0))

    @property
    def _most(self) -> float:
        """counts/s. With a limit chain that nobody is known to have made, both ways are open as slowly as iron may be met."""
        ax = self._ax
        return float(min(ax["speed_limit"], ax["home_touch"]) if ax["unwatched"] else ax["speed_limit"])

    def _velocity_command(self) -> None:
        ax = self._ax
        if self._blocked(float(self.target_velocity)):
            self._limited = True
            return
        wanted = c.speed_from(self.target_velocity) / 60 * ax["counts_per_unit"]
        wanted = max(-self._most, min(self._most, wanted))
        if ax["mode"] != AT_VELOCITY or wanted != ax["target_velocity"]:
            if wanted == 0.0 and not ax["moving"]:
                ax["mode"] = IDLE
                return
            ax["target_velocity"], ax["mode"] = wanted, AT_VELOCITY
            ax["move_speed"] = abs(wanted)
            ax["fresh"] = 1

    def _position_command(self, relative: bool) -> None:
        ax = self._ax
        self._setpoint_taken = True
        target = c.position_from(self.target_position) * ax["counts_per_unit"]
        if relative:
            target += ax["target"] if ax["mode"] == TO_POSITION else ax["bare_position"]
        elif ax["wraps"]:
            turn = 360 * ax["counts_per_unit"]  # the nearer way round
            target = ax["bare_position"] + (target - ax["bare_position"] + turn / 2) % turn - turn / 2
        self._limited = self._blocked(target - float(ax["bare_position"]))
        if self._limited:
            return
        if ax["limits_on"] and ax["homed"]:
            inside = min(max(target, ax["low"]), ax["high"])
            beyond = abs(inside - target)
            target = inside
            if beyond >= 1.0:  # less than a count is the end itself
                self._limited = True
                if self._beyond_refused:
                    return
        speed = c.speed_from(self.profile_speed) / 60 * ax["counts_per_unit"]
        ax["target"], ax["mode"], ax["fresh"] = target, TO_POSITION, 1
        ax["move_speed"] = min(speed, self._most) if speed > 0 else self._most

    def _home_command(self) -> None:
        """The method that the axis was told; with 37 (CiA 402-2) the place where it stands gets its coordinate."""
        ax = self._ax
        if ax["moving"]:
            return
        if not self._here:
            self._world.home(self.slot)
            return
        at = max(-_MOST_COUNTS, min(_MOST_COUNTS, c.position_from(self.home_coordinate) * ax["counts_per_unit"]))
        ax["bare_position"] = ax["position"] = at
        ax["steps"] = round(at)
        ax["homed"], ax["home_result"] = 1, 0

    def set_velocity(self, raw: int) -> None:
        self.target_velocity = raw
        if self.state is State.ENABLED and self.mode == c.MODE_VELOCITY and not self._control & c.HALT:
            self._velocity_command()

    def set_mode(self, mode: int) -> bool:
        """False where the mode is not known or the axis moves."""
        if mode not in (c.MODE_POSITION, c.MODE_VELOCITY, c.MODE_HOMING, c.MODE_PATH):
            return False
        if self.mode != mode and self._ax["moving"]:
            return False
        self.mode, self.follows = mode, False
        return True

    def quick_stop(self) -> None:
        """Stops by the controller's own decision: a missed heartbeat, a connection lost."""
        if self.state is State.ENABLED:
            self._world.stop(self.slot)
            self.state = State.QUICK_STOP

    def fault(self, code: int) -> None:
        """Power is taken away at once."""
        self._go(State.OFF)
        self.state, self.error = State.FAULT, code

    def clear_stop(self) -> None:
        """The emergency stop was let go: the fault stays, but may be reset now."""
        if self.error == c.STOP_PRESSED:
            self.error = 0

    # -- what it reports ------------------------------------------------------------------------------------------

    @property
    def status(self) -> int:
        ax = self._ax
        word = self.state.value[1]
        if self.state in (State.SWITCHED_ON, State.ENABLED, State.QUICK_STOP):
            word |= 0x10  # voltage enabled
        if self.state is not State.QUICK_STOP:
            word |= 0x20
        if ax["homed"]:
            word |= c.HOMED
        if ax["moving"]:
            word |= c.MOVING
        elif ax["mode"] == IDLE:
            word |= c.TARGET_REACHED
        if self._limited or ax["at_limit"]:
            word |= c.INTERNAL_LIMIT
        if self._setpoint_taken:
            word |= c.SETPOINT_TAKEN
        return word

    @property
    def position(self) -> int:
        """In position units, from the steps that were made."""
        ax = self._ax
        return self._shown(float(ax["steps"]))

    def path_counts(self, raws: Any) -> Any:
        """Counts of places in position units."""
        return raws * (_PLACE * float(self._ax["counts_per_unit"]))

    def path_offset(self, counts: float) -> float:
        """How far from where an endless axis stands a path says that it begins, in counts: so many turns were made."""
        ax = self._ax
        return float(ax["bare_position"]) - counts if ax["wraps"] else 0.0

    def beyond(self, counts: Any) -> int:
        """1 where some of these places lie beyond the upper soft limit, -1 below the lower one, else 0."""
        ax = self._ax
        if not ax["limits_on"] or not ax["homed"]:
            return 0
        return 1 if counts.max() > ax["high"] + 1.0 else -1 if counts.min() < ax["low"] - 1.0 else 0

    def _shown(self, counts: float) -> int:
        """Counts in position units; an endless axis begins again at 360°."""
        ax = self._ax
        raw = _fits(counts / ax["counts_per_unit"] / _PLACE)
        return raw % c.raw_position(360.0) if ax["wraps"] else raw

    @property
    def following_error(self) -> int:
        """How far the motor is behind, in position units."""
        return self._length("lag")

    def _length(self, name: str) -> int:
        """Counts of the firmware in position units, an endless axis or not."""
        ax = self._ax
        return _fits(float(ax[name]) / ax["counts_per_unit"] / _PLACE)

    @property
    def latched(self) -> int:
        return self._shown(float(self._ax["latched"]))

    @property
    def homing_places(self) -> dict[int, int]:
        """What the last homing found, by the sub-indices of 4008h."""
        ax = self._ax
        counts = {
            FIRST_PLACE: "home_first",
            TOUCH_PLACE: "home_place",
            INDEX_DISTANCE: "index_distance",
            SIDES: "sides",
            RAN_ON: "ran_on",
        }
        found = {place.sub: self._length(name) for place, name in counts.items()}
        return {**found, USUAL_EFFORT.sub: round(1000 * float(ax["usual_effort"]))}

    @property
    def torque(self) -> int:
        """In ‰ of what the motor has (6077h)."""
        return round(1000 * float(self._ax["effort"]))

    @property
    def latches(self) -> int:
        return int(self._ax["latches"]) & 0xFFFF

    @property
    def counts(self) -> int:
        return _fits(int(self._ax["steps"]))

    @property
    def velocity(self) -> int:
        ax = self._ax
        return _fits(float(ax["velocity"]) / ax["counts_per_unit"] * 60 / _SPEED)
