"""A simulated hand device, for trying out."""

from __future__ import annotations

import json
import sys

import click


@click.command()
@click.option("--name", default="Simulated hand", show_default=True, help="What it says that it is.")
def hand(name: str) -> None:
    """A hand device that is none: connect to it in Tools, Hand device.

    What is typed is done, a line each: wheel 8 1, wheel 8 -3, stick 0 0.5, button 288 down, button 288 up. It is unplugged at
    the end of what is typed.
    """
    from idler.core.errors import IdlerError
    from idler.link.hand.simulated import SimulatedHand

    made = SimulatedHand(name)
    click.echo(json.dumps({"hand": str(made.path), "name": name}))
    try:
        for line in sys.stdin:
            if line.strip():
                try:
                    made.do(line)
                except IdlerError as why:
                    click.echo(f"idler: {why.sentence}", err=True)
    except KeyboardInterrupt:
        pass
    finally:
        made.close()
