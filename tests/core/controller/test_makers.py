"""A maker's data sheet beside the live part and beside the draft."""

from __future__ import annotations

import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from idler.core.controller.makers import beyond_sheets, differences, require_same
from idler.core.controller.parts import PartFacts, PartIdentity
from idler.core.errors import Refusal
from idler.core.machine import Machine
from idler.core.profile.codec import encode
from idler.core.profile.makersheet import KINDS, Described, MakersSheet, Object
from idler.core.profile.partunits import Measure, PartUnits, SpeedUnit, Told, row_value
from tests.support import X, at

WHO = PartIdentity(1, "Servo", 0x5A5, 0x200, 7)
SPEED = at(X, "pace.top_speed")


def sheet(objects: dict[Object, Described], vendor: int | None = 0x5A5, product: int | None = 0x200) -> MakersSheet:
    return MakersSheet("Servo", "made up", vendor, product, None, objects)


def number(high: int | None = None, low: int | None = None, code: int = 0x07) -> Described:
    return Described("Max profile velocity", KINDS[code], "rw", low, high)


def facts(told: Told, sizes: dict[Object, int] | None = None, missing: frozenset[Object] = frozenset()) -> PartFacts:
    return PartFacts(WHO, 0, told, sizes or {}, missing)


class Ranges(unittest.TestCase):
    machine = Machine(("X",)).with_values({
        at(X, "chain.motor"): "counts", at(X, "chain.motor_counts"): 4000, at(X, "chain.pitch"): Fraction(10),
        SPEED: Fraction(6000),
    })  # fmt: skip
    counts = Told(4000, SpeedUnit.UNITS)

    def test_a_speed_that_the_file_has_no_room_for_is_a_finding_with_the_most_that_it_has(self) -> None:
        # 6000 mm/min are 100 mm/s are 40 000 counts/s
        (found,) = beyond_sheets(self.machine, {0: facts(self.counts)}, {0: sheet({(0x607F, 0): number(30_000)})})
        self.assertEqual(found.edit, ((SPEED, Fraction(4500)),))
        self.assertIn(
            "would be 40000 in its drive's object 607Fh, and its maker's file says at most 30000, which is 4500 mm/min",
            found.text.replace("\u202f", ""),
        )

    def test_what_the_part_has_not_or_the_file_does_not_bound_is_none(self) -> None:
        for known, described in (
            (facts(self.counts, missing=frozenset({(0x607F, 0)})), number(30_000)),
            (facts(self.counts), number()),
            (facts(self.counts), number(40_000)),
        ):
            self.assertEqual(beyond_sheets(self.machine, {0: known}, {0: sheet({(0x607F, 0): described})}), [])

    @given(st.integers(1, 2**31 - 1), st.sampled_from(list(SpeedUnit)), st.booleans(), st.integers(1, 200))
    def test_what_is_proposed_is_within_the_file(self, bound: int, unit: SpeedUnit, high: bool, pitch: int) -> None:
        machine, told = self.machine.with_values({at(X, "chain.pitch"): Fraction(pitch)}), Told(4000, unit)
        described = number(bound) if high else number(None, bound)
        for item in beyond_sheets(machine, {0: facts(told)}, {0: sheet({(0x607F, 0): described})}):
            for address, value in item.edit:
                raw = encode(address.row, value)
                sent = PartUnits.of(machine.axis(X), told).to_part(
                    Measure.SPEED, row_value(address.key, Measure.SPEED, raw)
                )
                self.assertIsNone(described.beyond(sent), (value, sent, bound))


class Beside(unittest.TestCase):
    def test_what_differs_is_said_one_by_one(self) -> None:
        told = sheet({(0x6081, 0): number(), (0x6065, 0): number(code=0x06), (0x60A4, 1): number()})
        seen = facts(Told(), {(0x6081, 0): 4, (0x6065, 0): 4, (0x607A, 0): 4}, frozenset({(0x60A4, 1), (0x6077, 0)}))
        self.assertEqual(
            differences(seen, told),
            ["6065h has 4 bytes in the part; the file says 2.", "607Ah is in the part, and not in the file.",
             "60A4h:01 (Max profile velocity) is in the file, and not in the part."],
        )  # fmt: skip

    def test_the_file_of_another_part_is_refused_and_one_that_names_none_is_taken(self) -> None:
        require_same(sheet({}), WHO)
        require_same(sheet({}, None, None), WHO)
        for vendor, product in ((0x5A5, 0x201), (1, 0x200)):
            with self.assertRaises(Refusal) as why:
                require_same(sheet({}, vendor, product), WHO)
            self.assertIn("node 1 says that it is of", why.exception.sentence)
