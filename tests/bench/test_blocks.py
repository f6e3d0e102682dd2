"""Block upload against the standard's own steps: what is lost comes again, what is asked wrongly is refused."""

from __future__ import annotations

import binascii
import struct
import unittest

from hypothesis import given
from hypothesis import strategies as st

from idler.bench.objects.blocks import BlockUpload
from idler.core.profile.codec import Place

PLACE = Place(0x2002, 2)


class Server(unittest.TestCase):
    def setUp(self, data: bytes = b"") -> None:
        self.sent: list[bytes] = []
        self.server = BlockUpload(self.sent.append, lambda place: data if place == PLACE else None)

    def ask(self, *data: int) -> list[bytes]:
        self.sent.clear()
        self.assertTrue(self.server.take(bytes(data).ljust(8, b"\0")))
        return list(self.sent)

    def initiate(self, size: int = 127) -> bytes:
        (answer,) = self.ask(0xA4, PLACE.index & 0xFF, PLACE.index >> 8, PLACE.sub, size)
        return answer

    @given(st.binary(min_size=1, max_size=2000), st.integers(1, 127), st.lists(st.integers(0, 127), max_size=5))
    def test_whatever_the_client_confirms_all_bytes_arrive_with_their_checksum(
        self, data: bytes, size: int, confirmed: list[int]
    ) -> None:
        self.setUp(data)
        answer = self.initiate(size)
        self.assertEqual((answer[0], struct.unpack("<I", answer[4:])[0]), (0xC6, len(data)))
        got, segments = b"", self.ask(0xA3)
        while True:
            self.assertLessEqual(len(segments), size)
            taken = min(confirmed.pop(), len(segments)) if confirmed else len(segments)
            got += b"".join(segment[1:] for segment in segments[:taken])
            last = bool(taken and segments[taken - 1][0] & 0x80)
            segments = self.ask(0xA2, taken, size)
            if last:
                break
        (end,) = segments
        unused = end[0] >> 2 & 7
        self.assertEqual(got[: len(got) - unused], data)
        self.assertEqual(struct.unpack("<H", end[1:3])[0], binascii.crc_hqx(data, 0))

    def test_a_sequence_that_was_never_sent_is_refused(self) -> None:
        self.setUp(b"x" * 100)
        self.initiate(5)
        self.ask(0xA3)
        (answer,) = self.ask(0xA2, 9, 5)
        self.assertEqual((answer[0], struct.unpack("<I", answer[4:])[0]), (0x80, 0x05040003))

    def test_other_services_and_objects_are_left_to_others(self) -> None:
        self.assertFalse(self.server.take(bytes((0x40, 0, 0x10, 0, 0, 0, 0, 0))))
        self.assertFalse(self.server.take(bytes((0xA4, 0, 0x10, 0, 127, 0, 0, 0))))
        self.assertEqual(self.sent, [])
