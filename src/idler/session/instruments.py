"""The hands of a bench that a session uses: instruments can then be read with a click."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Protocol

Answer = Callable[[dict[str, Any]], None]


class Instruments(Protocol):
    def ask(self, answer: Answer, **request: Any) -> None:
        """Answered later, in order, on the session's thread; a refusal comes as {"ok": False, "error": sentence}."""
