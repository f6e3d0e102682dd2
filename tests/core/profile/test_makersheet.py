"""Makers' data sheets: what they say of objects, and what is wrong with them."""

from __future__ import annotations

import unittest
from contextlib import suppress

from hypothesis import given
from hypothesis import strategies as st

from idler.core.errors import Refusal
from idler.core.machine import Shape
from idler.core.profile.eds import eds_text
from idler.core.profile.makersheet import KINDS, Described, Kind, read_sheet
from idler.core.profile.objects import PRODUCT, VENDOR, entries

HEAD = "[DeviceInfo]\nVendorNumber=0x5A5\nProductNumber=0x200\nProductName=Servo\n"
ONE = HEAD + "[6081]\nParameterName=Profile velocity\nObjectType=0x7\nDataType=0x0007\nAccessType=rw\n"


class Reading(unittest.TestCase):
    def test_our_own_data_sheet_is_read_without_a_fault(self) -> None:
        listed = entries(Shape(("X", "Y")))
        sheet = read_sheet(eds_text(listed))
        self.assertEqual(sheet.faults, ())
        self.assertEqual(sheet.objects.keys(), {(entry.index, entry.sub) for entry in listed})
        self.assertEqual((sheet.vendor, sheet.product), (VENDOR, PRODUCT))

    def test_bounds_of_a_number_with_a_sign_may_be_written_as_its_bits_are(self) -> None:
        low = ONE.replace("0x0007", "0x0004") + "LowLimit=0x80000000\nHighLimit=0x7FFFFFFF\n"
        self.assertEqual(read_sheet(low).objects[0x6081, 0],
                         Described("Profile velocity", Kind(4, True), "rw", -(2**31), 2**31 - 1))  # fmt: skip

    def test_numbers_of_the_node_and_octal_ones_are_understood(self) -> None:
        sheet = read_sheet(ONE + "LowLimit=010\nHighLimit=$NODEID+0x180\n")
        self.assertEqual((sheet.objects[0x6081, 0].low, sheet.objects[0x6081, 0].high), (8, 0x180))

    def test_an_array_of_which_only_the_first_is_described_is_taken_whole(self) -> None:
        text = (
            HEAD + "[1016]\nParameterName=Consumer\nObjectType=0x8\nDataType=0x0007\nAccessType=rw\nCompactSubObj=3\n"
        )
        self.assertEqual(list(read_sheet(text).objects), [(0x1016, sub) for sub in range(4)])

    def test_what_is_wrong_is_named_and_the_rest_is_taken(self) -> None:
        wrong = {
            "LowLimit=9\nHighLimit=3\n": "lowest value 9 is above its highest 3",
            "HighLimit=0x1FFFFFFFF\n": "does not fit its 4 bytes",
            "HighLimit=many\n": "“many” is no whole number",
            "see the manual\n": "“see the manual” is not understood",
            "AccessType=ro\n": "said twice, and not alike",
            "[6081]\nHighLimit=7\n": "stands twice",
            "[OptionalObjects]\nSupportedObjects=1\n1=0x6082\n": "6082h is listed in the file, and not described",
            "[6083]\nObjectType=0x7\nAccessType=rw\n": "its type is not said",
            "[6083]\nObjectType=0x7\nDataType=7\nAccessType=both\n": "“both” is no way to access it",
        }
        for text, words in wrong.items():
            with self.subTest(words):
                sheet = read_sheet(ONE + text)
                self.assertEqual(len(sheet.faults), 1, sheet.faults)
                self.assertIn(words, sheet.faults[0])
                self.assertEqual(sheet.objects[0x6081, 0].access, "rw")

    def test_what_is_no_data_sheet_is_refused(self) -> None:
        for text in ("", "[DeviceInfo]\n", "MZ\0\0", "<xml/>"):
            with self.assertRaises(Refusal):
                read_sheet(text)

    @given(st.text(max_size=300))
    def test_any_text_is_read_or_refused(self, text: str) -> None:
        read_sheet(ONE + text)
        with suppress(Refusal):
            read_sheet(text)

    @given(st.sampled_from(sorted(KINDS)), st.integers(-(2**64), 2**64), st.integers(-(2**64), 2**64), st.integers())
    def test_no_number_that_its_type_holds_is_beyond_bounds_that_are_not_there(
        self, code: int, low: int, high: int, raw: int
    ) -> None:
        text = ONE.replace("0x0007", hex(code)) + f"LowLimit={low}\nHighLimit={high}\n"
        found = read_sheet(text).objects[0x6081, 0]
        assert found.kind is not None
        for bound in (found.low, found.high):
            self.assertTrue(bound is None or found.kind.low <= bound <= found.kind.high)
        inside = (found.low is None or raw >= found.low) and (found.high is None or raw <= found.high)
        self.assertEqual(found.beyond(raw) is None, inside)
