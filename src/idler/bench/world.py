"""Firmware and plant together, advanced in blocks of ticks."""

from __future__ import annotations

import math

import numpy as np

from idler.core.profile.flight import SAMPLES
from idler.core.profile.path import LINE_BITS
from idler.core.table import MOST_AXES
from idler.core.values.parameter import Scope

from .compiled import compiled
from .firmware.flight import flight_hit, hold_flight, in_order, record_flight
from .firmware.homing import advance_homing, begin_homing
from .firmware.indexing import advance_indexing, blank_indexers
from .firmware.inputs import TICK_US, advance_inputs, judge_inputs, latch_positions, set_input
from .firmware.outputs import advance_outputs
from .firmware.path import GIVEN, RUNS, advance_path, blank_path, stop_on_path
from .firmware.spindle import advance_oil, advance_run, judge_spindle, measure_spindle
from .firmware.trajectory import advance_axis, cut, quick_stop, rings_for
from .plant.axis import advance_plant, grown
from .plant.paper import Paper, note_pen
from .plant.turning import advance_turning
from .rigs.rig import Rig
from .state import (
    BARRED,
    CONTROLLER,
    EDGE,
    EDGE_RING,
    EVENT,
    FLIGHT,
    FOLLOWING,
    INPUT,
    OUTPUT,
    PATH_RING,
    PROBES,
    RANGE,
    RECORD,
    STOPPING,
    WORK,
    WORK_LIES,
    Row,
    Rows,
    blank_firmware,
)

PEN_GIVES = 0.2  # mm: a pen is pressed a little, so that it writes where the bed is not quite level
START_NEAR = 2.0  # counts: so near to the begin of its path an axis must stand
LOOKS_FROM = 8  # ticks of a block that take longer than to look whether the machine rests
_OVER = 1.05  # times the touch speed, beyond which an axis whose ends nobody watches is stopped


@compiled
def _powered(firmware: Rows) -> int:
    powered = 0
    for axis in range(len(firmware)):
        if firmware[axis].powered:
            powered = 1
    return powered


@compiled
def _react(firmware: Rows, rings: Rows, controller: Row) -> None:
    """Stop and drive trouble act within the tick; the node speaks of them afterwards."""
    if not controller.stop and not controller.trouble:
        return
    for axis in range(len(firmware)):
        ax = firmware[axis]
        if controller.stop or controller.trouble & (1 << axis):
            if ax.powered:
                if ax.moving:
                    ax.homed = 0
                cut(ax, rings[axis])
        elif ax.powered:
            quick_stop(ax, rings[axis])


@compiled
def _limit(firmware: Rows, rings: Rows) -> None:
    """A limit switch that is met, on whatever way, stops every axis at once. Homing may meet its own switch."""
    for axis in range(len(firmware)):
        ax = firmware[axis]
        if ax.homing or not ax.moving or ax.mode == STOPPING:
            continue
        low = ax.low_new or (ax.limit_low and ax.velocity * ax.low_way > 0)
        high = ax.high_new or (ax.limit_high and ax.velocity * ax.high_way > 0)
        hit = -1 if low else 1 if high else 0
        if ax.unwatched == BARRED or (ax.unwatched and abs(ax.velocity) > _OVER * ax.home_touch):
            hit = 1 if ax.velocity > 0 else -1
        if hit:
            ax.limit_hit = hit
            for other in range(len(firmware)):
                if firmware[other].powered and firmware[other].moving:
                    quick_stop(firmware[other], rings[other])


@compiled
def _nut(plant: Rows, motor: int) -> float:
    p = plant[motor]
    return p.start + p.angle * p.lead / (2 * math.pi) + grown(p)


@compiled
def _advance_motors(firmware: Rows, plant: Rows, controller: Row) -> None:
    """Each motor takes the steps of the axis that it hangs on; a motor of no axis has no current."""
    for motor in range(len(plant)):
        emitted, powered = 0.0, 0
        for axis in range(len(firmware)):
            ax = firmware[axis]
            if ax.output == motor:
                emitted, powered = ax.emitted * ax.sign * (0.0 if ax.held & 1 else 1.0), ax.powered
                ax.skew += ax.emitted if ax.held == 1 else -ax.emitted if ax.held == 2 else 0
            elif ax.second == motor:
                emitted, powered = ax.emitted * ax.sign * ax.second_sign * (0.0 if ax.held & 2 else 1.0), ax.powered
        beam = plant[motor].beam
        beside = _nut(plant, beam) if beam >= 0 else 0.0
        advance_plant(plant[motor], emitted, powered, controller, beside)


