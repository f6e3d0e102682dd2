"""Running a procedure without a window: it asks on the terminal, or by lines of JSON, and ends with what was found."""

from __future__ import annotations

import json
import signal
import sys
import threading
from collections import deque
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from .controller import CONTROLLER
from .options import SHELF

if TYPE_CHECKING:
    from idler.library import OpenMachine
    from idler.procedures.engine import Result
    from idler.procedures.questions import Question
    from idler.procedures.registry import Wishes

PROVEN, NOT_PROVEN, UNREACHABLE, STOPPED = 0, 1, 2, 3


class _Terminal:
    """Says what happens and asks the person; one line of JSON for each where that is wanted."""

    def __init__(self, given: tuple[str, ...], as_json: bool) -> None:
        self._given: dict[str, list[str]] = {}
        for answer in given:
            key, _, text = answer.partition("=")
            self._given.setdefault(key, []).append(text)
        self._json = as_json
        self._number = 0
        self._open: dict[int, Question[Any]] = {}
        self._mill: OpenMachine | None = None
        self._typed: deque[str] = deque()  # before anything was asked
        self._closed = False  # whether nobody can type any more

    def listen(self, mill: OpenMachine) -> None:
        """Takes what is typed from now on, beside what goes on."""
        self._mill = mill
        threading.Thread(target=self._read, name="answers", daemon=True).start()

    def says(self, words: str) -> None:
        if self._json:
            self._line({"says": words})
        else:
            click.echo(words)

    def progress(self, words: str) -> None:
        if not words:
            return
        if self._json:
            self._line({"progress": words})
        else:
            click.echo(f"… {words}")

    def ask(self, question: Question[Any]) -> None:
        """Asks; the answer was given or typed beforehand, is typed now, or comes from the machine."""
        assert self._mill is not None
        self._number += 1
        self._open = {self._number: question}
        given = self._given.get(question.key)
        if given:
            text = given.pop(0)
            self._mill.loop.call(lambda: self._submit(text, beforehand=True))
            return
        if self._json:
            self._line({"asks": {"id": self._number, **question.described()}})
        else:
            ways = "".join(f"\n  {way.key}: {way.text}" for way in question.choices)
            kind = {"yes": " (yes or no)", "done": " (Enter)", "reading": f" in {question.unit}"}
            click.echo(f"{question.text}{kind.get(question.kind.value, '')}{ways}")
        if self._typed:
            line = self._typed.popleft()
            self._mill.loop.call(lambda: self._submit(line, beforehand=True))
        elif self._closed:
            self._mill.loop.call(self._nobody_left)

    def ended(self, result: Result, proven: bool, edit: list[dict[str, str]]) -> None:
        """edit: the values that are proposed, each with its owner and key."""
        if self._json:
            self._line({"result": result.words, "proven": proven, "figures": dict(result.figures), "edit": edit})
            return
        click.echo(result.words)
        for each in edit:
            click.echo(f"Proposed: {each['part']}: {each['value']}")

    def _line(self, event: dict[str, Any]) -> None:
        click.echo(json.dumps(event, ensure_ascii=False))
        sys.stdout.flush()

    def _read(self) -> None:
        assert self._mill is not None
        for line in sys.stdin:
            self._mill.loop.call(lambda line=line: self._take(line.rstrip("\n")))  # type: ignore[misc]
        self._mill.loop.call(self._nobody_left)

    def _take(self, line: str) -> None:
        """One line that was typed, on the thread of the session."""
        if not self._json:
            if self._open:
                self._submit(line)
            elif not self._heard(line):
                self._typed.append(line)
            return
        if (said := self._said(line)) is not None:
            if not self._heard(said):
                self.says(f"“{said[:40]}” means nothing to what runs now.")
            return
        number, text = self._parse(line)
        if number in self._open:
            self._submit(text)
        else:
            self.says("Nothing is asked that this would answer.")

    def _said(self, line: str) -> str | None:
        """What is said to what runs, as {"say": "pause"}; None where the line says nothing."""
        try:
            told = json.loads(line)
            return str(told["say"]) if "say" in told else None
        except (ValueError, TypeError, KeyError):
            return None

    def _heard(self, words: str) -> bool:
        """Whether what runs knew what was said."""
        from idler.core.errors import IdlerError

        assert self._mill is not None
        procedure = self._mill.procedure
        try:
            return procedure is not None and procedure.running and procedure.hear(words.strip())
        except IdlerError as why:
            self.says(why.sentence)
            return True

    def _submit(self, text: str, *, beforehand: bool = False) -> None:
        """An answer to what is asked now; a wrong one is asked for again with its reason."""
        from idler.core.errors import IdlerError

        assert self._mill is not None
        procedure, question = self._mill.procedure, next(iter(self._open.values()), None)
        if procedure is None or question is None or procedure.question is not question:
            return  # the machine has answered it meanwhile
        self._open = {}
        try:
            procedure.answer(text, beforehand=beforehand)
        except IdlerError as why:
            self.says(why.sentence)
            self.ask(question)

    def _parse(self, line: str) -> tuple[int, str]:
        try:
            told = json.loads(line)
            return int(told["id"]), str(told.get("answer", ""))
        except (ValueError, TypeError, KeyError, AttributeError):
            return 0, ""

    def _nobody_left(self) -> None:
        """Nobody can answer any more: what waits for a person is ended; what the machine answers goes on."""
        self._closed = True
        assert self._mill is not None
        procedure = self._mill.procedure
        if procedure is not None and procedure.question is not None and not procedure.question.by_world:
            procedure.stop(f"Nobody answered: {procedure.question.text}")


