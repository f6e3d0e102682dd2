"""One connection to one controller: the bus, who is there, heartbeats both ways, what is heard, and the terminals.

Its objects are in `objects`, motion in `drives`. Everything here runs on the thread that owns the bus.
"""

from __future__ import annotations

import contextlib
import struct
import time
from collections import Counter, deque
from collections.abc import Callable, Collection, Iterator
from dataclasses import replace
from pathlib import Path

from idler.core.controller.nodes import what_is
from idler.core.controller.parts import PartCondition, PartIdentity
from idler.core.controller.standing import ControllerImage
from idler.core.machine import Shape
from idler.core.profile import cia402 as c
from idler.core.profile import flight
from idler.core.profile import terminals as t
from idler.core.profile.cia301 import SDO_ANSWER, SDO_REQUEST
from idler.core.profile.codec import Place
from idler.core.profile.edges import EdgeBlock, glance, unless_any, unpack_edges
from idler.core.profile.objects import AXIS_NAME, CHANGES, LOAD, MOST_CLIENTS, RESTORE, SAVE, STORE
from idler.core.profile.pdo import HIGHEST_NODE, OFF, OWN_SET, NoRoom, Pdo, PdoKind, PdoMap, node_of, pdos
from idler.core.profile.speeds import unpack_speeds
from idler.core.table import MOST_AXES, axis_index

from ..bus.address import BusAddress
from ..bus.line import Line
from ..bus.sdo import Pump
from ..bus.wire import Frames
from ..client import Told
from ..errors import LinkError, LinkLost, MadeOfParts, NobodyAnswers, NotAllowedNow, Overtaken, SeveralAnswer
from ..events import Asked, AxisState, BusNode, Emergency, Identity, PanelState
from ..kept import known_parts
from ..plan import Plan
from ..times import Times
from .drives import Drives
from .objects import Objects, always
from .sending import send
from .transfer import read_all

OWN_NODES = range(126, 0, -1)  # numbers for Idler's own heartbeat: the first that nobody has
HEARTBEAT_PERIOD = 0.02  # s
EARLY = 0.005  # s: a heartbeat that is due so soon goes with what was just heard; the computer wakes once for both
STILL_THERE = 1.0  # s for which a controller is heard that was told to start anew, and it has not
NMT_START, NMT_STOP = 0x01, 0x02  # CiA 301, 7.2.8.3.1
STOPPED, OPERATIONAL = 0x04, 0x05
DOWNLOAD = 0x23  # of four bytes; two bits say how many fewer
ASKED_AT_ONCE = 16  # nodes that are looked for before the bus is listened to
NO_COUNT = -1  # of changes: the controller does not count them, or was not asked yet
UNASKED = 0.5  # s in which an answer that nobody waits for may come
_LENGTHS = {PdoKind.STATUS: 6, PdoKind.MOTION: 8, PdoKind.TERMINALS: 8, PdoKind.LEVELS: 8, PdoKind.SPINDLE: 8}
_NMT_WORDS = {STOPPED: "stopped", 0x7F: "pre-operational"}


