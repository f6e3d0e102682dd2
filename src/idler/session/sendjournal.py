"""The journal of a send: what was there before and what was to be there, on the disk before the first value is written."""

from __future__ import annotations

import time
from collections.abc import Mapping
from typing import TYPE_CHECKING

from idler.core.controller.sending import Sending, SendOutcome, outcome
from idler.core.controller.standing import ControllerImage
from idler.core.profile.codec import Place, Raw

if TYPE_CHECKING:
    from idler.shelf.controllers import Controllers


class SendJournal:
    """begun: the send that has no end yet. Raises IdlerError where it cannot be read; then `begun` is None from there on."""

    def __init__(self, kept: Controllers) -> None:
        self._kept = kept
        self.begun: Sending | None = None

    def read(self) -> None:
        """Raises IdlerError."""
        self.begun = self._kept.begun()

    def begin(self, serial: int, old: Mapping[Place, Raw], new: Mapping[Place, Raw]) -> None:
        """Before the first value is written, on any thread. Raises FileTrouble: then nothing is."""
        made = Sending(serial, time.time(), dict(old), dict(new))
        self._kept.begin(made)
        self.begun = made

    def outcome(self, serial: int, holding: ControllerImage) -> SendOutcome | None:
        """What has become of it in this controller; None where no send to it is open."""
        return outcome(self.begun, holding) if self.begun is not None and self.begun.serial == serial else None

    def close(self) -> None:
        """It has an end: all is new, or all is old. Raises IdlerError where the disk refuses; it is closed all the same."""
        self.begun = None
        self._kept.ended()

    def missing(self, way: str, holding: ControllerImage) -> dict[Place, Raw]:
        """What is to be written so that all is "new", or "old"."""
        assert self.begun is not None
        wanted = self.begun.new if way == "new" else self.begun.old
        return {where: raw for where, raw in wanted.items() if holding.raws.get(where) != raw}