def _named(procedure: str, named: tuple[str, ...], machine: str, file: str) -> tuple[str, str]:
    """What is run, where there is something to be named, and the machine. Raises click.UsageError."""
    words = list(named)
    what = file
    if procedure in ("program", "figure", "action") and not what and (len(words) == 2 or (machine and words)):
        what = words.pop(0)
    machine = machine or (words.pop(0) if words else "")
    if words or not machine:
        raise click.UsageError(f"{' '.join(named)}: name one machine after the procedure.")
    return what, machine


def _worked_through(mill: OpenMachine, terminal: _Terminal, wishes: Wishes, *, take: bool) -> int:
    """All that is left; the exit code."""
    from idler.procedures.engine import Ending

    for step, result in mill.work_through(terminal.ask, wishes, take=take):
        proposed = mill.machine.with_values(result.edit)
        edit = [
            {"part": proposed.part(where), "key": where.key, "value": proposed.show(where)} for where in result.edit
        ]
        terminal.says(f"{step.text} ({step.key}):")
        terminal.ended(result, result.end is Ending.PROVEN, edit)
        if result.end is Ending.STOPPED:
            return STOPPED
    left = mill.session.agenda.next
    if left is None:
        terminal.says("Nothing is left.")
        return PROVEN
    terminal.says(f"Left: {left.text} ({left.key}). Do it, or leave it out: idler next --skip {left.key}=REASON")
    return NOT_PROVEN


