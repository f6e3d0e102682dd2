"""Options that several words share, and where their output goes."""

from __future__ import annotations

import atexit
from pathlib import Path
from typing import TYPE_CHECKING

import click

if TYPE_CHECKING:
    from idler.shelf.shelf import Shelf

OUTPUT = click.option(
    "--output", type=click.Path(dir_okay=False, path_type=Path), help="Write to a file and not to the screen."
)


def shelf_in(folder: Path | None) -> Shelf:
    """The shelf in a folder, or the person's own."""
    from platformdirs import user_data_path

    from idler.shelf.shelf import Shelf

    return Shelf(folder if folder is not None else user_data_path("idler") / "shelf")


SHELF = click.option(
    "--shelf", "folder", type=click.Path(file_okay=False, path_type=Path), help="Another shelf than your own."
)


def put(text: str, output: Path | None) -> None:
    """To a file as a whole, or to the screen. Raises FileTrouble."""
    from idler.shelf.files import write_text

    if output is None:
        click.echo(text, nl=False)
    else:
        write_text(output, text)


def hold(shelf: Shelf) -> None:
    """Takes a shelf for as long as this program runs. Raises IdlerError where it is another's, or cannot be written."""
    import time

    from idler.core.errors import IdlerError
    from idler.shelf.hold import ShelfHold

    taken = ShelfHold(shelf.root, silent=True)  # the window is where the log and what was left can be looked at
    atexit.register(taken.release)
    if taken.why_read_only:
        raise IdlerError(taken.why_read_only)
    if taken.left_since is not None and shelf.recover(time.time()):
        click.echo("idler: what was being kept when Idler ended badly is a revision now.", err=True)
