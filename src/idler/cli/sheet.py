"""The data sheet of a plain part, as its maker wrote it."""

from __future__ import annotations

import json
import sys
from pathlib import Path

import click

from .options import SHELF

HAS_ERRORS = 1


@click.command()
@click.argument("file", type=click.Path(dir_okay=False, path_type=Path))
@click.option("--keep", is_flag=True, help="Keep it on the shelf, for all parts of the kind that it names.")
@click.option("--json", "as_json", is_flag=True, help="For programs.")
@SHELF
def sheet(file: Path, keep: bool, as_json: bool, folder: Path | None) -> None:
    """Read the data sheet (.eds, CiA 306) of a drive or of terminals: what it is of, its bounds, and its errors.

    Exit code 0, 1 where it has errors, 2 where it cannot be read or kept.
    """
    from idler.core.controller.parts import PartIdentity
    from idler.core.errors import Refusal
    from idler.shelf.sheets import keep_sheet, sheet_from

    from .options import hold, shelf_in

    text, found = sheet_from(file)
    if keep:
        if not found.vendor or not found.product:
            raise Refusal(
                "maker's file", "", "it does not say of which vendor and product it is",
                way_out="connect the part, and take the file for it under Link, Parts",
            )  # fmt: skip
        shelf = shelf_in(folder)
        hold(shelf)
        keep_sheet(shelf.root, PartIdentity(0, found.title, found.vendor, found.product, 0), text)
    bounds = {where: each for where, each in found.objects.items() if each.low is not None or each.high is not None}
    if as_json:
        listed = [{"index": where[0], "sub": where[1], "name": each.name, "low": each.low, "high": each.high}
                  for where, each in sorted(bounds.items())]  # fmt: skip
        told = {"title": found.title, "maker": found.maker, "vendor": found.vendor, "product": found.product,
                "objects": len(found.objects), "bounds": listed, "errors": list(found.faults)}  # fmt: skip
        click.echo(json.dumps(told, ensure_ascii=False))
    else:
        numbers = ", ".join(
            f"{what} {number:#x}" for what, number in (("vendor", found.vendor), ("product", found.product)) if number
        )
        click.echo(
            f"{found.title or 'Without a name'} ({numbers or 'of no vendor that it names'}): {len(found.objects)} objects"
        )
        for where, each in sorted(bounds.items()):
            low, high = ("" if bound is None else str(bound) for bound in (each.low, each.high))
            click.echo(f"  {where[0]:04X}h:{where[1]:02X}  {low:>12} to {high:>12}  {each.name}")
        for fault in found.faults:
            click.echo(fault)
    sys.exit(HAS_ERRORS if found.faults else 0)
