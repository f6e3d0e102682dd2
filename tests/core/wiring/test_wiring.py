"""Terminals: what is needed and offered, every rule with the edit that settles it, interlocks, and the way back."""

from __future__ import annotations

import unittest
from fractions import Fraction

from idler.core.incident import Incident, steps, title
from idler.core.machine import Address, Machine, Shape
from idler.core.profile.cia402 import DRIVE_TROUBLE, GUARD_OPENED, STOP_PRESSED
from idler.core.profile.terminals import Condition
from idler.core.proof.claims import Proof, Witness, evidence, input_claim, state
from idler.core.rules.findings import Finding, Severity, findings
from idler.core.rules.wiring import WIRING_RULES
from idler.core.spindle.interlocks import ladder, obstacle_of, try_obstacle
from idler.core.values.roles import InputRole, OutputRole
from idler.core.wiring import Duty, contacts, inputs, missing, needed, offered, outputs
from idler.core.wiring.fitting import fitted
from tests.support import A, X, Y, at, verge, wired

NONE = Condition(0)


def with_input(machine: Machine, number: int, **values: object) -> Machine:
    return machine.with_values({at(number - 1, f"input.{key}"): value for key, value in values.items()})


def with_output(machine: Machine, number: int, **values: object) -> Machine:
    return machine.with_values({at(number - 1, f"output.{key}"): value for key, value in values.items()})


class Needs(unittest.TestCase):
    def test_an_axis_that_does_not_home_needs_no_switch(self) -> None:
        machine = verge().with_values({at(X, "homing.turn"): 0})
        duties = {duty.label for duty in needed(machine)}
        self.assertNotIn("X home switch", duties)
        self.assertIn("Y home switch", duties)


class Fitting(unittest.TestCase):
    def test_a_machine_takes_the_terminals_of_another_controller_and_loses_none_that_has_a_role(self) -> None:
        controller = with_input(verge(), 12, terminal="X12", role="guard")
        few = Machine.shaped(Shape(("X", "Y"), 4, 0), {at(2, "input.role"): "guard", at(X, "chain.pitch"): Fraction(7)})
        found = fitted(few, controller)
        assert found is not None
        self.assertEqual(found.shape, Shape(("X", "Y"), controller.inputs, controller.outputs))
        self.assertEqual(
            [
                found[at(*where)]
                for where in ((2, "input.role"), (11, "input.role"), (11, "input.terminal"), (X, "chain.pitch"))
            ],
            ["guard", "guard", "X12", Fraction(7)],
        )
        self.assertEqual(
            inputs(found)[2].name, inputs(controller)[2].name, "what a controller tells of itself is no edit"
        )
        many = Machine.shaped(Shape(("X",), 24, 9), {at(22, "input.role"): "guard"})
        self.assertIsNone(fitted(many, controller))
        self.assertIsNotNone(fitted(many.with_values({at(22, "input.role"): "none"}), controller))
        self.assertIsNone(fitted(Machine.shaped(Shape(("X",), 4, 12), {at(11, "output.role"): "coolant"}), controller))


class Duties(unittest.TestCase):
    def test_what_an_unwired_verge_needs_the_stop_first(self) -> None:
        needed = [duty.label for duty in missing(verge())]
        self.assertEqual(
            needed,
            [
                "emergency stop",
                "guard",
                "X home switch",
                "Y home switch",
                "Z home switch",
                "A home switch",
                "A index mark",
            ],
        )
        self.assertEqual(missing(wired()), [])

    def test_offers_begin_with_what_is_missing_and_leave_out_what_is_there(self) -> None:
        some = with_input(verge(), 1, role="stop")
        listed = offered(some)
        self.assertEqual(listed[0], Duty(InputRole.GUARD))
        self.assertNotIn(Duty(InputRole.STOP), listed)
        for duty in (Duty(InputRole.HOME_SECOND, "Y"), Duty(InputRole.HOME_CHAIN), Duty(InputRole.TROUBLE, "Z")):
            self.assertIn(duty, listed)
        self.assertEqual(len(listed), len(set(listed)))

    def test_a_shared_chain_or_a_switch_that_is_both_takes_the_place_of_a_home_switch(self) -> None:
        chain = with_input(verge(), 1, role="home_chain")
        self.assertFalse([duty for duty in missing(chain) if duty.role is InputRole.HOME])
        both = with_input(verge(), 1, role="home_limit", axis="X")
        self.assertNotIn(Duty(InputRole.HOME, "X"), missing(both))

    def test_levels_in_words(self) -> None:
        stop, *_ = inputs(wired())
        self.assertEqual((stop.says(True), stop.says(False)), ("released", "pressed"))
        plate = inputs(wired())[6]
        self.assertEqual((plate.says(True), plate.says(False)), ("touching", "clear"))
        self.assertEqual(inputs(wired())[7].says(True), "closed")

    def test_a_machine_without_terminals_is_left_alone(self) -> None:
        bare = Machine(("X",))
        self.assertEqual((inputs(bare), outputs(bare)), ((), ()))
        self.assertEqual([item.code for rule in WIRING_RULES for item in rule(bare)], [])


