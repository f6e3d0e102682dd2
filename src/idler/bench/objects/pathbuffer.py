"""The buffer of a path as its objects see it: records that come in, rates, what is told of it."""

from __future__ import annotations

from collections.abc import Sequence

from idler.core.profile import cia301 as a
from idler.core.profile import path as p
from idler.core.profile.codec import Place, Raw
from idler.core.profile.pathrecords import unpack_records

from ..firmware.path import RUNS, WAITS
from ..world import World
from .drive import Drive

_KEPT_BEHIND = 2  # records that were gone through and are still looked at


class PathBuffer:
    def __init__(self, world: World) -> None:
        self._world = world
        self._offsets: dict[int, float] = {}  # by slot, counts

    @property
    def in_use(self) -> int:
        """Records that are still to be gone through."""
        path = self._world.path
        return max(0, int(path["given"]) - int(path["at"]))

    def take(self, data: bytes, drives: Sequence[Drive]) -> int:
        """Records as they come; an abort code where they are not taken, else 0."""
        try:
            block = unpack_records(data)
        except ValueError:
            return a.BAD_VALUE
        world, path = self._world, self._world.path
        if max(block.slots) >= len(drives):
            return a.BAD_VALUE
        fresh = block.first == 0 and path["state"] not in (RUNS, WAITS)
        same = sum(1 << slot for slot in block.slots) == path["axes"]
        if not fresh and (not same or block.first > path["given"]):
            return a.NOT_IN_THIS_STATE
        if not fresh and block.first + len(block.places) <= path["given"]:
            return 0  # they are there: their answer was lost
        if not fresh and (path["final"] or self.in_use + len(block.places) + _KEPT_BEHIND > p.BUFFER):
            return a.NOT_IN_THIS_STATE
        counts = block.places.astype(float)
        for column, slot in enumerate(block.slots):
            counts[:, column] = drives[slot].path_counts(counts[:, column])
            if fresh:
                self._offsets[slot] = drives[slot].path_offset(float(counts[0, column]))
            counts[:, column] += self._offsets[slot]
            if beyond := drives[slot].beyond(counts[:, column]):
                return a.TOO_HIGH if beyond > 0 else a.TOO_LOW
        if fresh:
            world.new_path(block.slots)
        world.give_records(block.first, block.slots, counts, block.lines, final=block.final)
        return 0

    def begin(self, drives: Sequence[Drive]) -> bool:
        """Begins the path where all its axes were told to follow it; False where they do not stand at its begin."""
        path = self._world.path
        if path["state"] != p.PathState.GIVEN:
            return True
        slots = [slot for slot in range(len(drives)) if int(path["axes"]) >> slot & 1]
        return not all(drives[slot].follows for slot in slots) or self._world.begin_path()

    def read(self, place: Place) -> Raw | bytes | None:
        path = self._world.path
        match place:
            case p.FEED_RATE:
                return round(float(path["feed"]) * p.WHOLE_RATE)
            case p.RAPID_RATE:
                return round(float(path["rapid"]) * p.WHOLE_RATE)
            case p.WAIT_AT:
                return int(path["wait_at"]) if path["wait_at"] >= 0 else p.NOWHERE
            case p.REPORT:
                return p.pack_report(
                    p.PathReport(
                        p.PathState(int(path["state"])), float(path["at"]), int(path["given"]), float(path["rate"]),
                        self._world.path_line, int(path["ran"]),
                    )
                )  # fmt: skip
        return None

    def write(self, place: Place, raw: Raw) -> bool:
        """True where the place is one of these."""
        path = self._world.path
        match place:
            case p.FEED_RATE:
                path["feed"] = min(int(raw) / p.WHOLE_RATE, 1.0)
            case p.RAPID_RATE:
                path["rapid"] = min(int(raw) / p.WHOLE_RATE, 1.0)
            case p.WAIT_AT:
                path["wait_at"] = -1.0 if raw == p.NOWHERE else float(int(raw))
            case _:
                return False
        return True
