"""A controller without a window: read it into a machine file, send a machine to it, settle a send that was interrupted."""

from __future__ import annotations

import sys
import time
from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING

import click

from idler.core.errors import IdlerError

from .options import OUTPUT, SHELF, hold, put, shelf_in

if TYPE_CHECKING:
    from idler.core.controller.sending import SendOutcome
    from idler.core.controller.standing import ControllerImage
    from idler.core.profile.codec import Place, Raw
    from idler.link.events import Progress
    from idler.link.talk import Talk
    from idler.session.sendjournal import SendJournal
    from idler.shelf.shelf import Shelf

CONTROLLER = click.option(
    "--to", "address", required=True, help="The controller: /dev/ttyACM0, can0, slcan://HOST:PORT."
)
HELD_BACK, PARTLY = 1, 3


def _talk(address: str, folder: Path | None) -> Talk:
    from idler.link.talk import Talk

    def show(progress: Progress) -> None:
        if sys.stderr.isatty():
            click.echo(f"\r{progress.words}   ", nl=False, err=True)

    return Talk(address, progress=show, keep=shelf_in(folder).parts)


def _open_lock(shelf: Shelf, *names: str) -> None:
    """Asks for the PIN of each of these machines that is locked. Raises IdlerError where it is not given."""
    for name in dict.fromkeys(names):
        if not sys.stdin.isatty():
            shelf.require_unlocked(name)
        elif shelf.is_locked(name) and not shelf.opens(
            name, click.prompt(f"PIN of {name}", hide_input=True), time.time()
        ):
            raise IdlerError("This is not the PIN. Nothing was changed.")


@click.command()
@click.argument("address")
@click.option(
    "--parts", help="Of a controller that is made of plain parts: which node is what, as 1=X,2=Y,3=Z,4=terminals."
)
@click.option("--as", "name", help="Put it on the shelf as a new machine of this name.")
@SHELF
@OUTPUT
def pull(address: str, parts: str | None, name: str | None, folder: Path | None, output: Path | None) -> None:
    """Read all that a controller holds, as a machine file.

    Which part is which is remembered by serial numbers, and need not be said again. Exit code 0, or 2 where it cannot
    be read or kept.
    """
    from idler.core.machine import file as machinefile
    from idler.core.profile.codec import machine_from

    if parts is not None:
        from idler.link.bus.address import parse

        address = str(parse(address).of_parts(parts))
    with _talk(address, folder) as talk:
        found = talk.found
    text = machinefile.write(machine_from(found.holding.raws, found.holding.shape))
    if name is None:
        put(text, output)
        return
    hold(shelf_in(folder))
    note = f"As found in {found.identity.name}, serial number {found.identity.serial}"
    shelf_in(folder).add(name, text, note, time.time())
    click.echo(f"{name} is on the shelf. {note}.")


@click.command()
@click.argument("machine")
@CONTROLLER
@SHELF
@click.option("--plan", "only_plan", is_flag=True, help="Show what would be sent, and send nothing.")
@click.option("--restart", is_flag=True, help="Restart the controller afterwards, and verify what is in force.")
def send(machine: str, address: str, folder: Path | None, only_plan: bool, restart: bool) -> None:
    """Send a machine to a controller as a whole: written, read back, stored, verified. Nothing may move.

    MACHINE is the path of a machine file, NAME, NAME@NUMBER for a revision, or NAME@draft. Exit code 0 where the
    controller holds it, 1 where nothing was changed (a finding, or a refused value: the old ones are back), 2 where
    machine or controller cannot be reached, 3 where the controller holds a part: see `idler settle`.
    """
    from idler.core.machine.changes import axes_changed, differences
    from idler.core.profile.codec import machine_from
    from idler.core.rules.findings import findings
    from idler.link.errors import LinkError
    from idler.link.plan import plan
    from idler.shelf.sides import machine_of

    wanted, journal = machine_of(shelf_in(folder), machine), _journal(folder, machine)
    shelf = shelf_in(folder)
    if not only_plan:
        _open_lock(shelf, _name(machine))
    back = [item for item in findings(wanted) if item.holds_back]
    for item in back:
        click.echo(f"{item.severity.value}: {item.place}: {item.text}", err=True)
    if back:
        sys.exit(HELD_BACK)
    if not only_plan:
        hold(shelf)
    with _talk(address, folder) as talk:
        identity, holding = talk.found.identity, talk.found.holding
        if not only_plan:
            _open_lock(shelf, *(name for name in shelf.of_controller(identity.serial) if name != _name(machine)))
        if journal.begun is not None:
            raise IdlerError("A send was begun and never ended. See `idler settle` first.")
        there = machine_from(holding.raws, holding.shape)
        changes = [line for line in (axes_changed(there, wanted),) if line] + [
            str(c) for c in differences(there, wanted)
        ]
        click.echo("\n".join(changes) or "The controller holds every value.")
        if only_plan or not changes:
            return

        def begun(old: Mapping[Place, Raw], new: Mapping[Place, Raw]) -> None:
            journal.begin(identity.serial, old, new)

        try:
            done = talk.do(lambda link: link.send(plan(wanted, holding, restart=restart, begun=begun)))
        except LinkError as why:
            click.echo(f"idler: {why.sentence}", err=True)
            sys.exit(_after_trouble(talk, journal))
        journal.close()
        assert done.holding is not None
        waits = f"; {len(done.holding.waiting)} wait for a restart" if done.holding.waiting else ", and in force"
        click.echo(f"Sent, read back, stored{waits}.")


