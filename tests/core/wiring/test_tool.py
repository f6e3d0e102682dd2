"""What cuts, and how sentences about a spindle become sentences about it."""

from __future__ import annotations

import json
import unittest
from fractions import Fraction

from idler.core.machine import Machine
from idler.core.mechanics.describing import described, questions
from idler.core.profile.terminals import Condition
from idler.core.program.choices import Chosen
from idler.core.program.verdict import judge
from idler.core.proof.claims import claims, spindle_claims
from idler.core.report.agenda import Now, agenda
from idler.core.rules.findings import findings
from idler.core.spindle.interlocks import ladder, obstacle_of, try_obstacle
from idler.core.table.stations import Station
from idler.core.values.parameter import Value
from idler.core.wiring import outputs
from idler.core.wiring.tool import Tool, station_label, tool_of
from tests.support import at, wired

NOW = Now(connected=True, edited=0, waiting=0, kept=True)


def table(cutter: str, **values: Value) -> Machine:
    """Verge as a cutting table, wired as it is."""
    told: dict[str, Value] = {"build.kind": "table", "build.cutter": cutter, "spindle.kind": "relay",
                              "spindle.start_speed": Fraction(1)}  # fmt: skip
    return wired().with_values({at(None, key): value for key, value in (told | values).items()})


class Words(unittest.TestCase):
    def test_only_a_cutting_table_has_another_tool(self) -> None:
        self.assertIs(tool_of(wired()), Tool.SPINDLE)
        self.assertIs(tool_of(wired().with_values({at(None, "build.cutter"): "knife"})), Tool.SPINDLE)
        self.assertEqual([tool_of(table(tool.key)) for tool in Tool if tool.key], [t for t in Tool if t.key])

    def test_nothing_of_a_cutting_table_speaks_of_a_spindle(self) -> None:
        for cutter in ("torch", "beam", "knife"):
            told_speeds = table(cutter, **{"spindle.kind": "voltage", "spindle.start_speed": Fraction(0)})
            bare = table(cutter).with_values({at(3, "input.role"): "none", at(0, "output.role"): "none"})
            for machine in (table(cutter), told_speeds, bare):
                found = findings(machine)
                steps = agenda(machine, {}, found, NOW, {})
                rungs = ladder(machine, Condition(0), fault=False, powered=True)
                said = [item.text for item in found] + [claim.label for claim in claims(machine)]
                said += [f"{step.text} {step.why} {step.needs}" for step in steps] + [rung.title for rung in rungs]
                said.append(obstacle_of(machine, ladder(machine, Condition.GUARD, fault=False, powered=True)))
                said += [try_obstacle(machine, out.slot, Condition.GUARD, powered=False) for out in outputs(machine)]
                said += [out.label for out in outputs(machine)] + [
                    station_label(machine, station) for station in Station
                ]
                with self.subTest(cutter, kind=machine[at(None, "spindle.kind")]):
                    self.assertEqual([text for text in said if "pindle" in text], [])
                    self.assertTrue(any(cutter in text for text in said))

    def test_a_spindle_keeps_its_words(self) -> None:
        text = "The spindle turns; with the guard open the spindle stands."
        self.assertEqual(Tool.SPINDLE.worded(text), text)
        self.assertEqual(Tool.TORCH.worded(text), "The torch burns; with the guard open the torch is out.")


class Without(unittest.TestCase):
    def test_it_has_no_claim_of_a_speed_or_a_direction(self) -> None:
        keys = {claim.key for claim in spindle_claims(table("beam"))}
        self.assertEqual(keys, {"spindle.esc", "spindle.stop", "spindle.guard", "spindle.link"})

    def test_another_kind_of_cutter_is_proven_anew(self) -> None:
        rests = next(claim for claim in spindle_claims(table("beam")) if claim.key == "spindle.esc").rests
        self.assertLessEqual({at(None, "build.kind"), at(None, "build.cutter")}, set(rests))

    def test_what_only_a_spindle_has_is_found(self) -> None:
        found = findings(table("knife", **{"spindle.kind": "voltage"}))
        codes = [item.code for item in found if item.code.startswith("cutter")]
        self.assertEqual(sorted(codes), ["cutter_role", "cutter_role", "cutter_without_speed"])
        machine = table("knife", **{"spindle.kind": "voltage"})
        for item in found:
            if item.code.startswith("cutter"):
                machine = machine.with_values(dict(item.edit))
        self.assertEqual([item.code for item in findings(machine) if item.code.startswith("cutter")], [])

    def test_a_program_switches_it_without_a_speed(self) -> None:
        text = "G21 G90\nM3\nG1 X20 F600\nM5\nG1 X0\nM30\n"
        for machine, codes in ((table("torch"), []), (wired(), ["no_speed"])):
            codes_found = [problem.code for problem in judge(text.encode(), machine, Chosen()).problems]
            self.assertEqual([code for code in codes_found if "speed" in code], codes)
        dark = judge(text.replace("M3\n", "").encode(), table("torch"), Chosen()).problems
        self.assertIn("A cutting move while the torch is out", json.dumps([problem.text for problem in dark]))


class Described(unittest.TestCase):
    def test_what_cuts_is_asked_and_no_speed(self) -> None:
        asked = [each.key for each in questions({"kind": "table"})]
        self.assertIn("cutter", asked)
        self.assertNotIn("top", asked)
        self.assertNotIn("cutter", [each.key for each in questions({"kind": "router"})])
        made = described({"kind": "table", "cutter": "beam"}, "Sheets")
        self.assertIs(tool_of(made), Tool.BEAM)
        self.assertEqual([item.text for item in findings(made) if item.where.key.startswith(("spindle", "build"))], [])
        self.assertEqual({claim.station for claim in spindle_claims(made)}, {Station.SPINDLE})
        self.assertEqual([made.axis(slot).choice("axis.moves") for slot in range(3)], ["tool"] * 3)
