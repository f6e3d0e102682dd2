"""While the bench starts the screen says so, how much of it is compiled where that has to be, and why it did not start."""

from __future__ import annotations

import os
import sys
import tempfile
import unittest
from pathlib import Path
from unittest.mock import patch

from idler.app.qt_wait import until
from idler.compiling import compiler, watched

from .gui import SessionCase

BEGUN = '{"compiled": 24, "of": 96}'


class Starting(SessionCase):
    on_bench = False

    def starts_as(self, script: str) -> None:
        """What stands in for the interpreter that would run the bench."""
        path = self.root / "bench.sh"
        path.write_text(f"#!/bin/sh\n{script}\n", "utf-8")
        path.chmod(0o755)
        with patch.object(sys, "executable", os.fspath(path)):
            self.application.start_bench()

    def says(self, words: str) -> None:
        until(lambda: words in self.window.notice.words, words)

    def test_how_much_is_compiled(self) -> None:
        self.starts_as(f"echo '{BEGUN}' >&2; read end")
        self.says("The bench is starting, for ")
        self.says("The first time its motion is compiled: 25 % of it is.")

    def test_why_it_did_not_start_is_what_it_said_last(self) -> None:
        self.starts_as(f"echo 'no such rig' >&2; echo '{BEGUN}' >&2; exit 2")
        self.says("The bench did not start. no such rig")


class Watched(unittest.TestCase):
    def test_what_is_compiled_is_counted_and_what_is_kept_is_not(self) -> None:
        with tempfile.TemporaryDirectory() as folder, patch("idler.compiling.user_cache_path", lambda _: Path(folder)):
            compiled = compiler("counted", __file__, ())
            one, _other = compiled(_doubled), compiled(_doubled)
            heard: list[tuple[int, int]] = []
            with watched("counted", lambda done, of: heard.append((done, of))):
                self.assertEqual((one(2), one(3)), (4, 6))
            self.assertEqual(heard, [(1, 2)])


def _doubled(number: int) -> int:
    return 2 * number
