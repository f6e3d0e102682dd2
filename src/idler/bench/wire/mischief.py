"""Faults of the controller and of its wire that come at a chosen moment, for seeing what a send leaves behind."""

from __future__ import annotations

from dataclasses import dataclass

from idler.core.errors import IdlerError

KINDS = {
    "refuse": "a written value is refused",
    "clip": "a written value is kept as another one",
    "restart": "the controller restarts instead of taking a value",
    "cut": "the plug is pulled before a frame",
    "store": "storing fails",
    "deaf": "a frame to the controller is lost",
}


@dataclass
class Mischief:
    """kind: one of KINDS, or empty. left: how many frames, writes or orders to store still go well before it comes."""

    kind: str = ""
    left: int = 0

    def plan(self, kind: str, left: int) -> None:
        """Raises IdlerError for a kind that is not known."""
        if kind and kind not in KINDS:
            raise IdlerError(f"Hands: there is no fault “{kind}”. There are: {', '.join(KINDS)}.")
        self.kind, self.left = kind, left

    def comes(self, *kinds: str) -> str:
        """The fault where it comes now; each is asked for at its own kind of moment, and comes once."""
        if self.kind not in kinds:
            return ""
        self.left -= 1
        if self.left >= 0:
            return ""
        found, self.kind = self.kind, ""
        return found
