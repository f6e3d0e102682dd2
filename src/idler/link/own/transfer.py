"""All values at once, read from a controller."""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from typing import TYPE_CHECKING

from idler.core.controller.sending import labels
from idler.core.controller.standing import ControllerImage
from idler.core.machine import Machine
from idler.core.profile.codec import Place, Raw
from idler.core.profile.objects import UNSTORED

from ..errors import NoAnswer

if TYPE_CHECKING:
    from .client import Client


def read_all(client: Client, progress: Callable[[int, int], None] = lambda _done, _total: None) -> ControllerImage:
    """Every value of the table and what derives from it, what is in force instead, how many are not stored, and whether
    somebody else has written some since the last time.

    They come in one block; one by one where that does not get through, for a wire that loses many frames lets a short answer
    pass sooner than a long one, and it alone is asked for again.
    """
    foreign = client.changed_by_others()
    client.count_changes_from_now()  # before they are read, so that none that comes meanwhile is missed
    names = labels(Machine.shaped(client.shape))
    progress(0, len(names))
    held: dict[Place, Raw] = {}
    with contextlib.suppress(NoAnswer):
        held = client.objects.values()
    raws: dict[Place, Raw] = {}
    for where, label in names.items():
        raws[where] = held[where] if where in held else client.objects.read(where, label)
        if not held:
            progress(len(raws), len(names))
    return ControllerImage(client.shape, raws, client.objects.in_force(), unstored(client), foreign)


def unstored(client: Client) -> int:
    """How many values are other than those that a restart would bring back."""
    return int(client.objects.read(UNSTORED, "values not stored"))
