"""A drive that gives up in a hard run does not follow the pace that it is told."""

from __future__ import annotations

from fractions import Fraction

from idler.core.machine import Address
from idler.core.mechanics.reliable import LOWER
from idler.core.proof.claims import Proof
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
