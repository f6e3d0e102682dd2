"""What follows from what a hand does: no motion without the dead man, and the end of it the moment that he lets go."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TypeAlias

from .assignment import Assigned, Control, DeviceProfile, Does, Sort


@dataclass(frozen=True)
class Stop:
    """STOP of everything."""


@dataclass(frozen=True)
class LetGo:
    """Whatever the hand moves ends."""


@dataclass(frozen=True)
class Steps:
    """axis: a letter, empty for the chosen one. count: detents, signed."""

    axis: str
    count: int


@dataclass(frozen=True)
class Speed:
    """share: of the jog speed, from −1 to 1; 0 ends it."""

    axis: str
    share: float


@dataclass(frozen=True)
class Choose:
    axis: str


@dataclass(frozen=True)
class StepSize:
    """finer: the next smaller one, else the next larger one."""

    finer: bool


@dataclass(frozen=True)
class Feed:
    """by: in shares of the whole feed; or to: an absolute share. One of them is None."""

    by: float | None = None
    to: float | None = None


@dataclass(frozen=True)
class Spindle:
    """by: in shares of its highest speed; or to: an absolute share, to the left below 0, and 0 ends it. One of them is None."""

    by: float | None = None
    to: float | None = None


@dataclass(frozen=True)
class Act:
    name: str


@dataclass(frozen=True)
class Unheld:
    """Something that moves was turned without the dead man: nothing is done, and it is said."""

    control: Control


Command: TypeAlias = Stop | LetGo | Steps | Speed | Choose | StepSize | Feed | Spindle | Act | Unheld
DETENT = 0.05  # of the whole feed or of the highest speed, by one detent
_SPINDLE = "spindle"  # beside letters of axes


class Hand:
    """One device in the hand. profile may be changed at any time; then everything is let go."""

    def __init__(self, profile: DeviceProfile) -> None:
        self._profile = profile
        self._down: set[Control] = set()
        self._moves: set[str] = set()  # axes that a stick moves, and the spindle
        self._stopped = False

    @property
    def profile(self) -> DeviceProfile:
        return self._profile

    @property
    def held(self) -> bool:
        """Whether the dead man is held, and was pressed since anything stopped the machine."""
        return self._pressed and not self._stopped

    @property
    def stopped(self) -> bool:
        """Whether he must be let go of first: the machine was stopped under his hand."""
        return self._stopped

    @property
    def _pressed(self) -> bool:
        return bool(self._down & self._profile.dead_men)

    def stop(self) -> None:
        """The machine was stopped, by whatever: a stick that is still away from its middle moves nothing any more."""
        self._moves.clear()
        self._stopped = self._pressed

    def assign(self, profile: DeviceProfile) -> list[Command]:
        self._profile = profile
        return self.gone()

    def gone(self) -> list[Command]:
        """It was unplugged, or nothing is heard of it."""
        self._down.clear()
        self._moves.clear()
        self._stopped = False
        return [LetGo()]

    def take(self, control: Control, value: float) -> list[Command]:
        """An event. value: detents of a wheel, −1 to 1 of a stick, 1 or 0 of a button."""
        each = self._profile.of(control)
        if control.sort is Sort.BUTTON:
            return self._button(control, each, pressed=value > 0)
        match each.does:
            case Does.STEP if value:
                return [Steps(each.what, int(value))] if self.held else [Unheld(control)]
            case Does.SPEED:
                return self._away(control, each.what, value)
            case Does.FEED:
                return [Feed(by=DETENT * value) if control.sort is Sort.WHEEL else Feed(to=(value + 1) / 2)]
            case Does.SPINDLE if control.sort is Sort.STICK:
                return self._away(control, _SPINDLE, value)
            case Does.SPINDLE if value:
                return [Spindle(by=DETENT * value)] if self.held else [Unheld(control)]
        return []

    def _button(self, control: Control, each: Assigned, *, pressed: bool) -> list[Command]:
        was_held, repeats = self.held, pressed and control in self._down
        (self._down.add if pressed else self._down.discard)(control)
        self._stopped = self._stopped and self._pressed
        if was_held and not self.held:
            self._moves.clear()
            return [LetGo()]
        if not pressed or repeats:
            return []
        match each.does:
            case Does.STOP:
                self.stop()
                return [Stop()]
            case Does.CHOOSE:
                return [Choose(each.what)]
            case Does.FINER | Does.COARSER:
                return [StepSize(each.does is Does.FINER)]
            case Does.ACTION:
                return [Act(each.what)] if self.held else [Unheld(control)]
        return []

    def _away(self, control: Control, what: str, value: float) -> list[Command]:
        """A stick that is away from its middle, or is back in it. what: an axis, or the spindle."""
        share = self._profile.share(value)
        if share and not self.held:
            return [Unheld(control)]
        ends = not share and what in self._moves
        (self._moves.add if share else self._moves.discard)(what)
        if not share and not ends:
            return []
        return [Spindle(to=share) if what == _SPINDLE else Speed(what, share)]
