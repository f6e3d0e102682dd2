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
class Act:
    name: str


@dataclass(frozen=True)
class Unheld:
    """Something that moves was turned without the dead man: nothing is done, and it is said."""

    control: Control


Command: TypeAlias = Stop | LetGo | Steps | Speed | Choose | StepSize | Feed | Act | Unheld
DETENT = 0.05  # of the whole feed, by one detent


class Hand:
    """One device in the hand. profile may be changed at any time; then everything is let go."""

    def __init__(self, profile: DeviceProfile) -> None:
        self._profile = profile
        self._down: set[Control] = set()
        self._moves: set[str] = set()  # axes that a stick moves

    @property
    def profile(self) -> DeviceProfile:
        return self._profile

    @property
    def held(self) -> bool:
        """Whether the dead man is held."""
        return bool(self._down & self._profile.dead_men)

    def assign(self, profile: DeviceProfile) -> list[Command]:
        self._profile = profile
        return self.gone()

    def gone(self) -> list[Command]:
        """It was unplugged, or nothing is heard of it."""
        self._down.clear()
        self._moves.clear()
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
                return self._speed(control, each, value)
            case Does.FEED:
                return [Feed(by=DETENT * value) if control.sort is Sort.WHEEL else Feed(to=(value + 1) / 2)]
        return []

    def _button(self, control: Control, each: Assigned, *, pressed: bool) -> list[Command]:
        was_held, repeats = self.held, pressed and control in self._down
        (self._down.add if pressed else self._down.discard)(control)
        if was_held and not self.held:
            self._moves.clear()
            return [LetGo()]
        if not pressed or repeats:
            return []
        match each.does:
            case Does.STOP:
                self._moves.clear()
                return [Stop()]
            case Does.CHOOSE:
                return [Choose(each.what)]
            case Does.FINER | Does.COARSER:
                return [StepSize(each.does is Does.FINER)]
            case Does.ACTION:
                return [Act(each.what)] if self.held else [Unheld(control)]
        return []

    def _speed(self, control: Control, each: Assigned, value: float) -> list[Command]:
        share = self._profile.share(value)
        if share and not self.held:
            return [Unheld(control)]
        if not share:
            moved = each.what in self._moves
            self._moves.discard(each.what)
            return [Speed(each.what, 0.0)] if moved else []
        self._moves.add(each.what)
        return [Speed(each.what, share)]
