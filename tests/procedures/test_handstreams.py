"""Random streams of events through a simulated hand device's own wire: no motion without the dead man, none after a STOP
before he was let go of, and the end of it all when he is, or when the device is pulled out."""

from __future__ import annotations

import random
import tempfile
import time
import unittest
from pathlib import Path
from unittest import mock

from idler import new_machine
from idler.core.hand.assignment import Assigned, Control, Does, Sort
from idler.link.hand import sources
from idler.link.hand.simulated import SimulatedHand
from idler.procedures.jogging.hand import HandDesk
from idler.procedures.jogging.jog import Jog
from idler.session.loop import PlainLoop
from idler.session.session import Session
from idler.shelf.shelf import Shelf

DEAD, STOP = Control(Sort.BUTTON, 288), Control(Sort.BUTTON, 289)
WHEEL, STICK = Control(Sort.WHEEL, 8), Control(Sort.STICK, 0)
DOES = {
    DEAD: Assigned(Does.DEAD_MAN),
    STOP: Assigned(Does.STOP),
    WHEEL: Assigned(Does.STEP, "X"),
    STICK: Assigned(Does.SPEED, "Y"),
}
MOST = 24  # events of a stream
LONG = 20.0  # s


class Watched(HandDesk):
    """It keeps what was truly done with the device, and notes when whatever moves has been let go of.

    moved: motions that were begun. wrong: those of them that nobody may begin."""

    def __init__(self, session: Session, jog: Wrist) -> None:
        self.heard, self.may, self.down, self.moved, self.wrong = 0, False, False, 0, 0
        self.ended = 0.0  # s, when it was let go of last
        jog.desk = self
        super().__init__(session, jog)
        session.halted.subscribe(self._no_more)

    def _no_more(self) -> None:
        self.may = False

    def _heard(self, control: Control, value: float) -> None:
        if control == DEAD:
            self.may = value > 0 and (self.may or not self.down)
            self.down = value > 0
        super()._heard(control, value)
        self.heard += 1

    def begun(self) -> None:
        self.moved += 1
        self.wrong += not self.may


class Wrist(Jog):
    """Moves nothing, and tells what it is asked to move."""

    desk: Watched

    def turn(self, slot: int, count: int, behind: float) -> int:
        self.desk.begun()
        return count

    def drive(self, slot: int, share: float) -> None:
        if share:
            self.desk.begun()

    def let_go(self) -> None:
        self.desk.ended = time.monotonic()


class Streams:
    """Many streams, one after the other. slowest: s from the end of one to what it moved being let go of."""

    def __init__(self, folder: Path, seed: int) -> None:
        self.folder, self.random, self.slowest = folder, random.Random(seed), 0.0
        self.loop = PlainLoop()
        new_machine("verge", shelf=str(folder / "shelf"))
        self.session = Session(Shelf(folder / "shelf"), "verge", self.loop)
        self.desk = Watched(self.session, Wrist(self.session))
        self.made: SimulatedHand | None = None

    def plugged(self) -> SimulatedHand:
        if self.made is None:
            self.made = made = SimulatedHand("Random hand", self.folder)
            self.desk.connect(next(each for each in sources.find()[0] if each.path == made.path))
            for control, does in DOES.items():
                self.desk.assign(control, does)
            assert self.loop.until(lambda: made.listeners > 0, LONG)
            self.desk.may = self.desk.down = False
        return self.made

    def words(self) -> str:
        draw = self.random
        button = draw.choice(
            ("button 288 down", "button 288 down", "button 288 up", "button 289 down", "button 289 up")
        )
        return draw.choice((button, button, f"wheel 8 {draw.randint(-3, 3)}", f"stick 0 {draw.uniform(-1, 1):.3f}"))

    def one(self) -> None:
        """It ends with the dead man held, who is let go of or taken away with the device."""
        made, count = self.plugged(), self.random.randint(1, MOST)
        before = self.desk.heard
        for number in range(count):
            made.do(self.words())
            if self.random.random() < 0.02:
                self.loop.call(self.session.stop)
            if number % 5 == 4:
                self.loop.until(lambda: True, 0)
        for words in ("button 288 up", "button 288 down", "stick 0 0", "stick 0 0.9"):
            made.do(words)
        assert self.loop.until(lambda: self.desk.heard == before + count + 4, LONG)
        began, pulls = time.monotonic(), self.random.random() < 0.3
        if pulls:
            made.close()
            self.made = None
        else:
            made.do("button 288 up")
        assert self.loop.until(lambda: self.desk.ended >= began and (not pulls or self.desk.device is None), LONG)
        self.slowest = max(self.slowest, self.desk.ended - began)
        assert not self.desk.held

    def close(self) -> None:
        self.desk.disconnect()
        self.session.close()
        if self.made is not None:
            self.made.close()


class Random(unittest.TestCase):
    def test_no_stream_moves_anything_without_the_dead_man(self) -> None:
        with tempfile.TemporaryDirectory() as folder, mock.patch.object(sources, "SOCKETS", Path(folder)):
            streams = Streams(Path(folder), seed=7)
            for _ in range(60):
                streams.one()
            streams.close()
        self.assertGreater(streams.desk.moved, 60, "each of them moves something")
        self.assertEqual(streams.desk.wrong, 0)


if __name__ == "__main__":
    unittest.main()
