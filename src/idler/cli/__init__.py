"""The command line. Words that need no window work without Qt, which is imported only where one is opened."""

from __future__ import annotations

import sys
from pathlib import Path

import click

from idler import __version__
from idler.core.errors import IdlerError

from . import (
    actions,
    bench,
    controller,
    describe,
    exchange,
    hand,
    install,
    language,
    machines,
    manual,
    new,
    next,
    nodes,
    number,
    program,
    run,
    sheet,
    tools,
)

PROGRAM = "./idler"


class _Sentences(click.Group):
    """Shows the sentence of our own errors, and to a person where more is told, and exits with 2."""

    def invoke(self, ctx: click.Context) -> object:
        try:
            return super().invoke(ctx)
        except IdlerError as why:
            click.echo(f"idler: {why.sentence}", err=True)
            if why.sentence.page and sys.stderr.isatty():
                click.echo(f"More: {PROGRAM} help {why.sentence.page}", err=True)
            ctx.exit(2)


@click.group(cls=_Sentences, invoke_without_command=True, context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(__version__, "-V", "--version", prog_name="idler")
@click.option(
    "--program", "file", type=click.Path(dir_okay=False, path_type=Path), help="Open this program at the Trial station."
)
@click.pass_context
def main(ctx: click.Context, file: Path | None) -> None:
    """Idler: teaches a CNC controller a machine, proves each value by moving, and keeps a profile for every machine.

    Without a word it opens the application on your own shelf.
    """
    if ctx.invoked_subcommand is None:
        from idler.app.run import run

        sys.exit(run(demo=False, program=file))


@main.command()
@click.option(
    "--rig",
    default="verge",
    show_default=True,
    type=click.Choice(["verge", "longcase", "fusee", "pieces"]),
    help="The machine.",
)
def demo(rig: str) -> None:
    """Start the bench and open the application with demo data."""
    from idler.app.run import run

    sys.exit(run(demo=True, rig=rig))


@main.command()
@click.option(
    "--shots", type=click.Path(file_okay=False, path_type=Path), required=True, help="Folder for the pictures."
)
def tour(shots: Path) -> None:
    """Walk the real interface through the example and write one picture for each main view."""
    from idler.app.tour.walk import tour as walk

    sys.exit(walk(shots))


for word in (
    bench.bench, bench.compile_,
    machines.shelf, machines.compare, machines.check, machines.report, controller.pull, controller.send,
    controller.settle, describe.eds, describe.describe, exchange.export_, exchange.import_, exchange.unlock,
    program.program, tools.tools, run.run, actions.actions, hand.hand, nodes.nodes, number.number, sheet.sheet,
    next.next_, new.new, manual.help_, install.install, language.language,
):  # fmt: skip
    main.add_command(word)
