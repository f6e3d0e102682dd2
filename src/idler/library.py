"""Idler for a script or a REPL: a machine of the shelf in hand, its controller, and every procedure that a builder runs.

from idler import open_machine

with open_machine("verge") as verge:
    verge.connect("slcan://127.0.0.1:29536")
    verge["X", "chain.pitch"] = "5 mm"
    verge.send()
    verge.power()
    print(verge.run("home", "X").words)
"""

from __future__ import annotations

import contextlib
import time
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Mapping
from difflib import get_close_matches
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING, Any

from platformdirs import user_data_path

from idler.core.errors import About, IdlerError, Refusal
from idler.core.machine import Address, Machine
from idler.core.proof.claims import Proof, claims, state
from idler.core.report.agenda import BUS, CONNECT, HOMED, KEEP, POWERED, RESTART, SEND, Step
from idler.core.table import TABLE
from idler.core.values.parameter import Scope, Value
from idler.procedures.engine import Ending, Procedure, Result
from idler.procedures.questions import Question
from idler.procedures.registry import WORDS, Wishes, wishes_of
from idler.procedures.trial.aftertrial import StepsAfter
from idler.procedures.trial.program import ProgramRun
from idler.session.loop import PlainLoop
from idler.session.session import Session
from idler.shelf.hold import ShelfHold
from idler.shelf.shelf import Shelf

if TYPE_CHECKING:
    from idler.link.events import AxisState
    from idler.shelf.incidents import KeptIncident

ANSWERS = 5.0  # s within which a drive answers over its bus
PATIENCE = 60.0  # s for what the controller answers at once
MOST_EDITS = 4  # that one step leads to, before they count as tries
MOST_PROVEN = 8  # times that one step is proven, before that counts as a try: others make it stale
RECORD = 5.0  # s that the record of a stop may take
TRIES = 3  # of one step, before whoever works through the list stops
LONGEST = 24 * 3600.0  # s for what a person or a machine takes

Answers = Callable[[Question[Any]], "str | None"] | Mapping[str, str]
Where = str | tuple[str | int, str]


class Unreachable(IdlerError):
    """The controller is not there, or is gone."""

    about = About.SILENT


def nobody(_question: Question[Any]) -> str | None:
    """Answers nothing: what asks is ended, but for what the machine itself answers."""
    return None


def _nearest(word: str, known: Iterable[str]) -> str:
    """A way out for a word that was misspelt: the one that is most like it, where one is."""
    listed = list(known)
    near = [each for each in listed if each.casefold() == word.casefold()] or get_close_matches(word, listed, 1)
    return f"the nearest is {near[0]}" if near else ""