@click.command()
@click.argument("procedure")
@click.argument("named", nargs=-1)
@click.option("--machine", default="", help="The machine, where it is not named after the procedure.")
@CONTROLLER
@SHELF
@click.option("--axis", default="", help="The letter of the axis.")
@click.option(
    "--answer", "given", multiple=True, metavar="KEY=TEXT", help="An answer beforehand; see describe questions."
)
@click.option("--power", is_flag=True, help="Power the drives first.")
@click.option("--take", is_flag=True, help="Take what is proposed into the draft.")
@click.option("--all", "everything", is_flag=True, help="All that is left, step by step: `run --all MACHINE`.")
@click.option("--json", "as_json", is_flag=True, help="One line of JSON for each event; answers come so, too.")
@click.option("--length", default="", help='Of a move, with its unit: "50 mm".')
@click.option("--instrument", default="", help="What is measured with: rule, caliper, dial, probe, encoder …")
@click.option(
    "--tolerance", default="", help="What is wanted: 0.02 % of a scale, 0.02 mm of play, 0.1 mm per m of a right angle."
)
@click.option(
    "--way",
    default="",
    help="Of ending the spindle: esc, stop, guard, ready, link; what is touched: top, left …; of a work zero: down.",
)
@click.option("--seconds", default=10, show_default=True, type=click.IntRange(1, 3600), help="Of the filter study.")
@click.option("--spindle", is_flag=True, help="The filter study, or a program, with the spindle running.")
@click.option("--sides", is_flag=True, help="Of the rectangle of marks, the sides too.")
@click.option("--range", "of_range", type=click.IntRange(0), default=0, help="Of the spindle's speeds, from 1.")
@click.option("--plane", default="", help="Of a square: XY, XZ or YZ.")
@click.option("--file", default="", help="Of a program, where it is not named after the procedure.")
@click.option(
    "--of",
    multiple=True,
    metavar="KEY=VALUE",
    help="What a figure, a touch or an index stop is asked for: width=60, thickness=10, stop=3 …",
)
@click.option("--zero", default="", help="Take the work zero first: here, here:XY, or places as X=12.5,Y=40.")
@click.option("--raised", default="", help='Height that a program runs higher: "20 mm".')
@click.option("--feed", default="", help="Rate of feeds in per cent.")
@click.option("--rapid", default="", help="Rate of rapids in per cent.")
@click.option("--single", is_flag=True, help="A program waits after each of its lines, until “go” is typed.")
def run(
    procedure: str, named: tuple[str, ...], machine: str,
    address: str, folder: Path | None, axis: str, given: tuple[str, ...], power: bool,
    take: bool, everything: bool, as_json: bool, length: str, instrument: str, tolerance: str, way: str, seconds: int,
    spindle: bool, sides: bool, of_range: int, plane: str, file: str, of: tuple[str, ...], zero: str, raised: str,
    feed: str, rapid: str, single: bool,
) -> None:  # fmt: skip
    """Run a procedure with a machine of the shelf at its controller: `idler describe procedures` lists them.

    NAMED is the machine; of `run program` the file and the machine, of `run figure` the kind of figure and the machine, of
    `run action` the action's name and the machine. While a program or a figure runs, what is typed holds it: pause, go, single,
    lines, feed 50, rapid 25.

    With --all every step that `idler next` lists is done in its order, what is proposed is taken and sent with --take, and a
    step that comes to the same twice ends it.

    What it asks is asked here; Ctrl-C stops the machine first. Exit code 0 where it is proven (or done, where there is
    nothing to prove), 1 where it is not, 2 where machine or controller cannot be reached, 3 where it was stopped.
    """
    from idler.library import open_machine
    from idler.procedures.engine import Ending, Result
    from idler.procedures.registry import Wishes

    what, machine = (file, procedure) if everything else _named(procedure, named, machine, file)
    terminal = _Terminal(given, as_json)
    for number in (signal.SIGINT, signal.SIGTERM):  # whoever ended it, and although a shell may have it ignored
        signal.signal(number, signal.default_int_handler)
    with open_machine(machine, folder, says=terminal.says, progress=terminal.progress) as mill:
        mill.connect(address)
        if power:
            mill.power()
        terminal.listen(mill)
        wishes = Wishes(
            length, instrument, tolerance, way, seconds, spindle, sides, plane, of_range, file=what, figure=what, of=of,
            zero=zero, raised=raised, feed=feed, rapid=rapid, single=single,
        )  # fmt: skip
        try:
            if everything:
                sys.exit(_worked_through(mill, terminal, wishes, take=take))
            result = mill.run(procedure, axis, terminal.ask, wishes)
        except KeyboardInterrupt:
            result = Result(Ending.STOPPED, "It was stopped.")
        then = mill.machine.with_values(result.edit)
        edit = [{"part": then.part(where), "key": where.key, "value": then.show(where)} for where in result.edit]
        terminal.ended(result, result.end is Ending.PROVEN, edit)
        lost = not mill.session.connected
        if take and edit:
            mill.take(result)
    if lost:
        sys.exit(UNREACHABLE)
    code = {Ending.PROVEN: PROVEN, Ending.DONE: PROVEN, Ending.STOPPED: STOPPED}.get(result.end, NOT_PROVEN)
    sys.exit(code)
