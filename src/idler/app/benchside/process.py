"""Starts the bench as a process of its own and reads the line that says where it listens. No part of the wire."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from PySide6.QtCore import QObject, QProcess, Signal


class BenchProcess(QObject):
    """`ready` carries the bench's own line as a dict; `failed` a sentence. The bench ends when we close its input."""

    ready = Signal(dict)
    failed = Signal(str)

    def __init__(self, rig: str, memory: Path | None, *, pace: float = 1.0, seed: int = 1) -> None:
        super().__init__()
        self._process = QProcess(self)
        self._process.readyReadStandardOutput.connect(self._read)
        self._process.finished.connect(self._finished)
        self._process.setProcessChannelMode(QProcess.ProcessChannelMode.SeparateChannels)
        self._said = b""
        self._up = False
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

    def _finished(self) -> None:
        if not self._up:
            lines = bytes(self._process.readAllStandardError().data()).decode("utf-8", "replace").strip().splitlines()
            self.failed.emit(f"The bench did not start. {lines[-1] if lines else ''}")

    def stop(self) -> None:
        """Closes its input, which ends it; waits a little, then insists."""
        if self.running:
            self._process.closeWriteChannel()
            if not self._process.waitForFinished(2000):
                self._process.kill()
                self._process.waitForFinished(1000)
