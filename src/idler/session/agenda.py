"""What is next with the machine in hand, and what is left out on purpose."""

from __future__ import annotations

from typing import TYPE_CHECKING

from idler.core.controller.standing import Count
from idler.core.errors import IdlerError, Refusal
from idler.core.report.agenda import Now, Step, agenda, ready
from idler.core.spindle import is_on_bus
from idler.core.table.stations import Station
from idler.shelf.shelf import Shelf

from .topic import Topic

if TYPE_CHECKING:
    from .session import Session

LONGEST_REASON = 120  # characters


class Agenda:
    """skips: reasons by the keys of steps."""

    def __init__(self, session: Session, shelf: Shelf, name: str) -> None:
        self._session, self._shelf, self._name = session, shelf, name
        self.changed: Topic[()] = Topic()
        self.trouble = ""
        self.skips: dict[str, str] = {}
        try:
            self.skips = shelf.skips(name)
        except IdlerError as why:
            self.trouble = why.sentence

    @property
    def steps(self) -> tuple[Step, ...]:
        """All that is left, in the order of the work."""
        session = self._session
        count = session.count()
        edited = len(count.edited) + (count.to_send and not count.edited)
        now = Now(
            session.connected,
            edited if count.known else 0,
            len(count.waiting) + (count.to_restart and not count.waiting) if count.known else 0,
            not count.known or self._is_kept(count),
            session.bus.opened or not is_on_bus(session.machine),
        )
        return agenda(session.machine, session.proofs, session.findings(), now, self.skips)

    def _is_kept(self, count: Count) -> bool:
        """Whether the newest revision holds all that is in force, and all that was seen of it."""
        session = self._session
        same = not count.in_force and session.base.shape == session.machine.shape
        return same and not session.history.has_new_proofs

    @property
    def next(self) -> Step | None:
        return ready(self.steps)

    def left_at(self, station: Station, page: str, nothing: str) -> str:
        """What is next on one page, in words; nothing: what is said where all of it is done or left out."""
        here = [step for step in self.steps if step.procedure and (step.station, step.page) == (station, page)]
        step = next((step for step in here if not step.skipped), None)
        if step is not None:
            return f"Next here: {step.text[0].lower()}{step.text[1:]}."
        return "What is left here is left out, with its reason." if here else nothing

    def skip(self, key: str, reason: str) -> None:
        """Raises Refusal where there is no reason, or no such step."""
        words = " ".join(reason.split())
        if not words or len(words) > LONGEST_REASON:
            raise Refusal("reason", f"“{words[:30]}”", "says nothing" if not words else "is too long",
                          f"1 to {LONGEST_REASON} signs", "write why it is left out")  # fmt: skip
        if key not in [step.key for step in self.steps]:
            raise Refusal("step", f"“{key[:40]}”", "is none that is left")
        self._put({**self.skips, key: words})

    def take_up(self, key: str) -> None:
        """What was skipped is to be done after all."""
        self._put({each: reason for each, reason in self.skips.items() if each != key})

    def _put(self, skips: dict[str, str]) -> None:
        self.skips = skips
        try:
            self._shelf.save_skips(self._name, skips)
        except IdlerError as why:
            self._session.refuse("What is skipped is not on the disk yet.", why.sentence)
        self.changed.publish()