class OpenMachine:
    """One machine of a shelf, and its controller once it is connected. A context: the link is left at its end, and what
    moves is stopped first.

    says: called with each sentence that the person should read. progress: with what a procedure does now.
    """

    def __init__(
        self, name: str, shelf: Path | None = None, *, says: Callable[[str], object] = lambda _: None,
        progress: Callable[[str], object] = lambda _: None,
    ) -> None:  # fmt: skip
        root = shelf if shelf is not None else user_data_path("idler") / "shelf"
        self._hold = ShelfHold(root, silent=True)
        if self._hold.why_read_only:
            raise IdlerError(self._hold.why_read_only)
        self.loop = PlainLoop()
        try:
            self.session = Session(Shelf(root), name, self.loop)
        except IdlerError:
            self._hold.release()
            raise
        self._progress = progress
        self.procedure: Procedure | None = None  # that runs now
        self._says = says
        self.session.told.subscribe(lambda _tone, words: says(words))
        self.session.incidents.recorded.subscribe(self._say_likely)
        self._address = ""  # where it was connected last
        self._ended: dict[str, bool] = {}  # what was asked of the link, and whether it was done
        self.session.done.subscribe(lambda what: self._ended.__setitem__(what, True))
        self.session.failed.subscribe(lambda what: self._ended.__setitem__(what, False))

    def __enter__(self) -> OpenMachine:
        return self

    def __exit__(self, _: type[BaseException] | None, __: BaseException | None, ___: TracebackType | None) -> None:
        self.close()

    def close(self) -> None:
        self.session.close()
        self._hold.release()

    def _say_likely(self, kept: KeptIncident, _name: str) -> None:
        """The window shows it with its record; here it is a sentence, where there is one."""
        from idler.core.incident.diagnosis import account, likely_words
        from idler.core.profile.flight import unpack_flight

        with contextlib.suppress(ValueError):
            if words := likely_words(account(kept.machine, unpack_flight(kept.flight), kept.incident.axis)):
                self._says(words)

    # -- values ---------------------------------------------------------------------------------------------------

    @property
    def machine(self) -> Machine:
        """The draft: the newest revision with every edit."""
        return self.session.machine

    def __getitem__(self, where: Where) -> Value:
        """A value by its key, with the letter of its axis or the number of its terminal: `m["X", "chain.pitch"]`."""
        return self.machine[self.address(where)]

    def __setitem__(self, where: Where, text: str) -> None:
        """An edit, read as the field of the window reads it. Raises Refusal; then nothing has changed."""
        self.session.edit(self.address(where), text)

    def address(self, where: Where) -> Address:
        """Raises Refusal for a key, an axis or a terminal that is not there, with the nearest that is."""
        owner, key = where if isinstance(where, tuple) else (None, where)
        scope = next((scope for scope, rows in TABLE.items() if key in rows), None)
        if scope is None:
            known = [key for rows in TABLE.values() for key in rows]
            raise Refusal("key", key, "is none of the table", way_out=_nearest(key, known))
        if scope is Scope.MACHINE:
            return Address(None, key)
        if scope is Scope.AXIS:
            if owner not in self.machine.names:
                raise Refusal("axis", str(owner or "none"), "is none of this machine", " ".join(self.machine.names))
            return Address(self.machine.names.index(str(owner)), key)
        if not isinstance(owner, int) or not self.machine.shape.has(Address(owner - 1, key)):
            raise Refusal(scope.value, str(owner or "none"), "is not there", "a number from 1 on")
        return Address(owner - 1, key)

    def keep(self, note: str) -> int:
        """Keeps the draft as a revision; its number."""
        return self.session.history.keep(note).number

    # -- controller -----------------------------------------------------------------------------------------------

    def connect(self, address: str) -> None:
        """One that is connected is left before. Raises Unreachable with the sentence where it cannot be done."""
        if self.session.connected:
            self.session.disconnect()
            self.loop.until(lambda: not self.session.connected, PATIENCE)
        self._ended.clear()
        self._address = address
        self.session.connect_to(address)
        self.loop.until(lambda: self.session.connected or "connect" in self._ended, PATIENCE)
        if not self.session.connected:
            raise Unreachable(self.session.refusal or f"{address}: no controller has answered.")

    def send(self, *, restart: bool = True) -> None:
        """Sends the draft as a whole: written, read back, stored; restarted where something waits for it. Raises IdlerError.

        Drives that store only without power are powered off.
        """
        for again in (False, True):
            if self.session.off_first and self.session.powered:
                self.power(False)
            if why := self.session.send_obstacle():
                raise IdlerError(f"Nothing was sent. {why}")
            try:
                self._await("send", lambda: self.session.send(restart=restart))
                break
            except IdlerError:
                if again or not (self.session.off_first and self.session.powered):
                    raise
        self.loop.until(lambda: not self.session.busy, PATIENCE)

    def power(self, on: bool = True) -> None:
        """Raises IdlerError where the drives do not get their power."""
        self._await("power", lambda: self.session.power(on))
        if not self.loop.until(lambda: self.session.powered is on, 5.0):
            raise IdlerError("The drives have no power." if on else "The drives still have power.")

    def stop(self) -> None:
        """STOP: quick stop of all axes, and the spindle; over when nothing moves, or nothing is heard."""
        self.session.stop()
        self.loop.until(lambda: not self.session.moving, 5.0)

    @property
    def axes(self) -> tuple[AxisState, ...]:
        """The axes as last heard."""
        self.loop.until(lambda: True, 0.0)
        return self.session.axes

    def wait(self, condition: Callable[[], object], seconds: float = PATIENCE) -> bool:
        """Lets the session work until the condition holds; False where it does not within this time."""
        return self.loop.until(condition, seconds)

    def _await(self, what: str, work: Callable[[], object]) -> None:
        self._ended.pop(what, None)
        work()
        self.loop.until(lambda: what in self._ended or not self.session.connected, PATIENCE)
        if not self.session.connected:
            raise Unreachable("The link was lost.")
        if not self._ended.get(what):
            raise IdlerError(self.session.refusal or f"The controller did not answer: {what}.")

    # -- procedures -----------------------------------------------------------------------------------------------

    def run(self, word: str, axis: str = "", answers: Answers = nobody, wishes: Wishes | None = None) -> Result:
        """Runs a procedure of `idler.procedures.registry.WORDS` to its end.

        answers: what the person says, by the key of the question or by a function of it; where a function says None, the
        machine answers, or a later call of `Procedure.answer`. What nobody answers ends it. Raises Refusal for a word, an
        axis or an answer that is none; a KeyboardInterrupt stops the machine first.
        """
        if word not in WORDS:
            raise Refusal("procedure", word, "is not known", ", ".join(WORDS), _nearest(word, WORDS))
        slot = -1
        if axis or WORDS[word].of_axis:
            if axis not in self.machine.names:
                raise Refusal("axis", axis or "none", "is none of this machine", " ".join(self.machine.names))
            slot = self.machine.names.index(axis)
        procedure, why = WORDS[word].begin(self.session, slot, wishes or Wishes())
        if why:
            return Result(Ending.FAILED, why)
        self.procedure = procedure
        try:
            return self._drive(procedure, answers)
        except BaseException:
            self.stop()
            procedure.stop("It was stopped.")
            self._settle(procedure)
            raise

    def work_through(
        self, answers: Answers = nobody, wishes: Wishes | None = None, *, take: bool = False
    ) -> Iterator[tuple[Step, Result]]:
        """All that is left, one step after the other, each with what came of it; ends where nothing is left, or a step came to
        the same twice. take: whether the edits that are proposed are taken and sent. Raises Refusal, or IdlerError where
        something cannot be sent or powered."""
        tries: Counter[str] = Counter()
        edits: Counter[str] = Counter()
        proven: Counter[str] = Counter()
        while (step := self.session.agenda.next) is not None and tries[step.key] < TRIES:
            before = self.machine
            result = self._step(step, answers, wishes or Wishes())
            if (result.edit or self.machine != before) and edits[step.key] < MOST_EDITS:
                edits[step.key] += 1  # something is mended by it
            elif result.end is Ending.PROVEN and proven[step.key] < MOST_PROVEN:
                proven[step.key] += 1  # it may go stale by what is mended later
            elif step.key not in (SEND, RESTART):  # these follow from others
                # what was measured, and changes nothing, is measured once more, and not until it happens to fit
                tries[step.key] += 2 if result.end is Ending.NOT_PROVEN and step.procedure else 1
            yield step, result
            if take and result.edit:
                self.take(result)

    def _step(self, step: Step, answers: Answers, wishes: Wishes) -> Result:
        if step.key in (SEND, RESTART):
            self.send()
            return Result(Ending.DONE, "Sent, read back and stored.")
        if step.key == CONNECT and self._address:
            self.connect(self._address)
            return Result(Ending.DONE, "The controller answers again.")
        if step.key == BUS:
            return self._speak()
        if step.key == KEEP:
            return Result(Ending.DONE, f"Kept as revision {self.keep('All that is left was worked through')}.")
        if not step.procedure:
            words = "A value is proposed." if step.edit else "This is for a person to settle."
            return Result(Ending.NOT_PROVEN, f"{step.text}. {words}", {}, dict(step.edit))
        told = wishes_of(step.procedure, wishes)
        if POWERED in step.needs and not self.session.powered:
            self.power()
        axes = [axis for axis in self.machine.axes if axis.whole("axis.output") and axis.whole("homing.turn")]
        lost = [axis.name for axis in axes if not self.session.homes.sure(axis.slot)]
        of = [name for name in lost if name == told.axis] if told.axis else lost
        for name in of if HOMED in step.needs else ():
            found = self.run("home", name, answers)
            if found.end not in (Ending.PROVEN, Ending.DONE):
                return found
        result = self.run(told.word, told.axis, answers, told.wishes)
        if result.end is Ending.STOPPED:  # what its record says may be what is next
            self.wait(lambda: not self.session.incidents.awaited, RECORD)
        ran = self.procedure
        if isinstance(ran, ProgramRun) and result.end is Ending.DONE:
            return self.touch_again(ran)
        return result

    def touch_again(self, ran: ProgramRun) -> Result:
        """The switches of the axes that a program or a figure has moved: whether steps were lost on the way."""
        touching = StepsAfter(self.session, ran)
        if why := touching.check():
            return Result(Ending.FAILED, why)
        self.procedure = touching
        return self._drive(touching, nobody)

    def _speak(self) -> Result:
        """Opens the bus of the spindle's drive, as it was described at the Spindle station."""
        bus = self.session.bus
        bus.open()
        if self.loop.until(lambda: bus.answers, ANSWERS):
            return Result(Ending.DONE, "The spindle's drive answers.")
        why = bus.obstacle() or "The spindle's drive has not answered."
        bus.leave()
        return Result(Ending.FAILED, why)

    def take(self, result: Result) -> None:
        """Takes what a result proposes into the draft; nothing is sent by it. Raises Refusal."""
        self.session.set_values(result.edit)

    def _drive(self, procedure: Procedure, answers: Answers) -> Result:
        told = ""
        asked: Question[Any] | None = None
        while procedure.running:
            if procedure.words != told:
                told = procedure.words
                self._progress(told)
            if procedure.question is not None and procedure.question is not asked:
                asked = procedure.question
                self._answer(procedure, asked, answers)
                continue
            words, question = told, procedure.question
            self.loop.until(
                lambda words=words, question=question: (
                    not procedure.running  # type: ignore[misc]
                    or procedure.words != words
                    or procedure.question is not question
                ),
                LONGEST,
            )
        self._settle(procedure)
        assert procedure.result is not None
        return procedure.result

    def _answer(self, procedure: Procedure, question: Question[Any], answers: Answers) -> None:
        given = answers(question) if callable(answers) else answers.get(question.key)
        if given is not None:
            self.loop.until(lambda: not procedure.must_rest, LONGEST)
            procedure.answer(given, beforehand=not callable(answers))
        elif not question.by_world and (answers is nobody or not callable(answers)):
            procedure.stop(f"Nobody answered: {question.text}")

    def _settle(self, procedure: Procedure) -> None:
        """Until what was tried is put back."""
        self.loop.until(lambda: procedure.settled or not self.session.connected, PATIENCE)

    # -- proofs ---------------------------------------------------------------------------------------------------

    @property
    def proofs(self) -> dict[str, Proof]:
        """Every claim of this machine by its key, and what is proven of it."""
        return {claim.key: state(self.machine, claim, self.session.proofs) for claim in claims(self.machine)}

    def proven(self, key: str) -> bool:
        """Raises Refusal for a key of no claim."""
        found = self.proofs
        if key not in found:
            raise Refusal("claim", key, "is none of this machine", way_out=_nearest(key, found))
        return found[key] is Proof.PROVEN


def open_machine(
    name: str, shelf: Path | str | None = None, *, says: Callable[[str], object] = lambda _: None,
    progress: Callable[[str], object] = lambda _: None,
) -> OpenMachine:  # fmt: skip
    """A machine of the person's own shelf, or of another folder. Raises IdlerError where it cannot be opened, or is held."""
    return OpenMachine(name, Path(shelf) if shelf is not None else None, says=says, progress=progress)


def new_machine(name: str, example: str = "verge", shelf: Path | str | None = None) -> None:
    """Puts an example machine onto the shelf under a name. Raises IdlerError."""
    from idler.shelf.examples import examples

    known = examples()
    if example not in known:
        raise Refusal("example", example, "is not known", ", ".join(known))
    root = Path(shelf) if shelf is not None else user_data_path("idler") / "shelf"
    Shelf(root).add(name, known[example], "A new machine", time.time())
