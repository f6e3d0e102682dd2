"""Machines with hidden faults, commissioned in the real window by doing what Idler proposes. benchmarks/rigs.py does 100."""

from __future__ import annotations

from tests.app.builder import commission
from tests.app.gui import GuiCase

SEED = 62  # short travel, and iron that is not always felt


class HiddenFaults(GuiCase):
    def test_what_idler_proposes_commissions_machines_with_hidden_faults(self) -> None:
        seen = commission(SEED)
        self.assertEqual(seen.lies, [], seen.told)
        self.assertFalse(seen.hit, seen.struck)
        self.assertTrue(seen.named(), seen.told)
        for proof in ("home.X", "home.Y", "ends.X", "ends.Y", "pace.X", "pace.Y", "scale.X", "wiring.stop"):
            self.assertIn(proof, seen.proven, seen.told)
