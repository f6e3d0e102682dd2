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
@click.option(
    "--listen", "seconds", type=click.FloatRange(0.1, 600), help="Then say who sends how much, for so many seconds."
)
@click.option("--rates", is_flag=True, help="Find the bit rate, by listening at each; nothing is said meanwhile.")
def nodes(address: str, as_json: bool, seconds: float | None, rates: bool) -> None:
    """List all that is on a bus: controllers, drives, terminals, encoders, and what else is heard. Nothing is changed.

    ADDRESS is /dev/ttyACM0, can0 or slcan://HOST:PORT. Exit code 0, 1 where nobody is there, 2 where it cannot be opened.
    """
    from idler.link.bus.address import parse
    from idler.link.bus.survey import survey

    if rates:
        _rates(address, as_json=as_json)
        return
    found = survey(parse(address))
    if as_json:
        click.echo(json.dumps([node.as_json() for node in found], ensure_ascii=False))
    for node in found if not as_json else ():
        told = [node.what.words, node.name and f"“{node.name}”"]
        told += [f"vendor {node.vendor:#x}, product {node.product:#x}, serial number {node.serial}"] * bool(
            node.vendor or node.product or node.serial
        )
        click.echo(f"{node.number:3d}  {', '.join(each for each in told if each)}")
    if seconds:
        _listen(address, seconds, as_json=as_json)
    if not found:
        click.echo(f"idler: {address}: nobody is there. Check the power, the bus ends and the bit rate.", err=True)
        sys.exit(NOBODY)


def _rates(address: str, *, as_json: bool) -> None:
    from dataclasses import asdict

    from idler.link.bus.address import parse
    from idler.link.bus.rates import find_rate

    found = find_rate(parse(address), tell=lambda rate: click.echo(f"Listening at {rate // 1000} kbit/s…", err=True))
    if as_json:
        click.echo(json.dumps([asdict(each) for each in found]))
    for each in found if not as_json else ():
        who = f", by nodes {', '.join(map(str, each.nodes))}" if each.nodes else ""
        click.echo(
            f"{each.rate // 1000:5d} kbit/s   {each.frames} frames{who}"
            + (f", {each.spoilt} spoilt" if each.spoilt else "")
        )
    if not found:
        click.echo(
            f"idler: {address}: nobody spoke at any rate. Take the power of a node away and give it again while you listen: it "
            "says that it is there. Look at the bus ends and at CAN-H and CAN-L, too.",
            err=True,
        )
        sys.exit(NOBODY)


def _listen(address: str, seconds: float, *, as_json: bool) -> None:
    from idler.core.profile.busload import NOBODY, share
    from idler.link.bus.address import parse
    from idler.link.bus.survey import listen

    where = parse(address)
    heard = listen(where, seconds)
    rate = f"{where.rate // 1000} kbit/s"
    if as_json:
        rows = [{"node": each.node, "frames": each.frames, "services": each.services, "widest_heartbeat": each.widest}
                for each in heard.talkers]  # fmt: skip
        told = {"seconds": seconds, "load": heard.load, "talkers": rows, "troubles": list(heard.troubles)}
        click.echo(json.dumps(told, ensure_ascii=False))
        return
    count = sum(each.frames for each in heard.talkers)
    click.echo(f"In {seconds:g} s at {rate}: {count} frames, {100 * heard.load:.1f} % of the bus at most.")
    for each in heard.talkers:
        who = "all   " if each.node == NOBODY else f"{each.node:3d}   "
        what = ", ".join(f"{count} {service}" for service, count in each.services.items())
        beats = f"; heartbeats at most {1000 * each.widest:.0f} ms apart" if each.widest else ""
        click.echo(f"{who}{100 * share(each.bits, seconds, where.rate):5.1f} %   {what}{beats}")
    for trouble in heard.troubles:
        click.echo(trouble)
