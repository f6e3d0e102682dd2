"""Sounds for whoever stands with their back to the screen: a question, an end, a stop. Off until they are switched on."""

from __future__ import annotations

import io
import math
import shutil
import struct
import wave
from collections.abc import Sequence
from functools import lru_cache
from pathlib import Path

from PySide6.QtCore import QObject, QProcess, QTemporaryDir
from PySide6.QtWidgets import QApplication

from idler.session.calls import Call
from idler.session.session import Session

from .bridge import follow

RATE = 22_050  # samples a second
LOUD, EDGE = 0.35, 0.012  # share of full scale; s over which a note begins and ends, so that it does not click
PLAYERS = ("pw-play", "paplay", "aplay")
NOTES: dict[Call, Sequence[tuple[float, float]]] = {  # Hz and s of each note; told apart by their number and their way
    Call.QUESTION: ((660, 0.12), (880, 0.18)), Call.END: ((880, 0.25),),
    Call.STOP: ((440, 0.15), (330, 0.15), (220, 0.3)),
}  # fmt: skip


@lru_cache
def sound_of(call: Call) -> bytes:
    """A WAV file of one channel, 16 bit."""
    samples = bytearray()
    for pitch, seconds in NOTES[call]:
        for k in range(count := int(seconds * RATE)):
            edge = min(1.0, k / (EDGE * RATE), (count - k) / (EDGE * RATE))
            samples += struct.pack("<h", int(32_767 * LOUD * edge * math.sin(2 * math.pi * pitch * k / RATE)))
    kept = io.BytesIO()
    with wave.open(kept, "wb") as made:
        made.setnchannels(1)
        made.setsampwidth(2)
        made.setframerate(RATE)
        made.writeframes(bytes(samples))
    return kept.getvalue()


class Sounds(QObject):
    """played: what was heard last. Where the system has no player it beeps."""

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self.on = False
        self.played: Call | None = None
        self._player = next(filter(None, map(shutil.which, PLAYERS)), None)
        self._folder: QTemporaryDir | None = None
        follow(session.calls, self._hear)
        follow(session.halted, self._hear_stop)
        follow(session.stopped, self._hear_incident)

    def turn(self, on: bool) -> None:
        """Whoever switches them on hears how they sound."""
        self.on = on
        if on:
            self._hear(Call.END)

    def _hear_stop(self) -> None:
        self._hear(Call.STOP)

    def _hear_incident(self, _incident: object) -> None:
        self._hear(Call.STOP)

    def _hear(self, call: Call) -> None:
        if not self.on:
            return
        self.played = call
        if self._player is None:
            QApplication.beep()
            return
        QProcess.startDetached(self._player, [str(self._file(call))])  # it ends by itself, also after the window

    def _file(self, call: Call) -> Path:
        self._folder = self._folder or QTemporaryDir()
        path = Path(self._folder.path()) / f"{call.value}.wav"
        if not path.exists():
            path.write_bytes(sound_of(call))
        return path
