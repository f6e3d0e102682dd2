"""Idler in a person's menu: the entry with its icon, the man page and the completion of a shell; and out of it again."""

from __future__ import annotations

import os
import sys
from collections.abc import Iterator
from importlib import resources
from pathlib import Path

import click

from idler import __version__

NAME = "idler"
COMPLETE = "_IDLER_COMPLETE"  # by which a shell asks for completion
STARTED_BY = "IDLER_STARTED_BY"  # the script of a bare clone, where it was that
_SHELLS = {
    "bash": f"bash-completion/completions/{NAME}", "zsh": f"zsh/site-functions/_{NAME}",
    "fish": f"fish/vendor_completions.d/{NAME}.fish",
}  # fmt: skip


def launcher() -> Path:
    """What starts this very Idler."""
    return Path(os.environ.get(STARTED_BY) or sys.argv[0]).resolve()


def _exec(path: Path) -> str:
    """As a desktop entry writes it (Desktop Entry Specification 1.5, the Exec key)."""
    told = str(path).replace("%", "%%")
    for sign in ("\\", '"', "`", "$"):
        told = told.replace(sign, f"\\{sign}")
    return '"' + told.replace("\\", "\\\\") + '"'


def files(program: click.Group, started_by: Path) -> Iterator[tuple[str, str]]:
    """What is put there: paths under the folder of a person's data, and texts."""
    from click.shell_completion import get_completion_class

    from .manpage import man_page

    package = resources.files("idler")
    entry = (package / "data" / "share" / "idler.desktop").read_text("utf-8")
    yield "applications/idler.desktop", entry.replace("Exec=idler", f"Exec={_exec(started_by)}")
    yield "icons/hicolor/scalable/apps/idler.svg", (package / "app" / "icons" / "idler.svg").read_text("utf-8")
    yield (
        "metainfo/local.idler.Idler.metainfo.xml",
        (package / "data" / "share" / "idler.metainfo.xml").read_text("utf-8"),
    )
    yield f"man/man1/{NAME}.1", man_page(program, NAME, __version__)
    for shell, path in _SHELLS.items():
        made = get_completion_class(shell)
        assert made is not None
        yield path, made(program, {}, NAME, COMPLETE).source()


@click.command()
@click.option("--remove", is_flag=True, help="Take all of it out again.")
@click.pass_context
def install(ctx: click.Context, remove: bool) -> None:
    """Put Idler into your menu, with its man page and the completion of your shell.

    Everything goes under your own data folder (~/.local/share), and a link named idler into ~/.local/bin where nothing of
    that name is there. Your machines are not touched. Exit code 0, or 2 where it cannot be written.
    """
    from platformdirs import user_data_path

    from idler.shelf.files import removed, write_text

    program = ctx.find_root().command
    assert isinstance(program, click.Group)
    started_by, folder = launcher(), user_data_path()
    link = Path.home() / ".local" / "bin" / NAME
    for path, text in files(program, started_by):
        if remove:
            removed(folder / path)
        else:
            (folder / path).parent.mkdir(parents=True, exist_ok=True)
            write_text(folder / path, text)
    ours = link.is_symlink() and link.resolve() == started_by
    if remove:
        if ours:
            removed(link)
        click.echo("Idler is out of your menu. Your machines are where they were.")
        return
    if not os.path.lexists(link) and link != started_by:
        link.parent.mkdir(parents=True, exist_ok=True)
        link.symlink_to(started_by)
    click.echo(f"Idler is in your menu. It is started by {started_by}.")
    if str(link.parent) not in os.environ.get("PATH", "").split(os.pathsep):
        click.echo(f"To type {NAME} anywhere, put {link.parent} into your PATH.")
