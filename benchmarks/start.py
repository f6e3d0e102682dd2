"""From the start of the process to the first painted window, against a bare window with the same imports."""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

PAIRS = 9

_COMMON = """
import os, sys, time
from PySide6.QtCore import QEvent, QObject, QTimer
class Paint(QObject):
    def eventFilter(self, watched, event):
        if event.type() == QEvent.Type.Paint:
            print(time.monotonic() - float(os.environ["STARTED"]), flush=True)
            os._exit(0)
        return False
paint = Paint()
"""
APPLICATION = (
    _COMMON
    + """
from pathlib import Path
from idler.app.run import Session, application
app = application()
session = Session(Path(os.environ["SHELF"]), demo=False)
session.window.centralWidget().installEventFilter(paint)
session.show()
app.exec()
"""
)
BARE = (
    _COMMON
    + """
import idler.app.run
from PySide6.QtWidgets import QApplication, QLabel, QMainWindow
app = QApplication([])
window = QMainWindow()
window.setCentralWidget(QLabel("bare"))
window.centralWidget().installEventFilter(paint)
window.resize(1280, 800)
window.show()
app.exec()
"""
)


def _once(script: str, shelf: str) -> float:
    environment = {**os.environ, "SHELF": shelf, "STARTED": str(time.monotonic())}
    done = subprocess.run([sys.executable, "-c", script], env=environment, capture_output=True, text=True, check=True)
    return float(done.stdout)


def run() -> list[tuple[str, str, str]]:
    with tempfile.TemporaryDirectory() as shelf:
        from idler.app.run import open_shelf

        open_shelf(Path(shelf))
        _once(APPLICATION, shelf), _once(BARE, shelf)
        pairs = [(_once(APPLICATION, shelf), _once(BARE, shelf)) for _ in range(PAIRS)]
    ours = statistics.median(a for a, _ in pairs)
    ratio = statistics.median(a / b for a, b in pairs)
    return [
        (
            "start to first painted window",
            "under 1.5 s",
            f"{ours:.2f} s (worst of {PAIRS}: {max(a for a, _ in pairs):.2f} s)",
        ),
        ("the same against a bare window with the same imports", "under 1.5 ×", f"{ratio:.2f} ×"),
    ]