@click.command()
@click.argument("machine")
@CONTROLLER
@SHELF
@click.option("--finish", "way", flag_value="new", help="Write the new values that are missing.")
@click.option("--put-back", "way", flag_value="old", help="Write the old values back.")
def settle(machine: str, address: str, folder: Path | None, way: str | None) -> None:
    """Say what has become of a send that was interrupted, and finish it or put the old values back.

    Exit code 0 where the controller holds all old or all new values, 2 where it cannot be reached, 3 where it holds a part.
    """
    from idler.core.controller.sending import labels
    from idler.link.plan import Plan
    from idler.shelf.sides import machine_of

    journal = _journal(folder, machine)
    begun = journal.begun
    if begun is None:
        click.echo("No send is open.")
        return
    names = labels(machine_of(shelf_in(folder), machine))
    if way:
        _open_lock(shelf_in(folder), _name(machine), *shelf_in(folder).of_controller(begun.serial))
    hold(shelf_in(folder))
    with _talk(address, folder) as talk:
        if talk.found.identity.serial != begun.serial:
            raise IdlerError(f"The send that is open was to the controller with serial number {begun.serial}; "
                             f"this one has {talk.found.identity.serial}.")  # fmt: skip
        holding = talk.found.holding
        if way:
            done = talk.do(lambda link: link.send(Plan(journal.missing(way, holding), names, holding)))
            assert done.holding is not None
            holding = done.holding
        found = _judged(journal, begun.serial, holding)
        assert found is not None
        _say(found, names)
        sys.exit(0 if found.settled else PARTLY)


def _journal(folder: Path | None, machine: str) -> SendJournal:
    """One for each machine, whatever revision of it is sent; a file has that of its name. Raises IdlerError."""
    from idler.session.sendjournal import SendJournal

    made = SendJournal(shelf_in(folder).controllers(_name(machine)))
    made.read()
    return made


def _name(machine: str) -> str:
    return Path(machine).stem.partition("@")[0]


def _judged(journal: SendJournal, serial: int, holding: ControllerImage) -> SendOutcome | None:
    """What has become of the send that was begun; its journal is closed where that is settled."""
    found = journal.outcome(serial, holding)
    if found is not None and found.settled:
        journal.close()
    return found


def _after_trouble(talk: Talk, journal: SendJournal) -> int:
    """The exit code, by what the controller says where it still can."""
    from idler.core.controller.sending import labels
    from idler.core.machine import Machine
    from idler.link.errors import LinkError

    try:
        holding = talk.do(lambda link: link.read_all()).holding
    except LinkError as why:
        click.echo(f"idler: {why.sentence}", err=True)
        return PARTLY if journal.begun is not None else 2
    assert holding is not None
    found = _judged(journal, talk.found.identity.serial, holding)
    if found is None:
        return HELD_BACK
    names = labels(Machine.shaped(holding.shape))
    _say(found, names)
    return HELD_BACK if found.settled else PARTLY


def _say(found: SendOutcome, names: Mapping[Place, str]) -> None:
    from idler.core.controller.sending import sentence

    click.echo(sentence(found, names))
