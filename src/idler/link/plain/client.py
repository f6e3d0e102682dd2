"""One connection to a controller that is made of plain parts: who they are, heartbeats both ways, and what is heard.

Everything here runs on the thread that owns the bus.
"""

from __future__ import annotations

import contextlib
import select
import time
from collections import deque
from collections.abc import Callable, Iterator
from pathlib import Path

from idler.core.controller.parts import PartCondition, Parts, parse_parts, serial_of
from idler.core.controller.quirks import Quirk
from idler.core.controller.standing import ControllerImage
from idler.core.machine import Machine, Shape
from idler.core.profile import cia402 as c
from idler.core.profile.cia301 import PDO_SENT, SDO_ANSWER, SYNC
from idler.core.profile.codec import Place, Raw
from idler.core.profile.edges import EdgeBlock
from idler.core.profile.flight import FlightState
from idler.core.profile.partunits import PartUnits
from idler.core.profile.pdo import PdoMap
from idler.core.values.roles import OutputRole
from idler.core.wiring import outputs
from idler.core.words import listed

from ..bus.address import BusAddress
from ..bus.line import Line
from ..bus.sdo import Pump
from ..bus.wire import Frames
from ..client import Told, Wanted
from ..errors import LinkError, LinkLost, NoAnswer, NotAllowedNow, Overtaken, WriteRefused
from ..events import Asked, AxisState, Emergency, Identity, PanelState
from ..kept import Keep, Kept
from ..plan import Plan
from ..times import Times
from . import facts, values
from .axis import Axis
from .drives import Drives
from .encoder import Encoder
from .objects import Objects
from .part import NMT_RESET, NMT_START, OPERATIONAL, STOPPED, Part
from .reports import Sync
from .rollcall import OWN_NODES, call_all, own_number
from .safety import Watch, expect_no_more
from .spindle import Spindle
from .spindledrive import SpindleDrive
from .stopframe import RECEIVED
from .terminals import Terminals

HEARTBEAT_PERIOD = 0.02  # s
LAST_WORDS = 0.2  # s for the answers to what is said before the line is closed
ALIVE = 0.1  # s since one was heard: it is not the line that is gone
TOLD_LATE = 0.5  # s after a silence on purpose in which parts may still tell of it
_NMT_WORDS = {STOPPED: "stopped", 0x7F: "pre-operational"}


