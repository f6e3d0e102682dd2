"""The thread that owns the bus: takes requests in order, STOP before all others, and tells what happens."""

from __future__ import annotations

import contextlib
import logging
import os
import select
import threading
import time
from collections import deque
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from idler.core.errors import About, IdlerError, Sentence
from idler.core.profile.cia402 import GUARD_OPENED
from idler.core.profile.codec import Place, Raw

from . import times
from .along import PathOrder, PathPlace
from .bus.address import BusAddress, parse
from .bus.wire import Frames
from .controller import connection_of
from .errors import (
    ChangedMeanwhile,
    Leaving,
    LinkError,
    LinkLost,
    MadeOfParts,
    NoAnswer,
    NotAllowedNow,
    NotStored,
    Overtaken,
)
from .events import (
    Asked,
    AxisState,
    Connected,
    Disconnected,
    Done,
    Emergency,
    Event,
    Failed,
    Identity,
    PanelState,
    PartNow,
    Progress,
    Read,
    Restarted,
    Sheet,
    Speeds,
    Spoilt,
)
from .follower import Follower
from .holds import End, Holds
from .plan import Plan
from .pollers import ChangePoller, EdgePoller, EffortPoller, FlightPoller, LagPoller, Poller
from .times import Times

if TYPE_CHECKING:
    from .client import Client
    from .trace import Trace

MANY_SPOILT, SPOILT_WITHIN = 5, 5.0  # lines in s: fewer are a touch of the plug
RETRY = 1.0  # s between attempts to find a controller again whose link was lost

Request = Callable[["Client"], None]


