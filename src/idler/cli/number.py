"""Numbers of nodes on a bus."""

from __future__ import annotations

import click


@click.command()
@click.argument("address")
@click.option(
    "--node", type=click.IntRange(1, 127), help="The node whose number changes. Without it: one that has none yet."
)
@click.option("--to", "number", type=int, required=True, help="The number that it gets, from 1 to 127.")
def number(address: str, node: int | None, number: int) -> None:
    """Give a node of a bus its number, or another one (layer setting services, CiA 305). Only while nothing moves.

    The node is told apart by its maker, kind and serial number; it starts anew, alone. Exit code 0, or 2 where it could not be.
    """
    from idler.link.bus.address import parse
    from idler.link.bus.numbers import give_number

    click.echo(give_number(parse(address), number, node or 0).sentence)
