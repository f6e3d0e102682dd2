"""What follows from the table: the electronic data sheet, the schema, the profile."""

from __future__ import annotations

from pathlib import Path

import click

from .options import OUTPUT, put


@click.command()
@click.option("--axes", default=8, show_default=True, type=click.IntRange(1, 8))
@click.option("--inputs", default=32, show_default=True, type=click.IntRange(0, 32))
@click.option("--outputs", default=16, show_default=True, type=click.IntRange(0, 16))
@OUTPUT
def eds(axes: int, inputs: int, outputs: int, output: Path | None) -> None:
    """Print the electronic data sheet (CiA 306) of a controller with this profile."""
    from idler.core.machine import Shape
    from idler.core.table import AXIS_LETTERS
    from idler.core.wire.eds import eds_text
    from idler.core.wire.objects import entries

    put(eds_text(entries(Shape(tuple(AXIS_LETTERS[:axes]), inputs, outputs))), output)


@click.command()
@click.argument("what", type=click.Choice(["schema", "profile"]))
@OUTPUT
def describe(what: str, output: Path | None) -> None:
    """Print the JSON Schema of machine files, or the controller profile as a table."""
    import json

    from idler.core import machinefile
    from idler.core.wire.profile import profile_text

    text = (
        profile_text() if what == "profile" else json.dumps(machinefile.schema(), indent=2, ensure_ascii=False) + "\n"
    )
    put(text, output)
