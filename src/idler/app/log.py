"""The log of what was said and done, in files that take turns; and the trace that a run leaves when it dies.

DIR/log/idler.log, idler.log.1 ...   the newest is idler.log
DIR/log/crash.txt                    what the interpreter could still write when it died
"""

from __future__ import annotations

import contextlib
import faulthandler
import logging
import os
import sys
import threading
from logging.handlers import RotatingFileHandler
from pathlib import Path
from types import TracebackType
from typing import IO

_LARGEST, _FILES = 1_000_000, 5


class _Turning(RotatingFileHandler):
    """A disk that is full loses lines of the log, and nothing else."""

    def handleError(self, record: logging.LogRecord) -> None:
        pass

    def close(self) -> None:
        with contextlib.suppress(OSError):
            super().close()


class Log:
    """From `open` to `close`. A disk that takes nothing is no reason not to work: then there is no log."""

    def __init__(self, root: Path) -> None:
        self.folder = root / "log"
        self.file = self.folder / "idler.log"
        self._crash = self.folder / "crash.txt"
        self._handler: logging.Handler | None = None
        self._dying: IO[str] | None = None

    def open(self) -> None:
        with contextlib.suppress(OSError):
            self.folder.mkdir(parents=True, exist_ok=True)
            handler = _Turning(self.file, maxBytes=_LARGEST, backupCount=_FILES, encoding="utf-8", delay=True)
            handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
            self._handler = handler
            logging.getLogger("idler").addHandler(handler)
            logging.getLogger("idler").setLevel(logging.INFO)
            self._dying = open(self._crash, "a", encoding="utf-8")  # noqa: SIM115
            faulthandler.enable(self._dying)
        self._hooks = sys.excepthook, threading.excepthook
        sys.excepthook = self._mistake
        threading.excepthook = lambda args: self._mistake(args.exc_type, args.exc_value, args.exc_traceback)
        logging.getLogger("idler").info("started, process %d", os.getpid())

    def _mistake(self, kind: type[BaseException], value: BaseException | None, trace: TracebackType | None) -> None:
        logging.getLogger("idler").critical("a mistake of ours", exc_info=(kind, value or kind(), trace))
        self._hooks[0](kind, value or kind(), trace)

    def close(self) -> None:
        """The run ends as it should."""
        logging.getLogger("idler").info("ended")
        sys.excepthook, threading.excepthook = self._hooks
        if self._handler is not None:
            logging.getLogger("idler").removeHandler(self._handler)
            self._handler.close()
        if self._dying is not None:
            faulthandler.disable()
            with contextlib.suppress(OSError):
                self._dying.close()

    def tail(self, most: int = 60_000) -> str:
        """The end of the newest log."""
        try:
            return self.file.read_bytes()[-most:].decode("utf-8", "replace")
        except OSError:
            return ""
