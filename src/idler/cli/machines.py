"""Machines on the shelf and in files: list, compare, check, report."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

import click

from .options import OUTPUT, SHELF, shelf_in


@click.group()
def shelf() -> None:
    """What is on the shelf."""


@shelf.command("list")
@SHELF
@click.option("--json", "as_json", is_flag=True, help="For programs.")
def shelf_list(folder: Path | None, as_json: bool) -> None:
    """Name every machine with its newest revision. Exit code 0, or 2 where the shelf cannot be read."""
    import json
    import time

    from idler.core.errors import IdlerError
    from idler.core.values.units import several

    kept = shelf_in(folder)
    rows: list[dict[str, Any]] = []
    for name in kept.names():
        try:
            (title, letters), revisions, edits = kept.glance(name), kept.revisions(name), kept.edits(name)
        except IdlerError as why:
            rows.append({"name": name, "trouble": why.sentence})
            continue
        newest = revisions[0] if revisions else None
        rows.append({"name": name, "title": title, "axes": "".join(letters), "revisions": len(revisions),
                     "newest": newest.note if newest else None, "when": newest.when if newest else None,
                     "edits": edits})  # fmt: skip
    if as_json:
        click.echo(json.dumps(rows, indent=2, ensure_ascii=False))
        return
    for row in rows:
        if "trouble" in row:
            click.echo(f"{row['name']}: {row['trouble']}")
            continue
        day = time.strftime("%Y-%m-%d %H:%M", time.localtime(row["when"])) if row["when"] else "no revision yet"
        kept_as = several(row["revisions"], "revision")
        draft = f", {several(row['edits'], 'edit')} in no revision" if row["edits"] else ""
        click.echo(f"{row['name']}: {row['title']}, axes {row['axes']}, {kept_as}{draft}")
        click.echo(f"    {day}  {row['newest'] or ''}".rstrip())


@shelf.command("pack")
@SHELF
def shelf_pack(folder: Path | None) -> None:
    """Put the revisions of a shelf into few files, as the window does by itself. Exit code 0, or 2 where it cannot."""
    shelf_in(folder).pack()


@click.command()
@click.argument("first")
@click.argument("second")
@SHELF
@click.option("--all", "everything", is_flag=True, help="What is the same too.")
@click.option("--json", "as_json", is_flag=True, help="For programs.")
def compare(first: str, second: str, folder: Path | None, everything: bool, as_json: bool) -> None:
    """Compare two machines: each the path of a machine file, NAME, NAME@NUMBER for a revision, or NAME@draft.

    Exit code 0 where they are the same, 1 where they differ, 2 where one cannot be read.
    """
    import json

    from idler.core.report.compare import as_json as to_json
    from idler.core.report.compare import compared, proofs_between
    from idler.shelf.sides import machine_of

    kept = shelf_in(folder)
    one, other = machine_of(kept, first), machine_of(kept, second)
    parts = compared(one, other, everything=everything)
    if as_json:
        click.echo(json.dumps(to_json(parts), indent=2, ensure_ascii=False))
    for part in parts if not as_json else ():
        click.echo(f"{part.name}, only in the {part.only}" if part.only else part.name)
        for line in part.lines:
            click.echo(f"  {line.label}: {line.first_text} {'→' if line.differs else '='} {line.second_text}")
    touched = [claim.label for claim in proofs_between(one, other)]
    if touched and not as_json:
        click.echo(f"What is proven for one is not for the other: {', '.join(touched)}.")
    if not parts and not as_json:
        click.echo("They are the same.")
    sys.exit(1 if any(part.differing for part in parts) else 0)


@click.command()
@click.argument("machine")
@SHELF
@OUTPUT
@click.option("--paper", type=click.Choice(["A4", "Letter"]), default="A4", show_default=True)
def report(machine: str, folder: Path | None, output: Path | None, paper: str) -> None:
    """Print the report of a machine as HTML, or write it to a file as HTML or PDF by its ending.

    MACHINE is the path of a machine file, NAME, NAME@NUMBER for a revision, or NAME@draft. Exit code 0, or 2 where
    it cannot be read or written.
    """
    import time

    from idler.core.report import report as report_of
    from idler.shelf.report import html, write_report
    from idler.shelf.sides import machine_of

    kept = shelf_in(folder)
    name = machine.partition("@")[0]
    there = name in kept.names()
    proofs, zeros, skips = (kept.proofs(name), kept.work_zeros(name), kept.skips(name)) if there else ({}, None, {})
    found = report_of(machine_of(kept, machine), proofs, zeros, skips)
    if output is None:
        click.echo(html(found, machine, time.time(), paper))
    else:
        write_report(output, found, machine, time.time(), paper)


@click.command()
@click.argument("file", type=click.Path(dir_okay=False, path_type=Path))
@click.option("--json", "as_json", is_flag=True, help="Derived values and findings as JSON.")
def check(file: Path, as_json: bool) -> None:
    """Check a machine file: what follows from it and what is wrong. Exit 1 on errors, 2 where it cannot be read."""
    from idler.core.machine import file as machinefile
    from idler.core.mechanics.chain import Chain
    from idler.core.rules import findings
    from idler.shelf.files import read_text

    machine = machinefile.read(read_text(file)).machine
    found = findings.findings(machine)
    if as_json:
        click.echo(findings.check_json(machine))
    else:
        for axis in machine.axes:
            chain = Chain.of(axis)
            click.echo(f"{axis.name}: {chain.counts_text}  ({chain.derivation})")
        for item in found:
            click.echo(f"{item.severity.value}: {item.place}: {item.text} ({item.code})")
        if found:
            click.echo("More about one: ./idler help and what stands in its brackets")
    sys.exit(any(item.severity is findings.Severity.ERROR for item in found))