class Client:
    keeps_flights = False
    counts_changes = False

    def __init__(
        self, address: BusAddress, wait: Pump, times: Times, frames: Frames | None = None, keep: Path | None = None
    ) -> None:
        self.address, self.times, self.wait, self._folder = address, times, wait, keep
        self._line = Line(address, frames)
        self.parts: Parts = parse_parts(address.parts)
        patience = times.answer
        called = {node: f"node {node} ({role})" for node, role in self.parts.axes}
        called |= {self.parts.spindle: f"node {self.parts.spindle} (spindle)"} if self.parts.spindle else {}
        self.by_node = {
            node: Part(self._line, node, called.get(node, f"node {node}"), wait, patience) for node in self.parts.nodes
        }
        self.drawn = [Axis(self.by_node[node], slot, name) for slot, (node, name) in enumerate(self.parts.axes)]
        self.terminals = Terminals([self.by_node[node] for node in self.parts.terminals], self.drawn)
        self._encoder = Encoder(self.by_node[self.parts.encoder]) if self.parts.encoder else None
        self.turning = SpindleDrive(self.by_node[self.parts.spindle]) if self.parts.spindle else None
        self._spindle = Spindle(self.terminals, self._encoder, self.turning)
        self.shape = Shape(self.parts.names)
        self.machine = Machine.shaped(self.shape)
        self.kept = Kept()
        self.in_use: dict[Place, Raw] = {}  # all values as they are now, stored or tried
        self._keep = Keep(None, 0)
        self._quirks: list[Quirk] = []
        self.own_node = OWN_NODES[0]
        self.others: frozenset[int] = frozenset()
        self._others_heard: set[int] = set()
        self.booted = False
        self.moved_until_then = False
        self._beats = False
        self._silent, self._silent_until = False, 0.0  # on purpose; and until when what parts say of it is no news
        self._noticed: set[int] = set()  # nodes that told of it
        self._next_beat = 0.0
        self._emergencies: deque[Emergency] = deque()
        self._lost: set[int] = set()
        self._said_untrue: set[int] = set()
        self.feeds = self._told_powered = (
            False  # whether drives are being powered; what outputs that feed them were told
        )
        self._switches = False  # whether outputs were ever made safe; from then on they are told, off above all
        self._left_on = False  # whether outputs may still be on that another Idler switched, and are to be told
        self.objects, self.drives = Objects(self), Drives(self)
        self._sync = Sync(self._line, wait)

    # -- what the thread looks at ---------------------------------------------------------------------------------

    @property
    def axes(self) -> list[AxisState]:
        return [axis.state for axis in self.drawn]

    @axes.setter
    def axes(self, _: list[AxisState]) -> None:
        raise AttributeError("axes are heard, not told")

    @property
    def panel(self) -> PanelState:
        """A stop contact is an indication: it ends the spindle here, and what else it stops is wired, and not ours to say."""
        spindle, wired = self._spindle, self.terminals
        return PanelState(
            wired.closed, wired.energised, spindle.conditions, wired.levels, spindle.counts, spindle.speed
        )

    @panel.setter
    def panel(self, _: PanelState) -> None:
        raise AttributeError("terminals are heard, not told")

    @property
    def heard_at(self) -> float:
        return min(part.heard_at for part in self.by_node.values())

    @property
    def nmt_words(self) -> str:
        states = {part.nmt for part in self.by_node.values()} - {OPERATIONAL}
        return next((_NMT_WORDS.get(state, "not operational") for state in sorted(states)), "")

    @property
    def stopped(self) -> bool:
        return all(part.nmt == STOPPED for part in self.by_node.values())

    @property
    def has_more(self) -> bool:
        return self._line.has_more

    @property
    def spoilt(self) -> int:
        return self._line.spoilt

    @property
    def due(self) -> float:
        return min(0.005, max(0.001, self._next_beat - time.monotonic()))

    def fileno(self) -> int:
        return self._line.fileno()

    def close(self) -> None:
        """Outputs off, and the parts are told not to expect Idler any more."""
        with contextlib.suppress(LinkError):
            self.let_go_of_outputs()
            for axis in self.drawn:
                axis.hear_no_more()
                expect_no_more(axis.part, axis.watch)
            self.ask_singly()
            if self.turning is not None:
                self.turning.let_go()
            self._let_arrive()
        self.abandon()

    def _let_arrive(self) -> None:
        """Waits for the answers to what was said last: a line that is closed may lose what is still on its way."""
        deadline = time.monotonic() + LAST_WORDS
        while any(part.behind for part in self.by_node.values()) and (left := deadline - time.monotonic()) > 0:
            select.select([self.fileno()], [], [], min(left, 0.01))
            self.hear()

    def abandon(self) -> None:
        self._line.close()

    # -- the bus --------------------------------------------------------------------------------------------------

    def hear(self) -> None:
        now = time.monotonic()
        for identifier, data in self._line.take():
            self._frame(identifier, data, now)
        self.terminals.look_at_drives(now)

    def _frame(self, identifier: int, data: bytes, now: float) -> None:
        base, node = identifier & 0x780, identifier & 0x7F
        part = self.by_node.get(node)
        if identifier == SYNC:
            self._sync.heard(self.by_node.values())
            return
        if part is None:
            self._others_heard.add(node)
            if base == SDO_ANSWER and len(data) == 8:
                self._line.answer(identifier, data)
        elif base == SDO_ANSWER and len(data) == 8:
            part.answer(data, now)
        elif base == c.HEARTBEAT and data:
            part.heartbeat(data[0], now)
            if part.booted and not self.booted:
                self.moved_until_then = any(axis.state.moving for axis in self.drawn)
                self.booted = True
                self.drives.stop()
        elif base == c.EMERGENCY and len(data) == 8:
            self._emergency(part, int.from_bytes(data[:2], "little"))
        elif PDO_SENT <= base < SDO_ANSWER:
            part.frame(identifier, data, now)

    def _emergency(self, part: Part, code: int) -> None:
        """One of them has trouble: all stop."""
        slot = next((axis.slot for axis in self.drawn if axis.part is part), None)
        if code == c.CLIENT_LOST and (self._silent or time.monotonic() < self._silent_until):
            self._noticed.add(part.node)
            return
        if not code and part.node in self._noticed:  # that is over
            self._noticed.discard(part.node)
            return
        if code:
            self.drives.stop()
            if slot is not None and code & 0xFF00 in (0x7300, 0x8600):  # of its sensor, of following (CiA 402-1)
                self.drawn[slot].forget_home()
        self._emergencies.append(Emergency(code, c.fault_text(code), tuple(self.axes), slot))

    def emergency(self) -> Emergency | None:
        return self._emergencies.popleft() if self._emergencies else None

    @property
    def stop_frame(self) -> int:
        """Identifier of the frame in which all drives hear STOP: that of process data of Idler's own number."""
        return RECEIVED + self.own_node

    def say_to_all(self, word: int) -> None:
        """A controlword for every drive that hears that frame."""
        self._line.send(self.stop_frame, word.to_bytes(2, "little"))

    def ask_together(self) -> None:
        """Has each part say at one moment what is best seen so, where it can; only while nothing moves."""
        for part in self.by_node.values():
            if not self.drives.busy:
                with contextlib.suppress(NoAnswer, WriteRefused):  # then it is asked singly, as before
                    self._sync.take(part)

    def ask_singly(self) -> bool:
        """Gives back what was taken for that; whether there was anything. Waits for nothing."""
        given = [self._sync.give_back(part) for part in self.by_node.values()]
        return any(given)

    @property
    def _watches(self) -> list[tuple[Part, Watch]]:
        """Of each drive, what makes sure that it stops by itself."""
        found = [(axis.part, axis.watch) for axis in self.drawn]
        return found if self.turning is None else [*found, (self.turning.part, self.turning.watch)]

    @contextlib.contextmanager
    def silent(self) -> Iterator[None]:
        """Idler is not heard meanwhile; what the parts tell of that is no news."""
        self._silent = True
        try:
            yield
        finally:
            self._silent, self._silent_until = False, time.monotonic() + TOLD_LATE
            self._next_beat = 0.0

    def beat(self) -> None:
        """Idler's heartbeat, the next looks at every part, and what Idler itself watches over."""
        now = time.monotonic()
        if self._beats and now >= self._next_beat and not self._silent:
            self._next_beat = now + HEARTBEAT_PERIOD
            self._line.send(c.HEARTBEAT + self.own_node, b"\x05")
            for part, watch in self._watches:
                if watch.guarded:
                    self._line.ask(c.HEARTBEAT + part.node)
        if self._beats:
            self._sync.step(self.by_node.values(), now)
        for part in self.by_node.values():
            part.look_on(now)
        if not self._beats:
            return
        self.terminals.look_often(any(axis.seeks or axis.leashed for axis in self.drawn))
        for axis in self.drawn:
            axis.keep_on(now)
            axis.insist(now)
            for code, met in ((c.LIMIT_MET, axis.limit_met), (c.RAN_ON, axis.ran_on)):
                if met:
                    self.drives.stop()
                    self._emergencies.append(Emergency(code, c.fault_text(code), tuple(self.axes), axis.slot))
            axis.limit_met = axis.ran_on = False
            if axis.untrue and axis.slot not in self._said_untrue:
                self._said_untrue.add(axis.slot)
                self.drives.stop()
                self._emergencies.append(Emergency(c.SPEED_UNTRUE, axis.untrue, tuple(self.axes), axis.slot))
        self.drives.insist(now)
        self._step_spindle(now)
        self._look_for_silence()

    def _step_spindle(self, now: float) -> None:
        powered = self._powered
        if (self._spindle.step(now, powered=powered) or powered != self._told_powered) and self._switches:
            self._told_powered = powered
            self.terminals.switch(self._spindle.given, powered=powered)

    @contextlib.contextmanager
    def fed(self) -> Iterator[None]:
        """Outputs that feed the drives are on meanwhile, and after it while a drive has power. Raises NotAllowedNow where they
        would stay on without Idler."""
        if not any(out.role is OutputRole.DRIVES_ON for out in outputs(self.machine)[: len(self.terminals.outs)]):
            yield
            return
        self.terminals.may_switch(self.own_node, self.times.terminals)
        self._switches = True
        self.feeds = True
        try:
            self._step_spindle(time.monotonic())
            yield
        finally:
            self.feeds = False

    @property
    def _powered(self) -> bool:
        return self.feeds or any(axis.state.state.powered for axis in self.drawn)

    def _look_for_silence(self) -> None:
        """Parts are silent: all stop; and where one stays so, the link is lost."""
        most = self.times.part
        if not any(part.unheard > most for part in self.by_node.values()):
            self._lost.clear()
            return
        self.hear()  # this thread may have been held up, and what came meanwhile still counts
        silent = [part for part in self.by_node.values() if part.unheard > most]
        new = [part for part in silent if part.node not in self._lost]
        self._lost = {part.node for part in silent}
        now = time.monotonic()
        if new and any(now - part.heard_at < ALIVE for part in self.by_node.values()):
            self.let_go_of_outputs()  # one of them alone: whatever turns is not seen any more, or not told
        if new and self.drives.busy:
            self.drives.stop()
            slot = next((axis.slot for axis in self.drawn if axis.part is new[0]), None)
            who = listed([part.called for part in new])
            words = f"{who}: asked while the machine moved, and no answer for {most:g} s"
            self._emergencies.append(Emergency(c.PART_SILENT, words, tuple(self.axes), slot))
        for part in silent:
            if part.unheard > self.times.silence:
                self.drives.stop()
                raise LinkLost(f"{self.address}: {part.called} is not heard any more. Check its power and the cable.")

    # -- connecting -----------------------------------------------------------------------------------------------

    def identify(self) -> Identity:
        """Asks every part who it is, and starts it. Raises LinkError where one is not what it was said to be."""
        call_all(self.address, self.parts, self.by_node, self.times.search)
        self.own_node = own_number(self.address, self._line, self.wait, self.by_node, self._others_heard)
        self.others = frozenset(self._others_heard - {0})
        identities = tuple(part.identity for part in self.by_node.values())
        serial = serial_of(identities)
        self._keep = Keep(self._folder, serial)
        self.kept, self._quirks = self._keep.load(), self._keep.quirks()
        self.kept.parts, self.kept.identities = str(self.parts), identities
        for axis in self.drawn:
            values.find_units(axis)
        self.terminals.find()
        if self._encoder is not None:
            self._encoder.find()
        if self.turning is not None:
            self.turning.find()
        self.shape = Shape(self.parts.names, len(self.terminals.ins), len(self.terminals.outs))
        self._left_on = self.terminals.waited_for(self.own_node)
        self._begin()
        first = identities[0]
        return Identity(
            str(self.address), first.node, " · ".join(filter(None, dict.fromkeys(part.name for part in identities))) or "parts",
            "-", "-", first.vendor, first.product, 0, serial, self.parts.names, PdoMap.usual(0, 0), self.own_node, self.others,
            identities, self.parts.roles,
        )  # fmt: skip

    def _begin(self) -> None:
        """From here on it is heard, and listens."""
        now = time.monotonic()
        self.booted = False
        for part in self.by_node.values():
            part.heard(now)
            part.booted = False
        for axis in self.drawn:
            self.look(axis.slot)
        self._beats = True
        self.beat()

    def configure(self, machine: Machine) -> None:
        """Takes what Idler keeps and does itself."""
        self.machine = machine
        for axis in self.drawn:
            told = machine.axis(axis.slot)
            axis.units, axis.rotary = PartUnits.of(told, axis.told), told.rotary
            axis.coordinate = float(told.number("homing.coordinate"))
            axis.deceleration = max(1.0, float(told.number("pace.deceleration")))
            axis.top = float(told.number("pace.top_speed"))
            axis.homes_at = float(max(told.number("homing.approach"), told.number("homing.touch")))
            axis.search = float(told.number("homing.search"))
            axis.limits = (
                (float(told.number("travel.low")), float(told.number("travel.high")))
                if told.flag("travel.limits_on") and not told.wraps
                else None
            )
        self.terminals.configure(machine)
        self._spindle.configure(machine)
        if self._left_on:
            self._left_on = False
            self.terminals.switch(self._spindle.given, powered=self._powered)

    # -- values ---------------------------------------------------------------------------------------------------

    def makers_method(self, part: Part, way: int) -> int | None:
        """The maker's number for a way of homing that the standard has none for (our own below zero); None where nobody has
        said it."""
        who = part.identity
        methods = [each.methods for each in self._quirks if (each.vendor, each.product) == (who.vendor, who.product)]
        return next((found[way] for found in methods if way in found), None)

    def condition_of(self, node: int) -> PartCondition:
        return facts.condition_of(self, node)

    def sheet_of(self, node: int) -> str:
        """Raises WriteRefused where the part holds none."""
        return facts.sheet_of(self.by_node[node])

    def keep(self, kept: Kept) -> None:
        """On the disk when this returns. Raises LinkError."""
        self.kept = kept
        self._keep.save(kept)

    def read_all(self, progress: Told = lambda _done, _total: None) -> ControllerImage:
        holding = values.read_all(self, progress)
        if not self.kept.raws:  # so that these parts are known again, and what was found of them is kept as found
            self.kept.raws = dict(holding.raws)
            self.keep(self.kept)
        return holding

    def send_plan(self, made: Plan, progress: Told) -> ControllerImage:
        return values.send(self, made, progress)

    def factory(self, restarting: Callable[[], None]) -> ControllerImage:
        raise NotAllowedNow(
            "Plain parts are put back to factory values one at a time, in their makers' ways: their node numbers and bit rates "
            "may go with it."
        )

    def changed_by_others(self) -> bool:
        return False

    # -- restart and state ----------------------------------------------------------------------------------------

    def restart(self) -> None:
        """Resets every part (NMT reset node) and waits until all are back."""
        if any(axis.state.moving for axis in self.drawn):
            raise NotAllowedNow("The parts are restarted only while nothing moves.")
        self._beats = False
        for part in self.by_node.values():
            part.booted = False
            part.manage(NMT_RESET)
        deadline = time.monotonic() + self.times.return_
        while not all(part.booted for part in self.by_node.values()):
            if time.monotonic() > deadline:
                silent = ", ".join(part.called for part in self.by_node.values() if not part.booted)
                raise LinkLost(
                    f"{self.address}: {silent} did not come back within {self.times.return_:.0f} s of the restart."
                )
            self.wait(0.02)
        self.back_again()

    def back_again(self) -> None:
        """After a part has started anew: it knows nothing of what it was told."""
        self.booted = False
        self._spindle.ask(Asked())
        for part in self.by_node.values():
            if part.booted:
                part.booted, part.reports = False, None
                part.manage(NMT_START)
                part.heard(time.monotonic())
                self.terminals.forget(part.node)
                for axis in self.drawn:
                    if axis.part is part:
                        axis.forget()
                if self.turning is not None and self.turning.part is part:
                    self.turning.forget()
        self._begin()

    def need_operational(self) -> None:
        for part in self.by_node.values():
            if part.nmt != OPERATIONAL:
                part.manage(NMT_START)
                part.heard(time.monotonic())

    @contextlib.contextmanager
    def looking(self) -> Iterator[None]:
        try:
            yield
        except LinkLost:
            if not (self.booted or self.stopped):
                raise

    def look(self, slot: int) -> None:
        """Asks what an axis does."""
        axis = self.drawn[slot]
        for where in ((c.STATUS, 0), (c.POSITION, 0), (c.DIGITAL_INPUTS, 0)):
            asked = time.monotonic()
            with contextlib.suppress(WriteRefused):
                axis.see(where, axis.part.bytes_of(where, f"what {axis.name} does"), asked)

    def stop(self) -> None:
        """Quick stop of every axis, all outputs off; needs no answer."""
        self.drives.stop()
        self.let_go_of_outputs()
        if self.turning is not None:
            self.turning.stop()

    # -- terminals ------------------------------------------------------------------------------------------------

    def hold(self, asked: Asked, wanted: Wanted = lambda: True) -> None:
        """Switches outputs while it is held. Raises NotAllowedNow where they would stay on without Idler, or the guard is open;
        Overtaken after STOP."""
        if not self.terminals.outs and (self._spindle.drive is None or asked.tried):
            raise NotAllowedNow("This controller has no outputs: none of its parts is a terminal block.")
        if asked.run and (why := self._spindle.obstacle(powered=self._powered, asked=asked, resets=True)):
            raise NotAllowedNow(why)
        if asked.run and self._spindle.drive is not None:
            self.drives.ready_spindle(self._spindle.drive, wanted)
        if asked.run and (why := self._spindle.obstacle(powered=self._powered, asked=asked)):
            raise NotAllowedNow(why)
        self.terminals.may_switch(self.own_node, self.times.terminals)
        self._switches = True
        if not wanted():
            raise Overtaken("STOP came first.")
        self._ask(asked)

    def _ask(self, asked: Asked) -> None:
        self._spindle.ask(asked)
        self._step_spindle(time.monotonic())

    def let_go_of_outputs(self) -> None:
        if self._spindle.asked != Asked():
            self._ask(Asked())

    def speeds(self) -> list[tuple[float, float]]:
        if self._encoder is None:
            raise NotAllowedNow("The speed of the spindle is not recorded here: none of the parts counts its turns.")
        return self._spindle.record()

    @property
    def counts_per_turn(self) -> int:
        """Of the encoder on the spindle, as it says itself; 0 where there is none, or it does not say."""
        return self._encoder.per_turn if self._encoder is not None else 0

    def spindle_raws(self) -> dict[Place, int]:
        return self._spindle.raws(self.terminals.began)

    def following_error(self, slot: int) -> float:
        """mm (°). Raises WriteRefused where the drive does not say it."""
        axis = self.drawn[slot]
        return axis.part.read((c.FOLLOWING_ERROR, 0), "following error", signed=True) / float(axis.units.place)

    def effort(self, slot: int) -> float:
        return abs(self.drawn[slot].part.read((c.TORQUE, 0), "effort", signed=True)) / 1000

    def edges_from(self, number: int) -> None:
        self.terminals.edges_from(number)

    def edges(self) -> EdgeBlock:
        return self.terminals.edges()

    def flight_state(self) -> FlightState:
        raise WriteRefused("No part keeps a record of what stopped the machine.")

    def take_flight(self) -> bytes:
        raise WriteRefused("No part keeps a record of what stopped the machine.")
