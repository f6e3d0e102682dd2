"""Cyclic garbage with Qt's objects in it is ended on the GUI's thread, whoever allocates."""

from __future__ import annotations

import gc
import threading
from typing import ClassVar

from PySide6.QtCore import QObject, QThread, QTimer

from idler.app.collector import OLDER, OLDEST, YOUNG
from tests.app.gui import SessionCase


class Knot(QObject):
    """Holds itself, so that only the collector ends it."""

    ended: ClassVar[list[bool]] = []

    def __init__(self) -> None:
        super().__init__()
        self.itself, self.timer = self, QTimer(self)
        self.timer.start(10_000)

    def __del__(self) -> None:
        self.ended.append(QThread.currentThread() is not None and threading.current_thread() is threading.main_thread())


class Collected(SessionCase):
    on_bench = False

    def test_another_thread_that_allocates_collects_nothing(self) -> None:
        Knot.ended.clear()
        Knot()
        busy = threading.Thread(target=lambda: [[k] for k in range(60 * YOUNG)])
        busy.start()
        busy.join()
        self.assertEqual((gc.isenabled(), Knot.ended), (False, []))
        for _ in range(10 * OLDER * OLDEST):
            kept = [[k] for k in range(2 * YOUNG)]
            self.application._collector.look()
            if Knot.ended:
                break
        del kept
        self.assertEqual(Knot.ended, [True])
        self.application.close()
        self.assertTrue(gc.isenabled())
