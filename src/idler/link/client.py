"""What the link's thread needs of one connection to one controller, of whatever kind.

All of it is called on the thread that owns the bus.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from contextlib import AbstractContextManager
from pathlib import Path
from typing import TYPE_CHECKING, Protocol, TypeVar

from idler.core.controller.standing import ControllerImage
from idler.core.machine import Shape
from idler.core.profile.codec import Place, Raw
from idler.core.profile.edges import EdgeBlock
from idler.core.profile.flight import FlightState

from .events import Asked, AxisState, Emergency, Identity, PanelState

if TYPE_CHECKING:
    from .bus.address import BusAddress
    from .bus.wire import Frames
    from .plan import Plan
    from .times import Times

T = TypeVar("T")
Wanted = Callable[[], bool]  # False where STOP came meanwhile: asked just before the first frame of motion
Told = Callable[[int, int], None]  # how much of a long piece of work is done, and how much it is


class Objects(Protocol):
    """Values by their places in a controller of our own profile, wherever they are kept in truth."""

    def read(self, where: Place, label: str = "") -> Raw: ...

    def write(self, where: Place, raw: Raw, label: str = "") -> None: ...

    def try_values(self, values: Mapping[Place, Raw], /) -> None: ...

    def short(self, where: Place, label: str, unpack: Callable[[bytes], T]) -> T: ...

    def write_block(self, where: Place, data: bytes, label: str) -> None: ...


class Drives(Protocol):
    """Motion. Slots count from 0; mm (°), mm/min (°/min)."""

    def power(self, on: bool, wanted: Wanted = ...) -> None: ...

    def stop(self) -> None: ...

    def stop_axis(self, slot: int) -> None: ...

    def jog_hold(self, slot: int, velocity: float, wanted: Wanted = ...) -> None: ...

    def let_go(self, slot: int) -> None: ...

    def jog_step(
        self, slot: int, distance: float, speed: float, wanted: Wanted = ..., *, seek: bool = False
    ) -> None: ...

    def home(self, slot: int, wanted: Wanted) -> None: ...

    def home_here(self, slot: int) -> None: ...

    def forget_home(self, slot: int) -> None: ...

    def pick_stop(self, slot: int, number: int, speed: float, wanted: Wanted) -> None: ...

    def act_lines(self, slot: int, state: int | None, speed: float, wanted: Wanted) -> None: ...

    def follow(self, slots: Sequence[int], wanted: Wanted) -> None: ...


class Client(Protocol):
    """Everything raises LinkLost where the line is gone."""

    axes: list[AxisState]
    panel: PanelState
    shape: Shape
    booted: bool  # it came back from a restart that nobody asked for

    @property
    def address(self) -> BusAddress: ...

    @property
    def objects(self) -> Objects: ...

    @property
    def drives(self) -> Drives: ...

    @property
    def moved_until_then(self) -> bool:
        """Whether something moved when it was heard last before it booted."""
        ...

    @property
    def heard_at(self) -> float:
        """When anything of it was heard last (time.monotonic)."""
        ...

    @property
    def nmt_words(self) -> str: ...

    @property
    def stopped(self) -> bool:
        """Whether it is stopped: then it answers nothing."""
        ...

    @property
    def has_more(self) -> bool: ...

    @property
    def spoilt(self) -> int: ...

    @property
    def due(self) -> float:
        """Seconds until it wants `beat`."""
        ...

    @property
    def keeps_flights(self) -> bool: ...

    @property
    def counts_changes(self) -> bool: ...

    def fileno(self) -> int: ...

    def close(self) -> None: ...

    def abandon(self) -> None: ...

    def hear(self) -> None: ...

    def beat(self) -> None: ...

    def identify(self) -> Identity: ...

    def read_all(self, progress: Told = ...) -> ControllerImage: ...

    def sheet_of(self, node: int) -> str: ...

    def send_plan(self, made: Plan, progress: Told) -> ControllerImage: ...

    def factory(self, restarting: Callable[[], None]) -> ControllerImage: ...

    def restart(self) -> None: ...

    def back_again(self) -> None: ...

    def need_operational(self) -> None: ...

    def looking(self) -> AbstractContextManager[None]: ...

    def look(self, slot: int) -> None: ...

    def stop(self) -> None: ...

    def hold(self, asked: Asked, wanted: Wanted = ...) -> None: ...

    def let_go_of_outputs(self) -> None: ...

    def emergency(self) -> Emergency | None:
        """The next one that it told of; None where there is none."""
        ...

    def changed_by_others(self) -> bool: ...

    def speeds(self) -> list[tuple[float, float]]: ...

    def following_error(self, slot: int) -> float: ...

    def effort(self, slot: int) -> float: ...

    def edges_from(self, number: int) -> None: ...

    def edges(self) -> EdgeBlock: ...

    def flight_state(self) -> FlightState: ...

    def take_flight(self) -> bytes: ...


class Make(Protocol):
    """Opens the bus of an address. keep: where what Idler itself keeps of a controller lies. Raises LinkError."""

    def __call__(
        self, address: BusAddress, wait: Callable[[float], None], times: Times, frames: Frames, keep: Path | None
    ) -> Client: ...
