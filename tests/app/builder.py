"""Random machines with hidden faults, and a made-up builder who commissions them by doing what Idler proposes.

The rig is the truth; the builder has hands, eyes and instruments, and knows what is told wrong no more than a person would.
"""

from __future__ import annotations

import contextlib
import random
import tempfile
import time
from dataclasses import dataclass, field
from pathlib import Path

from idler.app.qt_wait import TooLong, until
from idler.app.run import NOTE, Application, qt_application
from idler.core.machine import Address
from idler.core.mechanics.chain import Chain
from idler.core.proof.claims import Proof, claims, state
from idler.core.table.stations import Station
from idler.core.wiring import inputs
from idler.shelf.shelf import Shelf
from tests.support import Bench

FAULTS = (
    "nothing", "swapped wires", "short travel", "weak motor", "play", "sticky switch", "signs", "microsteps", "pitch",
    "exchanged limits", "inverted enable", "home beyond",
)  # fmt: skip
NAMES = {  # what is said only where the fault is met; the others are left to Geometry, or met by a homing that looks further
    "swapped wires": "swapped", "short travel": "shorter than told", "weak motor": "lost", "sticky switch": "sticks",
    "signs": "wrong way", "microsteps": "microsteps", "pitch": "pitch", "exchanged limits": "exchanged",
    "inverted enable": "enable",
}  # fmt: skip
PACE = 25.0
TRIES = 4
LONGEST = 240.0  # s of any one run
TOLERANCE = 0.001  # of a scale, as the builder wants it


@dataclass(frozen=True)
class Hidden:
    """A rig with two axes, as files: what it truly is, and what its controller was told."""

    fault: str
    rig: str
    told: str
    travel: tuple[float, float]  # true, between the hard stops, in mm
    switch: tuple[float, float]  # true places of the home switches from the low stop, in mm
    touch: float  # mm/min
    per_mm: tuple[float, float]  # true counts per mm


