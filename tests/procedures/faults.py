"""Something goes wrong while a program runs on the bench, and what becomes of the run, the axes and the place on the path."""

from __future__ import annotations

import random
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np

from idler.core.proof.claims import Witness, curve_claim, spindle_way_claim
from idler.core.spindle import told_range
from idler.link.along import Along
from idler.procedures.engine import Ending
from idler.procedures.registry import Wishes
from idler.procedures.trial.program import ProgramRun, Way
from idler.procedures.trial.zero import take_zero
from tests.procedures.ready import Ready
from tests.support import X, Y, Z, at

CROSSING = "G21 G90\nG0 Z5\nS2000 M3\nG1 Z0 F1200\nG1 X25 Y10 F{feed}\nX-25 Y20\nX0 Y0\nM5\nG0 Z5\nM30\n"
COUNT = 0.004  # mm: the coarsest of Verge's axes, told anew
PLAY = 0.12  # mm that iron may lie beside what was counted: Verge's screws have play
STILL = 0.002  # mm that an axis may creep while it stands: its scale is read in steps
ON_PATH = ("stop", "guard", "power off", "disconnect", "cut")  # it ends there, wherever that is
BESIDE = ("emergency stop", "broken wire", "trouble", "dip")  # axes may end by themselves, each as hard as it can
GOES_ON = ("deaf", "screen", "behind")  # nothing of the work is lost
KINDS = (*ON_PATH, *BESIDE, *GOES_ON)


@dataclass(frozen=True)
class Outcome:
    """off: mm that the axes were counted beside the path where it ended; iron: mm that iron lies beside what was counted,
    homed: whether the controller says that it knows where all are. crept: mm that iron moved while it should stand, after
    everything was mended again."""

    kind: str
    ended: Ending | None
    along: Along
    known: bool
    off: float
    iron: float
    homed: bool
    crept: float

    @property
    def wrong(self) -> str:
        """What is not as it should be, or an empty text."""
        if self.crept > STILL:
            return f"went on by {self.crept:.3f} mm after it had ended"
        if self.kind in GOES_ON:
            return "" if self.ended is Ending.DONE else f"ended {self.ended}"
        if self.ended not in (Ending.STOPPED, Ending.FAILED):
            return f"ended {self.ended}"
        if self.kind in ON_PATH and self.off > COUNT:
            return f"stands {self.off:.4f} mm beside its path"
        if self.homed and self.iron > PLAY:
            return f"iron lies {self.iron:.3f} mm beside what was counted"
        if self.kind in ("stop", "guard", "power off", "emergency stop", "broken wire", "trouble") and not self.known:
            return "its place is not known"
        return ""


