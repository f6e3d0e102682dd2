"""Verge made ready for programs and figures: homed in the middle of its travel, with a pen over a sheet."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from typing import Any

from idler import OpenMachine
from idler.core.machine import Address
from idler.core.values.parameter import Value
from idler.procedures.engine import Result
from idler.procedures.questions import Question
from idler.procedures.registry import Wishes
from idler.procedures.trial.program import ProgramRun
from idler.procedures.trial.zero import take_zero
from tests.person import Person
from tests.procedures.test_geometry import OnRig
from tests.support import Hands, X, Y, Z, at, wiring


class Draughtsman(Person):
    """seen: what the sheet showed last. stops: what a program stopped for."""

    def __init__(self, machine: OpenMachine, hands: Hands) -> None:
        super().__init__(machine, hands)
        self.seen = ""
        self.stops: list[str] = []

    def of_figure(self, question: Question[Any]) -> str:
        said = super().of_figure(question)
        self.seen = said if question.key == "figure.seen" else self.seen
        return said

    def of_program(self, question: Question[Any]) -> str:
        self.stops.append(question.text)
        return ""


class Ready(OnRig):
    """Verge with its axes in the middle of their travel, home where they stand, and a pen that touches the sheet there."""

    def setUp(self) -> None:
        super().setUp()
        self.pen = Draughtsman(self.mill, self.hands)

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
        self.assertTrue(self.mill.wait(lambda: all(self.mill.session.homes.known(slot) for slot in (X, Y, Z)), 20))
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

    def program(self, text: str, **more: Any) -> Result:
        file = Path(self.mill.session.folder) / "part.nc"
        file.write_text(text)
        return self.mill.run("program", answers=self.pen, wishes=Wishes(file=str(file), **more))

    def began(self, text: str, pace: float = 8, *, switches: bool = False) -> ProgramRun:
        """A program that runs, slowly enough to be met on its way; the session is not waited in from here on."""
        self.hands.ask(do="pace", factor=pace)
        self.addCleanup(lambda: self.hands.ask(do="pace", factor=40))
        file = Path(self.mill.session.folder) / "part.nc"
        file.write_text(text)
        run = ProgramRun(self.mill.session)
        self.assertEqual(run.run_file(file, replace(run.way, dry=not switches)), "")
        self.assertTrue(self.mill.wait(lambda: run.place.at > 100 or not run.running, 30), run.words)
        self.assertTrue(run.running, run.words)
        return run