class Link:
    """Methods may be called from any thread and return at once; `tell` is called on the link's own thread.

    keep: where what Idler itself keeps of controllers lies; None: nowhere. Nothing is connected before `connect`.
    """

    def __init__(self, tell: Callable[[Event], None], waits: Times | None = None, keep: Path | None = None) -> None:
        self._tell, self._keep = tell, keep
        self._times = waits or times.usual
        self._requests: deque[tuple[str, Request]] = deque()
        self._connect_to: BusAddress | None = None
        self._stop_wanted = False
        self._stops = 0  # how often STOP was asked for; motion asked for before the last one is not begun
        self._leave = False
        self._opening = False  # a controller is looked for, and was not read yet
        self._ends = False
        self._client: Client | None = None
        self._holds = Holds(self._times.confirm)
        self.frames = Frames()
        self._edges = EdgePoller(lambda: bool(self._requests) or self._stop_wanted)
        self._lag, self._effort, self._flight = LagPoller(), EffortPoller(), FlightPoller(tell)
        self._changes = ChangePoller(tell)
        self._path = Follower()
        self._looks: tuple[Poller, ...] = (
            self._path,
            self._edges,
            self._lag,
            self._effort,
            self._flight,
            self._changes,
        )
        self._come_back: BusAddress | None = None
        self._next_try = 0.0
        self._starts_anew = False  # it has restarted, and what it is now is read
        self._spoilt_from = 0.0, 0  # when lines that make no sense were counted last, and how many they were
        self._wake_read, self._wake_write = os.pipe()
        os.set_blocking(self._wake_write, False)
        self._thread = threading.Thread(target=self._run, name="link", daemon=True)
        self._thread.start()

    # -- from any thread ------------------------------------------------------------------------------------------

    @property
    def axes(self) -> tuple[AxisState, ...]:
        """The axes as last heard; empty while not connected."""
        client = self._client
        return tuple(client.axes) if client is not None else ()

    @property
    def trace(self) -> Trace:
        """The edges of the inputs, read while `watch` is on."""
        return self._edges.trace

    @property
    def lags(self) -> dict[int, tuple[tuple[float, float], ...]]:
        """By slot the following errors read while `watch_lag` is on: seconds (time.monotonic), mm (°)."""
        return {slot: tuple(kept) for slot, kept in self._lag.kept.items()}

    @property
    def silence(self) -> float:
        """For how many seconds nothing was heard of the controller; 0 where there is none."""
        client = self._client
        return time.monotonic() - client.heard_at if client is not None else 0.0

    @property
    def starts_anew(self) -> bool:
        """Whether it has restarted by itself, which is told (`Restarted`) before this ends."""
        client = self._client
        return client is not None and (self._starts_anew or client.booted)

    @property
    def node_words(self) -> str:
        """The state of the controller's node where it is not operational ("pre-operational"), else nothing."""
        client = self._client
        return client.nmt_words if client is not None else ""

    def efforts(self, slot: int, since: float) -> list[float]:
        """The shares of its torque that an axis gave while it moved, the newest last (6077h). since: time.monotonic."""
        return self._effort.since(slot, since)

    def effort_places(self, slot: int, since: float) -> list[tuple[float, float]]:
        """The same with the place, mm (°), before each share."""
        return self._effort.places_since(slot, since)

    @property
    def panel(self) -> PanelState:
        """The terminals as last heard."""
        client = self._client
        return client.panel if client is not None else PanelState()

    @property
    def connected(self) -> bool:
        return self._client is not None

    def connect(self, address: str) -> None:
        """Raises LinkError for an address that is not understood; all else is told by events."""
        self._connect_to = parse(address)
        self._wake()

    def disconnect(self) -> None:
        self._leave = True
        self._wake()

    def stop(self) -> None:
        """Quick stop of all axes. Goes out before anything else, in the middle of any transfer."""
        self._stops += 1
        self._stop_wanted = True
        self._wake()

    def read_all(self) -> None:
        self._ask("read", lambda client: self._tell(Done("read", client.read_all(self._progress("read")))))

    def send(self, made: Plan) -> None:
        """Done("send") with what the controller holds in the end, or Failed."""

        def work(client: Client) -> None:
            try:
                self._tell(Done("send", client.send_plan(made, self._progress("send"))))
            except ChangedMeanwhile:
                self._tell(Done("changed", client.read_all()))
                raise

        self._ask("send", work)

    def factory(self) -> None:
        """Puts the controller back to the values that it was delivered with (1011h), restarts it, and stores them."""

        def work(client: Client) -> None:
            if any(axis.moving for axis in client.axes):
                raise NotAllowedNow("Factory values are restored only while nothing moves.")
            holding = client.factory(lambda: self._tell(Progress("restart", 0, 2)))
            self._tell(Progress("restart", 1, 2))
            self._tell(Done("factory", holding))

        self._ask("factory", work)

    def ask_for_speeds(self) -> None:
        """The record of the spindle's speed comes as Speeds."""
        self._ask("read", lambda client: self._tell(Speeds(tuple(client.speeds()))))

    def ask_for(self, places: Sequence[Place]) -> None:
        """Reads single objects; they come as Read."""
        self._ask("read", lambda client: self._tell(Read({place: client.objects.read(place) for place in places})))

    def ask_for_sheet(self, node: int) -> None:
        """The data sheet that a part keeps of itself, refused while anything moves; it comes as Sheet."""

        def work(client: Client) -> None:
            if any(axis.moving for axis in client.axes):
                raise NotAllowedNow("A data sheet is read only while nothing moves.")
            self._tell(Progress("sheet", 0, 1))
            self._tell(Sheet(node, client.sheet_of(node)))

        self._ask("sheet", work)

    def ask_for_condition(self, node: int) -> None:
        """How a part is at this moment, refused while anything moves; it comes as PartNow."""

        def work(client: Client) -> None:
            if any(axis.moving for axis in client.axes):
                raise NotAllowedNow("A part is asked how it is only while nothing moves.")
            self._tell(PartNow(node, client.condition_of(node)))

        self._ask("condition", work)

    def write_object(self, place: Place, raw: Raw) -> None:
        """One object by hand, refused while anything moves; it comes back as Read, as the controller then holds it. All
        values follow with Done("object")."""

        def work(client: Client) -> None:
            if any(axis.moving for axis in client.axes):
                raise NotAllowedNow(f"{place}: nothing is written by hand while something moves.")
            client.objects.write(place, raw)
            self._tell(Read({place: client.objects.read(place)}))
            self._tell(Done("object", client.read_all()))

        self._ask("object", work)

    def try_values(self, values: Mapping[Place, Raw]) -> None:
        """Writes values that the controller does not store; Done("try") follows."""

        def work(client: Client) -> None:
            client.objects.try_values(values)
            self._tell(Done("try"))

        self._ask("try", work)

    def restart(self) -> None:
        def work(client: Client) -> None:
            self._tell(Progress("restart", 0, 2))
            client.restart()
            self._tell(Progress("restart", 1, 2))
            self._tell(Done("restart", client.read_all()))

        self._ask("restart", work)

    def power(self, on: bool) -> None:
        wanted = self._not_stopped()

        def work(client: Client) -> None:
            client.drives.power(on, wanted)
            self._tell(Done("power"))

        self._ask("power", work)

    def jog_hold(self, slot: int, velocity: float) -> None:
        """Moves while confirmed by `keep_holding` often enough (Times.confirm); velocity 0 ends it."""

        if velocity:
            self._hold(
                "jog",
                lambda client, wanted: client.drives.jog_hold(slot, velocity, wanted),
                lambda client: client.drives.let_go(slot),
            )
        else:
            self._release()

    def hold_terminals(self, asked: Asked) -> None:
        """Asks for spindle or output while confirmed by `keep_holding`; nothing asked for ends it."""
        if asked != Asked():
            self._hold(
                "terminals",
                lambda client, wanted: client.hold(asked, wanted),
                lambda client: client.let_go_of_outputs(),
            )
        else:
            self._release()

    def watch(self, on: bool) -> None:
        """Reads the edges of the inputs, as they come, into `trace`."""
        self._edges.wanted = on
        self._wake()

    def keep_holding(self) -> None:
        self._holds.keep()

    def jog_step(self, slot: int, distance: float, speed: float, *, seek: bool = False) -> None:
        """A move by a distance in mm (°), at mm/min (°/min). seek: it ends at the next edge of its home switch or mark.

        When Done("jog") comes, `axes` say what became of it.
        """
        wanted = self._not_stopped()

        def work(client: Client) -> None:
            client.drives.jog_step(slot, distance, speed, wanted, seek=seek)
            with contextlib.suppress(NoAnswer):  # of a line that loses frames the reports say it, a little later
                client.look(slot)
            self._tell(Done("jog"))

        self._ask("jog", work)

    def watch_lag(self, *slots: int) -> None:
        """Reads the following errors of these axes in turn, as often as the screen can show them, into `lags`; none of them
        ends it."""
        self._lag.watch(slots)
        self._wake()

    def stop_axis(self, slot: int) -> None:
        """Quick stop of one axis, in its turn."""
        self._ask("stop", lambda client: client.drives.stop_axis(slot))

    def home_here(self, slot: int) -> None:
        def work(client: Client) -> None:
            client.drives.home_here(slot)
            self._tell(Done("home", slot=slot))

        self._ask("home", work)

    def home(self, slots: Sequence[int]) -> None:
        """Begins the homing of these axes together. When Done("homing") comes, `axes` know of it."""
        wanted = self._not_stopped()

        def work(client: Client) -> None:
            for slot in slots:
                client.drives.home(slot, wanted)
            for slot in slots:
                client.look(slot)
            self._tell(Done("homing"))

        self._ask("homing", work)

    def pick_stop(self, slot: int, number: int, speed: float) -> None:
        """The controller takes an axis to an index stop, at mm/min (°/min) at most; Done("index") when it was told."""
        wanted = self._not_stopped()

        def work(client: Client) -> None:
            client.drives.pick_stop(slot, number, speed, wanted)
            self._tell(Done("index"))

        self._ask("index", work)

    def act_lines(self, slot: int, state: int | None, speed: float = 0.0) -> None:
        """The controller takes the lines of an axis for a state, for as long as this computer is heard; None ends it."""
        wanted = self._not_stopped()

        def work(client: Client) -> None:
            client.drives.act_lines(slot, state, speed, wanted)
            self._tell(Done("index"))

        self._ask("index", work)

    @property
    def path(self) -> PathPlace:
        """How far the path is that was followed last."""
        return self._path.place

    def follow(self, order: PathOrder) -> None:
        """Axes along a path, from where they stand; `path` says what becomes of it."""
        self._path.order(order, self._not_stopped())
        self._wake()

    def go_on(self) -> None:
        """Begins the leg of a path that waits for a person, or the next part of a single block."""
        self._path.go_on()
        self._wake()

    def path_rates(self, feed: float, rapid: float) -> None:
        """How fast time goes along the path, 0 to 1, in feeds and in rapids."""
        self._path.rates(feed, rapid)
        self._wake()

    def single_block(self, on: bool) -> None:
        self._path.single(on)
        self._wake()

    def forget_home(self, slot: int) -> None:
        """The home of an axis is not known any more; its soft limits hold no longer."""

        def work(client: Client) -> None:
            client.drives.forget_home(slot)
            self._tell(Done("forget"))

        self._ask("forget", work)

    def close(self) -> None:
        """Ends the thread; moving axes are stopped first, and what is being sent is sent. A second call does nothing."""
        if self._ends:
            return
        self._ends = True
        self._wake()
        self._thread.join()
        os.close(self._wake_read)
        closing, self._wake_write = self._wake_write, -1  # whoever asks for something now asks nobody
        os.close(closing)

    def _not_stopped(self) -> Callable[[], bool]:
        """True as long as STOP was not asked for after now."""
        stops = self._stops
        return lambda: self._stops == stops

    def _hold(self, what: str, begin: Callable[[Client, Callable[[], bool]], None], end: End) -> None:
        hold, not_stopped = self._holds.press(end), self._not_stopped()

        def work(client: Client) -> None:
            if not hold.fresh:
                return
            held = self._holds.begin(hold, client)
            try:
                begin(client, lambda: not_stopped() and held())
            except IdlerError:
                self._holds.forget()
                raise
            self._tell(Done(what))

        self._ask(what, work)

    def _release(self) -> None:
        self._holds.release()
        self._wake()  # it ends in the middle of whatever the link is doing

    def _ask(self, what: str, work: Request) -> None:
        self._requests.append((what, work))
        self._wake()

    def _wake(self) -> None:
        if self._wake_write >= 0:
            with contextlib.suppress(BlockingIOError):
                os.write(self._wake_write, b"w")

    def _progress(self, what: str) -> Callable[[int, int], None]:
        return lambda done, total: self._tell(Progress(what, done, total))

    # -- on the link's thread -------------------------------------------------------------------------------------

    def _run(self) -> None:
        while not self._ends:
            try:
                self._round()
            except Leaving:
                self._requests.clear()
            except LinkLost as why:
                if self._client is None or not self._client.booted or self._ends:
                    self._drop(why.sentence)
                else:
                    self._come_back_up()
            except Exception as why:  # the thread that can say STOP must not die of a mistake of ours
                logging.getLogger(__name__).exception("the link made a mistake")
                self._drop(f"Idler made a mistake ({type(why).__name__}: {why}). Please report it.")
        self._farewell()

    def _round(self) -> None:
        client = self._client
        self._stop_if_wanted()
        if self._leave:
            self._leave = False
            self._farewell()
            self._tell(Disconnected())
        elif self._connect_to is not None:
            address, self._connect_to = self._connect_to, None
            self._farewell()
            self._tell(Progress("connect", 0, 2))
            try:
                self._open_twice(address)
            except Leaving:
                raise
            except IdlerError as why:
                self._farewell()
                self._tell(Failed("connect", why.sentence, getattr(why, "nodes", ())))
        elif client is None and self._come_back is not None and time.monotonic() > self._next_try:
            self._try_again(self._come_back)
        elif self._requests and client is not None:
            what, work = self._requests.popleft()
            try:
                if client.stopped:
                    client.need_operational()
                work(client)
            except Leaving:
                self._tell(Failed(what, "It was disconnected meanwhile."))
                raise
            except Overtaken:
                pass
            except LinkLost as why:
                if isinstance(why, NoAnswer) and client.stopped:  # it is heard, and answers nothing
                    self._tell(Failed(what, why.sentence.after("The node was stopped meanwhile.")))
                else:
                    self._tell(Failed(what, why.sentence.after("The link was lost meanwhile.")))
                    raise
            except IdlerError as why:
                self._tell(Failed(what, why.sentence, off_first=isinstance(why, NotStored)))
        elif self._requests:
            what, _ = self._requests.popleft()
            self._tell(
                Failed(what, Sentence("No controller is connected. Connect at the Link station.", About.UNCONNECTED))
            )
        else:
            asleep = client is None or client.stopped
            if client is not None and not asleep:
                with client.looking():
                    for look in self._looks:
                        look.take(client)
            self._wait(RETRY if asleep else min(look.due for look in self._looks))
        self._look_after()

    def _open(self, address: BusAddress, *, by_itself: bool = False) -> None:
        self._edges.forget()
        self._effort.forget()
        self._spoilt_from = time.monotonic(), 0
        self._opening = True
        try:
            client, identity = self._found(address)
            holding = client.read_all(self._progress("connect"))
        finally:
            self._opening = False
        self._come_back = None
        self._changes.wanted = client.counts_changes
        self._flight.wanted = client.keeps_flights  # of something that stopped the machine while nobody listened
        self._tell(Connected(identity, holding, by_itself))

    def _found(self, address: BusAddress) -> tuple[Client, Identity]:
        try:
            return self._identified(address)
        except MadeOfParts as parts:
            if not parts.known:
                raise
            self._farewell()
            return self._identified(address.of_parts(parts.known))

    def _identified(self, address: BusAddress) -> tuple[Client, Identity]:
        """The kind that an address names loads its CANopen packages here, on this thread, and not before it is wanted."""
        client = connection_of(address)(address, self._wait, self._times, self.frames, self._keep)
        self._client = client
        return client, client.identify()

    def _open_twice(self, address: BusAddress) -> None:
        """A controller that answered and then did not is asked once more: a computer may pause."""
        try:
            self._open(address)
        except LinkLost:
            self._farewell()
            self._open(address)

    def _try_again(self, address: BusAddress) -> None:
        """Looks for a controller whose link was lost; says nothing until it is there."""
        try:
            self._open(address, by_itself=True)
        except Leaving:
            raise
        except IdlerError:
            self._farewell()
            self._come_back, self._next_try = address, time.monotonic() + RETRY

    def _look_after(self) -> None:
        """What is due between requests: the controller came back by itself, or had something to say."""
        client = self._client
        if client is None:
            return
        self._say_spoilt(client)
        while (said := client.emergency()) is not None:
            self._say_emergency(client, said)
        if client.booted:
            self._holds.forget()
            self._edges.forget()
            self._path.forget()
            self._starts_anew = True
            try:
                client.back_again()
                self._tell(Restarted(client.moved_until_then))
                self._tell(Done("restart", client.read_all()))
            finally:
                self._starts_anew = False

    def _say_spoilt(self, client: Client) -> None:
        """An adapter that goes on to write what makes no sense is told, now and then."""
        now = time.monotonic()
        if now - self._spoilt_from[0] > SPOILT_WITHIN:
            count = client.spoilt - self._spoilt_from[1]
            self._spoilt_from = now, client.spoilt
            if count >= MANY_SPOILT:
                self._tell(Spoilt(str(client.address), count, SPOILT_WITHIN))

    def _come_back_up(self) -> None:
        """Whoever did not answer has started anew: that is no lost link."""
        try:
            self._look_after()
        except LinkLost as why:
            self._drop(why.sentence)

    def _say_emergency(self, client: Client, said: Emergency) -> None:
        self._flight.wanted = self._flight.wanted or (client.keeps_flights and bool(said.code))
        if said.code != GUARD_OPENED:
            self._holds.forget()
        self._tell(said)

    def _wait(self, seconds: float) -> None:
        """Lets time pass: reads the bus, keeps the heartbeat, sends STOP the moment that it is asked for."""
        client = self._client
        ends = [self._wake_read] + ([client.fileno()] if client is not None else [])
        if client is not None:
            seconds = 0.0 if client.has_more else min(seconds, client.due)
        ready, _, _ = select.select(ends, [], [], max(0.0, seconds))
        if self._wake_read in ready:
            os.read(self._wake_read, 4096)
        self._stop_if_wanted()
        if self._leave or (self._ends and self._opening):  # who is only looked for is not waited for
            raise Leaving
        if client is None:
            return
        self._holds.look(client)
        if client.has_more or len(ready) > (self._wake_read in ready):
            client.hear()
        client.beat()

    def _stop_if_wanted(self) -> None:
        if self._stop_wanted:
            self._stop_wanted = False
            self._holds.forget()
            if self._client is not None:
                self._client.stop()

    def _drop(self, why: str) -> None:
        client, self._client = self._client, None
        self._holds.forget()
        self._path.forget()
        self._requests.clear()
        if client is not None:
            self._come_back, self._next_try = client.address, time.monotonic() + RETRY
            with contextlib.suppress(LinkError, OSError):
                client.abandon()
        self._tell(Disconnected(why, client is not None and any(axis.moving for axis in client.axes)))

    def _farewell(self) -> None:
        client, self._come_back = self._client, None
        self._holds.forget()
        self._path.forget()
        if client is None:
            return
        with contextlib.suppress(LinkError):
            if any(axis.moving for axis in client.axes):
                client.stop()
            client.close()
        self._client = None
