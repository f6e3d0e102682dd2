"""Where there is no screen the program says so in one sentence, before Qt would abort."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import tempfile
import unittest

from idler.app.display import require_display
from idler.core.errors import IdlerError


class Screens(unittest.TestCase):
    def test_without_a_screen_it_is_one_sentence(self) -> None:
        both, x_only = {"xcb", "wayland", "offscreen"}, {"xcb", "offscreen"}
        nowhere = {"DISPLAY": ":9999"}
        for environment, known in (
            ({}, both), (nowhere, both), ({"DISPLAY": "no display"}, both), ({"WAYLAND_DISPLAY": "wayland-9"}, both),
            ({"WAYLAND_DISPLAY": "wayland-0", "XDG_SESSION_TYPE": "wayland"}, x_only), ({"QT_QPA_PLATFORM": "wayland"}, x_only),
            ({"QT_QPA_PLATFORM": "xcb", **nowhere}, both),
        ):  # fmt: skip
            with self.subTest(environment), self.assertRaisesRegex(IdlerError, "There is no screen"):
                require_display(environment, known)
        with self.assertRaisesRegex(IdlerError, "asks for cocoa"):
            require_display({"QT_QPA_PLATFORM": "cocoa"}, both)
        require_display({"QT_QPA_PLATFORM": "offscreen"}, both)

    def test_a_server_that_listens_is_a_screen(self) -> None:
        with tempfile.TemporaryDirectory() as folder, socket.socket(socket.AF_UNIX) as server:
            server.bind(f"{folder}/wayland-0")
            server.listen()
            require_display({"WAYLAND_DISPLAY": "wayland-0", "XDG_RUNTIME_DIR": folder}, {"wayland"})

    def test_the_program_says_so_and_ends_with_2(self) -> None:
        environment = {
            key: value for key, value in os.environ.items() if "DISPLAY" not in key and key != "QT_QPA_PLATFORM"
        }
        for word in ((), ("demo",)):
            done = subprocess.run(
                [sys.executable, "-m", "idler", *word], env=environment, capture_output=True, text=True
            )
            self.assertEqual((done.returncode, done.stderr.count("\n")), (2, 1), done.stderr)
            self.assertIn("There is no screen to open a window on", done.stderr)
