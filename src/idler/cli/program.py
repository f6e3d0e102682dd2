"""Programs: read, checked against a machine, timed, without moving anything."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import TYPE_CHECKING

import click

from .options import SHELF, shelf_in

if TYPE_CHECKING:
    from idler.core.machine import Machine
    from idler.core.program.tools import ToolSet
    from idler.core.program.verdict import Verdict
    from idler.shelf.shelf import Shelf


@click.command()
@click.argument("file", type=click.Path(dir_okay=False, path_type=Path, allow_dash=True))
@click.option("--machine", required=True, help="The path of a machine file, NAME, NAME@NUMBER or NAME@draft.")
@click.option(
    "--zero", default="", help="The work zero that is shown: G54 to G59, or machine coordinates as X=12.5,Y=40."
)
@click.option(
    "--length",
    "lengths",
    multiple=True,
    help="Length of a tool in mm, as 3=52.4 for H3; else those that the machine was told. May be given again.",
)
@click.option(
    "--radius", "radii", multiple=True, help="Radius in mm of an axis that turns, as A=25: its feeds are at the rim."
)
@click.option(
    "--tolerance", default="", help="mm by which corners may be cut where the program says nothing; 0 stops at each."
)
@click.option("--faster", "asks_faster", is_flag=True, help="Say what twice the acceleration of an axis would save.")
@click.option("--picture", type=click.Path(dir_okay=False, path_type=Path), help="Draw it into a file, .svg or .png.")
@click.option("--json", "as_json", is_flag=True, help="For programs.")
@SHELF
def program(
    file: Path, machine: str, zero: str, lengths: tuple[str, ...], radii: tuple[str, ...], tolerance: str,
    asks_faster: bool, picture: Path | None, as_json: bool, folder: Path | None,
) -> None:  # fmt: skip
    """Say whether a machine can run a program (ISO 6983), how far it goes, how long it takes and which line is at fault.

    FILE is a program, or - for what comes on standard input. Exit code 0 it fits, 1 it does not, 2 it cannot be read.
    """
    import json
    from dataclasses import asdict

    from idler.core.program.choices import chosen
    from idler.core.program.faster import savings
    from idler.core.program.verdict import judge
    from idler.shelf.programs import program_bytes
    from idler.shelf.sides import machine_of

    kept = shelf_in(folder)
    on = machine_of(kept, machine)
    zeros, shown = _zeros_on(kept, machine, on)
    choice = chosen(on, zeros, zero, lengths, radii, tolerance, shown, _tools_on(kept, machine))
    found = judge(program_bytes(file), on, choice)
    assert found is not None
    if picture is not None:
        _draw(found, picture)
    saved = savings(found) if asks_faster else ()
    if as_json:
        more = {"faster": [asdict(saving) for saving in saved]} if asks_faster else {}
        click.echo(json.dumps({**found.as_json(), **more}, indent=2, ensure_ascii=False))
    else:
        _say(found)
        for saving in saved:
            click.echo(f"{saving.words}.")
    sys.exit(0 if found.fits else 1)


def _zeros_on(kept: Shelf, machine: str, on: Machine) -> tuple[dict[int, dict[str, float]], int]:
    """The work zeros that a machine of the shelf was given, without those that are stale, and which of them is shown."""
    name = machine.partition("@")[0]
    if name not in kept.names():
        return {}, 0
    zeros = kept.work_zeros(name)
    return zeros.valid(on), zeros.shown


def _tools_on(kept: Shelf, machine: str) -> ToolSet:
    """The tools that a machine of the shelf was told of."""
    from idler.core.program.tools import ToolSet

    name = machine.partition("@")[0]
    return kept.tools(name) if name in kept.names() else ToolSet()


def _draw(found: Verdict, file: Path) -> None:
    """Raises IdlerError where the file is of another kind, or cannot be written."""
    from idler.core.errors import Refusal
    from idler.core.program.drawing import svg_text
    from idler.shelf.files import write_bytes

    text = svg_text(found).encode()
    match file.suffix.lower():
        case ".svg":
            write_bytes(file, text)
        case ".png":
            from idler.app.pictures.svg import png_of

            write_bytes(file, png_of(text))
        case other:
            raise Refusal("picture", f"“{other}”", "is not a kind of picture that is drawn", "name it .svg or .png")


def _say(found: Verdict) -> None:
    from idler.core.program.saying import sentences

    for line in sentences(found):
        click.echo(line)
