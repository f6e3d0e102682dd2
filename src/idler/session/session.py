"""The session: the one seam between the interface and core, link and shelf. It owns the draft; the rest it asks for.

Facts: the draft (here), the controller as last read (holding), revisions (shelf). Standing is worked out from them.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import TYPE_CHECKING, Literal, Protocol

from idler.core.controller import standing
from idler.core.controller.parts import exchanged, parse_parts
from idler.core.controller.standing import ControllerImage, Count, Standing
from idler.core.errors import About, IdlerError, Refusal, Sentence
from idler.core.machine import Address, Machine
from idler.core.machine.axes import of_other_kinds
from idler.core.mechanics.entry import read_field
from idler.core.mechanics.scale import Pass
from idler.core.mechanics.torqueprint import TorquePrint
from idler.core.profile.cia402 import State
from idler.core.profile.codec import LETTERS, Place, Raw, machine_from, place
from idler.core.proof.belongings import Belongings, Letters
from idler.core.proof.claims import Claim, Evidence, Witness
from idler.core.rules.findings import Finding, findings
from idler.core.rules.index import taken_in_haste
from idler.core.rules.wiring import unused_changes
from idler.core.spindle.interlocks import Rung, ladder, obstacle_of
from idler.core.values.parameter import Scope, Value
from idler.core.wiring import inputs
from idler.core.wiring.fitting import fitted
from idler.core.words import capital
from idler.link import events
from idler.link.bus.address import DEFAULT_BIT_RATE
from idler.link.bus.address import parse as parse_address
from idler.link.controller import Controller, Kind, kind_of
from idler.link.plan import plan
from idler.shelf.shelf import Shelf

from .acts import Acts
from .agenda import Agenda
from .beams import BeamWatch
from .calls import Call
from .controllerside import ControllerSide
from .current import CurrentWatch
from .edits import Edit, Reshape
from .floor import Floor
from .homes import Homes
from .incidents import Incidents
from .leading import Leading
from .link_events import LinkEvents
from .lock import SetupLock
from .loop import Loop
from .loosecontact import LooseContact
from .motion_words import UNHEARD
from .programs import ProgramInHand
from .proven import Proven
from .revisions import Revisions
from .sheets import Sheets
from .spindlebus import SpindleBus
from .tools import Tools
from .topic import Topic
from .undo import UndoStack
from .workzero import WorkZeros

if TYPE_CHECKING:
    from pathlib import Path

    from idler.core.incident import Incident
    from idler.link.bus.wire import Frames
    from idler.link.events import BusNode
    from idler.link.trace import Trace

    from .instruments import Instruments

Tone = Literal["plain", "found", "warn", "fault"]

UNCONNECTED = Sentence("No controller is connected.", About.UNCONNECTED)
DRIVES_OFF = Sentence("The drives are off. Power them first.", About.DRIVES_OFF)

LOOKS = 0.02  # s between looks at what is heard of the machine


class UnderWay(Protocol):
    """A procedure that is not over. leads: whether it says what is next where it had the machine stopped."""

    leads: bool


class Session:
    """Topics carry no data where the subscriber can ask; `told` is what a person should read, and in which tone."""

    def __init__(self, shelf: Shelf, name: str, loop: Loop) -> None:
        self.changed: Topic[()] = Topic()  # the draft
        self.held: Topic[()] = Topic()  # what the controller holds, or whether there is one
        self.told: Topic[Tone, str] = Topic()
        self.progressed: Topic[events.Progress | None] = Topic()  # None at the end
        self.focused: Topic[Address | None] = Topic()
        self.revised: Topic[()] = Topic()
        self.proved: Topic[()] = Topic()
        self.noticed: Topic[()] = Topic()  # something was seen at the machine that makes a finding
        self.hands_off: Topic[()] = (
            Topic()
        )  # what a finger holds is held no more: another window has the focus, or none
        self.unattended: Topic[()] = Topic()  # no window has the focus
        self.halted: Topic[()] = Topic()  # STOP was pressed
        self.read: Topic[events.Read] = Topic()  # single objects that were asked for
        self.speeds: Topic[events.Speeds] = Topic()  # the record of the spindle, where it was asked for
        self.several: Topic[tuple[BusNode, ...]] = Topic()  # nodes that answered where one controller was looked for
        self.done: Topic[str] = Topic()  # what was asked for of the link, and is done
        self.failed: Topic[str] = Topic()  # what could not be done; the sentence was told
        self.stopped: Topic[Incident] = Topic()  # something stopped the machine
        self.dead: Topic[str] = Topic()  # a motor takes no torque any more
        self.restarted: Topic[()] = Topic()  # the controller, or a part of the machine, by itself
        self.calls: Topic[Call] = Topic()  # what calls a person who looks elsewhere
        self._shelf, self.name, self.loop = shelf, name, loop
        self.closed = False
        self.runs: set[UnderWay] = set()  # procedures, those too that move nothing
        self.history = Revisions(self, shelf)
        self.machine, lost = shelf.draft(name, self.base)
        self.holding: ControllerImage | None = None
        self.identity: events.Identity | None = None
        self.focus: Address | None = None
        self.offered: Mapping[Address, Value] = {}  # what a measurement in front came to, until it is taken
        self.undo_stack = UndoStack()
        self._link_events = LinkEvents(self)
        self._kind = kind_of("")
        self.link: Controller = self._opened(self._kind)
        self.busy = ""
        self.refusal = ""  # why what was asked for last could not be done
        self.off_first = False  # whether drives of this controller refused to store while they had power
        self.cause_gone = False  # whether the controller said that what faulted its drives is over
        self.floor = Floor(loop.now)
        self.keys_armed = False
        self._watching: frozenset[int] = frozenset()
        self._stale = 0  # of the controller's clock: what it was before somebody watched
        self.held_machine: Machine | None = None
        self._in_force: Machine | None = None
        self.bench_hands: Instruments | None = None
        self.power_asked = 0  # how often, so that power that comes unasked is seen
        self._counted: tuple[tuple[Machine, ControllerImage | None, Machine], Count] | None = None
        self.proven = Proven()
        self._seen: dict[int, int] = {}
        self._hasty: dict[str, float] = {}
        self.passes: dict[str, list[Pass]] = {}
        self.prints: dict[str, list[TorquePrint]] = {}
        troubles: list[str] = []
        try:
            self.proven.put(shelf.proofs(name))
        except IdlerError as why:
            troubles.append(why.sentence)
        try:
            self.passes = shelf.passes(name)
        except IdlerError as why:
            troubles.append(why.sentence)
        try:
            self.prints = shelf.prints(name)
        except IdlerError as why:
            troubles.append(why.sentence)
        self.homes = Homes(self, shelf, name)
        self.work, self.bus = WorkZeros(self, shelf, name), SpindleBus(self, shelf, name)
        self.tools = Tools(self, shelf, name)
        self.sheets = Sheets(self, shelf.root)
        self.program = ProgramInHand(self, shelf, name)
        self.acts, self.agenda = Acts(), Agenda(self, shelf, name)
        self.leading = Leading(self)
        self.lock = SetupLock(shelf, name)
        self.incidents = Incidents(self, shelf.incidents(name))
        self.controller = ControllerSide(self, shelf)
        self.current, self._beams, self.loose = CurrentWatch(self), BeamWatch(self), LooseContact(self)
        self._looks = loop.timer(LOOKS, self._look)
        self._looks.start()
        troubles += [
            each.trouble for each in (self.homes, self.work, self.tools, self.bus, self.agenda) if each.trouble
        ]
        troubles += [self.program.lost] if self.program.lost else []
        self.lost_edits = [*lost, *troubles, *self.controller.troubles]
        self._drag = 1  # the mark that tells one drag from the next

    def tell(self, tone: Tone, words: str) -> None:
        """A sentence for the person; one that says what it is about (Sentence) has a page of the help."""
        self.told.publish(tone, words)

    def refuse(self, what: str, why: str) -> None:
        """What has not come about, and why; the page of the help is that of the reason."""
        self.tell("warn", Sentence.of(why).after(what))

    def look_away(self, *, attended: bool) -> None:
        """The person looks at another window, or at none of ours."""
        self.hands_off.publish()
        if not attended:
            self.unattended.publish()

    def show_anew(self) -> None:
        """Whoever shows something of the machine shows it again."""
        self.changed.publish()

    def _look(self) -> None:
        """What only a look at the machine can tell, again and again."""
        self._link_events.note_homed()
        self.homes.look()
        self.incidents.note()
        self.current.look()
        self._beams.look()

    @property
    def folder(self) -> Path:
        """Where everything of this person's machines is kept."""
        return self._shelf.root

    @property
    def file_text(self) -> str:
        """The machine's file as it was kept last, with its comments; "" where it cannot be read."""
        try:
            return self._shelf.load(self.name).text
        except IdlerError:
            return ""

    # -- draft ----------------------------------------------------------------------------------------------------

    @property
    def base(self) -> Machine:
        """The newest revision."""
        return self.history.base

    def edit(self, address: Address, text: str) -> Value:
        """Takes what was typed into a field. Raises Refusal; then nothing has changed."""
        if self.lock.closed:
            raise Refusal("The set-up", "", "is locked", "", "unlock it with its PIN at the Link station", About.LOCKED)
        value = read_field(self.machine, address, text)
        self.set_values({address: value})
        return value

    def set_values(self, values: Mapping[Address, Value], words: str = "", merge: int = -1) -> None:
        """One step of undo. Raises Refusal where a value is out of bounds. A locked set-up stays as it is, and says so."""
        if self.refuses_change():
            return
        anew = of_other_kinds(self.machine, values)
        wanted = {**values, **{address: value for address, value in anew.items() if address not in values}}
        real = {address: value for address, value in wanted.items() if self.machine[address] != value}
        if not real:
            return
        self.machine.with_values(real)
        if not words:
            address = next(iter(real))
            words = f"{self.machine.part(address)}" + (f" and {len(real) - 1} more" if len(real) > 1 else "")
        self.undo_stack.push(Edit(self.machine, self._put, real, words, merge))
        if anew:
            axes = ", ".join(dict.fromkeys(self.machine.names[address.slot or 0] for address in anew))
            self.tell(
                "plain",
                f"{axes}: counts in another unit now, so its speeds, accelerations, limits and places are the usual ones "
                "again. Set them anew.",
            )

    def mend(self, values: Mapping[Address, Value], words: str = "") -> None:
        """The same for values that were proposed by what was found: where one is out of bounds, that is told."""
        try:
            self.set_values(values, words)
        except Refusal as why:
            self.tell("warn", why.sentence)

    def drag_values(self, values: Mapping[Address, Value], words: str, *, last: bool) -> None:
        """Like set_values for something that is dragged: all until `last` is one step of undo."""
        self.set_values(values, words, merge=self._drag)
        if last:
            self._drag += 1

    def reshape(self, machine: Machine, words: str, letters: Letters | None = None) -> None:
        """Takes another machine into the draft, its axes included, as one step of undo.

        letters: the axes that get other letters, with what was measured and proven of them; None for a letter whose former
        axis is gone, and a new one takes it.
        """
        if machine != self.machine and not self.refuses_change():
            self.undo_stack.push(
                Reshape(self.machine, self._put_machine, machine, words, letters or {}, self._reletter)
            )

    def _reletter(self, letters: Letters, back: Belongings | None = None) -> Belongings:
        """What belongs to axes follows them; the belongings as they were. back: what comes back where nothing else is."""
        before = Belongings(self.passes, self.proven.kept, self.work.places, self.homes.in_doubt, self.prints)
        after = before.relettered(letters)
        if back is not None:
            after = after.with_those_of(back)
        self.passes = {axis: list(kept) for axis, kept in after.passes.items()}
        self.keep("passes", lambda: self._shelf.save_passes(self.name, self.passes))
        self.prints = {axis: list(kept) for axis, kept in after.prints.items()}
        self.keep("torque prints", lambda: self._shelf.save_prints(self.name, self.prints))
        self.proven.put(after.proofs)
        self._keep_proofs()
        self.work.put(after.zeros)
        self.homes.doubt(after.doubts)
        self.proved.publish()
        return before

    def keep(self, what: str, work: Callable[[], None]) -> None:
        """On the disk when this returns, or told that it is not."""
        try:
            work()
        except IdlerError as why:
            self.refuse(f"The {what} are not on the disk yet.", why.sentence)

    def refuses_change(self) -> bool:
        """Whether the set-up is locked; then that is told, and fields that were changed already show what still is."""
        if self.lock.closed:
            self.tell("warn", self.lock.obstacle)
            self.changed.publish()
        return self.lock.closed

    def undo(self) -> None:
        if not self.refuses_change():
            self.undo_stack.undo()

    def redo(self) -> None:
        if not self.refuses_change():
            self.undo_stack.redo()

    def _put(self, values: Mapping[Address, Value]) -> None:
        self._put_machine(self.machine.with_values(values))

    def _put_machine(self, machine: Machine) -> None:
        if machine.names != self.machine.names:
            self.set_focus(None)
        self.machine = machine
        self._save_draft()
        self.changed.publish()

    def _save_draft(self) -> None:
        try:
            self._shelf.save_draft(self.name, self.machine, self.base)
        except IdlerError as why:
            self.refuse("Your edits are not on the disk yet.", why.sentence)

    def offer(self, edit: Mapping[Address, Value]) -> None:
        """What can be taken now with one press; nothing when that is gone."""
        if edit != self.offered:
            self.offered = edit
            self.focused.publish(self.focus)

    def set_focus(self, address: Address | None) -> None:
        if address != self.focus:
            self.focus = address
            self.focused.publish(address)

    # -- standing and findings ------------------------------------------------------------------------------------

    def standing(self, address: Address) -> Standing:
        return standing.standing(self.machine, self.holding, address, self.base)

    def home_words(self, address: Address) -> str:
        """Where a value lives, with a controller that is made of parts; else nothing."""
        lives = self.holding.homes.get(place(address)) if self.holding is not None else None
        return lives.sentence.rstrip(".") if lives is not None else ""

    def count(self) -> Count:
        facts = (self.machine, self.holding, self.base)
        if self._counted is None or any(a is not b for a, b in zip(self._counted[0], facts, strict=True)):
            self._counted = (facts, standing.count(*facts))
        return self._counted[1]

    @property
    def in_controller(self) -> Machine:
        """What the controller holds as a machine; where there is none, the newest revision."""
        return self.held_machine if self.held_machine is not None else self.base

    @property
    def in_force(self) -> Machine:
        """The same without what waits for a restart: as the controller acts now."""
        return self._in_force if self._in_force is not None else self.base

    def findings(self) -> list[Finding]:
        noticed = (*self.incidents.findings(self.machine), *taken_in_haste(self.machine, self._hasty))
        return [*noticed, *findings(self.machine, self._seen), *self.sheets.findings(self.machine)]

    def see_lines(self, axis: str, brief: float) -> None:
        """brief: ms of the longest state of its lines that an axis took for a number though it was over so soon; 0: none."""
        if brief > self._hasty.get(axis, 0.0):
            self._hasty[axis] = brief
            self.noticed.publish()

    def see_edges(self, counts: Sequence[int]) -> None:
        """How many edges each input has had; what that says of inputs without a role is a finding."""
        counted = dict(enumerate(counts))
        listed = [item.where.slot for item in unused_changes(self.machine, counted)]
        if any(counted[slot] > 2 * self._seen.get(slot, 0) for slot in listed if slot is not None):
            self._seen = counted
            self.noticed.publish()

    # -- proofs ---------------------------------------------------------------------------------------------------

    @property
    def proofs(self) -> Mapping[str, Evidence]:
        """By claim; those of another controller than the one that was heard last are stale."""
        return self.proven.here

    def unsent(self, addresses: Sequence[Address]) -> str:
        """A sentence about the first of these values that the controller does not have in force, or an empty text."""
        if why := self.terminals_obstacle():
            return why
        for address in addresses:
            standing = self.standing(address)
            if standing in (Standing.EDITED, Standing.WAITING):
                part = self.machine.part(address)
                return Sentence(f"{capital(part)}: {standing.words}. Bring it into force first.", About.UNSENT)
        return ""

    def proof_obstacle(self, claim: Claim) -> str:
        """Why this cannot be proven now, or an empty text: a proof must rest on what the controller does."""
        return self.unsent(claim.rests) if self.connected else UNCONNECTED

    def keep_print(self, axis: str, found: TorquePrint) -> None:
        """Keeps a torque print behind those that are there; it is on the disk when this returns."""
        self.prints = {**self.prints, axis: [*self.prints.get(axis, []), found]}
        self.keep("torque prints", lambda: self._shelf.save_prints(self.name, self.prints))

    def keep_passes(self, axis: str, passes: list[Pass]) -> None:
        """Keeps the measured passes of an axis; they are on the disk when this returns."""
        self.passes = {**self.passes, axis: passes}
        self.keep("passes", lambda: self._shelf.save_passes(self.name, self.passes))

    def give_up(self, slot: int, words: str) -> None:
        """The motor of an axis is dead, whatever is told to it: all stops, and the drives are powered off."""
        self.link.stop()
        self.homes.lose([slot], "stands still")
        self.dead.publish(words)
        self.tell("fault", words)
        self.link.power(False)

    def prove(self, claim: Claim, passed: bool, result: str, witness: Witness) -> None:
        """Keeps a proof, passed or not; it is on the disk when this returns."""
        self.proven.add(self.machine, claim, passed, result, witness)
        self._keep_proofs()
        self.proved.publish()
        if passed:
            self.leading.proven()

    def _keep_proofs(self) -> None:
        self.keep("proofs", lambda: self._shelf.save_proofs(self.name, self.proven.kept))

    def keep_proof(self, claim: Claim, passed: bool, result: str, witness: Witness) -> None:
        """The same where the controller does what the machine says; else it is told why nothing was kept."""
        if why := self.proof_obstacle(claim):
            self.refuse("Not kept as a proof.", why)
        else:
            self.prove(claim, passed, result, witness)

    @property
    def connected(self) -> bool:
        return self.holding is not None

    @property
    def axes_obstacle(self) -> str:
        """Why no axis can be moved by its letter, or an empty text: the letters here must be those of the controller."""
        if self._in_force is None:
            return UNCONNECTED
        theirs = self._in_force.names
        if theirs != self.machine.names:
            here, there = " ".join(self.machine.names), " ".join(theirs)
            return Sentence(
                f"The axes here are {here}, in the controller {there}. Send, then restart it.", About.OTHER_SHAPE
            )
        if self.holding is not None and LETTERS in self.holding.waiting:
            return Sentence(
                "The controller was given other axes and waits for a restart. Restart it first.", About.OTHER_SHAPE
            )
        return ""

    def motion_obstacle(self, rests: Iterable[Address] = ()) -> str:
        """Why nothing can be moved now, or an empty text. rests: values that must be in force for what is to be seen."""
        if why := self.axes_obstacle or self.floor.obstacle() or self.unsent(tuple(rests)):
            return why
        return "" if self.powered else DRIVES_OFF

    def ladder(self, *, speed: bool = True) -> tuple[Rung, ...]:
        """What must be so for the spindle to run, as it is now."""
        fault = any(axis.state in (State.FAULT, State.FAULT_REACTION) for axis in self.link.axes)
        return ladder(self.machine, self.link.panel.conditions, fault=fault, powered=self.powered, speed=speed)

    def spindle_obstacle(self, *, speed: bool = True) -> str:
        """Why the spindle may not be run now, or an empty text."""
        if not self.connected:
            return UNCONNECTED
        why = obstacle_of(self.machine, self.ladder(speed=speed)) or self.bus.obstacle()
        return why and Sentence(why, About.SPINDLE)

    @property
    def axes(self) -> tuple[events.AxisState, ...]:
        """The axes of this machine as last heard; empty while the controller's are others, or there is none."""
        return () if self.axes_obstacle else self.link.axes

    @property
    def heard_axes(self) -> tuple[events.AxisState, ...]:
        """The axes of the controller, whatever letters they have; empty where there is none."""
        return self.link.axes

    @property
    def panel(self) -> events.PanelState:
        """The terminals as last heard."""
        return self.link.panel

    def made_now(self) -> frozenset[int]:
        """Inputs that are not at their rest."""
        panel = self.link.panel
        return frozenset(item.slot for item in inputs(self.machine) if item.made(panel.is_closed(item.slot)))

    @property
    def trace(self) -> Trace:
        """The edges of the inputs, read while somebody watches."""
        return self.link.trace

    def node_name(self, node: int) -> str:
        """What a node of the bus is, as far as that is known; else an empty text."""
        who = self.identity
        if who is None:
            return ""
        named = {part.node: part.name for part in who.parts} or {who.node: who.name}
        return "Idler" if node == who.own_node else named.get(node, "")

    @property
    def own_node(self) -> int:
        """The number of Idler on the bus; 0 where it has none."""
        return self.identity.own_node if self.identity is not None else 0

    @property
    def bit_rate(self) -> int:
        """Of the bus that the link goes over, bit/s."""
        return parse_address(self.identity.address).rate if self.identity is not None else DEFAULT_BIT_RATE

    @property
    def frames(self) -> Frames:
        """What went over the wire, the newest last."""
        return self.link.frames

    @property
    def lags(self) -> Mapping[int, Sequence[tuple[float, float]]]:
        """By slot the following errors of the axes that are watched: seconds of time.monotonic, mm (°)."""
        return self.link.lags

    def watch_lag(self, *slots: int) -> None:
        """Reads the following errors of these axes into `lags`; none of them ends it."""
        self.link.watch_lag(*slots)

    @property
    def clock(self) -> float | None:
        """Seconds by the controller's clock, as heard last while somebody watches; None where it is not heard yet."""
        now = self.link.trace.now if self._watching else 0
        return now / 1e6 if now and now != self._stale else None

    def watch(self, who: object, on: bool) -> None:
        """Edges are read for as long as one of those who asked for them wants it."""
        if on and not self._watching:
            self._stale = self.link.trace.now
        self._watching = self._watching | {id(who)} if on else self._watching - {id(who)}
        self.link.watch(bool(self._watching))

    @property
    def powered(self) -> bool:
        axes = self.link.axes
        return bool(axes) and all(axis.state is State.ENABLED or axis.state is State.QUICK_STOP for axis in axes)

    @property
    def moving(self) -> bool:
        return any(axis.moving for axis in self.link.axes)

    @property
    def led(self) -> bool:
        """Whether a trial had the machine stopped, and says what is next."""
        return any(run.leads for run in self.runs)

    @property
    def in_fault(self) -> bool:
        """Whether something stopped the machine that must be settled, or nothing is heard of it."""
        axes = self.link.axes
        faulted = any(axis.stop_pressed or axis.state in (State.FAULT, State.FAULT_REACTION) for axis in axes)
        return bool(axes) and (faulted or self.link.silence > UNHEARD or bool(self.link.node_words))

    @property
    def link_names(self) -> tuple[str, ...]:
        """Letters of the controller's axes."""
        return self.held_machine.names if self.held_machine is not None else self.machine.names

    # -- controller -----------------------------------------------------------------------------------------------

    def _opened(self, kind: Kind) -> Controller:
        assert kind.open is not None
        return kind.open(self._link_events.heard, self._shelf.parts)

    def exchange_drives(self, first: str, second: str) -> None:
        """The drives of two axes of a controller that is made of parts change places: it is connected anew."""
        if self.identity is not None and self.identity.parts:
            address = parse_address(self.identity.address)
            self.connect_to(str(address.of_parts(str(exchanged(parse_parts(address.parts), first, second)))))

    def connect_to(self, address: str) -> None:
        kind = kind_of(address)
        if kind != self._kind and self.connected:
            self.tell("warn", f"{address} is a controller of another kind. Disconnect from this one first.")
            return
        try:
            if kind != self._kind:
                left, self._kind, self.link = self.link, kind, self._opened(kind)
                left.close()
            self.link.connect(address)
        except IdlerError as why:
            self.refusal = why.sentence
            self.tell("warn", why.sentence)
            self.failed.publish("connect")

    def disconnect(self) -> None:
        self.link.disconnect()

    def read_all(self) -> None:
        """Reads every value of the controller anew."""
        self.link.read_all()

    def restart(self) -> None:
        """Restarts the controller, and reads it anew."""
        self.link.restart()

    def restore_factory(self) -> None:
        """Puts the controller back to the values that it was delivered with; the draft stays."""
        self.link.factory()

    def ask_for(self, places: Sequence[Place]) -> None:
        """Reads single objects; they come as `read`."""
        self.link.ask_for(places)

    def write_object(self, place: Place, raw: Raw) -> None:
        """One object by hand; refused while anything moves."""
        self.link.write_object(place, raw)

    def home_here(self, slot: int) -> None:
        """The place where this axis stands gets the coordinate at the switch, by the person's word."""
        self.link.home_here(slot)

    def forget_home(self, slot: int) -> None:
        self.link.forget_home(slot)

    def power(self, on: bool) -> None:
        """Asks for the drives' power, or takes it away: whatever runs or moves is stopped first."""
        if not on and (self.moving or self.floor.words):
            self.stop()
        self.power_asked += on
        self.link.power(on)

    def stop(self) -> None:
        """STOP: all motion and the spindle; nothing that was held is held any more."""
        self.link.stop()
        self.bus.follow(events.Asked())
        self.halted.publish()

    def keep_holding(self) -> None:
        """What is held is held still."""
        self.link.keep_holding()

    def hold_terminals(self, asked: events.Asked) -> None:
        """Asks for spindle or outputs, for as long as it is confirmed; a drive on a bus of its own is told as well."""
        self.link.hold_terminals(asked)
        self.bus.follow(asked)

    def terminals_obstacle(self, machine: Machine | None = None) -> str:
        """Why what hangs on a terminal can be neither told nor seen, or an empty text."""
        machine = machine or self.machine
        if self.holding is None or machine.shape[1:] == self.holding.shape[1:]:
            return ""
        return Sentence(
            f"This machine has {machine.shape}; the controller has {self.holding.shape}. Make a machine of what it holds.",
            About.OTHER_SHAPE,
        )

    def send_obstacle(self, machine: Machine | None = None) -> str:
        """Why nothing can be sent now, or an empty text. machine: what is to be sent, where it is not the draft."""
        machine = machine or self.machine
        if self.holding is None:
            return UNCONNECTED
        if self.lock.closed:
            return self.lock.obstacle
        if why := self.terminals_obstacle(machine):
            return why
        if self.moving:
            return Sentence("The machine is moving. Values are sent only at rest.", About.MOVES)
        if self.off_first and self.powered:
            return Sentence(
                "Drives of this machine store only without power. Power the drives off, then send.", About.MOVES
            )
        errors = [item for item in findings(machine, self._seen) if item.holds_back]
        return Sentence(errors[0].text, About.UNSETTLED) if errors else ""

    def send(self, machine: Machine | None = None, *, restart: bool = False) -> None:
        """Sends a machine as a whole, or the draft. restart: the controller is restarted afterwards, and verified."""
        if (why := self.send_obstacle(machine)) or self.holding is None:
            self.refuse("Nothing was sent.", why)
            return
        try:
            made = plan(machine or self.machine, self.holding, restart=restart, begun=self.controller.begin)
        except IdlerError as wrong:  # a value that does not fit the wire
            self.refuse("Nothing was sent.", wrong.sentence)
            return
        self.link.send(made)

    def take_over_controller(self) -> None:
        """Takes every value that the controller holds into the draft, as one step of undo."""
        if self.held_machine is not None:
            self.take_machine(self.held_machine, "values of the controller")

    def take_obstacle(self, other: Machine) -> str:
        """Why the values of another machine cannot be taken into the draft, or an empty text."""
        if other.shape[1:] != self.machine.shape[1:]:
            words = f"It has {other.shape}; this machine has {self.machine.shape}. Make a new machine of it."
            return Sentence(words, About.OTHER_SHAPE)
        return self.lock.obstacle

    def take_machine(self, other: Machine, words: str) -> None:
        """All values of another machine, as one step of undo; what the controller tells of itself stays."""
        if other.shape[1:] == self.machine.shape[1:]:
            facts = {a: self.machine[a] for a in other.addresses() if a.row.given and self.machine.shape.has(a)}
            other = other.with_values(facts)
        if other.names != self.machine.names:
            self.reshape(other, words)
        else:
            self.set_values({address: other[address] for address in other.differences(self.machine)}, words)

    def hold(self, holding: ControllerImage | None) -> None:
        """What the controller holds, as it was read just now; None where there is none any more."""
        self.holding, before = holding, self._in_force
        self.held_machine = self._in_force = None
        self.off_first &= holding is not None
        if holding is not None:
            try:
                self.held_machine = machine_from(holding.raws, holding.shape)
                self._in_force = self.held_machine
                if holding.old:
                    self._in_force = machine_from({**holding.raws, **holding.old}, holding.shape)
                self._take_facts(self.held_machine)
                self.homes.lose_moved(before, self._in_force)
            except Refusal as why:
                self.refuse("The controller holds something that Idler does not know.", why.sentence)
        self.sheets.look()

    def _take_facts(self, controller: Machine) -> None:
        """What a controller says of itself is no edit: it is taken as it is.

        A machine whose terminals were not known yet takes those of its controller, with all their values. One that was written
        for others takes them where none that has a role would go, as a step of undo; with other axes it is another machine's.
        """
        machine, new = self.machine, not self.machine.inputs and not self.machine.outputs
        if machine.names == controller.names and new:
            machine = Machine.shaped(controller.shape, machine.changed)
        if machine.shape[1:] != controller.shape[1:]:
            same = machine.names == controller.names  # else it is rather the controller of another machine
            anew = fitted(machine, controller) if same and not self.lock.closed else None
            if anew is None:
                return
            self.reshape(anew, "the terminals of this controller")
            has = f"{controller.inputs} inputs and {controller.outputs} outputs"
            self.tell("plain", f"This controller has {has}, and the machine has them now, too.")
            machine = self.machine
        terminals = (Scope.INPUT, Scope.OUTPUT)
        facts = {
            a: controller[a]
            for a in machine.addresses()
            if (a.row.given or (new and a.row.scope in terminals)) and machine[a] != controller[a]
        }
        if facts or machine is not self.machine:
            self.machine = machine.with_values(facts)
            self._save_draft()
            self.changed.publish()

    def close(self) -> None:
        """Ends the link; moving axes are stopped first. The draft is on the disk already; nobody is told any more."""
        self.closed = True
        self._looks.stop()
        for topic in vars(self).values():
            if isinstance(topic, Topic):
                topic.end()
        self.program.end()
        self.bus.close()
        self.link.close()
