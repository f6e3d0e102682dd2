"""The session's side of what controllers hold: sends whose end nobody saw, values that changed behind Idler's back, and
those that are set at each connect.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

from idler.core.controller.foreign_changes import changed_places, changes_in_words, machine_heard
from idler.core.controller.sending import SendEnd, SendOutcome, labels, sentence
from idler.core.controller.standing import ControllerImage
from idler.core.errors import IdlerError
from idler.core.machine import Address, Machine
from idler.core.profile.codec import Place, Raw, encode, place
from idler.core.values.parameter import Value
from idler.link.plan import Plan
from idler.shelf.shelf import Shelf

from .offers import Offer
from .sendjournal import SendJournal
from .topic import Topic

if TYPE_CHECKING:
    from .session import Session

SEND, BEHIND, LOOSE = "send", "behind", "loose"


class ControllerSide:
    """Judged by what the controller says whenever it was read. `begin` may be called on the link's thread."""

    def __init__(self, session: Session, shelf: Shelf) -> None:
        self.offered: Topic[Offer] = Topic()
        self.withdrawn: Topic[str] = Topic()  # key of an offer
        self.compare: Topic[str] = Topic()  # a comparison of the draft with this side is wanted
        self._session, self._shelf, self._kept = session, shelf, shelf.controllers(session.name)
        self._journal = SendJournal(self._kept)
        self._heard: Mapping[Place, Raw] | None = None
        self.before: Machine | None = None  # what Idler last knew, where the controller now holds something else
        self.startup: dict[Address, Value] = {}
        self.troubles: list[str] = []
        try:
            self._journal.read()
        except IdlerError as why:
            self.troubles.append(why.sentence)
        try:
            self.startup = shelf.startup(session.name, session.machine)
        except IdlerError as why:
            self.troubles.append(why.sentence)

    # -- sending --------------------------------------------------------------------------------------------------

    def begin(self, old: Mapping[Place, Raw], new: Mapping[Place, Raw]) -> None:
        """Before the first value is written. Raises FileTrouble: then nothing is."""
        identity = self._session.identity
        self._journal.begin(identity.serial if identity else 0, old, new)

    @property
    def unfinished(self) -> SendOutcome | None:
        """The outcome of a send that is neither all old nor all new, as the controller was last read."""
        holding, identity = self._session.holding, self._session.identity
        if holding is None or identity is None:
            return None
        found = self._journal.outcome(identity.serial, holding)
        return None if found is None or found.settled else found

    def finish(self) -> None:
        """Writes the new values that the controller does not hold yet, and stores."""
        self._write("new")

    def put_back(self) -> None:
        """Writes the old values where the controller holds others, and stores."""
        self._write("old")

    def store(self) -> None:
        """What the controller holds is what it will have after a restart."""
        if self._session.holding is not None and not self._session.refuses_change():
            self._session.link.send(Plan({}, {}, self._session.holding))

    def _write(self, way: str) -> None:
        holding = self._session.holding
        if self._journal.begun is not None and holding is not None and not self._session.refuses_change():
            missing = self._journal.missing(way, holding)
            self._session.link.send(Plan(missing, labels(self._session.machine), holding))

    # -- judging --------------------------------------------------------------------------------------------------

    def judge(self, holding: ControllerImage, *, first: bool) -> None:
        """Called when the controller was read. first: a connection has just been made."""
        unfinished = self.unfinished
        if unfinished is not None:
            words = f"A send was interrupted. {sentence(unfinished, labels(self._session.machine))} Your edits are still here."
            ways = (
                ("Finish sending", self.finish),
                ("Put the old values back", self.put_back),
                ("Compare", lambda: self.compare.publish("controller")),
            )
            self.offered.publish(Offer(SEND, words, ways))
            return
        self.withdrawn.publish(SEND)
        own = self._settle(holding, first) | set(self._given_at_connect())
        self._look_behind(holding, first, own)
        self._look_loose(holding, first)

    def _settle(self, holding: ControllerImage, first: bool) -> set[Place]:
        """The journal of a send that has an end is closed. The places that Idler itself may have changed by it."""
        identity, made = self._session.identity, self._journal.begun
        found = self._journal.outcome(identity.serial, holding) if identity is not None else None
        if made is None or found is None:
            return set()
        try:
            self._journal.close()
        except IdlerError as why:
            self._session.tell("warn", why.sentence)
        if first:
            all_new = found.end is SendEnd.NEW
            tail = "everything that was sent, and has stored it" if all_new else "its old values, as before the send"
            self._session.tell("plain", f"A send was interrupted. The controller holds {tail}.")
        return set(made.new)

    def _look_behind(self, holding: ControllerImage, first: bool, own: set[Place]) -> None:
        """Whether somebody else has changed it since Idler last read it."""
        identity = self._session.identity
        if identity is None:
            return
        if first:
            self._heard, self.before = self._kept.heard(identity.serial), None
        if (first or holding.foreign) and self._heard is not None:
            changed = changed_places(self._heard, holding, own)
            found = machine_heard(self._heard, holding) if changed else None
            if found is not None:
                self.before = found
                self.offered.publish(self._behind(found, len(changed)))
        if self.before is None:
            self._remember(holding)

    def _behind(self, before: Machine, number: int) -> Offer:
        listed = changes_in_words(before, self._session.in_controller) or f"{number} objects that follow from others"
        words = (
            f"The controller was changed by somebody else since Idler last read it: {listed}. Nothing was overwritten."
        )

        def take() -> None:
            self.leave()
            self._session.take_over_controller()

        return Offer(BEHIND, words, (("Compare", lambda: self.compare.publish("heard")),
                                     ("Take its values into the draft", take), ("Leave it so", self.leave)))  # fmt: skip

    # -- at each connect ------------------------------------------------------------------------------------------

    def keep_startup(self, values: Mapping[Address, Value]) -> None:
        """The values for each connect, from the next one on. Raises IdlerError."""
        self._session.lock.require_open()
        self._shelf.save_startup(self._session.name, self._session.machine, values)
        self.startup = dict(values)

    def start_up(self, holding: ControllerImage) -> None:
        """Gives the controller the values that it is to have at each connect, where it holds others."""
        given = self._given_at_connect()
        other = {where: raw for where, raw in given.items() if holding.raws.get(where, raw) != raw}
        if other:
            self._session.link.try_values(other)
            self._session.link.read_all()
            number = "1 value was" if len(other) == 1 else f"{len(other)} values were"
            self._session.tell("plain", f"{number} set for this connect.")

    def _given_at_connect(self) -> dict[Place, Raw]:
        """What it is told at each connect and does not store."""
        return {place(address): encode(address.row, value) for address, value in self.startup.items()}

    # -- what somebody else changed ---------------------------------------------------------------------------------

    def leave(self) -> None:
        """The person has seen what changed: from here on it is known."""
        self.before = None
        self.withdrawn.publish(BEHIND)
        if self._session.holding is not None:
            self._remember(self._session.holding)

    def _remember(self, holding: ControllerImage) -> None:
        identity = self._session.identity
        if identity is not None and holding.raws != self._heard:
            self._heard = holding.raws
            try:
                self._kept.hear(identity.serial, holding.raws)
            except IdlerError as why:
                self._session.refuse("What the controller holds could not be noted.", why.sentence)

    def _look_loose(self, holding: ControllerImage, first: bool) -> None:
        """Values that nobody stored: a restart would bring others back."""
        given = sum(holding.raws.get(where) == raw for where, raw in self._given_at_connect().items())
        if not holding.unstored:
            self.withdrawn.publish(LOOSE)
        elif first and holding.unstored > given:
            one = holding.unstored == 1
            words = f"The controller has not stored {holding.unstored} of its values: "
            words += f"a restart would bring {'another' if one else 'others'} back."
            store = ("Store them", self.store)
            self.offered.publish(Offer(LOOSE, words, (store, ("Restart the controller", self._session.restart))))

    def gone(self) -> None:
        """No controller any more: what was offered about it is not to be decided now."""
        for key in (SEND, BEHIND, LOOSE):
            self.withdrawn.publish(key)
        self._heard = None