def hidden(seed: int) -> Hidden:
    """Half of the axes home low, half high; one fault hides in X, or between X and Y."""
    dice = random.Random(seed)
    fault = FAULTS[seed % len(FAULTS)]
    told, rig = [_HEAD_TOLD], []
    travels, switches, counts = [], [], []
    touch = dice.choice((120, 180, 240))
    names = ("X", "Y")
    inverted = fault == "inverted enable"
    rig.append(_HEAD_RIG.format(inverted=str(inverted).lower()))
    wires = []
    for slot, name in enumerate(names):
        mine = slot == 0
        travel, lead = float(dice.randrange(90, 180)), dice.choice((4.0, 5.0, 8.0))
        micro, high = dice.choice((8, 16)), dice.random() < 0.5
        room, backlash = dice.uniform(4, 7), dice.choice((0.0, 0.01, 0.02))
        true_travel = travel - dice.uniform(12, 30) if mine and fault == "short travel" else travel
        true_micro = micro * dice.choice((2, 1)) // 1 if mine and fault == "microsteps" else micro
        if mine and fault == "microsteps" and true_micro == micro:
            true_micro = micro // 2
        true_lead = {4.0: 5.0, 5.0: 4.0, 8.0: 10.0}[lead] if mine and fault == "pitch" else lead
        weak = mine and fault == "weak motor"
        torque = 0.13 if weak else dice.uniform(1.5, 2.4)
        play = dice.uniform(0.1, 0.3) if mine and fault == "play" else backlash
        lets_go = dice.uniform(2.2, 3.5) if mine and fault == "sticky switch" else dice.uniform(0.2, 0.6)
        at = true_travel - room if high else room
        top, rise = dice.choice((2400, 3600)), dice.choice((200, 300))
        swapped = mine and fault == "signs"
        rig.append(
            f'[motor.{name}]\nmoves = "tool"\nlead = {true_lead}\ntravel = {true_travel}\n'
            f"start = {true_travel * dice.uniform(0.35, 0.65)}\n"
            f"microsteps = {true_micro}\nwires_swapped = {str(swapped).lower()}\nbacklash = {play}\n"
            f"torque = {torque}\nknee = 900.0\n"
            f"inertia = 3e-4\nfriction = {0.05 if weak else dice.uniform(0.08, 0.16)}\nviscous = 1e-3\n"
        )
        side, far = ("high", "low") if high else ("low", "high")
        number = 2 + slot if fault != "swapped wires" else 3 - slot
        wires.append((number, f"{name} home", name, at, side, lets_go))
        if fault == "exchanged limits":
            for end, place in ((side, true_travel - 1.2 if high else 1.2), (far, 1.2 if high else true_travel - 1.2)):
                low = end == "low"
                wires.append(((4 if low else 5) + 2 * slot, f"{name} {end}", name, place, end, 0.4))
        # the told machine: its stops and ends as the drawing has them
        zero = -travel if high else 0.0
        coordinate = zero + (travel - room if high else room)
        stops, ends = (zero, zero + travel), (zero + 2, zero + travel - 2)
        ends = (ends[0], coordinate - 2) if high else (coordinate + 2, ends[1])
        told.append(
            f'[axis.{name}.axis]\nkind = "linear"\noutput = {slot + 1}\nmoves = "tool"\n'
            f'[axis.{name}.chain]\nmotor = "stepper"\nmicrosteps = {micro}\nfinal = "screw"\npitch = "{lead} mm"\n'
            f'[axis.{name}.pace]\ntop_speed = "{top} mm/min"\nacceleration = "{rise} mm/s²"\ndeceleration = "{rise} mm/s²"\n'
            'stop_deceleration = "600 mm/s²"\nmotor_speed = "1200 rpm"\n'
            f'[axis.{name}.travel]\nstop_low = "{stops[0]} mm"\nstop_high = "{stops[1]} mm"\nlimits_on = true\n'
            f'low = "{ends[0]:.3f} mm"\nhigh = "{ends[1]:.3f} mm"\n'
            f'[axis.{name}.homing]\ntowards = "{side}"\nturn = {slot + 1}\napproach = "900 mm/min"\ntouch = "{touch} mm/min"\n'
            f'coordinate = "{coordinate:.3f} mm"\nback_off = "2 mm"\nleave = "2 mm"\n'
        )
        travels.append(true_travel)
        switches.append(at)
        counts.append(200 * true_micro / true_lead)
    rig.append('[[wire]]\ninput = 1\nname = "emergency stop"\ncontact = "closed"\nbounce = 0.8\n')
    for number, name, axis, at, side, lets_go in wires:
        rig.append(
            f'[[wire]]\ninput = {number}\nname = "{name}"\naxis = "{axis}"\nat = {at}\nside = "{side}"\n'
            f'hysteresis = {lets_go}\ncontact = "closed"\nbounce = 0.5\n'
        )
    roles = [(1, "stop", "none"), (2, "home", "X"), (3, "home", "Y")]
    if fault == "exchanged limits":
        roles += [(4, "limit_high", "X"), (5, "limit_low", "X"), (6, "limit_low", "Y"), (7, "limit_high", "Y")]
    for number in range(1, 13):
        role, axis = next(((r, a) for n, r, a in roles if n == number), ("none", "none"))
        told.append(
            f'[input.{number}]\nterminal = "{number}"\nkind = "contact"\nrole = "{role}"\n'
            f'axis = "{axis}"\nrest = "closed"\n'
        )
    return Hidden(fault, "\n".join(rig), "\n".join(told), tuple(travels), tuple(switches), touch, tuple(counts))  # type: ignore[arg-type]


_HEAD_TOLD = """schema = 2
[names]
machine = "Random mill"
screen_unit = "mm"
[build]
kind = "mill"
[signals]
step_rate = "100 kHz"
pulse_width = "5 µs"
direction_setup = "10 µs"
power_delay = "100 ms"
[spindle]
kind = "none"
"""
_HEAD_RIG = """name = "random"
told = "told.toml"
[rig]
title = "Random"
kind = "mill"
device = "Bench controller"
hardware = "bench 9"
software = "1.0"
serial = 26112701
node = 5
[driver]
enable_inverted = {inverted}
"""


@dataclass
class Seen:
    """What came of one rig. struck: the fastest that iron was met, in mm/s. lies: proofs that the rig denies."""

    fault: str
    struck: float = 0.0
    touch: float = 0.0
    lies: list[str] = field(default_factory=list)
    proven: list[str] = field(default_factory=list)
    told: list[str] = field(default_factory=list)
    seconds: float = 0.0

    @property
    def hit(self) -> bool:
        return self.struck > 1.2 * self.touch + 0.3

    def named(self) -> bool:
        """Whether the fault was named in words on the way, or cannot be seen by these procedures; of a good machine, whether
        no fault was named."""
        if self.fault == "nothing":
            return not any(words in said for words in NAMES.values() for said in self.told)
        words = NAMES.get(self.fault)
        return words is None or any(words in said for said in self.told)


