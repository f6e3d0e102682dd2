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
    from idler.core.profile.eds import eds_text
    from idler.core.profile.objects import entries
    from idler.core.table import AXIS_LETTERS

    put(eds_text(entries(Shape(tuple(AXIS_LETTERS[:axes]), inputs, outputs))), output)


@click.command()
@click.argument("what", type=click.Choice(["schema", "profile", "questions", "procedures"]))
@OUTPUT
def describe(what: str, output: Path | None) -> None:
    """Print the JSON Schema of machine files, the controller profile as a table, or what can be run and what it asks."""
    import json

    if what == "profile":
        from idler.core.profile.document import profile_text

        put(profile_text(), output)
        return
    put(json.dumps(_described(what), indent=2, ensure_ascii=False) + "\n", output)


def _described(what: str) -> object:
    if what == "questions":
        from idler.procedures.questions import described

        return described()
    if what == "procedures":
        from idler.procedures.registry import WORDS

        return [{"word": word, "about": entry.about, "of_axis": entry.of_axis} for word, entry in WORDS.items()]
    from idler.core.machine import file as machinefile

    return machinefile.schema()
