"""Places of our own profile that programs read of a controller, answered by what Idler knows of plain parts."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, TypeVar

from idler.core.profile import cia402 as c
from idler.core.profile.codec import Place, Raw
from idler.core.profile.homing import (
    FIRST_PLACE,
    INDEX_DISTANCE,
    LATCHED_WITHIN,
    RAN_ON,
    SIDES,
    TOUCH_PLACE,
    USUAL_EFFORT,
)

from ..errors import NotAllowedNow, WriteRefused
from . import values

if TYPE_CHECKING:
    from .axis import Axis
    from .client import Client

T = TypeVar("T")
_NOT_HERE = "There is no such object in a controller that is made of plain parts."


class Objects:
    def __init__(self, client: Client) -> None:
        self._client = client

    def read(self, where: Place, label: str = "") -> Raw:
        """Raises WriteRefused for what is not to be had here."""
        if where.index >= 0x6000:
            slot, base = divmod(where.index - 0x6000, 0x800)
            if slot < len(self._client.drawn):
                return self._of_axis(self._client.drawn[slot], Place(base + 0x6000, where.sub), label)
        spindle = self._client.spindle_raws()
        if where in spindle:
            return spindle[where]
        slot = (where.index - 0x4000) // 0x100
        if 0 <= slot < len(self._client.drawn):
            found = self._homing(self._client.drawn[slot]).get(Place(where.index - 0x100 * slot, where.sub))
            if found is not None:
                return c.raw_position(found)
        raise WriteRefused(f"{label or where}: {_NOT_HERE}")

    def _of_axis(self, axis: Axis, where: Place, label: str) -> Raw:
        """In the units of our own profile, as everybody expects it at this place."""
        if where == (c.LATCHES, 0):
            return axis.latches & 0xFFFF
        places = {(c.LATCHED, 0): axis.latched, (c.POSITION, 0): axis.state.position}
        if (where.index, where.sub) in places:
            return c.raw_position(places[where.index, where.sub])
        if where == (c.VELOCITY, 0):
            return c.raw_speed(axis.state.velocity)
        if where == (c.FOLLOWING_ERROR, 0):
            return c.raw_position(self._client.following_error(axis.slot))
        return axis.part.read((where.index, where.sub), label)

    def _homing(self, axis: Axis) -> dict[Place, float]:
        """Where the switch was met on the last homing, mm (°) in the coordinates before it; the standard has no such object,
        and Idler has seen it as often as it looked."""
        first = axis.found.get("first", axis.coordinate)
        return {
            FIRST_PLACE: first, TOUCH_PLACE: axis.found.get("touch", first), INDEX_DISTANCE: 0.0, SIDES: 0.0,
            USUAL_EFFORT: 0.0, RAN_ON: 0.0, LATCHED_WITHIN: axis.latched_within,
        }  # fmt: skip

    def write(self, where: Place, raw: Raw, label: str = "") -> None:
        """Raises NotAllowedNow: one object by hand is one of a node, and this is a place of our own profile."""
        raise NotAllowedNow(f"{label or where}: {_NOT_HERE} Use “On the wire” with the node's own object.")

    def try_values(self, tried: Mapping[Place, Raw]) -> None:
        values.try_values(self._client, tried)

    def short(self, where: Place, label: str, unpack: Callable[[bytes], T]) -> T:
        raise WriteRefused(f"{label}: {_NOT_HERE}")

    def write_block(self, where: Place, data: bytes, label: str) -> None:
        raise NotAllowedNow(
            "A path is followed only by a controller that buffers it: these drives take one place after another."
        )