class Rules(unittest.TestCase):
    def found(self, machine: Machine, code: str, seen: dict[int, int] | None = None) -> list[Finding]:
        return [item for item in findings(machine, seen) if item.code == code]

    def settles(self, machine: Machine, code: str) -> Finding:
        """Exactly one finding, whose suggested edit makes it go."""
        (item,) = self.found(machine, code)
        self.assertTrue(item.edit and item.edit_text)
        self.assertEqual(self.found(machine.with_values(dict(item.edit)), code), [])
        return item

    def test_wired_as_it_should_be_there_are_none(self) -> None:
        self.assertEqual(findings(wired()), [])

    def test_what_is_missing_is_an_error_and_does_not_hold_back_sending(self) -> None:
        listed = findings(verge())
        codes = [item.code for item in listed if item.severity is Severity.ERROR]
        self.assertEqual(codes.count("no_home"), 4)
        self.assertEqual(set(codes), {"no_stop", "no_guard", "no_home", "no_index", "no_level"})
        self.assertFalse(any(item.holds_back for item in listed))

    def test_one_role_on_two_terminals(self) -> None:
        item = self.settles(with_input(wired(), 8, role="home", axis="X"), "role_twice")
        self.assertIn("X home switch is on input 2 and on input 8", item.text)
        self.assertTrue(item.holds_back)
        self.settles(with_output(wired(), 3, role="coolant"), "role_twice")
        self.assertEqual(self.found(with_input(wired(), 8, role="trouble", axis="X"), "role_twice"), [])

    def test_two_schemes_for_the_spindles_direction_exclude_each_other(self) -> None:
        both = with_output(with_output(wired(), 1, role="none"), 3, role="turn_left")
        item = self.settles(both, "roles_exclude")
        self.assertIn("exclude each other", item.text)
        one = with_output(with_output(with_output(wired(), 1, role="turn_right"), 2, role="none"), 3, role="turn_left")
        self.assertEqual(self.found(one, "roles_exclude"), [])

    def test_a_chain_and_switches_of_their_own_exclude_each_other(self) -> None:
        self.assertEqual(len(self.found(with_input(wired(), 8, role="home_chain"), "roles_exclude")), 4)
        self.settles(with_input(wired(), 8, role="home_limit", axis="X"), "roles_exclude")

        second = with_input(with_input(wired(), 8, role="home_chain"), 2, role="home_second", axis="X")
        self.assertIn("second motor", " ".join(item.text for item in self.found(second, "roles_exclude")))

    def test_a_limit_chain_watches_every_end_and_is_tried_switch_by_switch(self) -> None:
        chain = with_input(wired(), 8, role="limit_chain", rest="open")
        self.settles(chain, "open_at_rest")
        self.assertEqual(contacts(chain, inputs(chain)[7]), 6)  # both ends of X, Y and Z; A has none
        off = chain.with_values({at(X, "travel.switches_on"): False})
        self.assertEqual(contacts(off, inputs(off)[7]), 4)
        self.assertTrue(self.found(off, "limit_switches_off"))
        self.assertEqual(contacts(chain, inputs(chain)[0]), 1)
        claim = input_claim(off, inputs(off)[7])
        kept = {claim.key: evidence(off, claim, 1e9, True, "4 switches of it were touched", Witness.EYES)}
        self.assertIs(state(off, claim, kept), Proof.PROVEN)
        self.assertIs(state(chain, input_claim(chain, inputs(chain)[7]), kept), Proof.STALE)  # two more hang on it

    def test_what_turns_left_alone_and_a_second_side_without_a_switch(self) -> None:
        alone = wired()
        for number in (1, 2, 3, 4):
            alone = with_output(alone, number, role="turn_left" if number == 2 else "none")
        self.settles(alone, "left_alone")
        beam = wired().with_values({at(X, "axis.second_output"): 8})
        self.assertEqual([item.severity for item in self.found(beam, "second_side_unwired")], [Severity.WARNING])
        self.assertEqual(self.found(with_input(beam, 8, role="home_second", axis="X"), "second_side_unwired"), [])
        self.settles(with_input(wired(), 1, sensor="mark"), "mark_as_switch")

    def test_no_stop_and_no_guard(self) -> None:
        self.assertEqual(len(self.found(with_input(wired(), 1, role="none"), "no_stop")), 1)
        without = with_input(wired(), 4, role="none")
        self.assertEqual(len(self.found(without, "no_guard")), 1)
        no_spindle = without.with_values({at(None, "spindle.kind"): "none"})
        for number in (1, 2, 9):
            no_spindle = with_output(no_spindle, number, role="none")
        self.assertEqual(self.found(no_spindle, "no_guard"), [])

    def test_open_at_rest(self) -> None:
        for number in (1, 4):
            item = self.settles(with_input(wired(), number, rest="open"), "open_at_rest")
            self.assertIs(item.severity, Severity.WARNING)
        self.settles(with_input(wired(), 8, role="limit_low", axis="X", rest="open"), "open_at_rest")
        self.assertEqual(self.found(with_input(wired(), 2, rest="open"), "open_at_rest"), [])

    def test_a_mark_that_passes_at_every_turn_is_no_limit_and_no_home(self) -> None:
        for role in ("limit_high", "home_limit"):
            marked = with_input(with_input(wired(), 2, role="none", axis="none"), 8, role=role, axis="X", sensor="mark")
            self.settles(marked, "mark_as_switch")
        self.settles(with_input(wired(), 2, sensor="mark"), "mark_as_switch")
        self.assertEqual(self.found(with_input(wired(), 10, sensor="mark"), "mark_as_switch"), [])

    def test_axes_on_one_home_chain_go_one_at_a_time(self) -> None:
        chain = with_input(verge(), 8, role="home_chain").with_values(
            {at(X, "homing.turn"): 1, at(Y, "homing.turn"): 1}
        )
        turns = {axis.name: axis.whole("homing.turn") for axis in chain.axes}
        machine = chain
        for _ in range(4):
            listed = self.found(machine, "chain_turns")
            if not listed:
                break
            self.assertIn("share one home chain", listed[0].text)
            machine = machine.with_values(dict(listed[0].edit))
        after = [axis.whole("homing.turn") for axis in machine.axes]
        self.assertEqual(len(set(after)), 4, (turns, after))

    def test_a_role_of_an_axis_needs_an_axis_that_is_there(self) -> None:
        self.assertEqual(len(self.found(with_input(wired(), 8, role="limit_low"), "axis_missing")), 1)
        self.assertEqual(len(self.found(with_input(wired(), 8, role="limit_low", axis="C"), "axis_unknown")), 1)

    def test_loads_that_the_terminal_cannot_carry_or_switch(self) -> None:
        volt, milli = Fraction(1), Fraction(1, 1000)
        for number, load, volts, amps, code in (
            (5, "coil", 48 * volt, 100 * milli, "load_volts"), (5, "coil", 24 * volt, 900 * milli, "load_amps"),
            (1, "coil_ac", 400 * volt, 100 * milli, "load_volts"), (5, "coil_ac", 24 * volt, 100 * milli, "load_kind"),
            (9, "lamp", 10 * volt, 0 * volt, "load_kind"),
        ):  # fmt: skip
            machine = with_output(wired(), number, load=load, load_volts=volts, load_amps=amps)
            listed = self.found(machine, code)
            self.assertEqual(len(listed), 1, (number, load, code))
            self.assertTrue(listed[0].holds_back)
        for number, load, volts, amps in (
            (1, "coil_ac", 230 * volt, 500 * milli), (5, "coil", 24 * volt, 500 * milli), (9, "signal", 10 * volt, 1 * milli),
        ):  # fmt: skip
            machine = with_output(wired(), number, load=load, load_volts=volts, load_amps=amps)
            self.assertEqual(findings(machine), [])

    def test_every_load_at_every_output_and_voltage(self) -> None:
        """By Ohm and Kirchhoff on paper. For 3.3, 5, 10, 12, 24 and 230 V of the load: "." it works, V beyond what the
        output switches, K the wrong kind, N never off, O too much."""
        volts = ("3.3", "5", "10", "12", "24", "230")
        letters = {
            "load_volts": "V", "load_kind": "K", "never_lets_go": "N", "too_many_volts": "O",
        }  # fmt: skip
        for kind, own, most, role, rows in (
            ("relay", "0", "250", "mist", {"coil": "......", "coil_ac": "......", "lamp": "......", "signal": "......"}),
            ("sink", "0", "30", "mist", {"coil": ".....V", "coil_ac": "KKKKKKV", "lamp": ".....V", "signal": ".....V"}),
            ("push_pull", "5", "30", "mist", {"coil": "O.NNNNV", "coil_ac": "KKKKKKV", "lamp": "O.NNNNV", "signal": "O.NNNNV"}),
            ("push_pull", "24", "30", "mist",
             {"coil": "OOOO.NV", "coil_ac": "KKKKKKV", "lamp": "OOOO.NV", "signal": "OOOO.NV"}),
            ("voltage", "10", "30", "spindle_level",
             {"coil": "KKKKKKV", "coil_ac": "KKKKKKV", "lamp": "KKKKKKV", "signal": "OO...V"}),
            ("pulse", "5", "30", "spindle_level",
             {"coil": "KKKKKKV", "coil_ac": "KKKKKKV", "lamp": "KKKKKKV", "signal": "O....V"}),
        ):  # fmt: skip
            for load, expected in rows.items():
                seen = ""
                for fed in volts:
                    machine = with_output(
                        wired(), 9, kind=kind, own_volts=Fraction(own), most_volts=Fraction(most), role=role, load=load,
                        load_volts=Fraction(fed), load_amps=Fraction(1, 100),
                    )  # fmt: skip
                    codes = {item.code for item in findings(machine) if item.where.slot == 8}
                    seen += "".join(sorted((letters[code] for code in codes & set(letters)), key="KONV".index)) or "."
                self.assertEqual(seen, expected, (kind, own, load))

    def test_a_coil_above_a_push_pull_output_never_lets_go(self) -> None:
        hung = with_output(wired(), 8, role="mist", load="coil", load_volts=Fraction(5), load_amps=Fraction(1, 100))
        (item,) = self.found(hung, "never_lets_go")
        self.assertIn("1.7 V stay on it", item.text)
        fits = with_output(wired(), 8, role="mist", load="coil", load_volts=Fraction("3.3"), load_amps=Fraction(1, 100))
        self.assertEqual(self.found(fits, "never_lets_go"), [])
        twelve = with_output(hung, 8, load_volts=Fraction(12))
        self.assertEqual(
            sorted(item.code for item in findings(twelve) if item.holds_back), ["load_volts", "never_lets_go"]
        )

    def test_levels_and_switches_are_not_mixed_up(self) -> None:
        self.settles(with_output(with_output(wired(), 9, role="none"), 3, role="spindle_level"), "level_kind")
        self.settles(with_output(wired(), 10, role="mist"), "level_kind")
        wrong = with_output(with_output(wired(), 9, role="none"), 10, role="spindle_level")
        self.assertIn("wants a 0–10 V level", self.settles(wrong, "level_kind").text)

    def test_a_speed_that_nothing_tells(self) -> None:
        item = self.settles(with_output(wired(), 9, role="none"), "no_level")
        self.assertEqual(item.edit, ((Address(8, "output.role"), "spindle_level"),))

    def test_nothing_starts_the_spindle(self) -> None:
        (item,) = self.found(with_output(wired(), 1, role="none"), "no_spindle_switch")
        self.assertIs(item.severity, Severity.WARNING)

    def test_a_pulse_that_does_not_fit_the_step_rate(self) -> None:
        long = wired().with_values({at(None, "signals.pulse_width"): Fraction(6)})
        self.assertIn("does not fit 120 kHz", self.settles(long, "pulse_does_not_fit").text)

    def test_a_terminal_that_nobody_uses_and_that_changes(self) -> None:
        self.assertEqual(self.found(wired(), "unused_changes", {7: 3, 1: 500}), [])
        (item,) = self.found(wired(), "unused_changes", {7: 40})
        self.assertIn("Input 8 has no role, and changed 40 times", item.text)


