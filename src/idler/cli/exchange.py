"""Machines to and from files of other kinds."""

from __future__ import annotations

import sys
import time
from pathlib import Path

import click

from .options import SHELF, hold, shelf_in


@click.command("export")
@click.argument("machine")
@click.argument("file", type=click.Path(dir_okay=False, path_type=Path))
@SHELF
@click.option(
    "--node", default=1, show_default=True, type=click.IntRange(1, 127), help="Node of the controller, in a DCF."
)
def export_(machine: str, file: Path, folder: Path | None, node: int) -> None:
    """Write a machine to FILE: .toml, .json, .csv or .dcf by its ending.

    MACHINE is the path of such a file, NAME, NAME@NUMBER for a revision, or NAME@draft. Exit code 0, or 2 where the
    one cannot be read or the other not be written.
    """
    from idler.shelf.exchange import write_machine
    from idler.shelf.sides import with_text

    found = with_text(shelf_in(folder), machine)
    write_machine(file, found.machine, template=found.text, node=node)


@click.command("import")
@click.argument("file", type=click.Path(dir_okay=False, path_type=Path))
@SHELF
@click.option("--as", "name", help="Put it on the shelf as a new machine of this name.")
@click.option("--into", help="Take its values into the draft of this machine of the shelf.")
def import_(file: Path, folder: Path | None, name: str | None, into: str | None) -> None:
    """Read a machine from a file of any kind; show its values, what they change and what is wrong with it. Without --as
    or --into nothing is kept, and every value is shown that is not the usual one.

    Exit code 0, 1 where the machine has errors (it is kept all the same), 2 where nothing could be read or kept.
    """
    from idler.core.machine import Machine
    from idler.core.machine import file as machinefile
    from idler.core.machine.changes import axes_changed, differences
    from idler.core.machine.finding import Severity
    from idler.core.rules.findings import findings
    from idler.shelf.exchange import read_machine

    found = read_machine(file)
    for note in found.notes:
        click.echo(f"note: {note}")
    wrong = findings(found.machine)
    for item in wrong:
        click.echo(f"{item.severity.value}: {item.place}: {item.text}")
    shelf = shelf_in(folder)
    if name is not None or into is not None:
        hold(shelf)
    if name is not None:
        shelf.add(name, machinefile.write(found.machine, found.text), f"Imported from {file.name}", time.time())
        click.echo(f"{name} is on the shelf.")
    elif into is not None:
        shelf.require(into)
        shelf.require_unlocked(into)
        base = shelf.load(into).machine
        before, _ = shelf.draft(into, base)
        shelf.save_draft(into, found.machine, base)
        for line in (axes_changed(before, found.machine), *map(str, differences(before, found.machine))):
            if line:
                click.echo(line)
    else:
        for change in differences(Machine.shaped(found.machine.shape), found.machine):
            click.echo(f"{change}")
    sys.exit(any(item.severity is Severity.ERROR for item in wrong))


@click.command()
@click.argument("machine")
@SHELF
@click.option("--forgotten", is_flag=True, help="Without the PIN; the revisions will say so.")
def unlock(machine: str, folder: Path | None, forgotten: bool) -> None:
    """Take away the PIN that locks the set-up of a machine.

    Asks for the PIN, or takes it away without with --forgotten. Either leaves a revision. Exit code 0 where there is no
    PIN any more, 1 for a wrong PIN, 2 where the shelf cannot be changed.
    """
    shelf = shelf_in(folder)
    shelf.require(machine)
    if not shelf.is_locked(machine):
        click.echo(f"{machine} is not locked.")
        return
    hold(shelf)
    if not forgotten and not shelf.opens(machine, click.prompt("PIN", hide_input=True), time.time()):
        click.echo("idler: this is not the PIN. Nothing was changed.", err=True)
        sys.exit(1)
    known = "without being known" if forgotten else "by who knows it"
    shelf.unlock(machine, f"The PIN of {machine} was taken away {known}", time.time())
    click.echo(f"{machine} is not locked any more; its revisions say so.")
