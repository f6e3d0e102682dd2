"""Values sent as a whole: written, read back, stored, read back once more, and verified after the restart that they need.

On any failure that leaves the link alive the old values are put back. What a lost link or a killed program leaves
behind is for `idler.core.sending` to tell, from the journal that `begun` was given before the first write.
"""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

from idler.core.machine import Machine
from idler.core.sending import labels
from idler.core.standing import Holding
from idler.core.wire.codec import Place, Raw, given, image
from idler.core.wire.objects import SAVE, STORE

from .errors import NotAllowedNow, WriteRefused
from .transfer import read_all, unstored

if TYPE_CHECKING:
    from .client import Client

Journal = Callable[[Mapping[Place, Raw], Mapping[Place, Raw]], None]
Told = Callable[[int, int], None]


@dataclass(frozen=True)
class Plan:
    """What is to be written, in order, with the names of the values. restart: the controller is restarted afterwards.

    begun is called with the old and the new values before the first of them is written; it may raise IdlerError.
    """

    wanted: Mapping[Place, Raw]
    names: Mapping[Place, str]
    restart: bool = False
    begun: Journal = lambda _old, _new: None


def plan(machine: Machine, before: Holding, *, restart: bool = False, begun: Journal = lambda _o, _n: None) -> Plan:
    """Whatever of a machine differs from what a controller holds.

    Other axes than the controller has are sent as well: it takes them up at its next restart, and gives no power until
    then. Raises NotAllowedNow where the terminals are others.
    """
    if (machine.inputs, machine.outputs) != (before.shape.inputs, before.shape.outputs):
        raise NotAllowedNow(f"This machine has {machine.shape}; the controller has {before.shape}.")
    facts = given(machine)
    raws = {where: raw for where, raw in image(machine).items() if raw != before.raws.get(where) and where not in facts}
    return Plan(raws, labels(machine), restart, begun)


def send(client: Client, made: Plan, progress: Told) -> Holding:
    """All values of a plan. Raises WriteRefused naming the value and why, and what became of the others; LinkLost."""
    if any(axis.moving for axis in client.axes):
        raise NotAllowedNow("Values are sent only while nothing moves. Stop, then send again.")
    total = 3 * len(made.wanted) + 1 + 2 * made.restart
    old = {where: client.read(where, _name(made, where)) for where in made.wanted}
    made.begun(old, made.wanted)
    client.booted = False
    try:
        _write(client, made, lambda done: progress(len(old) + done, total))
        client.write(STORE, SAVE, "storing in the controller")
        _verify(client, made, lambda done: progress(2 * len(old) + 1 + done, total))
    except WriteRefused as why:
        raise WriteRefused(f"{why.sentence} {_put_back(client, made, old)}") from None
    if made.restart:
        progress(total - 2, total)
        client.restart()
        progress(total - 1, total)
        holding = read_all(client)
        _still_there(made, holding)
        return holding
    return read_all(client)


def _name(made: Plan, where: Place) -> str:
    return made.names.get(where, str(where))


def _write(client: Client, made: Plan, progress: Callable[[int], None]) -> None:
    for done, (where, raw) in enumerate(made.wanted.items()):
        progress(done)
        client.write(where, raw, _name(made, where))
        _same(client, made, where, raw)


def _same(client: Client, made: Plan, where: Place, raw: Raw) -> None:
    back = client.read(where, _name(made, where))
    if client.booted:
        raise WriteRefused(f"The controller has restarted by itself at {_name(made, where)}.")
    if back != raw:
        raise WriteRefused(f"{_name(made, where)}: the controller holds {back} after {raw} was written.")


def _verify(client: Client, made: Plan, progress: Callable[[int], None]) -> None:
    """Everything once more, now that it is stored: one value may have changed another."""
    for done, (where, raw) in enumerate(made.wanted.items()):
        progress(done)
        _same(client, made, where, raw)


def _still_there(made: Plan, holding: Holding) -> None:
    """Raises WriteRefused where a restart brought something else than was stored."""
    lost = [where for where, raw in made.wanted.items() if holding.raws.get(where, raw) != raw]
    if lost or holding.waiting:
        names = ", ".join(_name(made, where) for where in [*lost, *holding.waiting][:4])
        raise WriteRefused(f"After the restart these are not in force: {names}. Compare with the controller.")


def _put_back(client: Client, made: Plan, old: Mapping[Place, Raw]) -> str:
    """Writes the old values wherever the controller holds others, and stores them where something else is stored."""
    if client.booted:
        client.back_again()
    left = []
    for where, raw in old.items():
        with contextlib.suppress(WriteRefused):
            if client.read(where) != raw:
                client.write(where, raw)
        if client.read(where) != raw:
            left.append(_name(made, where))
    if left:
        return f"These could not be put back: {', '.join(left)}."
    if unstored(client):
        try:
            client.write(STORE, SAVE)
        except WriteRefused as why:
            return f"The controller holds its old values, but could not store them: {why.sentence}"
    return "The controller holds its old values; your edits are still here."
