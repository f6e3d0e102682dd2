"""Frames in words, against frames that the standards spell out byte by byte."""

from __future__ import annotations

import struct
import unittest

from hypothesis import given
from hypothesis import strategies as st

from idler.core.controller.sending import labels
from idler.core.profile.objects import entries
from idler.core.profile.pdo import PdoMap
from idler.core.profile.words import Known, Reader, Sort, said
from tests.support import verge

MAP = PdoMap.planned(5, 4, {126}, {})
KNOWN = Known(MAP, 126, ("X", "Y", "Z", "A"), labels(verge()), {entry.place: entry for entry in entries(verge().shape)})


class Frames(unittest.TestCase):
    def words(self, identifier: int, data: str) -> str:
        return said(identifier, bytes.fromhex(data), KNOWN).words

    def test_each_kind(self) -> None:
        for identifier, data, words in (
            (0x000, "81 05", "node 5: restart"),
            (0x705, "05", "the controller is alive"),
            (0x77E, "05", "Idler is alive"),
            (0x705, "00", "the controller has started"),
            (0x605, "40 01 41 07 00 00 00 00", "read 4101h:07 Y pitch of the screw"),
            (0x585, "43 01 41 07 40 4B 4C 00", "4101h:07 Y pitch of the screw: 5 mm"),
            (0x605, "23 01 41 07 80 96 98 00", "write 4101h:07 Y pitch of the screw = 10 mm"),
            (0x585, "60 01 41 07 00 00 00 00", "4101h:07 Y pitch of the screw: taken"),
            (0x585, "80 01 41 07 30 00 09 06", "4101h:07 Y pitch of the screw: refused, not a value that it knows"),
            (0x585, "43 00 20 05 58 59 5A 41", "2000h:05 letters of the axes: “XYZA”"),
            (0x085, "01 FF 01 00 01 00 00 00", "emergency FF01h: the emergency stop is pressed"),
            (0x3FF, "00", "of another device, or unknown"),
            (0x185, "00", "a frame that is shorter than it should be"),
        ):
            with self.subTest(words):
                self.assertEqual(self.words(identifier, data), words)

    def test_parts_are_called_by_what_they_are(self) -> None:
        roles = {1: "X", 4: "terminals", 5: "encoder"}
        known = Known(PdoMap.usual(0, 0), 126, ("X",), {}, {}, roles)
        for identifier, data, words in (
            (0x701, "05", "X (node 1) is alive"),
            (0x77E, "05", "Idler is alive"),
            (0x080, "", "SYNC: each says what it was told to say then"),
            (0x27E, "02 00", "all drives that hear it: quick stop"),
            (0x601, "40 41 60 00 00 00 00 00", "X (node 1): read 6041h:00 statusword"),
            (0x581, "4B 41 60 00 37 04 00 00", "X (node 1): 6041h:00 statusword is 0437h, enabled"),
            (0x581, "43 64 60 00 FE FF FF FF", "X (node 1): 6064h:00 position is -2"),
            (0x601, "2B 40 60 00 1F 00 00 00", "X (node 1): 6040h:00 controlword = 001Fh, go on, new setpoint"),
            (0x581, "80 1D 1A 00 02 00 01 06", "X (node 1): 1A1Dh:00 what it says, its contents: refused, it can only be read"),
            (0x281, "00 00 00 00 04 00 00 00", "X (node 1): process data, 8 bytes"),
            (0x584, "4F 00 60 01 05 00 00 00", "terminals (node 4): 6000h:01 inputs is 5"),
            (0x585, "43 02 65 00 00 10 00 00", "encoder (node 5): 6502h:00 turns that it tells apart is 4096"),
            (0x581, "41 08 10 00 09 00 00 00", "X (node 1): 1008h:00 name is 9 bytes, which follow"),
            (0x081, "20 81 00 00 00 00 00 00", "X (node 1): emergency 8120h, it has seen many faulty frames (error 8120h)"),
            (0x282, "00", "of another device, or unknown"),
            (0x581, "43", "a frame that is shorter than it should be"),
        ):  # fmt: skip
            with self.subTest(words):
                self.assertEqual(said(identifier, bytes.fromhex(data), known).words, words)
        self.assertIs(said(0x581, bytes(8), known).sort, Sort.SDO)
        self.assertIs(said(0x80, b"", known).sort, Sort.PROCESS)
        self.assertIs(said(0x81, bytes(8), known).sort, Sort.EMERGENCY)

    def test_a_block_is_followed_from_its_begin_to_its_end(self) -> None:
        reader, name = Reader(KNOWN), "200Bh:01"
        for identifier, data, words in (
            (0x605, "A4 0B 20 01 02 00 00 00", f"read {name} as a block"),
            (0x585, "C6 0B 20 01 11 00 00 00", f"{name} is there as a block, 17 bytes"),
            (0x605, "A3 00 00 00 00 00 00 00", f"{name} may come"),
            (0x585, "01 43 01 41 07 40 4B 4C", f"part 1 of {name}"),
            (0x705, "05", "the controller is alive"),
            (0x585, "02 43 01 41 07 40 4B 4C", f"part 2 of {name}"),
            (0x605, "A2 01 02 00 00 00 00 00", f"1 part of {name} acknowledged"),
            (0x585, "01 43 01 41 07 40 4B 4C", f"part 2 of {name}"),
            (0x585, "82 43 01 41 00 00 00 00", f"part 3 of {name}, the last"),
            (0x605, "A2 02 02 00 00 00 00 00", f"3 parts of {name} acknowledged"),
            (0x585, "D1 34 12 00 00 00 00 00", f"{name} ends, checksum 1234h"),
            (0x605, "A1 00 00 00 00 00 00 00", f"{name} is whole"),
            (0x585, "43 01 41 07 40 4B 4C 00", "4101h:07 Y pitch of the screw: 5 mm"),
        ):
            with self.subTest(data):
                self.assertEqual(reader.said(identifier, bytes.fromhex(data)).words, words)

    @given(st.lists(st.tuples(st.sampled_from([0x605, 0x585]), st.binary(max_size=8)), max_size=8))
    def test_no_order_of_frames_is_too_strange(self, frames: list[tuple[int, bytes]]) -> None:
        reader = Reader(KNOWN)
        for identifier, data in frames:
            self.assertTrue(reader.said(identifier, data).words)

    def test_process_data(self) -> None:
        status = struct.pack("<Hi", 0x4127, -15_000).hex()
        self.assertEqual(self.words(0x195, status), "Y enabled, moving, homed at -1.5000")
        self.assertEqual(self.words(0x205, struct.pack("<Hi", 0x0F, 600_000).hex()), "X is told go on, velocity 600.0")
        self.assertEqual(self.words(0x385, struct.pack("<IHH", 5, 0, 1).hex()), "closed 1 3, energised none, stop")

    @given(st.integers(0, 0x7FF), st.binary(max_size=8))
    def test_no_frame_is_too_strange(self, identifier: int, data: bytes) -> None:
        found = said(identifier, data, KNOWN)
        self.assertIsInstance(found.sort, Sort)
        self.assertTrue(found.words)
