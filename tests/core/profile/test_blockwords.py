"""A block upload in words: what a segment is hangs on all frames before it (CiA 301, 7.2.4.3)."""

from __future__ import annotations

import unittest

from idler.core.profile.blockwords import Blocks
from idler.core.profile.codec import Place


class Lost(unittest.TestCase):
    def setUp(self) -> None:
        self.blocks = Blocks({Place(0x200A, 3): "flight record"})
        self.client(0xA0, 0x0A, 0x20, 3, 127)
        self.server(0xC2, 0x0A, 0x20, 3, 14)
        self.client(0xA3)

    def client(self, *data: int) -> str | None:
        return self.blocks.words(bytes(data).ljust(8, b"\0"), answer=False)

    def server(self, *data: int) -> str | None:
        return self.blocks.words(bytes(data).ljust(8, b"\0"), answer=True)

    def test_what_was_acknowledged_as_a_whole_ends_it(self) -> None:
        self.assertEqual(self.server(0x01), "part 1 of 200Ah:03 flight record")
        self.assertEqual(self.server(0x82), "part 2 of 200Ah:03 flight record, the last")
        self.assertEqual(self.client(0xA2, 2, 127), "2 parts of 200Ah:03 flight record acknowledged")
        self.assertIn("ends, checksum", self.server(0xC1, 0x34, 0x12) or "")
        self.assertEqual(self.client(0xA1), "200Ah:03 flight record is whole")

    def test_a_part_that_was_lost_comes_again(self) -> None:
        self.server(0x82)  # the first one was lost on the way
        self.assertEqual(self.client(0xA2, 0, 127), "0 parts of 200Ah:03 flight record acknowledged")
        self.assertEqual(self.server(0x01), "part 1 of 200Ah:03 flight record")
        self.assertEqual(self.server(0x82), "part 2 of 200Ah:03 flight record, the last")
