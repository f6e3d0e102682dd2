"""The command line. Words that need no window work without Qt, which is imported only where one is opened."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import TYPE_CHECKING

import click

from idler import __version__
from idler.core.errors import IdlerError

if TYPE_CHECKING:
    from idler.shelf.shelf import Shelf


class _Sentences(click.Group):
    """Shows the sentence of our own errors and exits with 2."""

    def invoke(self, ctx: click.Context) -> object:
        try:
            return super().invoke(ctx)
        except IdlerError as why:
            click.echo(f"idler: {why.sentence}", err=True)
            ctx.exit(2)


@click.group(cls=_Sentences, invoke_without_command=True, context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(__version__, "-V", "--version", prog_name="idler")
@click.pass_context
def main(ctx: click.Context) -> None:
    """Idler: teaches a CNC controller a machine, proves each value by moving, and keeps a profile for every machine.

    Without a word it opens the application on your own shelf.
    """
    if ctx.invoked_subcommand is None:
        from idler.app.run import run

        sys.exit(run(demo=False))


@main.command()
@click.option(
    "--rig", default="verge", show_default=True, type=click.Choice(["verge", "longcase", "fusee"]), help="The machine."
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


@main.command()
@click.option("--rig", default="verge", show_default=True, help="A rig by name, or the path of a rig file.")
@click.option("--port", default=0, help="Port of the bus; 0 takes any free one.")
@click.option("--hands-port", default=0, help="Port of the physical side; 0 takes any free one.")
@click.option("--pace", default=1.0, show_default=True, help="How much faster than real time the rig's clock runs.")
@click.option("--seed", default=1, show_default=True, help="Seed of everything that scatters.")
@click.option("--memory", type=click.Path(dir_okay=False, path_type=Path), help="File that the controller stores to.")
@click.option("--pty", is_flag=True, help="Offer the bus on a pseudo terminal as well.")
@click.option("--compile-only", is_flag=True, help="Compile the stepping code into its cache, and end.")
def bench(
    rig: str, port: int, hands_port: int, pace: float, seed: int, memory: Path | None, pty: bool, compile_only: bool
) -> None:
    """Run the stand-in controller with a simulated machine; prints one JSON line when it is ready."""
    from idler.bench import rig as rigs
    from idler.bench.server import Server
    from idler.bench.world import warm_up

    warm_up()
    if not compile_only:
        server = Server(rigs.load(rig), port=port, hands_port=hands_port, pace=pace, seed=seed, memory=memory, pty=pty)
        server.serve()


def _shelf(folder: Path | None) -> Shelf:
    """The shelf in a folder, or the person's own."""
    from platformdirs import user_data_path

    from idler.shelf.shelf import Shelf

    return Shelf(folder if folder is not None else user_data_path("idler") / "shelf")


_SHELF = click.option(
    "--shelf", "folder", type=click.Path(file_okay=False, path_type=Path), help="Another shelf than your own."
)


@main.group()
def shelf() -> None:
    """What is on the shelf."""


@shelf.command("list")
@_SHELF
@click.option("--json", "as_json", is_flag=True, help="For programs.")
def shelf_list(folder: Path | None, as_json: bool) -> None:
    """Name every machine with its newest revision. Exit code 0, or 2 where the shelf cannot be read."""
    import json
    import time

    kept = _shelf(folder)
    rows = []
    for name in kept.names():
        machine, revisions = kept.load(name).machine, kept.revisions(name)
        edits = len(kept.draft(name, machine)[0].differences(machine))
        rows.append({"name": name, "title": machine.title, "axes": "".join(machine.names), "revisions": len(revisions),
                     "newest": revisions[0].note, "when": revisions[0].when, "edits": edits})  # fmt: skip
    if as_json:
        click.echo(json.dumps(rows, indent=2, ensure_ascii=False))
        return
    for row in rows:
        day = time.strftime("%Y-%m-%d %H:%M", time.localtime(row["when"]))
        draft = f", {row['edits']} edits in no revision" if row["edits"] else ""
        click.echo(f"{row['name']}: {row['title']}, axes {row['axes']}, {row['revisions']} revisions{draft}")
        click.echo(f"    {day}  {row['newest']}")


