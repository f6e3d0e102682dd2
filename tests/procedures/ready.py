"""Verge made ready for programs and figures: homed in the middle of its travel, with a pen over a sheet."""

from __future__ import annotations

from collections.abc import Mapping
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np

from idler.core.machine import Address
from idler.core.trial import symmetry
from idler.core.values.parameter import Value
from idler.procedures.engine import Result
from idler.procedures.program import ProgramRun
from idler.procedures.questions import Question
from idler.procedures.registry import Wishes
from idler.procedures.zero import take_zero
from tests.procedures.test_geometry import OnRig
from tests.support import X, Y, Z, at, wiring

FLAT = 0.002  # mm: what lies no further in belongs to a flat
SEEN = 1.2  # mm: shorter ones are what a round line shows, too


class Ready(OnRig):
    """Verge with its axes in the middle of their travel, home where they stand, and a pen that touches the sheet there."""

    def setUp(self) -> None:
        super().setUp()
        self.seen = ""
        self.stops: list[str] = []

    def ready(self, values: Mapping[Address, Value] | None = None) -> None:
        """Whatever the machine was told: each axis stands in the middle, and its home is taken there."""
        ends = {
            at(slot, f"travel.{end}"): Fraction(way * 60)
            for slot in (X, Y, Z)
            for end, way in (("low", -1), ("high", 1))
        }
        coordinates = {at(slot, "homing.coordinate"): Fraction(0) for slot in (X, Y, Z)}
        self.mill.session.set_values({**wiring(), **ends, **coordinates, **(values or {})})
        self.mill.send()
        self.mill.power()
        for name in "ZXY":
            self.to_the_middle(name)
        for slot in (X, Y, Z):
            self.mill.session.link.home_here(slot)
        self.assertTrue(self.mill.wait(lambda: all(self.mill.session.homed(slot) for slot in (X, Y, Z)), 20))
        take_zero(self.mill.session, "here")
        self.hands.ask(do="paper")

    def to_the_middle(self, name: str) -> None:
        """A carriage of the rig into the middle of its travel, by whichever axis moves it."""
        for axis in "XYZ":
            for way in (1, -1):
                look = self.hands.look(name)
                if abs(off := look["travel"] / 2 - look["at"]) < 20:
                    return
                before = look["at"]
                self.mill.run("move", axis, wishes=Wishes(length=f"{way * 5} mm"))
                if (self.hands.look(name)["at"] - before) * off > 1:
                    self.mill.run("move", axis, wishes=Wishes(length=f"{way * (abs(off) - 5)} mm"))
                elif abs(self.hands.look(name)["at"] - before) > 1:
                    self.mill.run("move", axis, wishes=Wishes(length=f"{-way * (abs(off) + 5)} mm"))

    def pen(self, question: Question[Any]) -> str | None:
        """A person who looks at the sheet, or lets the program go on."""
        match question.key:
            case "figure.seen":
                lines = self.hands.ask(do="drawn")["lines"]
                found = symmetry.recognised(np.array(max(lines, key=len)))
                self.seen = found.key if found is not None else "other"
                return self.seen
            case "figure.size":
                return f"{self.hands.ask(do='across', along=question.axis, instrument='caliper')['value']} mm"
            case "figure.flats":
                return {(): "none", ("X",): "first", ("Y",): "second"}.get(tuple(self.flats), "both")
            case "figure.flat":
                return f"{self.flats[question.axis]:.2f} mm"
            case "program.stop":
                self.stops.append(question.text)
                return ""
        return None

    @property
    def flats(self) -> dict[str, float]:
        """mm over which what is drawn is flat where an axis turns round, of those where it is to be seen."""
        places = np.array([place for line in self.hands.ask(do="drawn")["lines"] for place in line])
        found = {}
        for column, name in enumerate("XY"):
            there = places[places[:, column] > places[:, column].max() - FLAT][:, 1 - column]
            found[name] = float(there.max() - there.min())
        return {name: length for name, length in found.items() if length > SEEN}

    def program(self, text: str, **more: Any) -> Result:
        file = Path(self.mill.session.folder) / "part.nc"
        file.write_text(text)
        return self.mill.run("program", answers=self.pen, wishes=Wishes(file=str(file), **more))

    def began(self, text: str, pace: float = 8) -> ProgramRun:
        """A program that runs, slowly enough to be met on its way; the session is not waited in from here on."""
        self.hands.ask(do="pace", factor=pace)
        self.addCleanup(lambda: self.hands.ask(do="pace", factor=40))
        file = Path(self.mill.session.folder) / "part.nc"
        file.write_text(text)
        run = ProgramRun(self.mill.session)
        self.assertEqual(run.run_file(file, run.way), "")
        self.assertTrue(self.mill.wait(lambda: run.place.at > 100 or not run.running, 30), run.words)
        self.assertTrue(run.running, run.words)
        return run
