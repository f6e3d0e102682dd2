"""Whatever comes in ends in a value or in a sentence: a twentieth of what `benchmarks/noise.py` tries."""

from __future__ import annotations

import unittest

from tests.noise import SHARES, Noise

NUMBER = 50_000


class _Case(unittest.TestCase):
    def pour(self, kind: str) -> Noise:
        noise = Noise(27)
        number = round(NUMBER * SHARES[kind])
        getattr(noise, kind)(number)
        self.assertEqual(noise.wrong, [])
        self.assertEqual(noise.count[kind], number)
        return noise


class Texts(_Case):
    def test_a_text_is_a_value_or_a_refusal_soon(self) -> None:
        noise = self.pour("texts")
        self.assertEqual(noise.late, 0, f"{noise.worst:.4f} s")
        self.assertGreater(noise.count["texts taken"], 0)


class Files(_Case):
    def test_a_file_is_a_machine_or_a_refusal(self) -> None:
        self.assertGreater(self.pour("files").count["files taken"], 0)


class Lines(_Case):
    def test_lines_of_an_adapter_are_frames_or_are_dropped(self) -> None:
        self.pour("lines")


class Ports(_Case):
    def test_both_ports_of_a_bench(self) -> None:
        self.pour("ports")
