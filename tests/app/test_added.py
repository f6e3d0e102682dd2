"""What an addition touches: a station is a folder with its key as its name."""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path
from unittest import mock

from idler.app import stations
from idler.core.table.stations import Station
from tests.app.gui import SessionCase

MADE_UP = """
from idler.app.stations.workbench import Workbench

class MadeUp(Workbench):
    def __init__(self, session):
        super().__init__()
        self.session = session

def make(host):
    return MadeUp(host.session)
"""


class Added(SessionCase):
    on_bench = False

    def test_a_station_is_one_folder(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            place = Path(folder) / Station.TRIAL.key
            place.mkdir()
            (place / "__init__.py").write_text("")
            (place / "station.py").write_text(MADE_UP)
            made = f"{stations.__name__}.{place.name}"
            others = {name: module for name, module in sys.modules.items() if not name.startswith(made)}
            with mock.patch.object(stations, "__path__", [folder]), mock.patch.dict(sys.modules, others, clear=True):
                self.window.open_station(Station.TRIAL)
        page = self.window.page(Station.TRIAL)
        self.assertEqual(type(page).__name__, "MadeUp")
        self.assertIs(page.session, self.session)  # type: ignore[attr-defined]
