"""Lengths of tools and radii on disk: of the shop, not of the machine, so no revision holds them."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from idler.core.machine import filedata
from idler.core.program.tools import Tool, ToolSet

from .files import read_text, understood, write_text


def read(path: Path) -> ToolSet:
    """Raises IdlerError where the file cannot be understood."""
    if not path.exists():
        return ToolSet()
    with understood("tools", path, "The file is kept beside."):
        kept = filedata.toml(read_text(path))
        found = ToolSet()
        for number, tool in kept.get("tools", {}).items():
            found = _with(found, int(number), tool)
        return ToolSet(found.tools, {str(axis): float(radius) for axis, radius in kept.get("radii", {}).items()})


def _with(found: ToolSet, number: int, tool: Mapping[str, Any]) -> ToolSet:
    rests = {str(key): str(text) for key, text in tool.get("rests", {}).items()}
    return found.put(number, float(tool["length"]), rests).named(number, str(tool.get("name", "")))


def write(path: Path, tools: ToolSet) -> None:
    """On the disk when this returns."""
    import tomlkit

    document = tomlkit.document()
    document.add(
        tomlkit.comment("Lengths of tools in mm, by H, and radii in mm at which feeds of axes that turn are meant.")
    )
    document.add("tools", {str(number): _kept(tool) for number, tool in sorted(tools.tools.items())})
    document.add("radii", dict(sorted(tools.radii.items())))
    write_text(path, tomlkit.dumps(document))


def _kept(tool: Tool) -> dict[str, Any]:
    more = {"name": tool.name, "rests": dict(tool.rests)}
    return {"length": round(tool.length, 5), **{key: value for key, value in more.items() if value}}
