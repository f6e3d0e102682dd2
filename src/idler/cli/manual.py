"""The help on the terminal, and as a manual."""

from __future__ import annotations

from pathlib import Path

import click


@click.command("help")
@click.argument("words", nargs=-1)
@click.option(
    "--output", type=click.Path(dir_okay=False, path_type=Path), help="Write the whole manual, .html or .pdf."
)
@click.option("--paper", type=click.Choice(["A4", "Letter"]), default="A4", show_default=True)
def help_(words: tuple[str, ...], output: Path | None, paper: str) -> None:
    """Print a page of the help: that of a station or a procedure, or the best one that has all WORDS.

    Without words the pages are listed. Exit code 0, 1 where no page has the words, or 2 where it cannot be written.
    """
    import sys

    from idler.core.report.finder import find
    from idler.core.report.manual import entries, page_of
    from idler.procedures.registry import help_pages
    from idler.shelf.manual import write_manual

    pages = help_pages()
    if output is not None:
        write_manual(output, pages, paper)
        return
    if not words:
        for page in pages:
            click.echo(f"{'    ' if page.part else ''}{page.key:24}  {page.title}")
        return
    exact = [page for page in pages if " ".join(words) in (page.key, page.word, *page.codes)]
    found = [page_of(pages, entry.help) for entry in find(entries(pages), " ".join(words))]
    if not exact + found:
        click.echo(f"No page of the help has {' '.join(words)}. Take fewer words, or others.", err=True)
        sys.exit(1)
    page, *others = [*exact, *(page for page in found if page not in exact)]
    click.echo(page.text.rstrip())
    if others and not exact:
        click.echo(f"\nAlso: {', '.join(other.key for other in others[:8])}")
