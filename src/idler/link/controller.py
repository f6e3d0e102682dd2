"""What every kind of controller does, and the kinds that there are: each a package here with a KIND.

A kind does its work on a thread of its own and tells what happens by events. What it cannot do it refuses with Failed.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from importlib import import_module
from pathlib import Path
from pkgutil import iter_modules
from typing import TYPE_CHECKING, Protocol

from idler.core.profile.codec import Place, Raw

from .along import PathOrder, PathPlace
from .client import Make
from .events import Asked, AxisState, Event, PanelState

if TYPE_CHECKING:
    from .bus.address import BusAddress
    from .bus.wire import Frames
    from .plan import Plan
    from .trace import Trace

Tell = Callable[[Event], None]


class Controller(Protocol):
    """Methods may be called from any thread and return at once; what came of them is told on the kind's own thread.

    Slots count axes from 0; places and distances are in mm (°), speeds in mm/min (°/min).
    """

    @property
    def axes(self) -> tuple[AxisState, ...]:
        """The axes as last heard; empty while not connected."""
        ...

    @property
    def panel(self) -> PanelState:
        """The terminals as last heard."""
        ...

    @property
    def trace(self) -> Trace:
        """The edges of the inputs, read while `watch` is on."""
        ...

    @property
    def frames(self) -> Frames:
        """What went over the wire."""
        ...

    @property
    def lags(self) -> Mapping[int, Sequence[tuple[float, float]]]:
        """By slot the following errors read while `watch_lag` is on: seconds (time.monotonic), mm (°)."""
        ...

    @property
    def silence(self) -> float:
        """For how many seconds nothing was heard of it; 0 where there is none."""
        ...

    @property
    def starts_anew(self) -> bool:
        """Whether it has restarted by itself, which is told (`Restarted`) before this ends."""
        ...

    @property
    def node_words(self) -> str:
        """Its state where it does not work ("pre-operational"), else nothing."""
        ...

    @property
    def connected(self) -> bool: ...

    def efforts(self, slot: int, since: float) -> list[float]:
        """The shares of its torque that an axis gave while it moved, the newest last. since: time.monotonic."""
        ...

    def effort_places(self, slot: int, since: float) -> list[tuple[float, float]]:
        """The same with the place, mm (°), before each share."""
        ...

    def connect(self, address: str) -> None:
        """Connected or Failed("connect") follows. Raises LinkError for an address that is not understood."""
        ...

    def disconnect(self) -> None:
        """Disconnected follows."""
        ...

    def close(self) -> None:
        """Ends its thread; moving axes are stopped first. A second call does nothing."""
        ...

    def stop(self) -> None:
        """Quick stop of all axes, before anything else."""
        ...

    def read_all(self) -> None:
        """Done("read") with all values follows."""
        ...

    def send(self, made: Plan) -> None:
        """As a whole or not at all: Done("send") with what it holds then, or Failed("send")."""
        ...

    def factory(self) -> None:
        """Back to the values that it was delivered with: Done("factory")."""
        ...

    def restart(self) -> None:
        """Done("restart") with all values follows."""
        ...

    def ask_for(self, places: Sequence[Place]) -> None:
        """Single objects; they come as Read."""
        ...

    def ask_for_speeds(self) -> None:
        """The record of the spindle; it comes as Speeds."""
        ...

    def ask_for_sheet(self, node: int) -> None:
        """The data sheet that a part keeps of itself; it comes as Sheet, or Failed("sheet")."""
        ...

    def ask_for_condition(self, node: int) -> None:
        """How a part is at this moment; it comes as PartNow, or Failed("condition")."""
        ...

    def write_object(self, place: Place, raw: Raw) -> None:
        """One object by hand, refused while anything moves: Read, then Done("object") with all values."""
        ...

    def try_values(self, values: Mapping[Place, Raw]) -> None:
        """Values that are not stored; Done("try") follows."""
        ...

    def power(self, on: bool) -> None:
        """Of all drives: Done("power")."""
        ...

    def jog_hold(self, slot: int, velocity: float) -> None:
        """Moves for as long as `keep_holding` confirms it; velocity 0 ends it."""
        ...

    def jog_step(self, slot: int, distance: float, speed: float, *, seek: bool = False) -> None:
        """One move; Done("jog") when it has begun. seek: it ends at the next edge of its home switch or mark."""
        ...

    def stop_axis(self, slot: int) -> None: ...

    def hold_terminals(self, asked: Asked) -> None:
        """Spindle or outputs, for as long as `keep_holding` confirms it; nothing asked for ends it."""
        ...

    def keep_holding(self) -> None: ...

    def home(self, slots: Sequence[int]) -> None:
        """Begins the homing of these axes together: Done("homing")."""
        ...

    def home_here(self, slot: int) -> None:
        """Done("home") follows."""
        ...

    def forget_home(self, slot: int) -> None:
        """Done("forget") follows."""
        ...

    def pick_stop(self, slot: int, number: int, speed: float) -> None:
        """An axis goes to an index stop, by its number, at mm/min (°/min) at most: Done("index") when it was told."""
        ...

    def act_lines(self, slot: int, state: int | None, speed: float = 0.0) -> None:
        """The lines of an axis are taken for a state while this computer is heard, and it goes at mm/min (°/min) at most;
        None ends it: Done("index")."""
        ...

    @property
    def path(self) -> PathPlace:
        """How far the path is that was followed last."""
        ...

    def follow(self, order: PathOrder) -> None:
        """Axes along a path, from where they stand; `path` says what becomes of it. STOP ends it on the path."""
        ...

    def go_on(self) -> None:
        """Begins the leg of a path that waits for a person, or the next part of a single block."""
        ...

    def path_rates(self, feed: float, rapid: float) -> None:
        """How fast time goes along the path, 0 to 1, in feeds and in rapids."""
        ...

    def single_block(self, on: bool) -> None:
        """Whether it is waited at the end of each line."""
        ...

    def watch(self, on: bool) -> None: ...

    def watch_lag(self, *slots: int) -> None: ...


@dataclass(frozen=True)
class Kind:
    """takes: whether an address names one of this kind. open: begins a thread for it, and is told where what Idler itself keeps
    of a controller lies (None: nowhere); nothing is connected by it. make: what stands on a bus beside others has no thread of
    its own, and gives a connection to that of the bus instead.
    """

    key: str
    takes: Callable[[str], bool]
    open: Callable[[Tell, Path | None], Controller] | None = None
    make: Make | None = None


def kinds() -> dict[str, Kind]:
    """Every kind by its key."""
    import idler.link as room

    packages = [import_module(f"{room.__name__}.{found.name}") for found in iter_modules(room.__path__) if found.ispkg]
    made: list[Kind] = [package.KIND for package in packages if hasattr(package, "KIND")]
    return {kind.key: kind for kind in made}


def kind_of(address: str) -> Kind:
    """The kind with a thread that an address names: that of the bus where it says nothing else."""
    listed = kinds()
    return next(
        (kind for kind in listed.values() if kind.open and kind.key != USUAL and kind.takes(address)), listed[USUAL]
    )


def connection_of(address: BusAddress) -> Make:
    """What makes a connection to the kind that an address on the bus names: that of our own profile where it says nothing."""
    listed = kinds()
    found = next(
        (kind for kind in listed.values() if kind.make and kind.key != USUAL and kind.takes(str(address))),
        listed[USUAL],
    )
    assert found.make is not None
    return found.make


USUAL = "own"
