"""All values at once: read from a controller, or sent to it so that it holds either the new ones or the old."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace
from typing import TYPE_CHECKING

from idler.core.machine import Machine
from idler.core.standing import Holding
from idler.core.wire.codec import DERIVED, LETTERS, NOTHING, Place, Raw, derived, given, image, place
from idler.core.wire.objects import SAVE, WAITING

from .errors import NotAllowedNow, WriteRefused

if TYPE_CHECKING:
    from .client import Client


def read_all(client: Client, progress: Callable[[int, int], None] = lambda _done, _total: None) -> Holding:
    """Every value of the table and what derives from it, and which wait for a restart."""
    labels = _labels(Machine.shaped(client.shape))
    raws: dict[Place, Raw] = {}
    for where, label in labels.items():
        raws[where] = client.read(where, label)
        if len(raws) % 50 == 0:
            progress(len(raws), len(labels))
    return Holding(client.shape, raws, waiting(client))


def waiting(client: Client) -> frozenset[Place]:
    text = str(client.read(WAITING, "values that wait for a restart"))
    return frozenset(Place(int(word[:4], 16), int(word[4:], 16)) for word in text.split() if text != NOTHING)


def send(client: Client, machine: Machine, before: Holding, progress: Callable[[int, int], None]) -> Holding:
    """Writes what differs, reads each value back, then stores. On any failure the old values are put back.

    Other axes than the controller has are sent as well: it takes them up at its next restart, and gives no power until
    then. Raises WriteRefused naming the value and why, and what became of the others.
    """
    if (machine.inputs, machine.outputs) != (before.shape.inputs, before.shape.outputs):
        raise NotAllowedNow(f"This machine has {machine.shape}; the controller has {before.shape}.")
    if any(axis.moving for axis in client.axes):
        raise NotAllowedNow("Values are sent only while nothing moves. Stop, then send again.")
    labels = _labels(machine)
    facts = given(machine)
    wanted = {
        where: raw for where, raw in image(machine).items() if raw != before.raws.get(where) and where not in facts
    }
    written: list[Place] = []
    before = _with_others(client, before, wanted)
    try:
        for done, (where, raw) in enumerate(wanted.items()):
            progress(done, len(wanted) + 1)
            written.append(where)
            client.write(where, raw, labels[where])
            back = client.read(where, labels[where])
            if back != raw:
                raise WriteRefused(f"{labels[where]}: the controller holds {back} after {raw} was written.")
        progress(len(wanted), len(wanted) + 1)
        client.write(Place(0x1010, 1), SAVE, "storing in the controller")
    except WriteRefused as why:
        raise WriteRefused(f"{why.sentence} {_put_back(client, written, before, labels)}") from None
    return Holding(machine.shape, {**before.raws, **wanted}, waiting(client))


def _with_others(client: Client, before: Holding, wanted: Iterable[Place]) -> Holding:
    """With what the controller holds for axes that it did not use until now, so that they too can be put back."""
    others = {where: client.read(where) for where in wanted if where not in before.raws}
    return replace(before, raws={**before.raws, **others})


def _put_back(client: Client, written: Iterable[Place], before: Holding, labels: dict[Place, str]) -> str:
    left = []
    for where in written:
        try:
            client.write(where, before.raws[where])
        except WriteRefused:
            if client.read(where) != before.raws[where]:
                left.append(labels[where])
    if left:
        return f"These could not be put back: {', '.join(left)}. Read the controller again."
    return "The controller holds its old values; your edits are still here."


def _labels(machine: Machine) -> dict[Place, str]:
    """Every place of a machine's image with the label of its value."""
    labels = {place(address): machine.part(address) for address in machine.addresses()}
    for axis in machine.axes:
        for where, item in zip(derived(axis), DERIVED, strict=True):
            labels[where] = f"{axis.name} {item.label}"
    labels[LETTERS] = "letters of the axes"
    return labels
