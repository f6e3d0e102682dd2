"""The sheets of fields: every value once, under a head, with a name."""

from __future__ import annotations

import unittest

from idler.core.homing import homing_keys
from idler.core.table import TABLE
from idler.core.table.sheets import HOMING, SHEETS, SIGNALS, TRAVEL
from tests.support import verge

ROWS = {row.key: row for rows in TABLE.values() for row in rows.values()}


class Sheets(unittest.TestCase):
    def test_no_value_stands_twice_in_a_sheet_and_each_is_one_of_the_table(self) -> None:
        for name, groups in SHEETS.items():
            keys = [key for group in groups for key in group.names]
            self.assertEqual(len(keys), len(set(keys)), name)
            self.assertEqual([key for key in keys if key not in ROWS], [], name)
            self.assertTrue(all(group.names for group in groups), name)

    def test_a_sheet_of_a_station_leaves_nothing_of_its_group_out(self) -> None:
        for group, sheet in (("travel", TRAVEL), ("homing", HOMING), ("signals", SIGNALS)):
            listed = {key for part in sheet for key in part.names}
            self.assertEqual(listed, {key for key, row in ROWS.items() if row.group == group})

    def test_what_an_axis_uses_to_home_is_on_the_sheet(self) -> None:
        machine = verge()
        listed = {key for part in HOMING for key in part.names}
        for slot in range(len(machine.names)):
            self.assertLessEqual(set(homing_keys(machine, slot)), listed)
