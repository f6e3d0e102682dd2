"""Compiles the reader and the planner."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from idler.compiling import compiler

_SOURCES = (
    "language.py",
    "digits.py",
    "scanner.py",
    "arcs.py",
    "emitting.py",
    "cycles.py",
    "blocks.py",
    "modes.py",
    "envelope.py",
    "pieces.py",
    "strokes.py",
    "planner.py",
    "state.py",
)

compiled = compiler("programs", __file__, _SOURCES)


def inlined(function: Callable[..., Any]) -> Any:
    """Written into its callers: for what is called once for each move, where handing on the arrays would take longest."""
    return compiled(function, "always")
