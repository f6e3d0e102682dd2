"""What the link reads again and again while somebody wants it: edges of the inputs, a following error, a flight record."""

from __future__ import annotations

import time
from bisect import bisect_left
from collections import deque
from collections.abc import Callable
from typing import TYPE_CHECKING

from idler.core.profile.flight import FlightState

from .errors import NotUnderstood, WriteRefused
from .events import Done, Event, Flight

if TYPE_CHECKING:
    from .client import Client
    from .trace import Trace

LAGS = 500  # following errors that are kept
EFFORTS = 20_000
UNASKED = 1.0  # s after which nobody is taken to want the torque any more


class Poller:
    """`wanted` may be set from any thread; the rest runs on the link's."""

    every = 0.0  # s between two looks

    def __init__(self) -> None:
        self.wanted = False
        self._next = 0.0

    @property
    def due(self) -> float:
        """Seconds until the next one; infinite where it is not wanted."""
        return max(0.0, self._next - time.monotonic()) if self.wanted else float("inf")

    def take(self, client: Client) -> None:
        """Looks where it is time to."""
        if not self.due:
            self._next = time.monotonic() + self.every
            try:
                self._look(client)
            except (WriteRefused, NotUnderstood):  # a controller that has not this object
                self.wanted = False

    def _look(self, client: Client) -> None:
        raise NotImplementedError


class EdgePoller(Poller):
    """Reads blocks into the trace until the ring of the controller is empty, or something else is to be done: what is noisy
    enough to fill it as fast as it is read holds nothing else up."""

    every = 0.03

    def __init__(self, busy: Callable[[], bool]) -> None:
        super().__init__()
        self._busy = busy
        self._trace: Trace | None = None

    @property
    def trace(self) -> Trace:
        """Made when first asked for: it needs NumPy."""
        if self._trace is None:
            from .trace import Trace

            self._trace = Trace()
        return self._trace

    def forget(self) -> None:
        """The controller is another one, or has started anew."""
        if self._trace is not None:
            self._trace.forget()

    def _look(self, client: Client) -> None:
        from idler.core.profile.edges import MOST_EDGES

        trace, until = self.trace, time.monotonic() + self.every
        if trace.begin(client.shape.inputs):
            client.edges_from(0)
        while not self._busy():
            closed = client.panel.closed
            block = client.edges()
            trace.take(block, closed)
            if len(block) < MOST_EDGES or time.monotonic() > until:
                return


class ChangePoller(Poller):
    """Watches whether somebody else writes values into the controller; then all are read again and told."""

    every = 0.5

    def __init__(self, tell: Callable[[Event], None]) -> None:
        super().__init__()
        self._tell = tell

    def _look(self, client: Client) -> None:
        if client.changed_by_others():
            self._tell(Done("changed", client.read_all()))


class LagPoller(Poller):
    """kept: by slot, seconds (time.monotonic) and following error in mm (°), read in turn of the axes that are watched."""

    every = 0.02

    def __init__(self) -> None:
        super().__init__()
        self.kept: dict[int, deque[tuple[float, float]]] = {}
        self._turn = 0

    def watch(self, slots: tuple[int, ...]) -> None:
        """None of them ends it."""
        kept = self.kept
        self.kept = {slot: kept.get(slot) or deque(maxlen=LAGS) for slot in slots}
        self.wanted = bool(slots)

    def _look(self, client: Client) -> None:
        kept = self.kept  # whoever watches others meanwhile has put another one in its place
        slots = [slot for slot in kept if slot < len(client.axes)]
        if slots:
            self._turn += 1
            slot = slots[self._turn % len(slots)]
            kept[slot].append((time.monotonic(), client.following_error(slot)))


class EffortPoller(Poller):
    """kept: by slot, when (time.monotonic), the share of its torque that an axis gave, and where it was then, mm (°); read in
    turn of all that move, for as long as somebody asks for it."""

    every = 0.03

    def __init__(self) -> None:
        super().__init__()
        self.wanted = True
        self.kept: dict[int, deque[tuple[float, float, float]]] = {}
        self._last = -1
        self._asked = float("-inf")

    def since(self, slot: int, when: float) -> list[float]:
        """What was read of an axis from then on (time.monotonic). From any thread."""
        return [share for _, share in self.places_since(slot, when)]

    def places_since(self, slot: int, when: float) -> list[tuple[float, float]]:
        """The same with the place before the share."""
        self._asked = time.monotonic()
        kept = tuple(self.kept.get(slot, ()))  # a copy in one step, so that nothing comes in between
        return [(place, share) for _, share, place in kept[bisect_left(kept, when, key=lambda each: each[0]) :]]

    def forget(self) -> None:
        """The controller is another one, or has started anew."""
        self.wanted = True

    @property
    def due(self) -> float:
        return super().due if time.monotonic() - self._asked <= UNASKED else float("inf")

    def _look(self, client: Client) -> None:
        moving = [slot for slot, axis in enumerate(client.axes) if axis.moving]
        if not moving:
            return
        self._last = next((slot for slot in moving if slot > self._last), moving[0])
        kept = self.kept.setdefault(self._last, deque(maxlen=EFFORTS))
        share = client.effort(self._last)
        kept.append((time.monotonic(), share, client.axes[self._last].position))


class FlightPoller(Poller):
    """Takes the record of what stopped the machine as soon as it is whole; wanted until then."""

    every = 0.2

    def __init__(self, tell: Callable[[Event], None]) -> None:
        super().__init__()
        self._tell = tell

    def _look(self, client: Client) -> None:
        state = client.flight_state()
        self.wanted = state is FlightState.ENDING
        if state is FlightState.HELD:
            self._tell(Flight(client.take_flight()))