@compiled
def _measure(firmware: Rows, plant: Rows, rings: Rows) -> None:
    """Following error of the axes whose motors have an encoder, and what the firmware does when it is too large."""
    for axis in range(len(firmware)):
        ax = firmware[axis]
        if not ax.measured or ax.output < 0 or ax.output >= len(plant):
            ax.lag = 0.0
            continue
        p = plant[ax.output]
        ax.sent += ax.emitted * ax.sign * (0.0 if ax.held & 1 else 1.0)
        behind = ax.sent - p.angle * p.direction / (2 * math.pi) * ax.turn_counts
        if not ax.powered or ax.wait_ticks > 0:
            ax.lag_zero = behind
        ax.lag = (behind - ax.lag_zero) * ax.sign
        ax.lagging = ax.lagging + 1 if abs(ax.lag) > ax.lag_window else 0
        if ax.lagging > ax.lag_ticks and ax.powered:
            ax.lag_hit, ax.homed = 1, 0
            for other in range(len(firmware)):
                if other == axis:
                    cut(ax, rings[axis])
                elif firmware[other].powered:
                    quick_stop(firmware[other], rings[other])


@compiled
def _feel(firmware: Rows, plant: Rows) -> None:
    """The effort of each axis: that of its motor, or of the one of two that gives more."""
    for axis in range(len(firmware)):
        ax = firmware[axis]
        ax.effort = 0.0
        for motor in (ax.output, ax.second):
            if 0 <= motor < len(plant):
                ax.effort = max(ax.effort, plant[motor].effort)


@compiled
def _rests(words: Rows, before: Rows, inputs: Rows, wires: Rows, pen: Row, controller: Row) -> bool:
    """Whether a tick that left all as it was will be followed by such ticks alone until something comes from outside: no
    edge is due, no level matures, and nothing is written down by the clock but the flight record."""
    if pen.on or controller.recorded < RECORD:
        return False
    for k in range(len(words)):
        if words[k] != before[k]:
            return False
    for number in range(len(wires)):
        if wires[number].waiting or (number < len(inputs) and inputs[number].raw != inputs[number].level):
            return False
    return True


@compiled
def _run(
    words: Rows,
    before: Rows,
    firmware: Rows,
    plant: Rows,
    rings: Rows,
    inputs: Rows,
    wires: Rows,
    outputs: Rows,
    spindles: Rows,
    ranges: Rows,
    record: Rows,
    controllers: Rows,
    edges: Rows,
    flight: Rows,
    paths: Rows,
    places: Rows,
    lines: Rows,
    pens: Rows,
    marks: Rows,
    works: Rows,
    indexers: Rows,
    first: int,
    ticks: int,
    events: Rows,
    filled: int,
) -> int:
    """What there is one of comes as an array of one: to hand over a record takes longer than several ticks."""
    spindle, controller, path, pen, work = spindles[0], controllers[0], paths[0], pens[0], works[0]
    looks = ticks >= LOOKS_FROM
    if looks:
        for k in range(len(words)):
            before[k] = words[k]
    rests = False
    for tick in range(first, first + ticks):
        if rests:
            record_flight(firmware, inputs, outputs, controller.measured, controller, flight, tick)
            continue
        noise = min(1.0, abs(spindle.motor) / spindle.top) if spindle.top > 0 else 0.0
        advance_inputs(inputs, wires, plant, spindle, controller, edges, tick * TICK_US, noise, work)
        judge_inputs(inputs, controller, len(firmware))
        judge_spindle(inputs, controller)
        latch_positions(inputs, firmware)
        _limit(firmware, rings)
        for axis in range(len(firmware)):
            if firmware[axis].until == 2:
                firmware[axis].until = 0
                if firmware[axis].moving:
                    quick_stop(firmware[axis], rings[axis])
        _react(firmware, rings, controller)
        advance_run(controller, ranges, firmware, tick)
        advance_path(path, places, lines, firmware, rings)
        advance_indexing(indexers, firmware, inputs, controller)
        for axis in range(len(firmware)):
            ax = firmware[axis]
            advance_homing(ax)
            filled = advance_axis(ax, rings[axis], tick, axis, events, filled)
        _advance_motors(firmware, plant, controller)
        _measure(firmware, plant, rings)
        _feel(firmware, plant)
        note_pen(pen, marks, plant, tick)
        advance_oil(controller, firmware)
        advance_outputs(outputs, controller, _powered(firmware))
        advance_turning(spindle, outputs, controller)
        measure_spindle(controller, spindle, record, tick)
        flight_hit(firmware, inputs, controller)
        rests = looks and tick == first and _rests(words, before, inputs, wires, pen, controller)
        record_flight(firmware, inputs, outputs, controller.measured, controller, flight, tick)
    return filled


