"""A machine that nobody has described yet."""

from __future__ import annotations

import sys
import time
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import click

from .options import SHELF, hold, shelf_in

ASKED_ABOUT = 1


@click.command()
@click.argument("name")
@click.option(
    "--answers",
    "file",
    type=click.Path(dir_okay=False, path_type=Path),
    help="A small TOML file: kind, axes, [X] pitch …",
)
@click.option("--title", default="", help="What the machine is called, where that is more than its name on the shelf.")
@click.option("--sure", is_flag=True, help="What is seldom meant is meant.")
@click.option(
    "--questions", "only_ask", is_flag=True, help="Show the questions with their usual answers, and make nothing."
)
@SHELF
def new(name: str, file: Path | None, title: str, sure: bool, only_ask: bool, folder: Path | None) -> None:
    """Describe a machine by a handful of answers, and put it on the shelf. Without a file they are asked here.

    From there `idler next NAME` leads. Exit code 0, 1 where something is seldom meant and was not said to be (--sure), 2 where
    an answer is none, or the machine cannot be kept.
    """
    from idler.core.machine import file as machinefile
    from idler.core.mechanics.describing import described, doubts, questions, usual_words
    from idler.core.rules.findings import findings
    from idler.core.values.units import several

    answers = _from_file(file) if file is not None else {}
    if only_ask:
        for asked in questions(answers):
            choices = f"  ({', '.join(key for key, _ in asked.choices)})" if asked.choices else ""
            click.echo(f"{asked.key} = {answers.get(asked.key) or asked.usual!r}    {asked.text}{choices}")
        return
    if file is None:
        answers = _ask()
    machine = described(answers, title or name)
    left = [doubt for doubt in doubts(machine, answers) if not sure]
    for doubt in left:
        if file is None and click.confirm(doubt.text, default=False):
            continue
        click.echo(f"{doubt.key}: {doubt.text} Say --sure where it is, or give another answer.", err=True)
        sys.exit(ASKED_ABOUT)
    hold(shelf_in(folder))
    shelf_in(folder).add(name, machinefile.write(machine), f"Described; {usual_words(answers)}", time.time())
    found = len(findings(machine))
    click.echo(f"{name} is on the shelf: {machine.shape}; {usual_words(answers)}, {several(found, 'finding')}.")
    click.echo(f"What is next: idler next {name}")


def _from_file(path: Path) -> dict[str, str]:
    """Answers by key: of an axis below its letter. Raises IdlerError."""
    from idler.core.errors import IdlerError
    from idler.core.machine import filedata

    try:
        read = filedata.toml(path.read_text("utf-8"))
    except (OSError, UnicodeDecodeError) as why:
        raise IdlerError(f"{path}: cannot be read ({why}).") from None
    except IdlerError as why:
        raise IdlerError(f"{path}: {why.sentence}") from None
    answers: dict[str, str] = {}
    for key, value in read.items():
        if isinstance(value, Mapping):
            answers |= {f"{key}.{inner}": _text(path, f"{key}.{inner}", each) for inner, each in value.items()}
        else:
            answers[key] = _text(path, key, value)
    return answers


def _text(path: Path, key: str, value: Any) -> str:
    from idler.core.errors import IdlerError

    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, str | int | float):
        return str(value)
    raise IdlerError(f"{path}: {key} is no text and no number.")


def _ask() -> dict[str, str]:
    """One after the other; what is typed and cannot be is asked again. Raises IdlerError where nobody is there to answer."""
    from idler.core.errors import IdlerError, Refusal
    from idler.core.mechanics.describing import described, questions

    if not sys.stdin.isatty():
        raise IdlerError(
            "Nobody is there to answer. Give a file of answers: --answers FILE; --questions shows what is asked."
        )
    answers: dict[str, str] = {}
    while (asked := next((each for each in questions(answers) if each.key not in answers), None)) is not None:
        kind = click.Choice([key for key, _ in asked.choices]) if asked.choices else None
        answers[asked.key] = str(click.prompt(asked.text, default=asked.usual, type=kind))
        try:
            described(answers)
        except Refusal as why:
            click.echo(why.sentence, err=True)
            del answers[asked.key]
    return answers
