"""Terminals on a third stack that others wrote, the npm package canopen: found, read, switched, let go of."""

from __future__ import annotations

import shutil
import subprocess
import tempfile
import unittest
from importlib.resources import files
from pathlib import Path

from idler.core.controller.nodes import What
from idler.link.bus.address import parse
from idler.link.bus.survey import survey
from idler.link.events import Asked

from ..support import wait_for
from .test_plain import PlainCase

PACKAGE = "canopen@6.2.1"
INSTALLED = 60.0  # s


@unittest.skipUnless(shutil.which("npm") and shutil.which("node"), "there is no npm here")
class OnNpm(PlainCase):
    home: Path

    @classmethod
    def setUpClass(cls) -> None:
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.home = Path(folder.name)
        command = ["npm", "install", "--prefix", folder.name, "--ignore-scripts", "--no-audit", "--no-fund", PACKAGE]
        try:
            done = subprocess.run(command, capture_output=True, timeout=INSTALLED, check=False)
        except subprocess.TimeoutExpired:
            raise unittest.SkipTest("npm does not come to an end") from None
        if done.returncode:
            raise unittest.SkipTest("npm cannot install the package")
        # Compiled code that only block transfers need: it is not built, and this node has none.
        (cls.home / "node_modules" / "node-crc" / "src" / "lib.js").write_text("module.exports = {};\n")
        shutil.copy(str(files("tests.link") / "npmnode.js"), cls.home)
        super().setUpClass()

    def test_it_is_found_read_switched_and_let_go_of(self) -> None:
        node = subprocess.Popen(["node", str(self.home / "npmnode.js"), str(self.bench.port), "9"])
        self.addCleanup(node.wait)
        self.addCleanup(node.kill)
        there = lambda: {each.number: each for each in survey(parse(self.bench.link))}  # noqa: E731
        wait_for(lambda: 9 in there(), "it to be there")
        found = there()[9]
        self.assertEqual((found.what, found.name, found.serial), (What.TERMINALS, "Others terminals", 77))
        self.connect("1=X,2=Y,3=Z,9=terminals")
        self.assertEqual((self.holding.shape.inputs, self.holding.shape.outputs), (8 + 3 * 3, 8))
        wait_for(lambda: self.link.panel.closed & 0xFF == 0b101, "its inputs")
        self.link.hold_terminals(Asked(tried=3))
        wait_for(lambda: self.link.panel.energised == 0b100, "its output", self.link.keep_holding)
        self.link.hold_terminals(Asked())
        wait_for(lambda: self.link.panel.energised == 0, "it to be off")
