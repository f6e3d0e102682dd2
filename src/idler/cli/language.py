"""Idler in another language: its sentences for a translator, and a translation taken."""

from __future__ import annotations

from pathlib import Path

import click

_FOLDER = click.argument("folder", type=click.Path(file_okay=False, path_type=Path))
WRONG = 1


@click.group()
def language() -> None:
    """Speak another language: write what there is to translate, check a translation, and take it.

    A translation is a folder named after its language (“de”) with one PO file for each subject. docs/language.md tells more.
    """


@language.command()
@_FOLDER
def write(folder: Path) -> None:
    """Put all that Idler says into FOLDER, with what is translated there already.

    What changed since is marked fuzzy: it is not spoken before somebody has looked at it.
    """
    from idler.wording.catalogue import write as put

    click.echo(f"{put(folder)} sentences.")


@language.command()
@_FOLDER
def check(folder: Path) -> None:
    """Say how far a translation is, and what is wrong with it.

    Exit code 0, 1 where something is wrong, 2 where it cannot be read.
    """
    from idler.wording.catalogue import judged

    found = list(judged(folder))
    for each in found:
        click.echo(f"{each.done:5} of {each.all:4}  {each.subject}")
        for line in each.wrong:
            click.echo(f"  {line}")
    click.echo(f"{sum(each.done for each in found)} of {sum(each.all for each in found)} are translated.")
    if any(each.wrong for each in found):
        click.get_current_context().exit(WRONG)


@language.command()
@_FOLDER
def take(folder: Path) -> None:
    """Speak a translation from the next start on."""
    from idler.wording.catalogue import take as taken

    made = taken(folder)
    click.echo(
        f"Idler speaks “{made.language}” from its next start on, in {sum(map(len, made.words.values()))} sentences."
    )


@language.command()
@click.argument("name")
def use(name: str) -> None:
    """Speak a language that was taken before, or “en”, from the next start on."""
    from idler.core.errors import Refusal
    from idler.wording import spoken

    there = sorted(path.parent.name for path in spoken.home().glob("*/sentences.json"))
    if name not in (spoken.ENGLISH, *there):
        known = " or ".join((spoken.ENGLISH, *there))
        raise Refusal("language", name, "was not taken yet", way_out=f"take its folder, or use {known}")
    spoken.choose(name)
    click.echo(f"Idler speaks “{name}” from its next start on.")
