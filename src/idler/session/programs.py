"""The program in hand: read, judged and timed against the machine, in a thread of its own; read again when its file changes."""

from __future__ import annotations

import threading
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING

from idler.core.errors import IdlerError, Refusal
from idler.core.machine import Machine
from idler.core.proof.claims import Proof, flat_pair, level_claim, state
from idler.shelf.files import FileTrouble
from idler.shelf.opened import Opened
from idler.shelf.shelf import Shelf

from .preparing import Preparation
from .topic import Topic

if TYPE_CHECKING:
    from idler.core.geometry.level import Bed
    from idler.core.program.choices import Chosen
    from idler.core.program.faster import Saving
    from idler.core.program.strokes import Feeds, Strokes
    from idler.core.program.verdict import Verdict
    from idler.core.trial.figures import Figure

    from .session import Session

LOOKS = 1.0  # s between two looks at the file
PATIENCE = 5.0  # s in which a reading has certainly looked whether it is wanted
PARTS = 600  # of the time, for which feeds are told
SETTLES = 0.4  # s without an edit after which it is judged anew


@dataclass(frozen=True, eq=False)
class Judged:
    """A program as it was read. text: of the file, as it was then. faster: what a faster axis would save."""

    path: Path
    text: bytearray
    verdict: Verdict
    strokes: Strokes
    feeds: Feeds
    faster: tuple[Saving, ...]