@compiled
def _home(firmware: Rows, slot: int) -> None:
    begin_homing(firmware, slot)


@compiled
def _stop(firmware: Rows, rings: Rows, axis: int, paths: Rows) -> None:
    if firmware[axis].mode == FOLLOWING:
        stop_on_path(paths[0])
    else:
        quick_stop(firmware[axis], rings[axis])


@compiled
def _hold(controllers: Rows) -> None:
    hold_flight(controllers[0])


@compiled
def _cut(firmware: Rows, rings: Rows, axis: int) -> None:
    cut(firmware[axis], rings[axis])


@compiled
def _set_input(inputs: Rows, number: int, role: int, axis: int, closed_at_rest: int, filter_us: int) -> None:
    set_input(inputs[number], role, axis, closed_at_rest, filter_us)


def _together(*arrays: np.ndarray) -> tuple[np.ndarray, list[np.ndarray]]:
    """The same arrays in one piece of memory, as words of 8 bytes, and each of them in it."""
    words = np.concatenate([array.view(np.int64) for array in arrays])
    ends = np.cumsum([array.nbytes // words.itemsize for array in arrays])
    return words, [piece.view(array.dtype) for piece, array in zip(np.split(words, ends[:-1]), arrays, strict=True)]


_NO_EVENTS = np.zeros(0, EVENT)


class World:
    """The arrays of one rig and the tick count of its clock."""

    def __init__(self, rig: Rig, seed: int = 1) -> None:
        self.rig = rig
        self._seed = seed
        self.tick = 0
        self._events = np.zeros(256, EVENT)
        self.deliver()

    def deliver(self) -> None:
        """The rig as it came."""
        shape = self.rig.told.shape
        self._words, (
            self.firmware, self.plant, self.inputs, self.wires, self.outputs, self._spindle, self._controller, self._path,
            self.indexers, self._work,
        ) = _together(
            blank_firmware(MOST_AXES), self.rig.plant(), np.zeros(shape.inputs, INPUT), self.rig.wires_made(self._seed),
            np.zeros(shape.outputs, OUTPUT), self.rig.spindle_made(), np.zeros(1, CONTROLLER), blank_path(),
            blank_indexers(MOST_AXES), np.zeros(1, WORK),
        )  # fmt: skip
        self._before = np.zeros_like(self._words)
        self._rings = rings_for(MOST_AXES)
        self.inputs["axis"] = -1
        self.ranges = np.zeros(shape.count(Scope.RANGE), RANGE)
        self.ranges["high"] = 1.0
        self.record = np.zeros(RECORD)
        self.controller["tried"] = self.controller["flight_input"] = -1
        self.edges = np.zeros(EDGE_RING, EDGE)
        self._flight = np.zeros(SAMPLES, FLIGHT)
        self.paper = Paper()
        self._places = np.zeros((PATH_RING, MOST_AXES))  # counts
        self._lines = np.zeros(PATH_RING, np.int64)
        self.use(len(shape.names))
        for wire, item in zip(self.wires[: len(self.inputs)], self.inputs, strict=True):
            item["raw"] = item["level"] = wire["level"]

    def use(self, axes: int) -> None:
        """So many axes are those that the firmware has; the others need no time."""
        self.axes = axes
        self._state = (
            self._words, self._before, self.firmware[: self.axes], self.plant, self._rings, self.inputs, self.wires,
            self.outputs, self._spindle, self.ranges, self.record, self._controller, self.edges, self._flight, self._path,
            self._places, self._lines, self.paper.pen, self.paper.marks, self._work, self.indexers[: self.axes],
        )  # fmt: skip

    @property
    def controller(self) -> Row:
        return self._controller[0]

    @property
    def spindle(self) -> Row:
        return self._spindle[0]

    @property
    def now_us(self) -> int:
        return self.tick * TICK_US

    def run(self, ticks: int) -> np.ndarray:
        """Advances the clock by so many milliseconds; the events of that time."""
        filled = _run(*self._state, self.tick, ticks, self._events, 0)
        self.tick += ticks
        if self.paper.pen[0]["written"]:
            self._draw()
        return self._events[:filled].copy() if filled else _NO_EVENTS

    def lay_paper(self) -> None:
        """A clean sheet that the pen just touches where the tool stands now. The rig has X, Y and Z."""
        up = [motor.name for motor in self.rig.motors].index("Z")
        self.paper.lay(up, float(self.plant[up]["carriage"]) + PEN_GIVES)

    @property
    def work(self) -> Row:
        return self._work[0]

    def lay_work(
        self, left: float, front: float, wide: float, deep: float, top: float, tool: float, bore: float
    ) -> None:
        """Something that conducts on the bed, its corner and its top from where the tool stands now, in mm; bore: across, in
        its middle, 0: none. tool: across. The rig has X, Y and Z."""
        motors, at = self._tool_stands()
        begin = at[0] + left, at[1] + front
        self._work[:] = (
            WORK_LIES, *motors, begin[0], begin[0] + wide, begin[1], begin[1] + deep, at[2] + top,
            begin[0] + wide / 2, begin[1] + deep / 2, bore / 2, tool / 2, -math.inf, *(0,) * 5,
        )  # fmt: skip

    def hold_probe(self, over: float) -> None:
        """A touch probe in the spindle, its ball so many mm over the bed where it stands. The rig has X, Y and Z."""
        motors, at = self._tool_stands()
        bed = self.rig.bed
        reach = at[2] - over - bed.height(at[0], at[1])
        self._work[:] = (
            PROBES, *motors, *(0,) * 9, -math.inf, reach, bed.along_x, bed.along_y, bed.wave, bed.length,
        )  # fmt: skip

    def _tool_stands(self) -> tuple[list[int], list[float]]:
        """The motors of X, Y and Z, and where their carriages are, mm."""
        names = [motor.name for motor in self.rig.motors]
        motors = [names.index(name) for name in "XYZ"]
        return motors, [float(self.plant[motor]["carriage"]) for motor in motors]

    def _draw(self) -> None:
        marks = self.paper.take()
        carriages = marks["carriages"]
        self.paper.draw(marks["tick"], np.stack(self._over_bed(carriages.T), axis=1))

    def stop(self, slot: int) -> None:
        """Quick stop of one axis; one that follows a path is stopped on it, with all others of the path."""
        _stop(self.firmware, self._rings, slot, self._path)

    def freeze(self, slot: int) -> None:
        """Steps end at once: power was taken away."""
        _cut(self.firmware, self._rings, slot)

    # -- a path -----------------------------------------------------------------------------------------------------

    @property
    def path(self) -> Row:
        return self._path[0]

    @property
    def path_line(self) -> int:
        """The line of the record that is gone through now."""
        return int(self._lines[int(self.path["at"]) % PATH_RING]) & LINE_BITS

    def forget_path(self) -> None:
        self._path[:] = blank_path()

    def new_path(self, slots: tuple[int, ...]) -> None:
        """Others than those that were given until now; rates stay as they are."""
        path = self.path
        path["state"], path["axes"] = GIVEN, sum(1 << slot for slot in slots)
        path["given"] = path["final"] = path["at"] = path["rate"] = path["slope"] = path["stopping"] = path["ran"] = 0

    def give_records(
        self, first: int, slots: tuple[int, ...], places: np.ndarray, lines: np.ndarray, *, final: bool
    ) -> None:
        """places: (records, axes) in counts. There is room for them."""
        at = np.arange(first, first + len(places)) % PATH_RING
        for column, slot in enumerate(slots):
            self._places[at, slot] = places[:, column]
        self._lines[at] = lines
        self.path["given"] = max(int(self.path["given"]), first + len(places))
        if final:
            self.path["final"] = 1

    def stop_path(self) -> None:
        """Ends it on the path, where it goes."""
        self.path["stopping"] = 1

    def begin_path(self) -> bool:
        """False where an axis does not stand where the path begins, or does something else."""
        path = self.path
        slots = [slot for slot in range(self.axes) if int(path["axes"]) >> slot & 1]
        if path["state"] != GIVEN or not path["given"]:
            return False
        for slot in slots:
            ax = self.firmware[slot]
            if ax["moving"] or abs(self._places[0, slot] - ax["position"]) > START_NEAR:
                return False
        for slot in slots:
            self.firmware[slot]["mode"], self.firmware[slot]["target"] = FOLLOWING, self.firmware[slot]["position"]
        path["state"] = RUNS
        return True

    def home(self, slot: int) -> None:
        """Begins the homing of one axis."""
        _home(self.firmware, slot)

    def set_input(self, number: int, role: int, axis: int, closed_at_rest: int, filter_us: int) -> None:
        """Tells the firmware what an input is for. axis -1: of none, or of all."""
        _set_input(self.inputs, number, role, axis, closed_at_rest, filter_us)

    def hold_flight(self) -> None:
        """Something that the stepping code does not know of has stopped the machine."""
        _hold(self._controller)

    def flight(self) -> tuple[np.ndarray, int]:
        """The samples of the flight record, oldest first, and which of them is the one at the stop."""
        samples = in_order(self._flight, int(self.controller["flight_written"]))
        first = int(self.controller["flight_written"]) - len(samples)
        return samples, max(0, min(int(self.controller["flight_moment"]) - first, len(samples) - 1))

    def edges_from(self, first: int, most: int) -> tuple[int, np.ndarray]:
        """Edges from the ring in order, and the number of the first; older ones than the ring holds are gone."""
        written = int(self.controller["written"])
        first = min(max(first, written - EDGE_RING), written)
        last = min(first + most, written)
        return first, self.edges[np.arange(first, last) % EDGE_RING]

    def tool_over_bed(self) -> tuple[float, float]:
        """Where the tool truly stands over the bed, mm: X along a beam that may stand askew, Y along rails that may lean."""
        x, y = self._over_bed(self.plant["carriage"])
        return float(x), float(y)

    def _over_bed(self, carriages: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """The same for carriages of all motors, by motors first. Where the ways of Y let what stands on them yaw by k for each
        mm, it has gone round by k y at y, and along an arc that has left the line by k y²/2."""
        names = [motor.name for motor in self.rig.motors]
        x, y = (carriages[names.index(name)] for name in "XY")
        yaw = self.rig.yaw / 1e6
        turned = yaw * y
        for motor, carriage in zip(self.rig.motors, carriages, strict=False):
            if motor.across:
                turned = turned + (carriage - carriages[motor.beam]) / motor.across
        lean = self.rig.lean / 1000
        off = y * math.sin(lean) - yaw * y * y / 2
        return x * np.cos(turned) + off, x * np.sin(turned) + y * math.cos(lean)

    def tool_in(self, plane: str) -> tuple[float, float]:
        """Where the tool truly stands in the plane of two axes ("XZ"), mm: Z goes along a column that may lean."""
        names = [motor.name for motor in self.rig.motors]
        x, y = self.tool_over_bed()
        if "Z" not in plane:
            return x, y
        z = float(self.plant[names.index("Z")]["carriage"])
        leans = [math.sin(each / 1000) for each in self.rig.column]
        stands = {"X": x + z * leans[0], "Y": y + z * leans[1], "Z": z * math.cos(math.hypot(*leans))}
        return stands[plane[0]], stands[plane[1]]

    def bed_against_tool(self) -> float:
        """What a dial in the spindle says, mm: by how much the bed reaches further up to it than at the foot of Z."""
        names = [motor.name for motor in self.rig.motors]
        return self.rig.bed.height(*self.tool_over_bed()) - float(self.plant[names.index("Z")]["carriage"])

    def driver_of(self, motor: int) -> int | None:
        """The slot of the axis whose steps a motor takes, or None."""
        for slot, ax in enumerate(self.firmware):
            if motor in (ax["output"], ax["second"]):
                return slot
        return None

    @property
    def powered(self) -> bool:
        return bool(self.firmware["powered"].any())

    @property
    def moving(self) -> bool:
        return any(self.firmware["moving"].tolist())


def warm_up() -> None:
    """Compiles the stepping code into its cache, so that the first bench starts quickly."""
    from .rigs.rig import load

    world = World(load("verge"))
    world.run(1)
    world.stop(0)
    world.freeze(0)
    world.home(0)
    world.new_path((0,))
    world.give_records(0, (0,), np.zeros((2, 1)), np.zeros(2, np.int64), final=True)
    world.run(1)
    world.hold_flight()
    world.set_input(0, 0, -1, 1, 0)