class Faulty(Ready):
    """One machine that is made ready again after each fault."""

    def setUp(self) -> None:
        super().setUp()
        machine = self.mill.machine
        pitch = machine.axis(X).number("chain.pitch") * Fraction(4, 5)
        self.told = {at(Y, "axis.reversed"): not machine.axis(Y).flag("axis.reversed"), at(X, "chain.pitch"): pitch}
        self.ready(self.told)
        machine = self.mill.machine
        for claim in (spindle_way_claim(machine), curve_claim(machine, told_range(machine))):
            self.mill.session.prove(claim, True, "as if it had been seen", Witness.EYES)

    def again(self) -> None:
        """Connected, powered, at home in the middle, with a work zero there."""
        session = self.mill.session
        if not session.connected:
            self.mill.connect(self.bench.link)
        self.assertTrue(self.mill.wait(self.at_rest, 20))
        self.mill.power()
        if not all(session.homes.known(slot) for slot in (X, Y, Z)):
            for name in "ZXY":
                self.to_the_middle(name)
            for slot in (X, Y, Z):
                session.link.home_here(slot)
            self.assertTrue(self.mill.wait(lambda: all(session.homes.known(slot) for slot in (X, Y, Z)), 20))
        for slot in (Z, X, Y):
            if abs(session.axes[slot].position) > 1:
                self.mill.run("move", "XYZ"[slot], wishes=Wishes(length=f"{-session.axes[slot].position:.3f} mm"))
        take_zero(session, "here")

    def at_rest(self) -> bool:
        session = self.mill.session
        stopped = any(axis.stop_pressed for axis in session.axes)
        return not session.moving and not session.busy and not stopped

    def iron(self) -> np.ndarray:
        return np.array([self.hands.look(name)["at"] for name in "XYZ"])

    def counted(self) -> np.ndarray:
        return np.array([axis.position for axis in self.mill.session.axes])

    def fault(self, kind: str, dice: random.Random) -> Outcome:
        """A run in which one thing goes wrong, at a random moment."""
        self.again()
        session = self.mill.session
        iron, counted = self.iron(), self.counted()
        file = Path(session.folder) / "part.nc"
        file.write_text(CROSSING.format(feed=dice.choice([200, 300, 600])))
        run = ProgramRun(session)
        self.hands.ask(do="pace", factor=8)
        self.assertEqual(run.run_file(file, Way(dry=False)), "")
        spot = dice.randint(60, 1500)
        self.assertTrue(self.mill.wait(lambda: (run.place.leg == 1 and run.place.at > spot) or not run.running, 60))
        self.assertTrue(run.running, run.words)
        self.happens(kind, session)
        self.assertTrue(self.mill.wait(lambda: not run.running, 90), f"{kind}: {run.words}")
        self.mill.wait(lambda: run.interrupted is not None, 0 if kind in GOES_ON else 2)
        self.mill.wait(lambda: not session.moving, 20)
        self.hands.ask(do="run", seconds=1)
        stood, told = self.iron(), self.counted()
        place, left = run.place, run.interrupted
        self.mends()
        self.hands.ask(do="run", seconds=1)
        self.mill.wait(lambda: not session.moving, 5)
        crept = float(np.abs(self.iron() - stood).max())
        off = self.off_path(run, told) if session.connected and len(told) else 0.0
        lies = (
            np.abs(np.abs(stood - iron) - np.abs(told - counted)[:3]).max() if session.connected and len(told) else 0.0
        )
        end = run.result.end if run.result is not None else None
        homed = session.connected and all(session.homes.known(slot) for slot in (X, Y, Z))
        return Outcome(kind, end, place.along, left is not None, off, float(lies), homed, crept)

    def happens(self, kind: str, session: Any) -> None:
        match kind:
            case "stop":
                session.stop()
            case "guard":
                self.hands.ask(do="press", switch="guard")
            case "emergency stop":
                self.hands.ask(do="press", switch=kind)
            case "broken wire":
                self.hands.ask(do="break", switch="emergency stop")
            case "trouble":  # as where its motor gives up
                self.hands.ask(do="break", switch="Z trouble")
            case "power off":
                session.power(False)
            case "disconnect":
                session.link.disconnect()
            case "cut" | "dip":
                self.hands.ask(do=kind)
            case "deaf":
                self.hands.ask(do="fault", kind="deaf", after=2)
            case "screen":  # nobody works in the session; the link keeps the buffer filled by itself
                self.hands.ask(do="run", seconds=5)
            case "behind":  # a clock that the link cannot follow: the buffer runs dry, and the path waits
                self.hands.ask(do="pace", factor=200)

    def mends(self) -> None:
        for switch in ("guard", "emergency stop"):
            self.hands.ask(do="release", switch=switch)
        for switch in ("emergency stop", "Z trouble"):
            self.hands.ask(do="sound", switch=switch)
        self.hands.ask(do="mend")
        self.hands.ask(do="fault", kind="", after=0)
        self.hands.ask(do="pace", factor=40)

    def off_path(self, run: ProgramRun, told: np.ndarray) -> float:
        """mm from the nearest place of the leg that was gone along."""
        assert run.track is not None
        places = run.track.legs[min(run.place.leg, len(run.track.legs) - 1)].places
        begins, steps = places[:-1], np.diff(places, axis=0)
        lengths = np.maximum((steps**2).sum(axis=1), 1e-18)
        share = np.clip(((told - begins) * steps).sum(axis=1) / lengths, 0, 1)
        return float(np.sqrt((((begins + steps * share[:, None]) - told) ** 2).sum(axis=1)).min())