class Interlocks(unittest.TestCase):
    def obstacle(self, role: OutputRole, conditions: Condition, *, powered: bool = False) -> str:
        number = 10 if role is OutputRole.SPINDLE_LEVEL else 3
        machine = with_output(verge(), number, role=role.key)
        return try_obstacle(machine, number - 1, conditions, powered=powered)

    def test_what_turns_the_spindle_needs_stop_and_guard(self) -> None:
        for role in (OutputRole.SPINDLE_ON, OutputRole.TURN_LEFT, OutputRole.SPINDLE_LEVEL):
            self.assertEqual(self.obstacle(role, NONE), "")
            self.assertIn("emergency stop is pressed", self.obstacle(role, Condition.STOP))
            self.assertIn("guard is open", self.obstacle(role, Condition.GUARD))

    def test_each_other_has_its_own_condition(self) -> None:
        self.assertEqual(self.obstacle(OutputRole.COOLANT, Condition.STOP | Condition.GUARD), "")
        self.assertIn("emergency stop", self.obstacle(OutputRole.DRIVES_ON, Condition.STOP))
        self.assertIn("turned round", self.obstacle(OutputRole.DIRECTION, Condition.SPINDLE))
        self.assertEqual(self.obstacle(OutputRole.DIRECTION, NONE), "")

    def test_what_hangs_on_a_free_output_is_not_known(self) -> None:
        self.assertEqual(self.obstacle(OutputRole.NONE, NONE), "")
        self.assertIn("not known", self.obstacle(OutputRole.NONE, NONE, powered=True))
        for condition in (Condition.STOP, Condition.GUARD, Condition.SPINDLE):
            self.assertTrue(self.obstacle(OutputRole.NONE, condition))

    def stays_off(self, machine, conditions, fault=False) -> str:
        return obstacle_of(machine, ladder(machine, conditions, fault=fault, powered=True))

    def test_running_the_spindle(self) -> None:
        self.assertEqual(self.stays_off(wired(), NONE), "")
        self.assertIn("no output switches", self.stays_off(verge(), NONE))
        for condition, fault in ((Condition.STOP, False), (Condition.GUARD, False), (NONE, True)):
            self.assertIn("stays off", self.stays_off(wired(), condition, fault))


