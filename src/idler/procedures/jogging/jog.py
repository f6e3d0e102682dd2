"""Jogging: what the buttons and the armed keys do. The widgets only say what was pressed and let go."""

from __future__ import annotations

from fractions import Fraction

from idler.core.errors import Refusal
from idler.core.machine import Address
from idler.core.mechanics.axis_directions import shown_per_travel
from idler.core.table import POSITION_STEP
from idler.core.table.sizes import nearest, sizes
from idler.core.values.quantity import parse
from idler.core.values.units import INCH, INCH_MIN, MM, MM_MIN, convert
from idler.session.session import Session
from idler.session.topic import Topic

from ..dead_man import Confirmation

DISARM = 60.0  # s without a press
STARTED = 0.3  # s after the controller took a jog, in which the axis must have been seen to move
FIRST_STEP = 1  # of the list of steps: not the coarsest
_UNWATCHED = (
    "The limit chain is made, and nobody knows by which axis: until it is clear, axes go at their touch speed, for nothing "
    "watches their ends."
)


class Jog:
    """step: text of the step in the screen's unit, or "" to move while held."""

    def __init__(self, session: Session) -> None:
        self.changed: Topic[()] = Topic()
        self._session = session
        self.fast = session.machine[Address(None, "jog.first")] == "fast"
        self.step = self.steps[FIRST_STEP]
        self._size = self._step_size()  # of the step in mm, so that another unit or list keeps it
        self._owed: dict[int, Fraction] = {}  # what steps asked for more than the controller could be told, by slot
        session.changed.subscribe(self._follow)
        self._turned: dict[int, float] = {}  # by slot, when the steps of a wheel are made
        self._typed: Fraction | None = None
        self.armed = False
        self._held: int | None = None
        self.targets: dict[int, float] = {}
        self._confirm = Confirmation(session)
        session.halted.subscribe(self.stopped)
        self._disarm = session.loop.timer(DISARM, lambda: self.arm(False), once=True)
        # Of a press that is not yet seen to move: slot, sign, and where the axis stood.
        self._pressed: tuple[int, int, float] | None = None
        self._late = session.loop.timer(STARTED, self._say_why, once=True)
        session.done.subscribe(lambda what: self._late.start() if what == "jog" and self._pressed else None)

    @property
    def steps(self) -> tuple[str, ...]:
        """The steps of the machine's list, in the unit of its screen."""
        return sizes(
            str(self._session.machine[Address(None, f"jog.steps_{'inch' if self._session.machine.inch else 'mm'}")])
        )

    def _step_size(self) -> Fraction:
        """Of the step that is chosen, in mm; 0 while held."""
        size = Fraction(self.step or 0)
        return convert(size, INCH, MM) if self._session.machine.inch else size

    def _follow(self) -> None:
        """Another list or another unit of the screen: the step stays as large, or becomes the next smaller one."""
        if not self.step or (self.step in self.steps and self._step_size() == self._size):
            return
        wanted = convert(self._size, MM, INCH) if self._session.machine.inch else self._size
        self.set_step(nearest(self.steps, wanted))

    @property
    def speed(self) -> Fraction:
        """Speed of jogging, in mm/min (or °/min for a rotary axis)."""
        return self._typed if self._typed is not None else self.speed_when(self.fast)

    def speed_when(self, fast: bool) -> Fraction:
        """The machine's speed of jogging, slow or fast."""
        value = self._session.machine[Address(None, "jog.fast" if fast else "jog.slow")]
        assert isinstance(value, Fraction)
        return value

    def set_fast(self, fast: bool) -> None:
        self.fast, self._typed = fast, None
        self.changed.publish()

    def set_step(self, step: str) -> None:
        self.step, self._owed = step, {}
        self._size = self._step_size()
        self.changed.publish()

    def set_speed(self, text: str) -> None:
        """Another speed, until slow or fast is chosen again. Raises Refusal."""
        speed = parse(text, MM_MIN, bare=INCH_MIN if self._session.machine.inch else None, part="jog speed")
        if not 0 < speed <= 200_000:
            most = self._session.machine.reads.speed(200_000)
            raise Refusal("jog speed", text.strip(), "cannot be used", f"above 0 and up to {most}")
        self._typed = speed
        self.changed.publish()

    def arm(self, on: bool) -> None:
        """Lets the keyboard jog, for a while."""
        if on != self.armed:
            self.armed = self._session.keys_armed = on
            self.changed.publish()
        if on:
            self._disarm.start()
        else:
            self._disarm.stop()
            self.let_go()

    def press(self, slot: int, sign: int, *, fast: bool = False) -> None:
        """A jog button or an armed key went down. fast: at the fast speed, whatever is chosen."""
        if self.armed:
            self._disarm.start()
        if self._refused():
            return
        if slot < len(self._session.axes):
            self._pressed = slot, sign, self._session.axes[slot].position
            if self._session.axes[slot].unwatched:
                self._session.tell("warn", _UNWATCHED)
        speed = self._speed_of(slot, self.speed_when(True) if fast else self.speed)
        if self.step:
            self._step(slot, sign, speed)
        else:
            self._hold(slot, sign * speed)

    def turn(self, slot: int, count: int, behind: float) -> int:
        """Detents of a wheel, a step each; how many of them were made. behind: s of jogging that the axis may be behind; a
        wheel that is turned faster is not run after."""
        if self._refused() or slot >= len(self._session.axes):
            return 0
        speed, now = self._speed_of(slot, self.speed), self._session.loop.now()
        size = Fraction(self.step or self.steps[FIRST_STEP])
        takes = float(abs(self._distance(slot, size))) / (speed / 60)
        made, sign = 0, 1 if count > 0 else -1
        over = max(self._turned.get(slot, 0.0), now)  # when what was asked for so far is made
        while made < abs(count) and over - now <= behind:
            self._step(slot, sign, speed, size)
            made += 1
            over += takes
        self._turned[slot] = over
        return made * sign

    def drive(self, slot: int, share: float) -> None:
        """At a share of the jog speed, from −1 to 1, until it is another one or `let_go`; 0 ends it."""
        if not share:
            if self._held == slot:
                self.let_go()
        elif not self._refused():
            self._hold(slot, share * self._speed_of(slot, self.speed))

    def _refused(self) -> bool:
        """Whether nothing can be moved now; it is said why."""
        why = self._session.axes_obstacle or self._session.floor.obstacle() if self._session.connected else ""
        if why:
            self._session.refuse("Nothing was moved.", why)
        return bool(why)

    def _speed_of(self, slot: int, wanted: Fraction) -> float:
        top = self._session.machine.axis(slot).number("pace.top_speed")
        return float(min(wanted, top) if top else wanted)

    def _distance(self, slot: int, size: Fraction) -> Fraction:
        """What a step on the screen is in the axis's own unit."""
        asked = size / shown_per_travel(self._session.machine, slot)
        inch = self._session.machine.inch and not self._session.machine.axis(slot).rotary
        return convert(asked, INCH, MM) if inch else asked

    def _step(self, slot: int, sign: int, speed: float, size: Fraction | None = None) -> None:
        asked = self._distance(slot, Fraction(self.step) if size is None else size) * sign
        asked += self._owed.get(slot, Fraction(0))
        distance = round(asked / POSITION_STEP) * POSITION_STEP
        self._owed[slot] = asked - distance
        self._aim(slot, float(distance))
        self._session.link.jog_step(slot, float(distance), speed)

    def _hold(self, slot: int, speed: float) -> None:
        self.let_go()
        self._held = slot
        self._confirm.begin()
        self._session.link.jog_hold(slot, speed)

    def _say_why(self) -> None:
        """A press that has moved nothing says why."""
        pressed, self._pressed = self._pressed, None
        axes = self._session.axes
        if pressed is None or pressed[0] >= len(axes):
            return
        slot, sign, stood = pressed
        axis, name, way = axes[slot], self._session.machine.names[slot], "+" if sign > 0 else "−"
        if axis.moving or axis.position != stood:
            return
        if axis.unwatched:
            words = "another axis has gone onto a switch of the limit chain. Jog that one off it first."
        elif axis.limit_made:
            other = "−" if sign > 0 else "+"
            words = f"a limit switch of it is made, and was met on this way. Only the way off it is open: try {other}."
        elif axis.at_limit:
            words = "it stands at the end of its travel, or the step would pass it."
        else:
            words = "the controller took the jog, and no step was made."
        self._session.tell("warn", f"{name} did not move to {way}: {words}")

    def let_go(self) -> None:
        """Whatever was held is let go; what a wheel asked for is not waited for."""
        self._turned.clear()
        if self._held is not None:
            slot, self._held = self._held, None
            self._confirm.end()
            self._session.link.jog_hold(slot, 0.0)

    def stopped(self) -> None:
        """STOP was pressed: nothing is held, nothing is on its way."""
        self._held = None
        self._confirm.end()
        self.targets.clear()
        self._owed.clear()
        self._turned.clear()

    def _aim(self, slot: int, distance: float) -> None:
        """Where the ghost on the rail stands: the end of the steps asked for."""
        axes = self._session.axes
        if slot >= len(axes):
            return
        start = self.targets.get(slot, axes[slot].position) if axes[slot].moving else axes[slot].position
        self.targets[slot] = start + distance
