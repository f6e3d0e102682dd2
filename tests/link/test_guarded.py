"""A drive that hears no heartbeat and can be asked for its state instead (node guarding) stops by itself where nobody asks."""

from __future__ import annotations

import tempfile
from importlib.resources import files
from pathlib import Path

from idler.link import times
from idler.link.plain.safety import GUARD

from ..support import Z, wait_for
from .test_plain import PITCHES, PlainCase


class Guarded(PlainCase):
    @classmethod
    def setUpClass(cls) -> None:
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        rig = (files("idler.bench") / "rigs" / "pieces.toml").read_text("utf-8")
        (Path(folder.name) / "rig.toml").write_text(
            rig.replace("listens = false", "listens = false\nguarded = true\n#")
        )
        (Path(folder.name) / "pieces.toml").write_text((files("idler") / "data" / "pieces.toml").read_text("utf-8"))
        cls.rig = str(Path(folder.name) / "rig.toml")
        super().setUpClass()

    def ready(self) -> None:
        self.connect()
        self.send({**PITCHES})
        self.power()

    def test_it_is_tried_and_then_goes_without_a_leash(self) -> None:
        self.ready()
        axis = self.link._client.drawn[Z]  # type: ignore[union-attr]
        self.assertTrue(axis.watch.seen and axis.watch.guarded, axis.watch)
        self.assertFalse(axis.watch.leashed)
        self.hold(Z, 300, 1.0)  # the first is on the leash: is its speed what it says?
        self.let_go(Z)
        self.hold(Z, 300, 1.5)  # for longer than it waits for a question
        self.assertIsNone(axis.leashed)
        self.let_go(Z)

    def test_it_stops_by_itself_where_the_line_is_cut(self) -> None:
        self.ready()
        self.hold(Z, 300, 1.0)
        self.let_go(Z)
        self.hold(Z, 300, 1.0)
        self.bench.hands.ask(do="cut")
        self.addCleanup(self.bench.hands.ask, do="mend")
        before = self.bench.hands.look("Z")["at"]
        wait_for(lambda: not self.bench.hands.look("Z")["moving"], "it to stop")
        longest = times.usual.hold + 2 * GUARD / 1000 + 0.1  # s: what it waits, in whole guard times, and how it brakes
        self.assertLess(abs(self.bench.hands.look("Z")["at"] - before), 5 * longest)
