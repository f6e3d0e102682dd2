"""Lengths of tools, and radii at which feeds of axes that turn are meant."""

from __future__ import annotations

import json
from pathlib import Path

import click

from .options import SHELF


@click.command()
@click.argument("machine")
@click.option(
    "--length", "lengths", multiple=True,
    help="By how much a tool is longer than that of the work zero, as 3=12.4 for H3, in mm. May be given again.",
)  # fmt: skip
@click.option("--radius", "radii", multiple=True, help="As A=25, in mm; A=0: its feeds are in degrees.")
@click.option("--remove", type=int, multiple=True, help="The number of a tool that is none any more.")
@click.option("--json", "as_json", is_flag=True, help="For programs.")
@SHELF
def tools(
    machine: str, lengths: tuple[str, ...], radii: tuple[str, ...], remove: tuple[int, ...], as_json: bool,
    folder: Path | None,
) -> None:  # fmt: skip
    """List the tools that programs are read with, and change them.

    What is not given stays. Exit code 0, or 2 where something cannot be taken; then nothing of it is.
    """
    from idler.core.program.choices import chosen
    from idler.library import open_machine

    with open_machine(machine, folder) as mill:
        told = chosen(mill.machine, {}, lengths=lengths, radii=radii)
        kept = mill.session.tools
        for number, length in told.lengths.items():
            kept.put(number, length)
        for axis, radius in told.radii.items():
            kept.turning(axis, radius)
        for number in remove:
            kept.remove(number)
        reads, found = mill.machine.reads, kept.set
        stale = [number for number in found.tools if kept.is_stale(number)]
    if as_json:
        rows = {
            str(number): {"length": round(tool.length, 5), "name": tool.name, "stale": number in stale}
            for number, tool in sorted(found.tools.items())
        }
        click.echo(json.dumps({"tools": rows, "radii": dict(found.radii)}, ensure_ascii=False))
        return
    for number, tool in sorted(found.tools.items()):
        old = "  measured with another scale of Z: measure it anew" if number in stale else ""
        click.echo(f"H{number}  {reads.length(tool.length, sign=True)}  {tool.name}{old}".rstrip())
    for axis, radius in sorted(found.radii.items()):
        click.echo(f"Feeds of {axis} are meant at a radius of {reads.length(radius)}.")
    if not found.tools:
        click.echo("No tool has a length.")
