"""A drive that gives up in a hard run does not follow the pace that it is told."""

from __future__ import annotations

import re
from fractions import Fraction

from idler.core.machine import Address
from idler.core.mechanics.reliable import LOWER
from idler.core.proof.claims import Proof
from idler.procedures.drives.pace import HardRun
from idler.procedures.engine import Ending
from tests.procedures.test_geometry import OnRig
from tests.support import Z, at, wiring


class GivesUp(OnRig):
    """Z of Verge has a motor that says when it was overcome."""

    def setUp(self) -> None:
        super().setUp()
        hard = {at(Z, f"pace.{key}"): Fraction(9000) for key in ("acceleration", "deceleration")}
        gentle = {at(Z, "homing.acceleration"): Fraction(100)}
        self.mill.session.set_values({**wiring(), **hard, **gentle})
        self.mill.send()
        self.home("Z")

    def test_it_is_not_proven_and_a_lower_pace_is_proposed(self) -> None:
        machine = self.mill.machine
        self.judge()  # the switch that is touched lies beyond the soft limit
        got = self.run_it("pace", "Z")
        self.assertIs(got.end, Ending.NOT_PROVEN, got.words)
        self.assertIn("did not follow", got.words)
        self.assertIs(self.mill.proofs["pace.Z"], Proof.FAILED)
        for key in ("top_speed", "acceleration"):
            where = Address(Z, f"pace.{key}")
            told = machine.axis(Z).number(where.key)
            self.assertAlmostEqual(float(got.edit[where]), LOWER * float(told), delta=0.1 * float(told))  # type: ignore[arg-type]


class TooLittleRoom(OnRig):
    """An axis whose way is too short for the pace that it is told."""

    def test_it_is_said_how_fast_it_can_be_tried_and_so_it_can(self) -> None:
        self.mill.session.set_values({**wiring(), at(Z, "pace.top_speed"): Fraction(9000)})
        self.mill.send()
        self.home("Z")
        run = HardRun(self.mill.session)
        length = float(run.usual_length(Z))
        said = run.obstacle(Z, length)
        got = self.run_it("pace", "Z")
        self.assertEqual((got.end, got.words), (Ending.FAILED, said))
        self.assertIsNot(self.mill.proofs["pace.Z"], Proof.FAILED)
        found = re.search(r"lower its top speed to ([\d\s]+) mm/min", said)
        assert found is not None, said
        for faster, fits in ((0, True), (200, False)):
            told = Fraction("".join(found[1].split())) + faster
            self.mill.session.set_values({at(Z, "pace.top_speed"): told})
            self.assertEqual("too much" not in run.obstacle(Z, length), fits, told)
        self.mill.take(got)
        self.assertNotIn("too much", run.obstacle(Z, length))
