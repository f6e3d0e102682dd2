"""What the margin says, without a window."""

from __future__ import annotations

import unittest
from dataclasses import replace
from fractions import Fraction

from idler.core.controller.standing import Change, Standing
from idler.core.machine import Machine
from idler.core.proof.claims import Proof, Witness, claims, evidence
from idler.core.report.aside import CLAIMS, Claimed, Facts, OnAxis, Settled, Text, Tone, aside
from idler.core.rules.findings import findings
from idler.core.table.stations import Station
from tests.support import X, at, verge


def facts(machine: Machine, standing: Standing = Standing.SAME, held: Machine | None = None, **kept: object) -> Facts:
    where = at(X, "chain.pitch")
    standings = {where._replace(slot=slot): standing for slot in range(len(machine.names))}
    return Facts(machine, held or machine, held or machine, True, standings, dict(kept), findings(machine))


def texts(lines: object, tone: Tone) -> list[str]:
    return [line.words for line in lines if isinstance(line, Text) and line.tone is tone]  # type: ignore[attr-defined]


class Aside(unittest.TestCase):
    def test_at_rest_it_says_what_is_proven_and_what_is_left(self) -> None:
        machine = verge()
        first = next(claim for claim in claims(machine) if claim.station is Station.SCALE)
        found = evidence(machine, first, 0.0, True, "measured", Witness.INSTRUMENT)
        lines = aside(facts(machine, **{first.key: found}), Station.SCALE, None)
        number = sum(claim.station is Station.SCALE for claim in claims(machine))
        self.assertIn(f"1 of {number} proven here", texts(lines, Tone.HEADING))
        states = [line.state for line in lines if isinstance(line, Claimed)]
        self.assertEqual(states, [*[Proof.ENTERED] * (number - 1), Proof.PROVEN])  # what is left stands first

    def test_a_long_list_is_counted(self) -> None:
        lines = aside(facts(verge()), Station.WIRING, None)
        listed = [line for line in lines if isinstance(line, Claimed)]
        self.assertLessEqual(len(listed), CLAIMS)

    def test_what_is_to_settle_comes_before_what_is_proven(self) -> None:
        machine = Machine(("X", "Y", "Z"), {}, 12, 4)
        lines = aside(facts(machine), Station.WIRING, None)
        heads = texts(lines, Tone.HEADING)
        self.assertTrue(heads[0].startswith("To settle here"), heads)

    def test_an_edited_value_says_before_and_after_and_what_rests_on_it(self) -> None:
        held = verge()
        machine = held.with_values({at(X, "chain.pitch"): Fraction(4)})
        lines = aside(facts(machine, Standing.EDITED, held), Station.DRIVES, at(X, "chain.pitch"))
        change = next(line for line in lines if isinstance(line, Change))
        self.assertEqual((change.before, change.after), ("5 mm", "4 mm"))
        self.assertTrue(any(words.startswith("Prove again after sending") for words in texts(lines, Tone.WARN)))
        self.assertEqual([line.axis for line in lines if isinstance(line, OnAxis)], list(machine.names))

    def test_what_was_measured_says_what_it_would_change_before_it_is_taken(self) -> None:
        machine, where = verge(), at(X, "play.backlash")
        claim = next(claim for claim in claims(machine) if claim.key == "play.X")
        found = evidence(machine, claim, 0.0, False, "0.05 mm", Witness.INSTRUMENT)
        other = next(claim for claim in claims(machine) if where in claim.rests and claim.key != "play.X")
        held = evidence(machine, other, 0.0, True, "as wanted", Witness.INSTRUMENT)
        told = replace(
            facts(machine, **{"play.X": found, other.key: held}),
            offered={where: Fraction(35, 1000), at(9, "play.backlash"): 0},
        )
        lines = aside(told, Station.GEOMETRY, None)
        self.assertIn("If you take what was found", texts(lines, Tone.HEADING))
        change = next(line for line in lines if isinstance(line, Change))
        self.assertEqual((change.before, change.after), (machine.show(where), "0.035 mm"))
        self.assertTrue(any(other.label in words for words in texts(lines, Tone.WARN)))
        taken = replace(told, machine=machine.with_values({where: Fraction(35, 1000)}))
        self.assertNotIn("If you take what was found", texts(aside(taken, Station.GEOMETRY, None), Tone.HEADING))

    def test_a_finding_with_an_edit_has_its_button(self) -> None:
        machine = verge()
        for station in Station:
            for line in aside(facts(machine), station, None):
                if isinstance(line, Settled):
                    self.assertTrue(line.finding.edit)
