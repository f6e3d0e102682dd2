"""The controller's terminals as its objects see them: what they were told, what they report, what is asked of them."""

from __future__ import annotations

import struct
from collections.abc import Mapping
from typing import Any

import numpy as np

from idler.core.profile import cia402 as c
from idler.core.profile import flight as f
from idler.core.profile import terminals as t
from idler.core.profile.codec import Place, Raw
from idler.core.profile.edges import MOST_EDGES, glance, pack_edges
from idler.core.profile.homing import PHASE_SHIFT, RESULT_SHIFT
from idler.core.profile.objects import Entry
from idler.core.profile.pdo import PdoKind
from idler.core.profile.speeds import pack_speeds
from idler.core.profile.terminals import Condition
from idler.core.table import INPUT, MACHINE, OUTPUT, POSITION_STEP, RANGE, SPEED_STEP, part_index
from idler.core.table.rows.spindle import WITH_LEVEL
from idler.core.values.parameter import AXIS_LETTERS, Parameter, Scope
from idler.core.values.roles import InputRole, OutputKind
from idler.core.values.speedpoints import points

from ..firmware.flight import ENDING, HELD, RECORDING
from ..firmware.spindle import DOWN, UP
from ..state import RECORD_TICKS, TICK
from ..world import World

_HOMES = {role.raw for role in InputRole if role.homes}
_LEVELLED = {choice.raw for choice in MACHINE["spindle.kind"].choices if choice.key in WITH_LEVEL}
_CONDITIONS = tuple(
    (name, bit.value)
    for name, bit in (
        ("stop", Condition.STOP), ("guard", Condition.GUARD), ("trouble", Condition.TROUBLE),
        ("run", Condition.SPINDLE), ("refused", Condition.REFUSED), ("not_ready", Condition.NOT_READY),
        ("no_range", Condition.NO_RANGE),
    )
)  # fmt: skip
_PHASES = {UP: Condition.RUNNING_UP.value, DOWN: Condition.RUNNING_DOWN.value}
_LEVEL_KINDS = {kind.raw for kind in OutputKind if kind.level}


def _bits(levels: np.ndarray) -> int:
    """A bit for each that is not 0, the first one lowest."""
    return int.from_bytes(np.packbits(levels != 0, bitorder="little").tobytes(), "little")


def _told(values: Mapping[Place, Raw], row: Parameter, slot: int | None) -> int:
    return int(values[Place(part_index(row, slot), row.wire.sub)])