class WayBack(unittest.TestCase):
    def test_the_stop(self) -> None:
        incident = Incident(STOP_PRESSED, None, 0, ("X", "Y"))
        self.assertIn("Emergency stop (input 1)", title(wired(), incident))
        now = steps(incident, Condition.STOP, powered=False, unhomed=["A"])
        self.assertEqual([step.done for step in now], [False, False])
        lost = incident.seen(["X", "A"])
        now = steps(lost, NONE, powered=True, unhomed=["X", "A"])
        self.assertEqual([step.done for step in now], [True, True, False])
        self.assertIn("Home X again", now[-1].words)
        self.assertTrue(steps(lost.seen([]), NONE, powered=True, unhomed=[])[-1].done)

    def test_trouble_names_the_axis_and_the_guard_stops_the_spindle_only(self) -> None:
        self.assertIn("The drive of Z reports trouble (input 9)", title(wired(), Incident(DRIVE_TROUBLE, 2, 8)))
        self.assertIn("a drive", title(wired(), Incident(DRIVE_TROUBLE, None, None)))
        guard = Incident(GUARD_OPENED)
        self.assertFalse(guard.stops_axes)
        (step,) = steps(guard, Condition.GUARD, powered=True, unhomed=[])
        self.assertFalse(step.done)
        self.assertIn("not heard", title(wired(), Incident(0x8130)))
        self.assertEqual(A, 3)
