"""The desk's side of what controllers hold: sends whose end nobody saw, and values that changed behind Idler's back."""

from __future__ import annotations

import time
from collections.abc import Mapping
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from idler.core.changes import differences
from idler.core.errors import IdlerError
from idler.core.machine import Machine
from idler.core.sending import End, Outcome, Sending, labels, outcome, sentence
from idler.core.standing import Holding
from idler.core.wire.codec import Place, Raw, encode, machine_from, place
from idler.link.sending import Plan
from idler.shelf.controllers import Controllers

from .offers import Offer

if TYPE_CHECKING:
    from .desk import Desk

SEND, BEHIND, LOOSE = "send", "behind", "loose"


class ControllerSide(QObject):
    """Judged by what the controller says whenever it was read. `begin` may be called on the link's thread."""

    offered = Signal(object)  # Offer
    withdrawn = Signal(str)  # key of an offer
    compare = Signal(str)  # a comparison of the draft with this side is wanted

    def __init__(self, desk: Desk, kept: Controllers) -> None:
        super().__init__(desk)
        self._desk, self._kept = desk, kept
        self._sending: Sending | None = None
        self._heard: Mapping[Place, Raw] | None = None
        self.before: Machine | None = None  # what Idler last knew, where the controller now holds something else
        self.trouble = ""
        try:
            self._sending = kept.begun()
        except IdlerError as why:
            self.trouble = why.sentence

    # -- sending --------------------------------------------------------------------------------------------------

    def begin(self, old: Mapping[Place, Raw], new: Mapping[Place, Raw]) -> None:
        """Before the first value is written. Raises FileTrouble: then nothing is."""
        identity = self._desk.identity
        made = Sending(identity.serial if identity else 0, time.time(), dict(old), dict(new))
        self._kept.begin(made)
        self._sending = made

    @property
    def unfinished(self) -> Outcome | None:
        """The outcome of a send that is neither all old nor all new, as the controller was last read."""
        holding, identity, made = self._desk.holding, self._desk.identity, self._sending
        if holding is None or identity is None or made is None or identity.serial != made.serial:
            return None
        found = outcome(made, holding)
        return None if found.settled else found

    def finish(self) -> None:
        """Writes the new values that the controller does not hold yet, and stores."""
        if self._sending is not None:
            self._write(self._sending.new)

    def put_back(self) -> None:
        """Writes the old values where the controller holds others, and stores."""
        if self._sending is not None:
            self._write(self._sending.old)

    def _write(self, raws: Mapping[Place, Raw]) -> None:
        holding = self._desk.holding
        if holding is not None:
            wanted = {where: raw for where, raw in raws.items() if holding.raws.get(where) != raw}
            self._desk.link.send(Plan(wanted, labels(self._desk.machine)))

    # -- judging --------------------------------------------------------------------------------------------------

    def judge(self, holding: Holding, *, first: bool) -> None:
        """Called when the controller was read. first: a connection has just been made."""
        was_open = self._sending is not None
        unfinished = self.unfinished
        if unfinished is not None:
            names = labels(self._desk.machine)
            words = f"A send was interrupted. {sentence(unfinished, names)} Your edits are still here."
            ways = (
                ("Finish sending", self.finish),
                ("Put the old values back", self.put_back),
                ("Compare", lambda: self.compare.emit("controller")),
            )
            self.offered.emit(Offer(SEND, words, ways))
            return
        self.withdrawn.emit(SEND)
        if was_open and self._settle(holding, first):
            return
        self._look_behind(holding, first)
        self._look_loose(holding, first)

    def _settle(self, holding: Holding, first: bool) -> bool:
        """The journal of a send that has an end is closed. True where it was of this controller."""
        identity, made = self._desk.identity, self._sending
        if identity is None or made is None or identity.serial != made.serial:
            return False
        end = outcome(made, holding).end
        try:
            self._kept.ended()
        except IdlerError as why:
            self._desk.told.emit("warn", why.sentence)
        self._sending = None
        if first:
            all_new = end is End.NEW
            tail = "everything that was sent, and has stored it" if all_new else "its old values, as before the send"
            self._desk.told.emit("plain", f"A send was interrupted. The controller holds {tail}.")
        self._remember(holding)
        return True

    def _look_behind(self, holding: Holding, first: bool) -> None:
        """Whether somebody else has changed it since Idler last read it."""
        identity = self._desk.identity
        if identity is None:
            return
        if first:
            self._heard = self._kept.heard(identity.serial)
            own = self._given_at_connect()
            known = self._heard
            changed = [
                w for w, raw in holding.raws.items() if known is not None and known.get(w) != raw and w not in own
            ]
            self.before = self._machine_before(holding) if changed else None
            if changed and self.before is not None:
                self.offered.emit(self._behind(len(changed)))
                return
        if self.before is None:
            self._remember(holding)

    def _given_at_connect(self) -> dict[Place, Raw]:
        """What it is told at each connect and does not store."""
        return {place(address): encode(address.row, value) for address, value in self._desk.startup.items()}

    def _machine_before(self, holding: Holding) -> Machine | None:
        """What it held when it was last heard, where that can be said with the axes that it has now."""
        try:
            return machine_from({**holding.raws, **(self._heard or {})}, holding.shape)
        except (IdlerError, KeyError):
            return None

    def _behind(self, number: int) -> Offer:
        assert self.before is not None
        listed = [str(change) for change in differences(self.before, self._desk.in_force)]
        more = f" and {len(listed) - 3} more" if len(listed) > 3 else ""
        words = (
            f"The controller was changed by somebody else since Idler last read it: {'; '.join(listed[:3])}{more}. "
            if listed
            else f"{number} objects of the controller were changed since Idler last read it. "
        ) + "Nothing was overwritten."

        def take() -> None:
            self.leave()
            self._desk.take_over_controller()

        return Offer(BEHIND, words, (("Compare", lambda: self.compare.emit("heard")),
                                     ("Take its values into the draft", take), ("Leave it so", self.leave)))  # fmt: skip

    def leave(self) -> None:
        """The person has seen what changed: from here on it is known."""
        self.before = None
        self.withdrawn.emit(BEHIND)
        if self._desk.holding is not None:
            self._remember(self._desk.holding)

    def _remember(self, holding: Holding) -> None:
        identity = self._desk.identity
        if identity is not None and holding.raws != self._heard:
            self._heard = holding.raws
            try:
                self._kept.hear(identity.serial, holding.raws)
            except IdlerError as why:
                self._desk.told.emit("warn", f"What the controller holds could not be noted. {why.sentence}")

    def _look_loose(self, holding: Holding, first: bool) -> None:
        """Values that nobody stored: a restart would bring others back."""
        given = sum(holding.raws.get(where) == raw for where, raw in self._given_at_connect().items())
        if not holding.unstored:
            self.withdrawn.emit(LOOSE)
        elif first and holding.unstored > given:
            one = holding.unstored == 1
            words = f"The controller has not stored {holding.unstored} of its values: "
            words += f"a restart would bring {'another' if one else 'others'} back."
            store = ("Store them", lambda: self._desk.link.send(Plan({}, {})))
            self.offered.emit(Offer(LOOSE, words, (store, ("Restart the controller", self._desk.link.restart))))

    def gone(self) -> None:
        """No controller any more: what was offered about it is not to be decided now."""
        for key in (SEND, BEHIND, LOOSE):
            self.withdrawn.emit(key)
        self._heard = None