@main.command()
@click.argument("first")
@click.argument("second")
@_SHELF
@click.option("--all", "everything", is_flag=True, help="What is the same too.")
@click.option("--json", "as_json", is_flag=True, help="For programs.")
def compare(first: str, second: str, folder: Path | None, everything: bool, as_json: bool) -> None:
    """Compare two machines: each the path of a machine file, NAME, NAME@NUMBER for a revision, or NAME@draft.

    Exit code 0 where they are the same, 1 where they differ, 2 where one cannot be read.
    """
    import json

    from idler.core.compare import as_json as to_json
    from idler.core.compare import compared
    from idler.shelf.sides import machine_of

    kept = _shelf(folder)
    parts = compared(machine_of(kept, first), machine_of(kept, second), everything=everything)
    if as_json:
        click.echo(json.dumps(to_json(parts), indent=2, ensure_ascii=False))
    for part in parts if not as_json else ():
        click.echo(part.name)
        for line in part.lines:
            click.echo(f"  {line.label}: {line.first_text} {'→' if line.differs else '='} {line.second_text}")
    if not parts and not as_json:
        click.echo("They are the same.")
    sys.exit(1 if any(part.differing for part in parts) else 0)


@main.command()
@click.argument("machine")
@_SHELF
@click.option(
    "--output", type=click.Path(dir_okay=False, path_type=Path), help="Write to a file and not to the screen."
)
def report(machine: str, folder: Path | None, output: Path | None) -> None:
    """Print the report of a machine as HTML: the path of a machine file, NAME, NAME@NUMBER, or NAME@draft.

    Exit code 0, or 2 where it cannot be read or written.
    """
    import time

    from idler.core.report import report as report_of
    from idler.shelf.files import write_text
    from idler.shelf.report import html
    from idler.shelf.sides import machine_of

    kept = _shelf(folder)
    name = machine.partition("@")[0]
    proofs = kept.proofs(name) if name in kept.names() else {}
    text = html(report_of(machine_of(kept, machine), proofs), machine, time.time())
    if output is None:
        click.echo(text)
    else:
        write_text(output, text)


@main.command()
@click.option("--axes", default=8, show_default=True, type=click.IntRange(1, 8))
@click.option("--inputs", default=32, show_default=True, type=click.IntRange(0, 32))
@click.option("--outputs", default=16, show_default=True, type=click.IntRange(0, 16))
@click.option(
    "--output", type=click.Path(dir_okay=False, path_type=Path), help="Write to a file and not to the screen."
)
def eds(axes: int, inputs: int, outputs: int, output: Path | None) -> None:
    """Print the electronic data sheet (CiA 306) of a controller with this profile."""
    from idler.core.machine import Shape
    from idler.core.table import AXIS_LETTERS
    from idler.core.wire.eds import eds_text
    from idler.core.wire.objects import entries

    _put(eds_text(entries(Shape(tuple(AXIS_LETTERS[:axes]), inputs, outputs))), output)


@main.command()
@click.argument("file", type=click.Path(dir_okay=False, path_type=Path))
@click.option("--json", "as_json", is_flag=True, help="Derived values and findings as JSON.")
def check(file: Path, as_json: bool) -> None:
    """Check a machine file: what follows from it and what is wrong. Exit 1 on errors, 2 where it cannot be read."""
    from idler.core import findings, machinefile
    from idler.shelf.files import read_text

    machine = machinefile.read(read_text(file)).machine
    found = findings.findings(machine)
    if as_json:
        click.echo(findings.check_json(machine))
    else:
        for name, row in findings.derived_values(machine).items():
            click.echo(f"{name}: {row['counts_per_unit']:.6g} counts per {row['unit']}  ({row['derivation']})")
        for item in found:
            click.echo(f"{item.severity.value}: {item.place}: {item.text}")
    sys.exit(any(item.severity is findings.Severity.ERROR for item in found))


@main.command()
@click.argument("what", type=click.Choice(["schema", "profile"]))
@click.option(
    "--output", type=click.Path(dir_okay=False, path_type=Path), help="Write to a file and not to the screen."
)
def describe(what: str, output: Path | None) -> None:
    """Print the JSON Schema of machine files, or the controller profile as a table."""
    import json

    from idler.core import machinefile
    from idler.core.wire.profile import profile_text

    text = (
        profile_text() if what == "profile" else json.dumps(machinefile.schema(), indent=2, ensure_ascii=False) + "\n"
    )
    _put(text, output)


def _put(text: str, output: Path | None) -> None:
    if output is None:
        click.echo(text, nl=False)
    else:
        output.write_text(text, "utf-8")
