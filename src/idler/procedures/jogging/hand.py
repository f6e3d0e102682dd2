"""A hand device in use: what its wheels, sticks and buttons do to the machine. No dead man, no motion."""

from __future__ import annotations

from functools import partial

from idler.core.errors import IdlerError
from idler.core.hand.assignment import Assigned, Control, DeviceProfile, Does
from idler.core.hand.hand import (
    Act,
    Choose,
    Command,
    Feed,
    Hand,
    LetGo,
    Speed,
    Spindle,
    Steps,
    StepSize,
    Stop,
    Unheld,
)
from idler.core.spindle import ranges, told_range, turns_both_ways
from idler.core.wiring.tool import tool_of
from idler.link.events import Asked
from idler.link.hand.sources import HandDevice, HandReader, find, places
from idler.session.session import Session
from idler.session.topic import Topic
from idler.shelf.hands import device_profile, save_device_profile

from ..dead_man import HeldTerminals
from ..trial.program import ProgramRun
from .jog import Jog

BEHIND = 0.15  # s of jogging that an axis may be behind its wheel; steps beyond it are dropped
NOTCHES = 20  # into which the way of a stick is divided: what is less is no other speed
LOOKS = 1.0  # s between two looks whether one that was pulled out is back


class HandDesk:
    """One device. chosen: slot of the axis that is turned where none is named. last: the control that was moved last.
    dropped: steps that were not made. acts: own actions that are asked for, by name."""

    def __init__(self, session: Session, jog: Jog) -> None:
        self.changed: Topic[()] = Topic()
        self.acts: Topic[str] = Topic()
        self._session, self._jog = session, jog
        self.chosen = 0
        self.last: Control | None = None
        self.dropped = 0
        self._reader: HandReader | None = None
        self._hand = Hand(DeviceProfile(0, 0))
        self._stepped: set[int] = set()
        self._notch: dict[int, int] = {}
        self._unheld_said = False
        self._missed: HandDevice | None = None  # that was pulled out: it is taken again where it comes back
        self._places: object = None
        self._looks = session.loop.timer(LOOKS, self._look_for_it)
        self._spins = HeldTerminals(session)
        self._spin = 0.0  # share of the highest speed, to the left below 0
        session.halted.subscribe(self._stopped)
        session.stopped.subscribe(lambda _: self._stopped())
        session.floor.changed.subscribe(self._give_way)
        session.held.subscribe(self._give_way)

    @property
    def device(self) -> HandDevice | None:
        return self._reader.device if self._reader is not None else None

    @property
    def profile(self) -> DeviceProfile:
        return self._hand.profile

    @property
    def held(self) -> bool:
        return self._hand.held

    @property
    def held_words(self) -> str:
        """Whether the dead man is held."""
        if not self.profile.dead_men:
            return "no dead man"
        if self._hand.stopped:
            return "let go of the dead man first: it was stopped"
        return "the dead man is held" if self.held else "the dead man is not held"

    # -- plugging in and out ------------------------------------------------------------------------------------------

    def connect(self, device: HandDevice) -> None:
        """Raises IdlerError."""
        self.disconnect()
        trouble = ""
        try:
            profile = device_profile(self._session.folder, device.vendor, device.product, device.name)
        except IdlerError as why:
            profile, trouble = DeviceProfile(device.vendor, device.product, device.name), why.sentence
        self._hand = Hand(profile)
        call = self._session.loop.call
        self._reader = HandReader(
            device,
            lambda control, value: call(partial(self._heard, control, value)),
            lambda why: call(partial(self._gone, why)),
        )
        if trouble:
            self._session.tell("warn", trouble)
        self.changed.publish()

    def disconnect(self) -> None:
        self._missed = None
        self._looks.stop()
        reader, self._reader = self._reader, None
        if reader is not None:
            reader.close()
            self._do(self._hand.gone())
            self.changed.publish()

    def _gone(self, why: str) -> None:
        """It was unplugged: whatever it moved has ended."""
        self._do(self._hand.gone())
        if self._reader is not None:
            self._reader.close()
            self._missed, self._places, self._reader = self._reader.device, places(), None
            self._looks.start()
            self._session.tell("warn", why)
        self.changed.publish()

    def _look_for_it(self) -> None:
        """One of the same kind and name that is plugged in again is in the hand again; nothing moves by that."""
        missed, now = self._missed, places()
        if missed is None or now == self._places:
            return
        self._places = now
        same = [each for each in find()[0] if each.is_like(missed)]
        if same:
            self._looks.stop()
            try:
                self.connect(same[0])
            except IdlerError as why:
                self._session.tell("warn", why.sentence)
            else:
                self._session.tell("plain", f"{missed.name} is in the hand again.")

    def _stopped(self) -> None:
        """The dead man must be let go of, and pressed again."""
        self._hand.stop()
        self._notch.clear()
        self._turn_spindle(0.0)
        self.changed.publish()

    def assign(self, control: Control, assigned: Assigned) -> None:
        """What a control does from now on; kept for all devices of this kind. Raises IdlerError."""
        self._do(self._hand.assign(self.profile.with_one(control, assigned)))
        save_device_profile(self._session.folder, self.profile)
        self.changed.publish()

    # -- what it does -------------------------------------------------------------------------------------------------

    def _heard(self, control: Control, value: float) -> None:
        if self._reader is None:
            return
        self.last = control
        self._do(self._hand.take(control, value))
        self.changed.publish()

    def _do(self, commands: list[Command]) -> None:
        for command in commands:
            self._one(command)

    def _one(self, command: Command) -> None:
        match command:
            case Stop():
                self._session.stop()
            case LetGo():
                self._let_go()
            case Steps(axis, count):
                if (slot := self._slot(axis)) is not None:
                    self._turn(slot, count)
            case Speed(axis, share):
                if (slot := self._slot(axis)) is not None:
                    self._drive(slot, share)
            case Choose(axis):
                if (slot := self._slot(axis)) is not None:
                    self.chosen = slot
            case StepSize(finer):
                self._size(finer=finer)
            case Feed():
                self._feed(command)
            case Spindle(by, to):
                self._turn_spindle(self._spin + (by or 0.0) if to is None else to)
            case Act(name):
                self.acts.publish(name)
            case Unheld(control):
                self._say_unheld(control)

    def _slot(self, axis: str) -> int | None:
        names = self._session.machine.names
        if not axis:
            return self.chosen if self.chosen < len(names) else None
        return names.index(axis) if axis in names else None

    def _say_unheld(self, control: Control) -> None:
        """Once, until the dead man was held again."""
        if not self._unheld_said:
            self._unheld_said = True
            dead = "no dead man is held" if self.profile.dead_men else "no dead man is assigned"
            why = "it was stopped: let go of the dead man first" if self._hand.stopped else dead
            self._session.tell("plain", f"{control}: nothing was moved, for {why}.")

    def _turn(self, slot: int, count: int) -> None:
        self._unheld_said = False
        made = self._jog.turn(slot, count, BEHIND)
        self._stepped.add(slot)
        if made != count:
            self.dropped += abs(count - made)
            self._session.tell("plain", f"{self.dropped} steps of the wheel were dropped: the axis goes no faster.")

    def _drive(self, slot: int, share: float) -> None:
        self._unheld_said = False
        notch = round(share * NOTCHES)
        if self._notch.get(slot, 0) == notch:
            return
        self._notch[slot] = notch
        self._jog.drive(slot, notch / NOTCHES)

    def _let_go(self) -> None:
        """Steps that are still being made end, too."""
        self._jog.let_go()
        self._turn_spindle(0.0)
        self._notch.clear()
        axes = self._session.axes
        for slot in self._stepped:
            if slot < len(axes) and axes[slot].moving and not self._session.floor.words:
                self._session.link.stop_axis(slot)
        self._stepped.clear()

    def _turn_spindle(self, share: float) -> None:
        """At a share of its highest speed, while it is held and nothing else runs."""
        session = self._session
        machine = session.machine
        lowest = 0.0 if not turns_both_ways(machine) else -1.0
        share = round(max(lowest, min(1.0, share)) * NOTCHES) / NOTCHES
        if not share:
            self._spin = 0.0
            self._spins.let_go()
            return
        self._unheld_said = False
        tool = tool_of(machine)
        why = "" if tool.turns else f"A {tool.noun} has no speed."
        if why := why or session.spindle_obstacle() or session.floor.obstacle():
            session.refuse("Nothing was turned.", why)
            return
        engaged = ranges(machine)[told_range(machine)]
        self._spin = share
        speed = round(max(engaged.low, abs(share) * engaged.high))
        self._spins.hold(Asked(run=1 if share > 0 else -1, speed=speed))

    def _give_way(self) -> None:
        """What runs now has the spindle for itself; and what a lost link turns is turned by its own watch."""
        if self._spin and (self._session.floor.words or not self._session.connected):
            self._turn_spindle(0.0)

    def _size(self, *, finer: bool) -> None:
        steps = self._jog.steps
        now = steps.index(self._jog.step) if self._jog.step in steps else 0
        self._jog.set_step(steps[max(0, min(len(steps) - 1, now + (1 if finer else -1)))])

    def _feed(self, command: Feed) -> None:
        run = self._session.floor.owner
        if not isinstance(run, ProgramRun):
            return
        wanted = command.to if command.to is not None else run.feed + (command.by or 0.0)
        run.set_rates(max(0.0, min(1.0, wanted)), run.rapid)


def suits(control: Control) -> tuple[Does, ...]:
    """What a control may do."""
    return tuple(does for does in Does if control.sort in does.sorts)
