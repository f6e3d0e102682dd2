"""A program made ready to run from where the axes stand: judged anew and planned in a thread of its own."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import TYPE_CHECKING

from idler.core.errors import IdlerError

if TYPE_CHECKING:
    from idler.core.machine import Machine
    from idler.core.program.choices import Chosen
    from idler.core.program.strokes import Strokes
    from idler.core.program.track import Track
    from idler.core.program.verdict import Verdict

    from .loop import Loop


class Preparation:
    """over: whether it is known. trouble: why it cannot be run, or empty; then `track`, `verdict` and `strokes` are there."""

    def __init__(self, loop: Loop, text: bytes | bytearray, machine: Machine, chosen: Chosen, period: float) -> None:
        self.over, self.trouble = False, ""
        self.track: Track | None = None
        self.verdict: Verdict | None = None
        self.strokes: Strokes | None = None
        self._wanted = True
        self._loop = loop
        work = threading.Thread(target=self._work, args=(text, machine, chosen, period), name="track", daemon=True)
        work.start()

    def leave(self) -> None:
        """It is not wanted any more."""
        self._wanted = False

    def _keep_on(self, _share: float) -> bool:
        return self._wanted

    def _work(self, text: bytes | bytearray, machine: Machine, chosen: Chosen, period: float) -> None:
        """In its own thread."""
        from idler.core.program.saying import why_not
        from idler.core.program.strokes import strokes_of
        from idler.core.program.track import track_of
        from idler.core.program.verdict import judge

        track, trouble = None, ""
        verdict, strokes = None, None
        try:
            verdict = judge(text, machine, chosen, self._keep_on)
            if verdict is not None and not verdict.fits:
                trouble = why_not(verdict)
            elif verdict is not None:
                strokes = strokes_of(verdict.program)
                track = track_of(verdict.program, verdict.timing, period, self._keep_on)
        except IdlerError as why:
            trouble = why.sentence
        except MemoryError:
            trouble = "The program is too long for this computer's memory. Cut it into parts."
        self._loop.call(self._taking(track, verdict, strokes, trouble))

    def _taking(
        self, track: Track | None, verdict: Verdict | None, strokes: Strokes | None, trouble: str
    ) -> Callable[[], None]:
        def take() -> None:
            self.track, self.verdict, self.strokes = track, verdict, strokes
            self.trouble, self.over = trouble, True

        return take
