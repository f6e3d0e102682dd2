"""Index stops as the controller's objects see them: what an axis was told, what is asked of it, how it stands."""

from __future__ import annotations

from collections.abc import Mapping

from idler.core.profile import cia402 as c
from idler.core.profile.codec import Place, Raw
from idler.core.profile.indexing import AS_THEY_ARE, GO, LINES_AS, REPORT, IndexReport, IndexState
from idler.core.table import AXIS, part_index
from idler.core.values.indexstops import index_stops

from ..firmware.indexing import forget_lines
from ..world import World

_BY_RAW = {state.raw: state for state in IndexState}


class IndexPanel:
    def __init__(self, world: World) -> None:
        self._world = world

    def boot(self) -> None:
        """As after power-on: what the lines say is not obeyed before it changes."""
        for ix in self._world.indexers:
            ix["lines_as"] = -1
            forget_lines(ix)

    def configure(self, slot: int, values: Mapping[Place, Raw]) -> None:
        """Takes the raw values of one axis; its counts per unit are known."""

        def told(key: str) -> Raw:
            row = AXIS[f"index.{key}"]
            return values[Place(part_index(row, slot), row.wire.sub)]

        def length(key: str) -> float:
            return c.position_from(int(told(key))) * per_unit

        ix, ax = self._world.indexers[slot], self._world.firmware[slot]
        per_unit = float(ax["counts_per_unit"])
        stops = index_stops(str(told("stops")))
        ix["count"] = len(stops)
        for number, stop in enumerate(stops):
            ix["places"][number] = float(stop.at) * per_unit
        pick, settle = int(told("pick")), int(told("settle"))
        if (ix["pick"], ix["settle"]) != (pick, settle):
            forget_lines(ix)
        ix["pick"], ix["way"], ix["settle"] = pick, int(told("way")), settle
        ix["over"], ix["near"] = length("over"), length("tolerance")
        ix["turn"] = 360 * per_unit if ax["wraps"] else 0.0

    def read(self, slot: int, sub: int) -> int | None:
        ix = self._world.indexers[slot]
        if sub == LINES_AS:
            return int(ix["lines_as"]) if ix["lines_as"] >= 0 else AS_THEY_ARE
        if sub == REPORT:
            return IndexReport(
                _BY_RAW[int(ix["word"])], int(ix["at"]), int(ix["goal"]), max(0, int(ix["settled"])), int(ix["pulses"])
            ).raw
        return 0 if sub == GO else None

    def write(self, slot: int, sub: int, raw: int, profile_speed: int) -> None:
        """profile_speed: raw, of 6081h: what is asked for over the wire goes no faster."""
        ix = self._world.indexers[slot]
        ix["speed"] = c.speed_from(profile_speed) / 60 * float(self._world.firmware[slot]["counts_per_unit"])
        if sub == GO:
            ix["asked"] = raw
        elif sub == LINES_AS:
            ix["lines_as"] = raw if raw < AS_THEY_ARE else -1

    def unheard(self) -> None:
        """The client is not heard any more: lines are what they are again."""
        self._world.indexers["lines_as"] = -1
