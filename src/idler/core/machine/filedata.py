"""Text of files as plain data: TOML and JSON, within bounds. The one base of every reader, so that no file ends in more
than a sentence.

Bounds: DEEPEST tables or lists in one another, DIGITS digits of a whole number; figures are finite; no name stands twice
in one object.
"""

from __future__ import annotations

import json as _json
import math
import re
import tomllib
from typing import Any, NoReturn

from ..errors import About, IdlerError

DEEPEST = 24
DIGITS = 40


class Unreadable(IdlerError):
    """A text that is not what it should be. line: where, from 1; 0 where that cannot be said."""

    about = About.FILE

    def __init__(self, why: str, line: int = 0) -> None:
        super().__init__(f"line {line}: {why}" if line else why)
        self.why = why
        self.line = line


def toml(text: str, *, finite: bool = True) -> dict[str, Any]:
    """Raises Unreadable. finite: False for a reader that names a figure without end by itself."""
    try:
        found = tomllib.loads(text, parse_float=_figure if finite else float)
    except tomllib.TOMLDecodeError as why:
        what, _, where = str(why).partition(" (at ")
        line = re.match(r"line (\d+)", where)
        raise Unreadable(f"this is not TOML: {what.lower()}.", int(line[1]) if line else 0) from None
    except RecursionError:
        _too_deep()
    except (ValueError, OverflowError) as why:
        raise Unreadable(f"this is not TOML: {str(why)[:80]}.") from None
    _bounded(found)
    return found


def json(text: str) -> Any:
    """Raises Unreadable."""
    try:
        found = _json.loads(
            text, object_pairs_hook=_once, parse_float=_figure, parse_int=_whole, parse_constant=_figure
        )
    except _json.JSONDecodeError as why:
        raise Unreadable(f"this is not JSON ({why.msg.lower()}).", why.lineno) from None
    except RecursionError:
        _too_deep()
    _bounded(found)
    return found


def _figure(text: str) -> float:
    value = float(text.replace("_", ""))
    if not math.isfinite(value):
        raise Unreadable(f"{text[:40]} is not a finite number.")
    return value


def _whole(text: str) -> int:
    if len(text) > DIGITS:
        raise Unreadable(f"a number has {len(text)} digits; no value has more than {DIGITS}.")
    return int(text)


def _once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for key, value in pairs:
        if key in found:
            raise Unreadable(f"“{key[:40]}” stands twice in one object; which of the two is meant cannot be known.")
        found[key] = value
    return found


def _too_deep() -> NoReturn:
    raise Unreadable(f"it is nested too deeply: at most {DEEPEST} tables or lists in one another are read.")


def _bounded(found: Any) -> None:
    """Raises Unreadable where something is too deep or too large."""
    level = [found]
    for _ in range(DEEPEST):
        inside: list[Any] = []
        for item in level:
            if isinstance(item, dict):
                inside += item.values()
            elif isinstance(item, list):
                inside += item
            elif isinstance(item, int) and abs(item) >= 10**DIGITS:
                raise Unreadable(f"a number has more than {DIGITS} digits.")
        if not inside:
            return
        level = inside
    _too_deep()
