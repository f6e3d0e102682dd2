"""The tables of a machine file as lines, each with the comments above it, so that a machine of another shape keeps them.

Only headers are looked at: what the tables hold is the business of `machinefile`, which reads the result again.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from ..values.parameter import Scope
from . import Shape

HEADER = re.compile(r"^\s*\[\s*([^\]]+?)\s*\]")
_NUMBERED = (Scope.INPUT.value, Scope.OUTPUT.value)
_AXIS = Scope.AXIS.value


def path_of(dotted: str) -> tuple[str, ...]:
    """The names of a dotted key or header: 'axis."X".chain' is axis, X, chain."""
    return tuple(part.strip().strip("\"'") for part in dotted.split("."))


@dataclass(frozen=True)
class Block:
    """A table as it stands in the file; lines: comments above it, its header, its values."""

    path: tuple[str, ...]
    lines: tuple[str, ...]


def blocks(text: str) -> list[Block]:
    """The tables of a file in their order; the first has no path and holds what stands above every header."""
    found: list[Block] = []
    path: tuple[str, ...] = ()
    lines: list[str] = []
    above = 0  # how many lines at the end of `lines` are comments or blank
    for line in text.splitlines():
        if header := HEADER.match(line):
            cut = len(lines) - above
            found.append(Block(path, tuple(lines[:cut])))
            path, lines, above = path_of(header[1]), [*lines[cut:], line], 0
        else:
            lines.append(line)
            above = above + 1 if not line.strip() or line.lstrip().startswith("#") else 0
    return [*found, Block(path, tuple(lines))]


def reshaped(text: str, before: Shape, after: Shape) -> str:
    """The text with the tables of axes and terminals that `after` has, those it has not yet being empty.

    An axis keeps its tables by its letter. Where letters changed and none was added or left out, by its place.
    """
    if before == after:
        return text
    letters = _letters(before, after)
    common: list[Block] = []
    axes: dict[str, list[Block]] = {name: [] for name in after.names}
    numbered: dict[str, dict[int, list[Block]]] = {scope: {} for scope in _NUMBERED}
    for block in blocks(text):
        kind, name = (*block.path, "", "")[:2]
        if kind == _AXIS and name:
            if name in letters:
                axes[letters[name]].append(_renamed(block, letters[name]))
        elif kind in numbered and name.isdecimal():
            numbered[kind].setdefault(int(name), []).append(block)
        else:
            common.append(block)
    out = list(common)
    for name, tables in axes.items():
        out += tables or [Block((_AXIS, name), ("", f"[{_AXIS}.{name}]"))]
    for scope, count in zip(_NUMBERED, (after.inputs, after.outputs), strict=True):
        for number in range(1, count + 1):
            out += numbered[scope].get(number) or [Block((scope, str(number)), ("", f"[{scope}.{number}]"))]
    return "\n".join(line for block in out for line in block.lines) + "\n"


def _letters(before: Shape, after: Shape) -> dict[str, str]:
    """The letter that each axis has afterwards, of those that stay."""
    gone = [name for name in before.names if name not in after.names]
    new = [name for name in after.names if name not in before.names]
    renamed = dict(zip(gone, new, strict=True)) if len(gone) == len(new) else {}
    return {name: renamed.get(name, name) for name in before.names if name in after.names or name in renamed}


def _renamed(block: Block, name: str) -> Block:
    if block.path[1] == name:
        return block
    header = f"[{'.'.join((_AXIS, name, *block.path[2:]))}]"
    lines = tuple(HEADER.sub(header, line, count=1) if HEADER.match(line) else line for line in block.lines)
    return Block((_AXIS, name, *block.path[2:]), lines)
