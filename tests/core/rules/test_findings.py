from __future__ import annotations

import json
import unittest
from fractions import Fraction

from idler.core.machine import Machine
from idler.core.proof.claims import Proof
from idler.core.report.progress import train
from idler.core.rules.findings import Severity, check_json, findings
from idler.core.table.stations import Station
from idler.core.values.stage import Stage
from tests.support import A, X, Y, at, verge, wired


def codes(machine: Machine, slot: int = X) -> list[str]:
    return [item.code for item in findings(machine) if item.where.axis == slot]


def changed(**values: object) -> Machine:
    return wired().with_values({at(X, key.replace("__", ".")): value for key, value in values.items()})


class Rules(unittest.TestCase):
    def test_verge_as_delivered_has_none(self) -> None:
        self.assertEqual(findings(wired()), [])

    def test_step_rate(self) -> None:
        fast = changed(pace__top_speed=Fraction(30_000), pace__motor_speed=Fraction(10_000))
        (item,) = findings(fast)
        self.assertEqual(item.code, "step_rate_exceeded")
        self.assertIs(item.severity, Severity.ERROR)
        self.assertIn("22\u202f500 mm/min", item.text)
        self.assertEqual(codes(fast.with_values(dict(item.edit))), [])

    def test_the_highest_reachable_speed_is_reachable(self) -> None:
        for rate in ("7.3", "33.3", "119.9"):
            machine = changed(pace__top_speed=Fraction(200_000), pace__motor_speed=Fraction(60_000))
            machine = machine.with_values({at(None, "signals.step_rate"): Fraction(rate)})
            item = next(item for item in findings(machine) if item.code == "step_rate_exceeded")
            self.assertNotIn("step_rate_exceeded", codes(machine.with_values(dict(item.edit))), rate)

    def test_motor_speed(self) -> None:
        machine = changed(pace__top_speed=Fraction(8000))
        (item,) = findings(machine)
        self.assertEqual((item.code, item.severity), ("motor_speed_exceeded", Severity.WARNING))
        self.assertEqual(codes(machine.with_values(dict(item.edit))), [])

    def test_nothing_moves(self) -> None:
        self.assertEqual(codes(changed(pace__top_speed=Fraction(0))), ["top_speed_zero"])
        self.assertEqual(codes(changed(pace__acceleration=Fraction(0))), ["acceleration_zero"])
        self.assertEqual(codes(changed(pace__deceleration=Fraction(0))), ["deceleration_zero"])

    def test_empty_travel_only_while_limits_are_on(self) -> None:
        empty = {"travel__low": Fraction(0), "travel__high": Fraction(0)}
        self.assertEqual(codes(changed(**empty)), ["travel_empty"])
        self.assertEqual(codes(changed(**empty, travel__limits_on=False)), [])

    def test_the_coordinate_that_is_proposed_lies_between_the_stops_of_a_short_travel_too(self) -> None:
        short = Machine(("X",), {at(X, "axis.output"): 1, at(X, "travel.stop_low"): Fraction(0)}, 2, 2)
        short = short.with_values({at(X, "travel.stop_high"): Fraction(1)})
        found = next(item for item in findings(short) if item.code == "signs_confused")
        self.assertEqual(found.edit, ((at(X, "homing.coordinate"), Fraction(3, 4)),))
        self.assertNotIn("signs_confused", [item.code for item in findings(short.with_values(dict(found.edit)))])

    def test_limits_off(self) -> None:
        machine = changed(travel__limits_on=False)
        (item,) = findings(machine)
        self.assertEqual(item.code, "limits_off")
        self.assertEqual(codes(machine.with_values(dict(item.edit))), [])

    def test_limits_beyond_the_stops(self) -> None:
        self.assertEqual(codes(changed(travel__low=Fraction(-400))), ["limit_beyond_stop"])
        self.assertEqual(codes(changed(travel__high=Fraction(7))), ["limit_beyond_stop"])
        self.assertEqual(codes(changed(travel__high=Fraction(6), travel__low=Fraction(-312))), ["limit_behind_switch"])
        self.assertEqual(codes(changed(travel__high=Fraction(7), travel__limits_on=False)), ["limits_off"])

    def test_shape_that_cannot_be_stored(self) -> None:
        for jerk in (Fraction(0), Fraction(499)):
            machine = changed(pace__shape="limited", pace__jerk=jerk)
            (item,) = findings(machine)
            self.assertEqual(item.code, "shape_not_storable")
            self.assertEqual(codes(machine.with_values(dict(item.edit))), [])
        self.assertEqual(codes(changed(pace__shape="limited", pace__jerk=Fraction(500))), [])
        self.assertEqual(codes(changed(pace__shape="constant", pace__jerk=Fraction(0))), [])

    def test_rounding_on_the_wire(self) -> None:
        many = tuple(Stage.parse(text) for text in ("997 : 991",) * 8)
        self.assertNotIn("rounding_on_wire", codes(changed(chain__stages=many)))
        absurd = (Stage.parse("999999999 : 1"), Stage.parse("99 : 1"))  # more turns than 32 bits can hold
        self.assertIn("rounding_on_wire", codes(changed(chain__stages=absurd)))

    def test_kinds_that_disagree(self) -> None:
        self.assertIn("kinds_disagree", codes(changed(chain__final="worm")))
        rotary = verge().with_values({at(A, "chain.final"): "screw"})
        self.assertIn("kinds_disagree", codes(rotary, A))


class Json(unittest.TestCase):
    def test_derived_values_and_findings(self) -> None:
        made = json.loads(check_json(changed(travel__limits_on=False)))
        axis = made["axes"]["X"]
        self.assertEqual((axis["counts_per_unit"], axis["unit"], axis["resolution"]), (320, "mm", 0.003125))
        self.assertEqual(axis["step_rate"], 16_000)
        self.assertEqual(made["axes"]["A"]["unit"], "deg")
        (item,) = made["findings"]
        self.assertEqual(set(item), {"code", "severity", "where", "text"})
        self.assertEqual((item["code"], item["where"]), ("limits_off", "X soft limits"))


class Train(unittest.TestCase):
    def test_what_is_entered_and_what_must_be_settled(self) -> None:
        states = train(verge(), connected=False, found_kept=False)
        self.assertIs(states[Station.DRIVES], Proof.ENTERED)
        self.assertIs(states[Station.SPINDLE], Proof.ENTERED)
        self.assertIs(states[Station.LINK], Proof.NOTHING)
        bad = verge().with_values({at(Y, "pace.top_speed"): Fraction(0)})
        self.assertIs(train(bad, connected=True, found_kept=True)[Station.DRIVES], Proof.FAILED)
        self.assertIs(train(bad, connected=True, found_kept=True)[Station.LINK], Proof.PROVEN)
        self.assertIs(train(bad, connected=True, found_kept=False)[Station.LINK], Proof.ENTERED)
