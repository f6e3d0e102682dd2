"""Who is on a bus."""

from __future__ import annotations

import json
import sys

import click

NOBODY = 1


@click.command()
@click.argument("address")
@click.option(
    "--json", "as_json", is_flag=True, help="As a list of objects: node, what, name, vendor, product, serial."
)
def nodes(address: str, as_json: bool) -> None:
    """List all that is on a bus: controllers, drives, terminals, encoders, and what else is heard. Nothing is changed.

    ADDRESS is /dev/ttyACM0, can0 or slcan://HOST:PORT. Exit code 0, 1 where nobody is there, 2 where it cannot be opened.
    """
    from idler.link.bus.address import parse
    from idler.link.bus.survey import survey

    found = survey(parse(address))
    if as_json:
        click.echo(json.dumps([node.as_json() for node in found], ensure_ascii=False))
    for node in found if not as_json else ():
        told = [node.what.words, node.name and f"“{node.name}”"]
        told += [f"vendor {node.vendor:#x}, product {node.product:#x}, serial number {node.serial}"] * bool(
            node.vendor or node.product or node.serial
        )
        click.echo(f"{node.number:3d}  {', '.join(each for each in told if each)}")
    if not found:
        click.echo(f"idler: {address}: nobody is there. Check the power, the bus ends and the bit rate.", err=True)
        sys.exit(NOBODY)
