"""What the link tells the rest: frozen facts, handed over from the thread that owns the bus."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import NamedTuple

from idler.core.controller.nodes import What
from idler.core.controller.parts import PartCondition, PartIdentity
from idler.core.controller.standing import ControllerImage
from idler.core.profile.cia402 import (
    HOMED,
    INPUT_HIGH,
    INPUT_HOME,
    INPUT_LOW,
    INPUT_STOP,
    INTERNAL_LIMIT,
    MOVING,
    TARGET_REACHED,
    State,
)
from idler.core.profile.codec import Place, Raw
from idler.core.profile.homing import HomingResult, Phase, phase_of, result_of
from idler.core.profile.pdo import PdoMap
from idler.core.profile.terminals import LEVEL_OUTPUTS, Condition


class BusNode(NamedTuple):
    """One that answered: its number, what it calls itself (1008h), and what it is."""

    number: int
    name: str
    what: What = What.OTHER

    @property
    def ours(self) -> bool:
        return self.what is What.CONTROLLER

    def __str__(self) -> str:
        return f"node {self.number} ({self.name})"


@dataclass(frozen=True)
class Identity:
    """Who answered (1000h, 1008h to 100Ah, 1018h)."""

    address: str
    node: int
    name: str
    hardware: str
    software: str
    vendor: int
    product: int
    revision: int
    serial: int
    axes: tuple[str, ...]
    map: PdoMap
    own_node: int  # of Idler's heartbeat
    others: frozenset[int] = frozenset()  # numbers of other nodes that were heard
    parts: tuple[PartIdentity, ...] = ()  # of a controller that is made of plain ones
    roles: tuple[tuple[int, str], ...] = ()  # of these, by their nodes: the letter of an axis, or what else it is

    @property
    def is_ours(self) -> bool:
        """Whether the controller has this profile's product number."""
        from idler.core.profile.objects import PRODUCT

        return self.product == PRODUCT


@dataclass(frozen=True)
class AxisState:
    """One axis as last heard. position in mm (or °), velocity in mm/min (or °/min)."""

    status: int = 0
    position: float = 0.0
    velocity: float = 0.0
    inputs: int = 0

    @property
    def state(self) -> State:
        return State.of(self.status)

    @property
    def homed(self) -> bool:
        return bool(self.status & HOMED)

    @property
    def moving(self) -> bool:
        return bool(self.status & MOVING)

    @property
    def reached(self) -> bool:
        """Whether nothing that it was told is left to be done (target reached, CiA 402-2)."""
        return bool(self.status & TARGET_REACHED)

    @property
    def at_limit(self) -> bool:
        return bool(self.status & INTERNAL_LIMIT)

    @property
    def home_made(self) -> bool:
        return bool(self.inputs & INPUT_HOME)

    @property
    def limit_made(self) -> str:
        """ "low" or "high" where the limit switch of that end is made, else nothing; nobody knows the end where it is
        `unwatched`."""
        if self.unwatched:
            return ""
        return "low" if self.inputs & INPUT_LOW else "high" if self.inputs & INPUT_HIGH else ""

    @property
    def unwatched(self) -> bool:
        """Whether the limit chain of all axes was made while this one stood: the controller tells it as both ends made."""
        both = INPUT_LOW | INPUT_HIGH
        return self.inputs & both == both

    @property
    def homing_phase(self) -> Phase:
        return phase_of(self.inputs)

    @property
    def homing_result(self) -> HomingResult:
        return result_of(self.inputs)

    @property
    def stop_pressed(self) -> bool:
        return bool(self.inputs & INPUT_STOP)


NO_CONDITION = Condition(0)


class Asked(NamedTuple):
    """What is asked of the terminals: the spindle's way (-1, 0, 1), its level, an output to try (0: none) with its level.

    Levels are in ‰, outputs are numbered from 1. A speed in rpm goes before a level.
    """

    run: int = 0
    level: int = 0
    tried: int = 0
    tried_level: int = 0
    speed: int = 0


@dataclass(frozen=True)
class PanelState:
    """The terminals as last heard: levels after the filter and outputs energised, a bit for each; levels in ‰.

    counts and speed (rpm, right is +) are those of the spindle's encoder, 0 where there is none.
    """

    closed: int = 0
    energised: int = 0
    conditions: Condition = NO_CONDITION
    levels: tuple[int, ...] = (0,) * LEVEL_OUTPUTS
    counts: int = 0
    speed: float = 0.0

    def is_closed(self, slot: int) -> bool:
        return bool(self.closed >> slot & 1)

    def is_energised(self, slot: int) -> bool:
        return bool(self.energised >> slot & 1)


@dataclass(frozen=True)
class Event:
    pass


@dataclass(frozen=True)
class Connected(Event):
    identity: Identity
    holding: ControllerImage
    by_itself: bool = False  # a lost link was found again


@dataclass(frozen=True)
class Disconnected(Event):
    """why is empty where it was wanted. moving: whether something moved when it was heard last."""

    why: str = ""
    moving: bool = False


@dataclass(frozen=True)
class Restarted(Event):
    """The controller came back from a restart that nobody asked for; the link held. Its values follow as Done.

    moving: whether something moved when it was heard last before."""

    moving: bool = False


@dataclass(frozen=True)
class Failed(Event):
    """Something that was asked for could not be done; nothing was left half done unless the sentence says so."""

    what: str
    why: str
    nodes: tuple[BusNode, ...] = ()  # of a connection: several answer, and one is to be chosen
    off_first: bool = False  # of a send: the drives may store it where they have no power


@dataclass(frozen=True)
class Spoilt(Event):
    """Lines from the adapter that made no sense: so many in so many seconds."""

    address: str
    count: int
    seconds: float

    @property
    def sentence(self) -> str:
        return (
            f"{self.address}: {self.count} lines from the adapter made no sense within {self.seconds:.0f} s and were dropped. "
            "Look at the adapter, its cable and its plug; another program on the same port does this too."
        )


@dataclass(frozen=True)
class Progress(Event):
    """what: "connect", "read", "send" or "restart"."""

    what: str
    done: int
    total: int

    @property
    def words(self) -> str:
        doing = {
            "connect": "connecting",
            "read": "reading",
            "send": "sending",
            "sheet": "reading a data sheet",
            "restart": "restarting the controller",
        }
        return f"{doing.get(self.what, self.what)}, {self.done} of {self.total}"


@dataclass(frozen=True)
class Done(Event):
    """Something that was asked for is done; holding is what the controller holds now, where it was read anew.

    slot: the axis that it was done to, where it was one."""

    what: str
    holding: ControllerImage | None = None
    slot: int | None = None


@dataclass(frozen=True)
class Read(Event):
    """Single objects that were asked for."""

    raws: Mapping[Place, Raw]


@dataclass(frozen=True)
class Sheet(Event):
    """The data sheet that a part keeps of itself, as text."""

    node: int
    text: str


@dataclass(frozen=True)
class PartNow(Event):
    """How a part is at this moment, as it says itself."""

    node: int
    condition: PartCondition


@dataclass(frozen=True)
class Speeds(Event):
    """The spindle since it was told something else: seconds and rpm."""

    points: tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class Flight(Event):
    """The flight record that the controller held, as it stands on the wire; `idler.core.profile.flight` unpacks it."""

    data: bytes


@dataclass(frozen=True)
class Emergency(Event):
    """An emergency message (CiA 301, 7.2.7): code 0 says that errors are gone.

    axis and input are slots where the controller names them, else None.
    """

    code: int
    text: str
    axes: tuple[AxisState, ...] = field(default=())
    axis: int | None = None
    input: int | None = None
