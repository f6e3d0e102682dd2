"""Starts the bench as a process of its own and reads the line that says where it listens. No part of the wire."""

from __future__ import annotations

import contextlib
import json
import sys
from pathlib import Path

from PySide6.QtCore import QObject, QProcess, Signal


class BenchProcess(QObject):
    """`ready` carries the bench's own line as a dict; `failed` a sentence; `compiled` the share of its motion, 0 to 1, while
    that is compiled. The bench ends when we close its input."""

    ready = Signal(dict)
    compiled = Signal(float)
    failed = Signal(str)

    def __init__(self, rig: str, memory: Path | None, *, pace: float = 1.0, seed: int = 1) -> None:
        super().__init__()
        self._process = QProcess(self)
        self._process.readyReadStandardOutput.connect(self._read)
        self._process.readyReadStandardError.connect(self._read_words)
        self._process.finished.connect(self._finished)
        self._process.setProcessChannelMode(QProcess.ProcessChannelMode.SeparateChannels)
        self._said, self._words = b"", ""
        self._up = False
        self._last = ""  # what it said last, but for how far it is
        arguments = ["-m", "idler", "bench", "--rig", rig, "--pace", str(pace), "--seed", str(seed)]
        if memory is not None:
            arguments += ["--memory", str(memory)]
        self._process.start(sys.executable, arguments)

    @property
    def running(self) -> bool:
        return self._process.state() is not QProcess.ProcessState.NotRunning

    def _read(self) -> None:
        self._said += bytes(self._process.readAllStandardOutput().data())
        if not self._up and b"\n" in self._said:
            self._up = True
            self.ready.emit(json.loads(self._said.split(b"\n")[0]))

    def _read_words(self) -> None:
        self._words += bytes(self._process.readAllStandardError().data()).decode("utf-8", "replace")
        *lines, self._words = self._words.split("\n")
        for line in lines:
            with contextlib.suppress(ValueError, LookupError, TypeError):
                told = json.loads(line)
                self.compiled.emit(told["compiled"] / told["of"])
                continue
            self._last = line.strip() or self._last

    def _finished(self) -> None:
        if not self._up:
            self._read_words()
            self.failed.emit(f"The bench did not start. {self._words.strip() or self._last}".strip())

    def stop(self) -> None:
        """Closes its input, which ends it; waits a little, then insists."""
        if self.running:
            self._process.closeWriteChannel()
            if not self._process.waitForFinished(2000):
                self._process.kill()
                self._process.waitForFinished(1000)
