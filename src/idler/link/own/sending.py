"""Values sent as a whole: written, read back, stored, and read again after the restart that they need.

On any failure that leaves the link alive the old values are put back. What a lost link or a killed program leaves
behind is for `idler.core.controller.sending` to tell, from the journal that `begun` was given before the first write.
"""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING

from idler.core.controller.standing import ControllerImage
from idler.core.profile.codec import Place, Raw
from idler.core.profile.objects import SAVE, STORE

from ..errors import ChangedMeanwhile, NoAnswer, NotAllowedNow, WriteRefused
from ..plan import Plan
from .objects import always
from .transfer import read_all, unstored

if TYPE_CHECKING:
    from .client import Client

Told = Callable[[int, int], None]
MOST = 4  # names in one sentence


def send(client: Client, made: Plan, progress: Told) -> ControllerImage:
    """All values of a plan. Raises WriteRefused naming the value and why, and what became of the others; LinkLost;
    ChangedMeanwhile where somebody else has changed what was shown."""
    if any(axis.moving for axis in client.axes):
        raise NotAllowedNow("Values are sent only while nothing moves. Stop, then send again.")
    total = 2 * len(made.wanted) + 1 + 2 * made.restart
    _require_as_shown(client, made)
    held = made.before.raws
    old = {
        where: held[where] if where in held else client.objects.read(where, _name(made, where)) for where in made.wanted
    }
    made.begun(old, made.wanted)
    client.booted = False
    try:
        for done, (where, raw) in enumerate(made.wanted.items()):
            progress(done, total)
            client.objects.write(where, raw, _name(made, where), again=always)
        for done, (where, raw) in enumerate(made.wanted.items()):  # after all of them, for one may change another
            progress(len(old) + done, total)
            _same(client, made, where, raw)
        if client.changed_by_others():
            raise WriteRefused("Somebody else changed the controller meanwhile.")
        _store(client)
        holding = _as_held(client, made, _written(client, made), "it was stored")
    except WriteRefused as why:
        raise WriteRefused(f"{why.sentence} {_put_back(client, made, old)}") from None
    if made.restart:
        progress(total - 2, total)
        client.restart()
        progress(total - 1, total)
        holding = _as_held(client, made, read_all(client), "the restart")
    return holding


def _store(client: Client) -> None:
    """Raises WriteRefused. Where no answer comes, what is stored tells whether it was done."""
    try:
        client.objects.write(STORE, SAVE, "storing in the controller")
    except NoAnswer:
        if unstored(client):
            client.objects.write(STORE, SAVE, "storing in the controller")


def _name(made: Plan, where: Place) -> str:
    return made.names.get(where, str(where))


def _same(client: Client, made: Plan, where: Place, raw: Raw) -> None:
    back = client.objects.read(where, _name(made, where))
    if client.booted:
        raise WriteRefused(f"The controller has restarted by itself at {_name(made, where)}.")
    if back != raw:
        raise WriteRefused(f"{_name(made, where)}: the controller holds {back} after {raw} was written.")


def _require_as_shown(client: Client, made: Plan) -> None:
    """Raises ChangedMeanwhile where the controller does not hold what the plan was made on."""
    if client.counts_changes:
        if client.changed_by_others():
            raise ChangedMeanwhile
    elif any(raw != made.before.raws.get(where, raw) for where, raw in read_all(client).raws.items()):
        raise ChangedMeanwhile


def _written(client: Client, made: Plan) -> ControllerImage:
    """What it holds: what was read back before it was stored, where nobody has changed anything since; that is counted."""
    if not client.counts_changes or client.unsure or client.changed_by_others():
        return read_all(client)
    held = made.before.raws
    waits = client.objects.wait_for_restart(made.wanted)  # no other value can begin or cease to wait
    old = client.objects.in_force() if waits else made.before.old
    sent = {where: raw for where, raw in made.wanted.items() if where in held}
    return ControllerImage(client.shape, {**held, **sent}, old, unstored(client))


def _as_held(client: Client, made: Plan, holding: ControllerImage, after: str) -> ControllerImage:
    """The same holding. Raises WriteRefused where that is not what was sent."""
    for where, raw in made.wanted.items():
        if where not in holding.raws:  # of an axis that it takes up at its restart
            _same(client, made, where, raw)
    lost = [_name(made, where) for where, raw in made.wanted.items() if holding.raws.get(where, raw) != raw]
    if lost or client.booted or holding.unstored:
        more = f" and {len(lost) - MOST} more" if len(lost) > MOST else ""
        what = f"does not hold {', '.join(lost[:MOST])}{more}" if lost else "has not stored everything"
        raise WriteRefused(f"The controller {what} after {after}. Compare with it.")
    return holding


def _put_back(client: Client, made: Plan, old: Mapping[Place, Raw]) -> str:
    """Writes the old values wherever the controller holds others, and stores them where something else is stored."""
    if client.booted:
        client.back_again()
    left = []
    for where, raw in old.items():
        with contextlib.suppress(WriteRefused):
            if client.objects.read(where) != raw:
                client.objects.write(where, raw, again=always)
        if client.objects.read(where) != raw:
            left.append(_name(made, where))
    if left:
        return f"These could not be put back: {', '.join(left)}."
    if unstored(client):
        try:
            _store(client)
        except WriteRefused as why:
            return f"The controller holds its old values, but could not store them: {why.sentence}"
    return "The controller holds its old values; your edits are still here."