class Panel:
    def __init__(self, world: World) -> None:
        self._world = world
        self._letters: tuple[str, ...] = ()
        self._next_edge = 0
        self._asked = (0, 0, 0, 0, 0)
        self.stopped_by = 0  # code of the emergency message that belongs to the flight record

    # -- what it was told -----------------------------------------------------------------------------------------

    def boot(self, letters: tuple[str, ...]) -> None:
        """As after power-on: nothing is asked for, no edge is written down. letters: of the axes that are in force.

        The count of the way oil lives through it: who restarts often would otherwise run dry."""
        self._letters = letters
        ctl = self._world.controller
        for name in ("wanted", "run", "run_level", "run_range", "phase", "phase_ticks", "asked_level", "asked_speed",
                     "counts", "measured", "oil_left",
                     "stop_hit", "guard_hit", "trouble_hit", "faulted", "written", "refused",
                     "flight_state", "flight_written", "flight_left"):  # fmt: skip
            ctl[name] = 0
        ctl["tried"] = ctl["flight_input"] = -1
        self._next_edge = self.stopped_by = 0

    def rest(self) -> None:
        """While the controller starts anew nothing is switched."""
        ctl = self._world.controller
        ctl["wanted"], ctl["run"], ctl["tried"] = 0, 0, -1
        self._world.outputs["role"] = 0
        self._world.outputs["inverted"] = 0

    def configure(self, values: Mapping[Place, Raw], in_force: Mapping[Place, Raw]) -> None:
        """Takes raw values; those of the signals are the ones in force since the start."""
        for slot in range(len(self._world.inputs)):
            self._configure_input(values, slot)
        for slot in range(len(self._world.outputs)):
            self._configure_output(values, slot)
        for name in ("pulse_width", "direction_setup", "enable_inverted", "step_inverted"):
            row = MACHINE[f"signals.{name}"]
            raw = int(in_force[Place(row.wire.index, row.wire.sub)])
            self._world.controller[name] = raw * float(row.wire.resolution)
        self._configure_spindle(values)

    def reconfigure(self, entry: Entry, values: Mapping[Place, Raw]) -> None:
        """Takes what a single value changes; signals wait for a restart."""
        scope = entry.row.scope if entry.row is not None else Scope.MACHINE
        if scope is Scope.INPUT and entry.slot is not None:
            self._configure_input(values, entry.slot)
        elif scope is Scope.OUTPUT and entry.slot is not None:
            self._configure_output(values, entry.slot)
        elif scope in (Scope.MACHINE, Scope.RANGE):
            self._configure_spindle(values)

    def _configure_input(self, values: Mapping[Place, Raw], slot: int) -> None:
        role, letter, rest, filter_us = (
            _told(values, INPUT[f"input.{key}"], slot) for key in ("role", "axis", "rest", "filter")
        )
        name = AXIS_LETTERS[letter - 1] if letter else ""
        axis = self._letters.index(name) if name in self._letters else -1
        self._world.set_input(slot, role, axis, rest, filter_us)

    def _configure_output(self, values: Mapping[Place, Raw], slot: int) -> None:
        out = self._world.outputs[slot]
        out["role"], out["inverted"] = (_told(values, OUTPUT[f"output.{key}"], slot) for key in ("role", "inverted"))
        out["level_kind"] = _told(values, OUTPUT["output.kind"], slot) in _LEVEL_KINDS

    def _configure_spindle(self, values: Mapping[Place, Raw]) -> None:
        """Ranges, encoder and way oil; raw values become rpm, ‰ and ticks."""

        def told(key: str, slot: int | None = None) -> float:
            row = MACHINE[key] if slot is None else RANGE[key]
            return _told(values, row, slot) * float(row.wire.resolution)

        ctl = self._world.controller
        ctl["engaged_told"] = min(int(told("spindle.engaged")), int(told("spindle.ranges")))
        ctl["rest"] = 10 * told("spindle.rest") if told("spindle.kind") in _LEVELLED else 0.0
        for name, key in (
            ("start_speed", "start_speed"), ("waits", "waits"), ("needs_drives", "needs_drives"), ("counts_per_turn", "counts"),
            ("counts_reversed", "counts_reversed"),
        ):  # fmt: skip
            ctl[name] = told(f"spindle.{key}")
        ctl["oil_on"], ctl["oil_every"] = round(told("oil.seconds") / TICK), round(told("oil.every") * 60 / TICK)
        ctl["oil_of"] = told("oil.of")
        row = RANGE["range.points"]
        for slot, item in enumerate(self._world.ranges):
            item["low"], item["high"] = told("range.low", slot), told("range.high", slot)
            item["run_up"], item["run_down"] = (round(told(f"range.{key}", slot)) for key in ("run_up", "run_down"))
            found = points(str(values[Place(part_index(row, slot), row.wire.sub)]))
            item["count"] = len(found)
            for k, (level, rpm) in enumerate(found):
                item["levels"][k], item["speeds"][k] = 10 * level, rpm

    # -- what it reports ------------------------------------------------------------------------------------------

    @property
    def conditions(self) -> int:
        """Bits of `Condition`."""
        ctl = self._world.controller
        found = sum(bit for name, bit in _CONDITIONS if ctl[name]) + _PHASES.get(int(ctl["phase"]), 0)
        return found + (Condition.TRYING.value if ctl["tried"] >= 0 else 0)

    @property
    def closed(self) -> int:
        """Levels after the filter, a bit for each input."""
        return _bits(self._world.inputs["level"])

    @property
    def energised(self) -> int:
        return _bits(self._world.outputs["energised"])

    @property
    def levels(self) -> list[int]:
        """What the first level outputs give, in ‰."""
        outputs = self._world.outputs
        found = [round(float(level)) for level in outputs["level"][outputs["level_kind"] != 0]]
        return (found + [0] * t.LEVEL_OUTPUTS)[: t.LEVEL_OUTPUTS]

    def frames(self) -> dict[PdoKind, bytes]:
        """The process data of the terminals and of the spindle."""
        return {
            PdoKind.TERMINALS: struct.pack(t.TERMINAL_FORMAT, self.closed, self.energised, self.conditions),
            PdoKind.LEVELS: struct.pack(f"<{t.LEVEL_OUTPUTS}H", *self.levels),
            PdoKind.SPINDLE: struct.pack(t.SPINDLE_FORMAT, self.counts, self.measured),
        }

    @property
    def counts(self) -> int:
        """Encoder counts; they begin again from below where 32 bits are full."""
        return (int(self._world.controller["counts"]) + 2**31) % 2**32 - 2**31

    @property
    def measured(self) -> int:
        """Speed of the spindle by its encoder, in 0.1 rpm."""
        return round(10 * float(self._world.controller["measured"]))

    def read(self, place: Place) -> Any:
        """A live object, or None where the place is none of these."""
        if place.index == t.LEVEL_OUTPUT and place.sub:
            return self.levels[place.sub - 1]
        if place.index == t.TRIED.index and place.sub:
            return self._asked[place.sub - 1]
        match place:
            case t.LEVELS_NOW:
                return self.closed
            case t.OUTPUTS_NOW:
                return self.energised
            case t.CONDITIONS:
                return self.conditions
            case t.NEXT_EDGE:
                return self._next_edge
            case t.EDGES:
                return self._edges()
            case t.EDGES_WAIT:
                return self._glance()
            case t.SPINDLE_COUNTS:
                return self.counts
            case t.SPINDLE_MEASURED:
                return self.measured
            case t.ENGAGED:
                return int(self._world.controller["engaged"])
            case t.OIL_STROKES:
                return int(self._world.controller["strokes"])
            case t.SPINDLE_CHANGED:
                return int(self._world.controller["changed"])
            case t.SPEED_RECORD:
                speeds = self._world.record[: int(self._world.controller["recorded"])]
                return pack_speeds(RECORD_TICKS * TICK, speeds)
            case f.FLIGHT_STATE:
                return int(self._world.controller["flight_state"])
            case f.FLIGHT:
                return self._flight()
            case t.OIL_TOWARDS:
                return round(float(self._world.controller["oil_done"]) * TICK)
        return None

    def keep_recording(self) -> None:
        """Something was hit that nobody speaks of, as the guard of a spindle that stands: nothing was stopped."""
        if self._world.controller["flight_state"] == ENDING and not self.stopped_by:
            self._world.controller["flight_state"] = RECORDING

    def _flight(self) -> bytes:
        samples, moment = self._world.flight()
        axes = len(self._letters)
        packed = np.zeros(len(samples), f.sample_type(axes))
        for name in ("closed", "energised", "conditions"):
            packed[name] = samples[name]
        packed["spindle"] = np.clip(samples["spindle"].round(), -32768, 32767)
        for name, factor in (("position", 1 / float(POSITION_STEP)), ("velocity", 60 / float(SPEED_STEP))):
            packed[name] = np.clip((samples[name][:, :axes] * factor).round(), -(2**31), 2**31 - 1)
        packed["lag"] = np.clip((1000 * samples["lag"][:, :axes]).round(), -32768, 32767)
        packed["flags"] = samples["flags"][:, :axes]
        ctl = self._world.controller
        number = int(ctl["flight_input"])
        held = int(ctl["flight_held"])
        return f.pack_flight(
            packed, moment, self.stopped_by, number if number >= 0 else None, held if held >= 0 else None
        )

    def _glance(self) -> int:
        return glance(
            self._next_edge, self._world.now_us, waits=self._next_edge < int(self._world.controller["written"])
        )

    def _edges(self) -> bytes:
        first, edges = self._world.edges_from(self._next_edge, MOST_EDGES)
        self._next_edge = first + len(edges)
        return pack_edges(first, self._world.now_us, edges["time"], edges["input"], edges["closed"])

    def bits(self, slot: int) -> int:
        """Digital inputs 60FDh of one axis: limits, home, and the stop of them all."""
        found = c.INPUT_STOP if self._world.controller["stop"] else 0
        ax = self._world.firmware[slot]
        found |= int(ax["homing"]) << PHASE_SHIFT | int(ax["home_result"]) << RESULT_SHIFT
        found |= c.INPUT_LOW if ax["limit_low"] or ax["unwatched"] else 0
        found |= c.INPUT_HIGH if ax["limit_high"] or ax["unwatched"] else 0
        inputs = self._world.inputs
        for number in np.flatnonzero(inputs["made"]):
            role, axis = int(inputs["role"][number]), int(inputs["axis"][number])
            if role in _HOMES and (axis == slot or (axis == -1 and role == InputRole.HOME_CHAIN.raw)):
                found |= c.INPUT_HOME
        return found

    # -- what is asked of it --------------------------------------------------------------------------------------

    def command(self, run: int, level: int, tried: int, tried_level: int, speed: int) -> None:
        """The spindle's way (-1, 0, 1), level and speed, and the number of an output to try (0: none) with its level.

        Levels in ‰; a speed in rpm goes before a level.
        """
        ctl = self._world.controller
        before, self._asked = self._asked, (run, level, tried, tried_level, speed)
        ctl["refused"] = 0
        ctl["asked_level"], ctl["tried_level"], ctl["asked_speed"] = min(level, 1000), min(tried_level, 1000), speed
        ctl["tried"] = tried - 1 if 0 < tried <= len(self._world.outputs) else -1
        if run != before[0] or not run:  # a spindle that was stopped by the guard stays so until it is asked for anew
            forbidden = (
                ctl["stop"] or ctl["guard"] or ctl["faulted"] or ctl["not_ready"] or ctl["no_range"]
                or (ctl["needs_drives"] and not self._world.powered)
                or not (level or speed or ctl["start_speed"])
            )  # fmt: skip
            ctl["wanted"] = 0 if forbidden else (run > 0) - (run < 0)
            ctl["refused"] = int(bool(run and forbidden))

    def write(self, place: Place, raw: int) -> bool:
        """True where the place is one of these."""
        if place == t.NEXT_EDGE:
            self._next_edge = raw
        elif place == f.FLIGHT_GO:
            if raw == 1 and self._world.controller["flight_state"] == HELD:
                self._world.controller["flight_state"], self.stopped_by = RECORDING, 0
        elif place.index == t.TRIED.index and place.sub:
            asked = list(self._asked)
            asked[place.sub - 1] = raw
            self.command(*asked)
        else:
            return False
        return True

    def unheard(self) -> None:
        """The client is not heard any more: nothing is held for it."""
        self.command(0, 0, 0, 0, 0)