class Builder:
    """Commissions one rig in the real window; what the person would read and press is read and pressed."""

    def __init__(self, made: Hidden, pace: float = PACE) -> None:
        qt_application()
        self.made, self.seen = made, Seen(made.fault, touch=made.touch / 60)
        self._folder = tempfile.TemporaryDirectory()
        root = Path(self._folder.name)
        (root / "rig.toml").write_text(made.rig, "utf-8")
        (root / "told.toml").write_text(made.told, "utf-8")
        self.bench = Bench(pace=pace, rig=str(root / "rig.toml"))
        shelf = Shelf(root / "shelf")
        shelf.add("random", made.told, NOTE, time.time())
        self.application = Application(root / "shelf", demo=False)
        self.window, self.session = self.application.window, self.application.session
        self.session.told.subscribe(lambda _, words: self.seen.told.append(words))
        self.application.show()
        self.application.use_bench(self.bench.ready)
        until(lambda: self.session.connected and self.session.history.found is not None, "the bench")

    def close(self) -> None:
        self.application.close()
        self.bench.close()
        self._folder.cleanup()

    # -- what a person does ------------------------------------------------------------------------------------------

    def read(self, *words: str) -> None:
        self.seen.told += words

    def send(self) -> None:
        if self.session.count().to_send:
            self.session.send(restart=True)
            until(
                lambda: not self.session.busy and not self.session.count().to_send and not self.session.count().waiting,
                "the send",
            )

    def power(self) -> None:
        for _ in range(3):
            if self.session.powered:
                return
            self.session.power(True)
            with contextlib.suppress(TooLong):
                until(lambda: self.session.powered, "power", 6)

    def rest(self) -> None:
        until(lambda: not self.session.moving and not self.session.floor.words, "rest", LONGEST)

    def proof(self, key: str) -> Proof:
        claim = next(claim for claim in claims(self.session.machine) if claim.key == key)
        return state(self.session.machine, claim, self.session.proofs)

    def commission(self) -> Seen:
        began = time.monotonic()
        try:
            self.send()
            self._stop()
            self._touch()
            for slot in (0, 1):
                self._direction(slot)
                self._scale(slot)
            for slot in (0, 1):
                self._home(slot)
            for slot in (0, 1):
                self._ends(slot)
            for slot in (0, 1):
                self._pace(slot)
        except TooLong as why:
            self.read(f"gave up: {why}")
        self.seen.struck = max(axis["struck"] for axis in self.bench.hands.ask(do="look")["axes"])
        self.seen.proven = [c.key for c in claims(self.session.machine) if self.proof(c.key) is Proof.PROVEN]
        self._judge()
        self.seen.seconds = time.monotonic() - began
        return self.seen

    def _stop(self) -> None:
        self.window.open_station(Station.WIRING)
        page = self.window.page(Station.WIRING).prove  # type: ignore[attr-defined]
        self.window.page(Station.WIRING).turn_to("Prove")
        for _ in range(2):
            self.power()
            page.begin_buttons["wiring.stop"].click()
            until(lambda: "Press the emergency stop" in page.step.text(), "the question")
            self.bench.hands.ask(do="press", switch="emergency stop")
            until(lambda: page.push.isVisible() or "wiring.stop" in self.session.proofs, "the pressed stop")
            page.push.click()
            until(lambda: not page.push.isVisible(), "the answer")
            self.bench.hands.ask(do="release", switch="emergency stop")
            until(lambda: not any(axis.stop_pressed for axis in self.session.link.axes), "the release")
            if self.session.proofs.get("wiring.stop") is None:
                until(page.power.isVisible, "the button")
                self.power()
                until(lambda: "wiring.stop" in self.session.proofs, "the proof")
            self.read(self.session.proofs["wiring.stop"].result)
            if self.proof("wiring.stop") is Proof.PROVEN:
                return
            self.session.set_values({Address(None, "signals.enable_inverted"): True})
            self.send()

    def _touch(self) -> None:
        """Presses what is asked for by its name; where another terminal answers, says that it was that."""
        page = self.window.page(Station.WIRING).prove  # type: ignore[attr-defined]
        page._begin(page.touching.prove())
        for _ in range(20):
            round_ = page.touching.round
            if round_ is None or round_.asked is None:
                return
            item = inputs(self.session.machine)[round_.asked]
            name = {
                "home": f"{item.duty.axis} home",
                "limit_low": f"{item.duty.axis} low",
                "limit_high": f"{item.duty.axis} high",
            }
            switch = name[item.role.key]
            before = round_.asked
            self.bench.hands.ask(do="press", switch=switch)
            until(lambda r=round_: r.wrong is not None or r._trial.step == "Release it.", "an answer", 10)
            if round_.wrong is not None:
                self.read(page.step.text(), page.swap.text())
                self.bench.hands.ask(do="release", switch=switch)
                if item.role.limits:
                    self.read("exchanged")
                page.swap.click()
                self.send()
                self.power()
                page._begin(page.touching.prove())
                continue
            self.bench.hands.ask(do="release", switch=switch)
            until(lambda r=round_, b=before: r.asked != b or page.touching.round is None, "the next one", 10)

    def _direction(self, slot: int) -> None:
        self.window.open_station(Station.DRIVES)
        station = self.window.page(Station.DRIVES)
        station.turn_to("Direction")
        page = station.direction  # type: ignore[attr-defined]
        name = self.session.machine.names[slot]
        station.show_axis(slot)  # type: ignore[attr-defined]
        for _ in range(3):
            self.power()
            before = self.bench.hands.look(name)["at"]
            page.go.click()
            until(lambda: page.step.value == "ask", "the question")
            moved = self.bench.hands.look(name)["at"] - before
            (page.plus if moved > 0.05 else page.minus if moved < -0.05 else page.nothing).click()
            self.read(page.title.text())
            if self.proof(f"direction.{name}") is Proof.PROVEN:
                return
            if page.turn.isVisible():
                page.turn.click()
            self.send()

    def _scale(self, slot: int) -> None:
        self.window.open_station(Station.SCALE)
        page = self.window.page(Station.SCALE)
        page.show_axis(slot)  # type: ignore[attr-defined]
        name = self.session.machine.names[slot]
        page.instrument.setCurrentIndex(4)  # type: ignore[attr-defined]
        for text, editor in (("20 mm", page.length), ("0.1 %", page.tolerance)):  # type: ignore[attr-defined]
            editor.setText(text)
            editor.editingFinished.emit()
        for _ in range(2 * TRIES):
            self.power()
            for stage in ("scale.zero", "scale.move", "scale.reading"):
                page.go.click()  # type: ignore[attr-defined]
                until(lambda s=stage: page.procedure.stage.key in (s, "start"), stage, LONGEST)  # type: ignore[attr-defined]
            if page.procedure.stage.key != "scale.reading":  # type: ignore[attr-defined]
                continue
            page.reading.clear()  # type: ignore[attr-defined]
            page.read_button.click()  # type: ignore[attr-defined]
            until(lambda: page.reading.text(), "the reading")  # type: ignore[attr-defined]
            page.go.click()  # type: ignore[attr-defined]
            self.read(page._title.text(), page._words.text(), *(b.accessibleName() for b in page.cause_buttons))  # type: ignore[attr-defined]
            if page.prove.isVisible():  # type: ignore[attr-defined]
                page.prove.click()  # type: ignore[attr-defined]
                if self.proof(f"scale.{name}") is Proof.PROVEN:
                    return
            if page.cause_buttons:  # type: ignore[attr-defined]
                page.cause_buttons[0].click()  # type: ignore[attr-defined]
                self.send()
            elif page.accept.isVisible():  # type: ignore[attr-defined]
                page.accept.click()  # type: ignore[attr-defined]
                self.send()
            elif page._title.text().endswith("contradict each other"):  # type: ignore[attr-defined]
                page.drop_button.click()  # type: ignore[attr-defined]

    def _home(self, slot: int) -> bool:
        self.window.open_station(Station.HOMING)
        page = self.window.page(Station.HOMING)
        name = self.session.machine.names[slot]
        page.show_axis(slot)  # type: ignore[attr-defined]
        for _ in range(TRIES):
            self.power()
            page.one.click()  # type: ignore[attr-defined]
            until(lambda: not page.run.running and slot in page.run.records, "the homing", LONGEST)  # type: ignore[attr-defined]
            self.rest()
            record = page.run.records[slot]  # type: ignore[attr-defined]
            with contextlib.suppress(TooLong):
                until(
                    lambda r=record: f"home.{name}" in self.session.proofs and (r.found or not r.phases),
                    "the result",
                    10,
                )
            self.read(
                page.title.text(), page.outcome.words.text(), *(t.text() for pair in page.outcome._causes for t in pair)
            )  # type: ignore[attr-defined]
            if slot in page.run.doubts:  # type: ignore[attr-defined]
                page.outcome.answers[0].click()  # type: ignore[attr-defined]
                continue
            if self.session.axes[slot].homed:
                return True
            if page.outcome.clear.isVisible():  # type: ignore[attr-defined]
                page.outcome.clear.click()  # type: ignore[attr-defined]
                until(lambda: not self.session.moving, "to be clear")
                self.bench.hands.ask(do="run", seconds=0.2)
            if page.outcome.fix.isVisible():  # type: ignore[attr-defined]
                page.outcome.fix.click()  # type: ignore[attr-defined]
                self.send()
        return False

    def _ends(self, slot: int) -> None:
        page = self.window.page(Station.TRAVEL)
        for _ in range(TRIES):
            if not self.session.axes[slot].homed and not self._home(slot):
                return
            self.window.open_station(Station.TRAVEL)
            page.show_axis(slot)  # type: ignore[attr-defined]
            self.power()
            page.prove.click()  # type: ignore[attr-defined]
            until(lambda: not page.run.running, "the ends", LONGEST)  # type: ignore[attr-defined]
            self.read(page.run.words)  # type: ignore[attr-defined]
            if self.proof(f"ends.{self.session.machine.names[slot]}") is Proof.PROVEN:
                return
            if page.mend.isVisible():  # type: ignore[attr-defined]
                page.mend.click()  # type: ignore[attr-defined]
                self.send()
            elif "steps were lost" in page.run.words:  # type: ignore[attr-defined]
                self._find_pace(slot)

    def _reliable(self, slot: int):  # type: ignore[no-untyped-def]
        self.window.open_station(Station.DRIVES)
        station = self.window.page(Station.DRIVES)
        station.turn_to("Reliable")
        station.show_axis(slot)  # type: ignore[attr-defined]
        page = station.reliable  # type: ignore[attr-defined]
        page.length.setText("25 mm")
        page.length.editingFinished.emit()
        return page

    def _find_pace(self, slot: int) -> None:
        page = self._reliable(slot)
        self.power()
        page.search.click()
        until(lambda: not page.run.running and page.run.settled, "the search", 2 * LONGEST)
        self.read(page.run.words)
        if page.take.isVisible():
            page.take.click()
            self.send()

    def _pace(self, slot: int) -> None:
        name = self.session.machine.names[slot]
        for _ in range(TRIES):
            if not self.session.axes[slot].homed and not self._home(slot):
                return
            page = self._reliable(slot)
            self.power()
            page.prove.click()
            until(lambda p=page: not p.run.running and p.run.settled, "the proof of the pace", 2 * LONGEST)
            self.read(page.run.words)
            if self.proof(f"pace.{name}") is Proof.PROVEN:
                return
            if page.take.isVisible():
                page.take.click()
                self.send()

    # -- what the rig says of it ---------------------------------------------------------------------------------------

    def _judge(self) -> None:
        """What is called proven, held against the truth."""
        for slot, name in enumerate(self.session.machine.names):
            axis, truth = self.session.machine.axis(slot), self.bench.hands.look(name)
            told = float(Chain.of(axis).counts_per_unit)
            off = abs(told / self.made.per_mm[slot] - 1)
            if f"scale.{name}" in self.seen.proven and off > 1.5 * TOLERANCE:
                self.seen.lies.append(f"scale of {name} off by {off:.2%}")
            zero = truth["at"] - self.session.link.axes[slot].position  # from the low stop to coordinate 0
            met = zero + float(axis.number("homing.coordinate"))
            if (
                f"home.{name}" in self.seen.proven
                and self.session.axes[slot].homed
                and abs(met - self.made.switch[slot]) > 0.5
            ):
                self.seen.lies.append(f"home of {name} at {met:.2f}, its switch at {self.made.switch[slot]:.2f}")
            ends = [zero + float(axis.number(f"travel.{end}")) for end in ("low", "high")]
            beyond = ends[0] < -0.1 or ends[1] > self.made.travel[slot] + 0.1
            if f"ends.{name}" in self.seen.proven and self.session.axes[slot].homed and beyond:
                self.seen.lies.append(f"ends of {name} at {ends}, travel {self.made.travel[slot]}")
        current = [axis["current"] for axis in self.bench.hands.ask(do="look")["axes"]]
        if self.session.powered and "wiring.stop" in self.seen.proven and not all(current):
            self.seen.lies.append("the stop is proven, and the drives have no current")


def commission(seed: int, pace: float = PACE) -> Seen:
    builder = Builder(hidden(seed), pace)
    try:
        return builder.commission()
    finally:
        builder.close()