class ProgramInHand:
    """opened: the file, once there is one. figure: what it is a figure of, where it is one. judged: what is known of it.
    share: how much is done of what runs, else None.

    trouble: why it could not be read. shift: by which the work zero is moved for a look, by axis letter, mm (°).
    """

    def __init__(self, session: Session, shelf: Shelf, name: str) -> None:
        self.changed: Topic[()] = Topic()
        self.settled: Topic[()] = Topic()  # another program is known, or none
        self.opened: Path | None = None
        self.figure: Figure | None = None  # that it was made of
        self.bed: Bed | None = None  # as it was measured last, for a skim
        self.judged: Judged | None = None
        self.share: float | None = None
        self.trouble = ""
        self.shift: Mapping[str, float] = {}
        self._session, self._shelf, self._name = session, shelf, name
        self.remembered = Opened()
        self.lost = ""  # why those that were opened could not be read
        try:
            self.remembered = shelf.opened(name)
        except IdlerError as why:
            self.lost = why.sentence
        self._tolerance: float | None = None
        self._thread: threading.Thread | None = None
        self._run = 0  # the judgement that is wanted; others end
        self._seen: tuple[int, int] | None = None  # of the file: when it was written, and how long it is
        self._of: tuple[Machine, Chosen] | None = None
        self._look = session.loop.timer(LOOKS, self._look_at_file)
        self._settle = session.loop.timer(SETTLES, self._judge_if_other, once=True)
        session.changed.subscribe(self._settle.start)
        session.work.changed.subscribe(self._settle.start)
        session.tools.changed.subscribe(self._settle.start)
        session.held.subscribe(self._settle.start)  # what was measured with another train is stale

    def span(self, axis: str) -> tuple[float, float] | None:
        """How far the program goes along an axis, in machine coordinates; None where there is none or it does not go there."""
        return self.judged.verdict.envelope.extents.get(axis) if self.judged is not None else None

    @property
    def tolerance(self) -> float:
        """mm by which corners may be cut where the program says nothing."""
        from idler.core.program.choices import DEFAULT_TOLERANCE

        return DEFAULT_TOLERANCE if self._tolerance is None else self._tolerance

    @tolerance.setter
    def tolerance(self, millimetres: float) -> None:
        self._tolerance = millimetres
        self._judge_if_other()

    def open_figure(self, figure: Figure) -> None:
        """A figure as a program: its file stands on the shelf. Raises IdlerError."""
        from idler.core.trial.figures import program_of

        path = self._shelf.save_figure(self._name, figure.kind, program_of(figure))
        self.figure = figure
        self._open(path)

    def skim_wishes(self, cutter: float) -> tuple[dict[str, float], str]:
        """What a skim of the bed is to be asked for after its map, and what is to be done before it. cutter: mm across.

        Raises Refusal where there is no map, or one that holds no longer.
        """
        from idler.core.trial.skimming import highest, skim_of

        machine, work = self._session.machine, self._session.work
        pair = flat_pair(machine)
        if self.bed is None or pair is None:
            raise Refusal(
                "skim", "the bed", "was not measured since Idler was started", way_out="measure it at Geometry, Level"
            )
        claim = level_claim(machine, *pair)
        if state(machine, claim, self._session.proofs) not in (Proof.PROVEN, Proof.FAILED):
            raise Refusal("skim", "the heights", "were read with other values", way_out="measure the bed anew")
        wishes = skim_of(machine, pair, self.bed, work.valid.get(work.set.shown, {}), cutter)
        return wishes, f"Take the work zero of Z on {highest(machine, pair, self.bed)}."

    def open(self, path: Path) -> None:
        """Reads a program; what was in hand before is shown until it is read."""
        self.figure = None
        self.remember(self.remembered.with_one(path))
        self._open(path)

    def _open(self, path: Path) -> None:
        self.opened, self.shift = path, {}
        self._look.start()
        self.judge()

    def open_first(self) -> None:
        """What is opened when Idler starts."""
        if (path := self.remembered.first) is not None:
            self.open(path)

    def remember(self, opened: Opened) -> None:
        """Another list, or another program at the start."""
        self.remembered = opened
        try:
            self._shelf.save_opened(self._name, opened)
        except IdlerError as why:
            self._session.refuse("The list of programs is not on the disk.", why.sentence)

    def close(self) -> None:
        """No program is in hand any more."""
        self.cancel()
        self._look.stop()
        self.opened = self.judged = self.figure = self._of = None
        self.shift = {}
        self.trouble = ""
        self._publish()

    def cancel(self) -> None:
        """Ends what is read now."""
        self._run += 1
        self.share = None
        self.changed.publish()

    def end(self) -> None:
        """The session is closed: what is read now is waited for, for it looks soon whether it is still wanted."""
        self._run += 1
        self._look.stop()
        self._settle.stop()
        if self._thread is not None:
            self._thread.join(PATIENCE)

    def shifted(self, shift: Mapping[str, float]) -> None:
        """Judges it as if the work zero stood elsewhere by so much; nothing of the machine changes."""
        self.shift = dict(shift)
        self.judge()

    @property
    def chosen(self) -> Chosen:
        """What it is read with: the work zeros of the machine, the shown one moved by `shift`, the lengths of its tools, the
        radii of axes that turn, and the tolerance."""
        from idler.core.program.choices import Chosen

        work, tools = self._session.work, self._session.tools
        zeros, number = work.valid, work.set.shown
        shown = zeros.get(number, {})
        moved = {name: shown.get(name, 0.0) + self.shift.get(name, 0.0) for name in {*shown, *self.shift}}
        return Chosen({**zeros, number: moved}, number, tools.lengths, tools.radii, self.tolerance)

    @property
    def changed_on_disk(self) -> bool:
        """Whether the file is another one than that which was read."""
        return self.opened is None or _mark(self.opened) != self._seen

    def prepare(self, stands: Mapping[str, float], raised: float, period: float) -> Preparation:
        """What is in hand, planned from where the axes stand, a place every `period` s. raised: mm that Z goes higher.

        There must be a judged one.
        """
        assert self.judged is not None
        chosen = replace(self.chosen, raised=raised, stands=dict(stands))
        return Preparation(self._session.loop, self.judged.text, self._session.machine, chosen, period)

    def judge(self) -> None:
        """Reads it anew."""
        if self.opened is None:
            return
        self._run += 1
        run, path, machine, chosen = self._run, self.opened, self._session.machine, self.chosen
        self._of, self._seen = (machine, chosen), _mark(path)
        self.share, self.trouble = 0.0, ""
        self.changed.publish()
        self._thread = threading.Thread(
            target=self._work, args=(run, path, machine, chosen), name="program", daemon=True
        )
        self._thread.start()

    def _judge_if_other(self) -> None:
        if self.opened is not None and self._of != (self._session.machine, self.chosen):
            self.judge()

    def _look_at_file(self) -> None:
        if self.opened is not None and self.share is None:
            mark = _mark(self.opened)
            if mark is not None and mark != self._seen:
                self.judge()

    def _work(self, run: int, path: Path, machine: Machine, chosen: Chosen) -> None:
        """In its own thread."""
        from idler.core.program.faster import MOST_MOVES, savings
        from idler.core.program.strokes import feeds_of, strokes_of
        from idler.core.program.verdict import judge
        from idler.shelf.programs import program_bytes

        call = self._session.loop.call

        def tell(work: Callable[[], None]) -> bool:
            """Where this judgement is still wanted; nobody listens any more when the session is closed."""
            wanted = run == self._run
            if wanted:
                call(work)
            return wanted

        def keep_on(share: float) -> bool:
            return tell(lambda: self._tell(run, share))

        try:
            text = program_bytes(path)
            verdict = judge(text, machine, chosen, keep_on)
            if verdict is not None:
                saved = savings(verdict) if verdict.program.moves <= MOST_MOVES else ()
                feeds = feeds_of(verdict.program, verdict.timing.result, PARTS)
                made = Judged(path, text, verdict, strokes_of(verdict.program), feeds, saved)
                tell(lambda: self._take(run, made))
        except (IdlerError, MemoryError) as why:
            sentence = (
                why.sentence
                if isinstance(why, IdlerError)
                else FileTrouble(f"{path}: is too large for this computer.").sentence
            )
            tell(lambda: self._fail(run, sentence))

    def _tell(self, run: int, share: float) -> None:
        if run == self._run:
            self.share = share
            self.changed.publish()

    def _take(self, run: int, judged: Judged) -> None:
        if run == self._run:
            self.judged, self.share = judged, None
            self._publish()

    def _fail(self, run: int, sentence: str) -> None:
        if run == self._run:
            self.share, self.trouble, self.judged = None, sentence, None
            self._publish()

    def _publish(self) -> None:
        self.changed.publish()
        self.settled.publish()


def _mark(path: Path) -> tuple[int, int] | None:
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_mtime_ns, found.st_size
