"""Own actions of a machine: their text, what is wrong with them, and what each would do."""

from __future__ import annotations

import sys
from pathlib import Path

import click

from .options import SHELF, shelf_in


@click.command()
@click.argument("machine")
@click.option(
    "--take",
    type=click.Path(dir_okay=False, exists=True, path_type=Path),
    help="Take the text of a file into the draft.",
)
@click.option("--rehearse", "name", default="", help="What an action would do, step by step; nothing moves.")
@click.option("--example", is_flag=True, help="The text of the actions that Idler comes with, to begin with.")
@click.option("--json", "as_json", is_flag=True, help="For programs.")
@SHELF
def actions(machine: str, take: Path | None, name: str, example: bool, as_json: bool, folder: Path | None) -> None:
    """Print the own actions of a machine, and what is wrong with them. docs/actions.md tells how they are written.

    MACHINE is the path of a machine file, NAME, NAME@NUMBER or NAME@draft. Exit code 0 where all can run on it, 1 where one
    cannot.
    """
    import json

    from idler.core.actions.examples import EXAMPLES
    from idler.core.actions.rehearsal import rehearse
    from idler.core.actions.text import one_line, read, write
    from idler.core.errors import Refusal
    from idler.core.rules.actions import actions_of, problems, wrong_with
    from idler.shelf.files import read_text
    from idler.shelf.sides import machine_of

    if example:
        click.echo("".join(EXAMPLES.values()), nl=False)
        return
    if take is not None:
        from idler.library import open_machine

        text = one_line(read(read_text(take)))
        with open_machine(machine, folder) as mill:
            mill["actions.text"] = text
        machine = f"{machine}@draft"
    on = machine_of(shelf_in(folder), machine)
    found = actions_of(on)
    if name:
        chosen = next((each for each in found if each.name == name), None)
        if chosen is None:
            raise Refusal(
                "action", f"“{name}”", "is none of this machine", ", ".join(each.name for each in found) or "none"
            )
        for depth, words in rehearse(chosen, found):
            click.echo(f"{'    ' * depth}{words}")
        return
    if as_json:
        told = [
            {
                "name": each.name, "event": each.event.words, "key": each.key, "wrong": wrong_with(on, each),
                "steps": [words for _, words in rehearse(each, found)],
            }
            for each in found
        ]  # fmt: skip
        click.echo(json.dumps(told, ensure_ascii=False))
    else:
        click.echo(write(found) or "none")
        for words in problems(on):
            click.echo(f"# {words}")
    sys.exit(1 if problems(on) else 0)
