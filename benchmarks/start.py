"""From the start of the process to the first painted window, against a bare window.

The bare one first imports every module that the application had loaded by then.
"""

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
            print(" ".join(name for name in sys.modules if not name.startswith("_")), flush=True)
            if "application" in globals():
                application._hold.release()  # it ends as it should: the next start has nothing to mend
            os._exit(0)
        return False
paint = Paint()
"""
APPLICATION = (
    _COMMON
    + """
from pathlib import Path
from idler.app.run import Application, qt_application
app = qt_application()
application = Application(Path(os.environ["SHELF"]), demo=False)
application.window.centralWidget().installEventFilter(paint)
application.show()
app.exec()
"""
)
BARE = (
    _COMMON
    + """
import importlib
for name in os.environ["MODULES"].split():
    if name not in sys.modules:
        try:
            importlib.import_module(name)
        except ImportError:
            pass
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


def once(script: str, shelf: str, modules: str = "") -> tuple[float, str]:
    """Seconds to the first paint, and the modules that were loaded by then."""
    environment = {**os.environ, "SHELF": shelf, "MODULES": modules, "STARTED": str(time.monotonic())}
    done = subprocess.run([sys.executable, "-c", script], env=environment, capture_output=True, text=True, check=True)
    seconds, loaded = done.stdout.splitlines()
    return float(seconds), loaded


def run() -> list[tuple[str, str, str]]:
    with tempfile.TemporaryDirectory() as shelf:
        from idler.app.run import open_shelf

        open_shelf(Path(shelf))
        _, modules = once(APPLICATION, shelf)
        once(BARE, shelf, modules)
        pairs = [(once(APPLICATION, shelf)[0], once(BARE, shelf, modules)[0]) for _ in range(PAIRS)]
    ours = statistics.median(a for a, _ in pairs)
    ratio = statistics.median(a / b for a, b in pairs)
    return [
        (
            "start to first painted window",
            "under 1.5 s",
            f"{ours:.2f} s (worst of {PAIRS}: {max(a for a, _ in pairs):.2f} s)",
        ),
        ("the same against a bare window with the same imports", "1.1 ×", f"{ratio:.2f} ×"),
    ]
