"""What is next with a machine."""

from __future__ import annotations

import json
from pathlib import Path

import click

from .options import SHELF


@click.command("next")
@click.argument("machine")
@click.option("--to", "address", default="", help="Its controller: without one the first step is to connect it.")
@SHELF
@click.option("--json", "as_json", is_flag=True, help="All steps as a list of objects.")
@click.option("--skip", "skipped", metavar="KEY=REASON", help="Leave a step out, and keep why.")
@click.option("--take-up", "taken", metavar="KEY", help="Do after all what was skipped.")
def next_(
    machine: str, address: str, folder: Path | None, as_json: bool, skipped: str | None, taken: str | None
) -> None:
    """List what is left until a machine is signed off, in the order of the work; the first that waits for nothing is next.

    Each step has its procedure, as `./idler run` takes it. Exit code 0, or 2 where machine or controller cannot be reached.
    """
    from idler.core.wiring.tool import station_label
    from idler.library import open_machine

    with open_machine(machine, folder) as mill:
        if address:
            mill.connect(address)
        agenda = mill.session.agenda
        if skipped is not None:
            key, _, reason = skipped.partition("=")
            agenda.skip(key.strip(), reason)
        if taken is not None:
            agenda.take_up(taken)
        steps, first, told = agenda.steps, agenda.next, mill.machine
    if as_json:
        click.echo(json.dumps([step.as_json() for step in steps], ensure_ascii=False))
        return
    for step in steps:
        now = first is not None and step.key == first.key
        mark = "→" if now else "–" if step.skipped else " "
        station = station_label(told, step.station)
        at = f"{station}, {step.page}" if step.page else station
        click.echo(f"{mark} {step.text}  ({at}; {step.key})")
        if step.skipped:
            click.echo(f"      left out: {step.skipped}")
        elif now:
            needs = f" Needs: {', '.join(step.needs)}." if step.needs else ""
            how = f" ./idler run {step.procedure}" if step.procedure else ""
            click.echo(f"      {step.why}{needs} About {step.minutes:g} min.{how}")
    if not steps:
        click.echo("Nothing is left.")