class Client:
    """wait(seconds) is called while time passes: it must call `hear` when the bus has something to read."""

    keeps_flights = True

    def __init__(
        self, address: BusAddress, wait: Pump, times: Times, frames: Frames | None = None, keep: Path | None = None
    ) -> None:
        self.address, self._keep = address, keep
        self.times = times
        self.wait = wait
        self._line = Line(address, frames)
        self._network = self._line.network
        self.objects = Objects(self._network, address, wait, times.answer, self._gone)
        self.axes: list[AxisState] = []
        self._looks = False
        self._reports: Counter[Pdo] = Counter()
        self.map = PdoMap.usual(0, 0)
        self.own_node = OWN_NODES[0]
        self.others: frozenset[int] = frozenset()  # numbers of other nodes that were there when it was connected
        self._newcomer: int | None = None  # the number of a node that came later and whose identifiers are borrowed
        self._answered: set[int] = set()  # numbers of the nodes that are there by their own word
        self._heard: set[int] = set()  # identifiers of others
        self.panel = PanelState()
        self.shape = Shape(())
        self.node = 0
        self._last_heard = time.monotonic()
        self._next_beat = 0.0
        self._beats = False
        self._limit = 0
        self._listened = 1
        # the controller's count of written values, Idler's own, and those of which it is not known, when all were read
        self._changes = NO_COUNT, 0, 0
        self._asked = Asked()
        self._edges_read: EdgeBlock | None = None  # the last block of them
        self.booted = False
        self.moved_until_then = False  # whether something moved when it was heard last before it booted
        self.nmt = OPERATIONAL  # its state as last heard
        # Objects that were written without asking, and until when they are answered.
        self._unasked: dict[int, float] = {}
        self._stopped_it = False  # by Idler's own STOP; heartbeats that were under way do not say so yet
        self.heard_at = self._last_heard  # when anything of it was heard last
        self._emergencies: deque[bytes] = deque()
        self.drives = Drives(self)

    @property
    def names(self) -> tuple[str, ...]:
        return self.shape.names

    def fileno(self) -> int:
        return self._line.fileno()

    def close(self) -> None:
        """Ends the heartbeat politely: the controller is told not to expect it any more."""
        if self.objects.attached and self._beats:
            with contextlib.suppress(LinkError):
                self.say_object(Place(0x1016, self._listened), 0, 4)
        self.abandon()

    def abandon(self) -> None:
        """Lets go of the port without a word to the controller."""
        self._line.close()

    # -- the bus --------------------------------------------------------------------------------------------------

    def hear(self) -> None:
        """Takes frames that have come in, a bounded number of them. Raises LinkLost where the line is gone."""
        for identifier, data in self._line.take():
            self._frame(identifier, bytearray(data))

    @property
    def spoilt(self) -> int:
        """How many lines of the adapter made no sense."""
        return self._line.spoilt

    @property
    def has_more(self) -> bool:
        """Whether frames are left that need not be waited for."""
        return self._line.has_more

    def beat(self) -> None:
        """Sends Idler's heartbeat when it is due, and looks whether the controller's is missing."""
        now = time.monotonic()
        if self._beats and now + EARLY >= self._next_beat:
            self._next_beat = now + HEARTBEAT_PERIOD
            self.send(c.HEARTBEAT + self.own_node, b"\x05")
            self._insist(now)
        if self._beats and now - self._last_heard > self.times.silence:
            raise LinkLost(f"{self.address}: the controller is not heard any more. Check its power and the cable.")
        self._give_way()

    def _insist(self, now: float) -> None:
        """Says again what ends something until the controller reports that it has ended: a frame may be lost."""
        self.drives.insist(now)
        if self._asked == Asked() and self.panel.conditions & (t.Condition.TRYING | t.Condition.SPINDLE):
            self.ask(Asked())

    @property
    def due(self) -> float:
        """Seconds until the next heartbeat."""
        return max(0.0, self._next_beat - time.monotonic()) if self._beats else HEARTBEAT_PERIOD

    def send(self, identifier: int, data: bytes) -> None:
        self._line.send(identifier, data)

    def _frame(self, identifier: int, data: bytearray) -> None:
        base, rest = identifier & 0x780, identifier & 0x7F
        if base == c.HEARTBEAT and rest == self.node:
            self._last_heard = self.heard_at = time.monotonic()
            if data and data[0] == 0:
                self.booted = True
                self.moved_until_then = any(axis.moving for axis in self.axes)
            elif data:
                self.nmt = data[0]
            return
        if (pdo := self.map.routes.get(identifier)) is not None:
            if len(data) == _LENGTHS.get(pdo.kind):
                self._report(pdo, data)
        elif rest != self.node:
            self._other(identifier)
            if base == SDO_ANSWER and len(data) == 8:
                self._network.notify(identifier, data, 0.0)
        elif base == SDO_ANSWER:
            if len(data) == 8 and not (self._unasked and self._answers_nobody(data)):
                self._network.notify(identifier, data, 0.0)
        elif base == c.EMERGENCY and len(data) == 8:
            self._emergencies.append(bytes(data))

    def emergency(self) -> Emergency | None:
        """Error code, error register, then the axis and the input that it came from (0: none)."""
        if not self._emergencies:
            return None
        data = self._emergencies.popleft()
        code, axis, number = int.from_bytes(data[:2], "little"), data[3], data[4]
        return Emergency(code, c.fault_text(code), tuple(self.axes), axis - 1 if axis else None,
                         number - 1 if number else None)  # fmt: skip

    def _report(self, pdo: Pdo, data: bytearray) -> None:
        """What the controller says of itself."""
        if pdo.kind in (PdoKind.STATUS, PdoKind.MOTION):
            if pdo.slot >= len(self.axes):
                return
            old, self.heard_at = self.axes[pdo.slot], time.monotonic()
            self._reports[pdo] += 1
            if pdo.kind is PdoKind.STATUS:
                status, position = struct.unpack(c.STATUS_FORMAT, data)
                self.axes[pdo.slot] = AxisState(status, c.position_from(position), old.velocity, old.inputs)
            else:
                velocity, inputs = struct.unpack(c.MOTION_FORMAT, data)
                self.axes[pdo.slot] = AxisState(old.status, old.position, c.speed_from(velocity), inputs)
        elif pdo.kind is PdoKind.TERMINALS:
            closed, energised, conditions = struct.unpack(t.TERMINAL_FORMAT, data)
            self.panel = replace(self.panel, closed=closed, energised=energised, conditions=t.Condition(conditions))
        elif pdo.kind is PdoKind.LEVELS:
            self.panel = replace(self.panel, levels=struct.unpack(f"<{t.LEVEL_OUTPUTS}H", data))
        elif pdo.kind is PdoKind.SPINDLE:
            counts, tenths = struct.unpack(t.SPINDLE_FORMAT, data)
            self.panel = replace(self.panel, counts=counts, speed=tenths / 10)

    def _other(self, identifier: int) -> None:
        """A frame of another node. Raises LinkLost where its number is one whose identifiers are borrowed."""
        self._heard.add(identifier)
        if (number := node_of(identifier)) in self.map.borrowed and number != self.own_node:
            self.drives.stop()
            self._newcomer = number
            self._give_way()

    def _give_way(self) -> None:
        """Raises LinkLost once another node owns identifiers that were borrowed, whatever became of the first time."""
        if self._newcomer is not None:
            raise LinkLost(
                f"{self.address}: node {self._newcomer} has come onto the bus, and this controller's axes use its "
                "identifiers. Everything was stopped; free ones are looked for."
            )

    def _gone(self) -> bool:
        """Whether what is waited for will not be answered: the node has started anew, or a look was overtaken by STOP."""
        return self.booted or (self._looks and self.stopped)

    def look(self, slot: int) -> None:
        """Asks what an axis does: whatever it was told before is in the answer, however late or lost its reports are.

        Frames keep their order, so a report that comes after the first answer is as good, and newer.
        """
        at = {index: Place(axis_index(index, slot), 0) for index in (c.DIGITAL_INPUTS, c.STATUS, c.POSITION)}
        if self.stopped:
            return
        with self.looking():
            self.objects.read(at[c.STATUS], "statusword")
            before = self._reports[Pdo(PdoKind.STATUS, slot)], self._reports[Pdo(PdoKind.MOTION, slot)]
            raws = {index: int(self.objects.read(place, "what an axis does")) for index, place in at.items()}
            axis = self.axes[slot]
            if self._reports[Pdo(PdoKind.STATUS, slot)] == before[0]:
                axis = replace(axis, status=raws[c.STATUS])
                if (
                    axis.reached and not axis.moving
                ):  # else it is elsewhere by now, and the next report says both at once
                    axis = replace(axis, position=c.position_from(raws[c.POSITION]))
            if self._reports[Pdo(PdoKind.MOTION, slot)] == before[1]:
                axis = replace(axis, inputs=raws[c.DIGITAL_INPUTS])
            self.axes[slot] = axis

    @contextlib.contextmanager
    def looking(self) -> Iterator[None]:
        """What is only looked at: it ends without a word where the node is stopped meanwhile, by whomever, or starts anew.
        Then it moves nothing."""
        self._looks = True
        try:
            yield
        except LinkLost:
            if not self._gone():
                raise
        finally:
            self._looks = False

    # -- connecting -----------------------------------------------------------------------------------------------

    def identify(self) -> Identity:
        """Looks for the controller and asks who it is; from here on the heartbeat goes both ways."""
        self.node = self._chosen(self._search())
        self.objects.attach(self.node)
        self.start()
        self._take_shape()
        say, told = self.objects.read, self.objects.read_if_there
        vendor, product, revision, serial = (int(say(Place(0x1018, sub), "identity")) for sub in (1, 2, 3, 4))
        self._take_identifiers()
        name, hardware, software = (str(told(Place(index, 0), "not told")) for index in (0x1008, 0x1009, 0x100A))
        identity = Identity(
            str(self.address), self.node, name, hardware, software, vendor, product, revision, serial,
            self.names, self.map, self.own_node, self.others,
        )  # fmt: skip
        self.expect_heartbeat()
        self._read_panel()
        for slot in range(len(self.names)):  # whoever is told of the link may ask for motion at once
            self.look(slot)
        return identity

    def _chosen(self, answered: list[int]) -> int:
        """Which of the nodes that answered it is: the one of the address, or the only one of this profile, or the only one.

        Raises SeveralAnswer with all of them where the person has to choose.
        """
        wanted = self.address.node
        self._answered = set(answered)
        if wanted in answered:
            return wanted
        found = {
            node: Objects(self._network, self.address, self.wait, self.times.answer, self._gone) for node in answered
        }
        nodes, plain = [], []
        for node, objects in found.items():
            objects.attach(node)
            vendor, product, serial = (int(objects.read_if_there(Place(0x1018, sub), 0)) for sub in (1, 2, 4))
            name = str(objects.read_if_there(Place(0x1008, 0), ""))
            what = what_is(int(objects.read_if_there(Place(0x1000, 0), 0)), vendor, product)
            nodes.append(BusNode(node, name or "no name", what))
            if what.is_part:
                plain.append(PartIdentity(node, name, vendor, product, serial))
        ours = [node.number for node in nodes if node.ours]
        if len(ours) == 1 and not wanted:
            return ours[0]
        if plain and not ours and not wanted:
            raise MadeOfParts(str(self.address), tuple(nodes), known_parts(self._keep, plain))
        if len(answered) == 1 and not wanted:
            return answered[0]
        raise SeveralAnswer(str(self.address), tuple(nodes), wanted)

    def _there(self, held: Collection[int]) -> set[int]:
        """Numbers of other nodes that are on the bus. held: identifiers that the controller itself uses."""
        heard = {node_of(identifier) for identifier in self._heard if identifier not in held}
        return {number for number in {*self._answered, *heard} if number and number != self.node}

    def _take_identifiers(self) -> None:
        """Gives the process data identifiers that nobody else on the bus uses. Raises LinkError.

        Those that are as they should be already stay: another computer may be listening to them.
        """
        held = {}
        for pdo in pdos(len(self.names)):
            cob = int(self.objects.read_if_there(Place(pdo.parameters, 1), pdo.usual + (self.node if pdo.owned else 0)))
            held[pdo] = cob
        self.others = frozenset(self._there({cob & OWN_SET for cob in held.values() if not cob & OFF}))
        self.own_node = next(node for node in OWN_NODES if node not in self.others and node != self.node)
        try:
            self.map = PdoMap.planned(self.node, len(self.names), {*self.others, self.own_node}, held)
        except NoRoom as why:
            raise LinkError(f"{self.address}: {why.sentence}") from None
        for pdo, cob in self.map.cobs.items():
            if held[pdo] != cob:
                where = Place(pdo.parameters, 1)
                if not held[pdo] & OFF:
                    self.objects.write(where, OFF | cob, "identifier of process data", again=always)
                self.objects.write(where, cob, "identifier of process data", again=always)

    def _take_shape(self) -> None:
        """Which axes and terminals the controller has; all of them are unheard as yet."""
        say = self.objects.read
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
            int(self.objects.read(place, "terminals now")) for place in (t.LEVELS_NOW, t.OUTPUTS_NOW, t.CONDITIONS)
        )
        self.panel = PanelState(closed, energised, t.Condition(conditions))

    def expect_heartbeat(self) -> None:
        """Tells the controller to stop motion when Idler is not heard (1016h), and begins to be heard."""
        self.drives.forget()
        self._limit = 0
        self._listened = self._place_to_be_heard()
        self.expect(self.times.motion)
        self._beats = True
        self._last_heard = time.monotonic()
        self.beat()

    def _place_to_be_heard(self) -> int:
        """The sub-index of 1016h that is Idler's: a free one, so that another computer is still listened to.

        An entry of the same number is of an Idler that ended badly.
        """
        held = {
            sub: int(self.objects.read_if_there(Place(0x1016, sub), NO_COUNT)) for sub in range(1, MOST_CLIENTS + 1)
        }
        own = (sub for sub, raw in held.items() if raw >= 0 and (raw >> 16) & 0x7F in (0, self.own_node))
        return next(own, 1)

    def expect(self, seconds: float) -> None:
        """How long the controller goes on without hearing Idler."""
        milliseconds = round(1000 * seconds)
        if self._limit != milliseconds:
            self.objects.write(
                Place(0x1016, self._listened),
                self.own_node << 16 | milliseconds,
                "consumer heartbeat time",
                again=always,
            )
            self._limit = milliseconds

    def _search(self) -> list[int]:
        """Asks all nodes for their device type (1000h), a few at a time; whoever answers, or is heard, is there."""
        answered: dict[int, float] = {}  # when

        def hear(identifier: int, _data: bytearray, _time: float) -> None:
            answered.setdefault(identifier - SDO_ANSWER, time.monotonic())

        nodes = range(1, HIGHEST_NODE + 1)
        for node in nodes:
            self._network.subscribe(SDO_ANSWER + node, hear)
        for patience in self.times.search:
            for node in nodes:
                self.send(SDO_REQUEST + node, bytes((0x40, 0x00, 0x10, 0, 0, 0, 0, 0)))
                if node % ASKED_AT_ONCE == 0:
                    self.wait(0.0)
            deadline = time.monotonic() + patience
            while (now := time.monotonic()) < deadline:
                if answered:  # whoever else is there says so soon after
                    deadline = max(answered.values()) + self.times.others
                self.wait(max(0.0, deadline - now))
            if answered:
                break
        for node in nodes:
            self._network.unsubscribe(SDO_ANSWER + node)
        if not answered:
            raise NobodyAnswers(f"{self.address}: the port is open, but {self.address.nobody}")
        return sorted(answered)

    # -- values ---------------------------------------------------------------------------------------------------

    def read_all(self, progress: Told = lambda _done, _total: None) -> ControllerImage:
        """All values that it holds."""
        return read_all(self, progress)

    def send_plan(self, made: Plan, progress: Told) -> ControllerImage:
        """As a whole or not at all; what it holds then."""
        return send(self, made, progress)

    def factory(self, restarting: Callable[[], None]) -> ControllerImage:
        """Puts it back to the values that it was delivered with (1011h), restarts it, and stores them."""
        self.objects.write(RESTORE, LOAD, "restoring factory values")
        restarting()
        self.restart()
        self.objects.write(STORE, SAVE, "storing in the controller")
        return self.read_all()

    # -- who changed it -------------------------------------------------------------------------------------------

    def count_changes_from_now(self) -> None:
        counted = int(self.objects.read_if_there(CHANGES, NO_COUNT))
        self._changes = counted, self.objects.written, self.objects.unheard

    def changed_by_others(self) -> bool:
        """Whether the controller took more values than Idler wrote since `count_changes_from_now`. False where it does not
        count them."""
        counted, written, unheard = self._changes
        found = NO_COUNT if counted == NO_COUNT else int(self.objects.read_if_there(CHANGES, NO_COUNT))
        if found == NO_COUNT:
            return False
        own, unsure = self.objects.written - written, self.objects.unheard - unheard
        return (found - counted - own) & 0xFFFFFFFF > unsure

    @property
    def unsure(self) -> bool:
        """Whether answers were lost since `count_changes_from_now`, so that a few changes of others would not be seen."""
        return self.objects.unheard != self._changes[2]

    @property
    def counts_changes(self) -> bool:
        return self._changes[0] != NO_COUNT

    # -- restart and stop ----------------------------------------------------------------------------------------

    def restart(self) -> None:
        """Resets the controller (NMT reset node) and waits until it is back."""
        if any(axis.moving for axis in self.axes):
            raise NotAllowedNow("The controller is restarted only while nothing moves.")
        self.booted = False
        self._beats = False
        self.send(0, bytes((0x81, self.node)))
        said = time.monotonic()
        deadline = said + self.times.return_
        while not self.booted:
            # it goes on, or says nothing for long: this frame was lost, or its word that it begins
            if self._last_heard - said > STILL_THERE or time.monotonic() - said > self.times.return_ / 3:
                self.send(0, bytes((0x81, self.node)))
                said = time.monotonic()
            if time.monotonic() > deadline:
                raise LinkLost(
                    f"{self.address}: the controller did not come back within {self.times.return_:.0f} s of its restart."
                )
            self.wait(0.05)
        self.back_again()

    def start(self) -> None:
        """Tells the node to be operational: in any other state it may move nothing and hear no process data."""
        self.send(0, bytes((NMT_START, self.node)))

    def need_operational(self) -> None:
        """Raises NotAllowedNow where the node does not become operational."""
        if self.nmt == OPERATIONAL and not self._stopped_it:
            return
        words = self.nmt_words
        self.start()
        if self._stopped_it:  # frames keep their order: it is started before it is asked
            self.nmt, self._stopped_it = OPERATIONAL, False
        deadline = time.monotonic() + self.times.power
        while self.nmt != OPERATIONAL:
            if time.monotonic() > deadline:
                raise NotAllowedNow(f"The controller is {words}, and was asked to be operational in vain. Restart it.")
            self.wait(0.02)

    @property
    def nmt_words(self) -> str:
        """The state of the node in a word where it is not operational, else nothing."""
        return "" if self.nmt == OPERATIONAL else _NMT_WORDS.get(self.nmt, "not operational")

    @property
    def stopped(self) -> bool:
        """Whether the node is stopped: then it answers nothing."""
        return self.nmt == STOPPED or self._stopped_it

    def say_object(self, where: Place, raw: int, size: int) -> None:
        """Writes an object of so many bytes by SDO (expedited download, CiA 301, 7.2.4.3.3); its answer is not waited for."""
        self._unasked[where.index] = time.monotonic() + UNASKED
        command = DOWNLOAD | (4 - size) << 2
        self.send(SDO_REQUEST + self.node, struct.pack("<BHBI", command, where.index, where.sub, raw))

    def _answers_nobody(self, data: bytearray) -> bool:
        """Whether an SDO answer is one to `say_object`: whoever waits for another one must not get it."""
        index = int.from_bytes(data[1:3], "little")
        return data[0] in (0x60, 0x80) and time.monotonic() < self._unasked.pop(index, 0.0)

    def stop_node(self) -> None:
        """The last word of STOP: the node itself is stopped (NMT), and is started again by the next power."""
        self._stopped_it = True
        self.send(0, bytes((NMT_STOP, self.node)))

    def back_again(self) -> None:
        self.booted = False
        self._changes = NO_COUNT, 0, 0  # it counts from the start again
        self.start()
        self._take_shape()
        self._take_identifiers()
        self.panel, self._asked, self._edges_read = PanelState(), Asked(), None
        self.expect_heartbeat()
        self._read_panel()

    def stop(self) -> None:
        """Quick stop of every axis, spindle off, no output tried; needs no answer of the controller."""
        self.drives.stop()
        self.ask(Asked())

    # -- terminals ------------------------------------------------------------------------------------------------

    def ask(self, asked: Asked) -> None:
        """Asks for spindle and outputs; sends one frame and waits for nothing."""
        self._asked = asked
        self.send(self.map.cobs[Pdo(PdoKind.COMMAND)], struct.pack(t.COMMAND_FORMAT, *asked))

    def hold(self, asked: Asked, wanted: Callable[[], bool] = lambda: True) -> None:
        """Asks for something that must end when nobody holds it: the controller ends it too when Idler is not heard.

        Raises Overtaken where STOP came first.
        """
        self.expect(self.times.terminals)
        if not wanted():
            raise Overtaken("STOP came first.")
        self.ask(asked)

    def let_go_of_outputs(self) -> None:
        """Ends whatever is asked of the terminals."""
        if self._asked != Asked():
            self.ask(Asked())

    def edges_from(self, number: int) -> None:
        """The next block of edges will begin with this one."""
        self._edges_read = None
        self.objects.write(t.NEXT_EDGE, number, "next edge")

    def edges(self) -> EdgeBlock:
        """The next block of edges of the inputs. Where none waits, which is nearly always, two frames say so for eight."""
        if self._edges_read is not None:
            word = int(self.objects.read_if_there(t.EDGES_WAIT, glance(0, 0, waits=True)))
            if (found := unless_any(self._edges_read, word)) is not None:
                self._edges_read = found
                return found
        self._edges_read = self.objects.block(t.EDGES, "edges", unpack_edges)
        return self._edges_read

    def speeds(self) -> list[tuple[float, float]]:
        """The spindle since it was told something else: seconds and rpm, by its encoder."""
        return self.objects.block(t.SPEED_RECORD, "record of speeds", unpack_speeds)

    def flight_state(self) -> flight.FlightState:
        """Whether something has stopped the machine, and its record is whole."""
        return flight.FlightState(int(self.objects.read(flight.FLIGHT_STATE, "state of the flight record")))

    def take_flight(self) -> bytes:
        """The flight record that is held; the controller lets it go with that."""
        data = self.objects.block(flight.FLIGHT, "flight record", bytes)
        self.objects.write(flight.FLIGHT_GO, 1, "letting the flight record go")
        return data

    def sheet_of(self, node: int) -> str:
        raise NotAllowedNow("This controller is of Idler's own profile, which Idler itself describes.")

    def condition_of(self, node: int) -> PartCondition:
        raise NotAllowedNow("This controller is of Idler's own profile: it has no parts that could be asked.")

    def following_error(self, slot: int) -> float:
        """How far an axis is behind, in mm (or °)."""
        return c.position_from(int(self.objects.read(Place(axis_index(c.FOLLOWING_ERROR, slot), 0), "following error")))

    def effort(self, slot: int) -> float:
        """The share of its torque that an axis gives now."""
        return abs(int(self.objects.read(Place(axis_index(c.TORQUE, slot), 0), "effort"))) / 1000
