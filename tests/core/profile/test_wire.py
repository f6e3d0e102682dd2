from __future__ import annotations

import contextlib
import io
import unittest
import zlib
from fractions import Fraction

import canopen
from hypothesis import given
from hypothesis import strategies as st

from idler.core.controller.standing import ControllerImage, Standing, consequences, count, standing
from idler.core.errors import Refusal
from idler.core.machine import Machine
from idler.core.mechanics.chain import Chain
from idler.core.profile.cia402 import State, fault_text, way_back
from idler.core.profile.codec import (
    LETTERS,
    Place,
    counts_on_wire,
    decode,
    derived,
    encode,
    image,
    machine_from,
    place,
    ratio,
)
from idler.core.profile.concise import pack_values, unpack_values
from idler.core.profile.dictionary import dictionary
from idler.core.profile.eds import eds_text
from idler.core.profile.errorcodes import CODES, error_code
from idler.core.profile.objects import entries
from idler.core.table import AXIS
from idler.core.values.parameter import Kind
from idler.core.values.stage import Stage
from tests.support import A, X, Y, at, verge


class Codec(unittest.TestCase):
    def test_a_machine_comes_back_from_its_image(self) -> None:
        self.assertEqual(machine_from(image(verge()), verge().shape), verge())

    @given(st.sampled_from([row for row in AXIS.values() if row.kind is Kind.QUANTITY]), st.floats(0, 1))
    def test_values_come_back_within_half_a_step(self, row, share: float) -> None:
        value = row.low + (row.high - row.low) * Fraction(share)
        back = decode(row, encode(row, value))
        self.assertLessEqual(abs(back - value), row.wire.resolution / 2)
        self.assertEqual(encode(row, back), encode(row, value))

    def test_what_a_controller_may_not_hold(self) -> None:
        raws = dict(image(verge()))
        raws[place(at(X, "chain.final"))] = 99
        with self.assertRaisesRegex(Refusal, "not one of the known choices"):
            machine_from(raws, verge().shape)

    def test_stages_that_are_too_long_for_the_wire(self) -> None:
        long = (Stage.parse("123456789.123456789 : 987654321.987654321"),) * 8
        with self.assertRaisesRegex(Refusal, "too long"):
            at(X, "chain.stages").row.check(long)

    @given(st.fractions(min_value=Fraction(1, 10**12), max_value=10**12, max_denominator=10**15))
    def test_a_ratio_fits_and_is_near(self, value: Fraction) -> None:
        over, under = ratio(value)
        self.assertTrue(1 <= over <= 0xFFFFFFFF and 1 <= under <= 0xFFFFFFFF)
        if Fraction(1, 10**6) < value < 10**6:
            self.assertLess(abs(Fraction(over, under) / value - 1), Fraction(1, 10**6))

    def test_the_position_factor_gives_the_counts_of_the_chain(self) -> None:
        for axis in verge().axes:
            self.assertEqual(counts_on_wire(dict(derived(axis)), axis.slot), Chain.of(axis).counts_per_unit)

    def test_objects_of_the_axes_lie_800h_apart(self) -> None:
        self.assertEqual(place(at(Y, "pace.top_speed")), Place(0x687F, 0))
        self.assertEqual(place(at(A, "chain.pitch")), Place(0x4301, 7))

    def test_homing_methods(self) -> None:
        wanted = {("switch", "high"): 23, ("switch", "low"): 27, ("switch_index", "high"): 7, ("here", "low"): 37}
        for (method, towards), code in wanted.items():
            machine = verge().with_values({at(X, "homing.method"): method, at(X, "homing.towards"): towards})
            self.assertEqual(derived(machine.axis(X))[Place(0x6098, 0)], code)


class Dictionaries(unittest.TestCase):
    def test_the_eds_says_what_the_dictionary_says(self) -> None:
        listed = entries(verge().shape)
        text = io.StringIO(eds_text(listed))
        text.name = "controller.eds"
        read, made = canopen.import_od(text, 5), dictionary(listed, 5)
        self.assertEqual(set(read), set(made))
        for entry in listed:
            one, other = (
                od[entry.index]
                if len([e for e in listed if e.index == entry.index]) == 1
                else od[entry.index][entry.sub]
                for od in (read, made)
            )
            with self.subTest(entry.place):
                self.assertEqual((one.data_type, one.access_type), (other.data_type, other.access_type))
                self.assertEqual(one.default, other.default)

    def test_every_value_of_the_table_is_an_object(self) -> None:
        there = {entry.place for entry in entries(verge().shape)}
        self.assertLessEqual(set(image(verge())), there)


class Concise(unittest.TestCase):
    @given(
        st.dictionaries(
            st.builds(Place, st.integers(0, 0xFFFF), st.integers(0, 0xFF)), st.binary(max_size=300), max_size=9
        )
    )
    def test_values_come_back(self, values: dict[Place, bytes]) -> None:
        self.assertEqual(unpack_values(pack_values(values)), values)

    def test_the_bytes_are_those_of_the_standard(self) -> None:
        packed = zlib.decompress(pack_values({Place(0x6092, 1): b"\x01\x02\x03\x04"}))
        self.assertEqual(packed.hex(" "), "01 00 00 00 92 60 01 04 00 00 00 01 02 03 04")

    @given(st.binary(max_size=60), st.integers(0, 60), st.integers(1, 255))
    def test_what_is_cut_or_spoilt_is_no_block_of_values(self, noise: bytes, at: int, bits: int) -> None:
        good = pack_values({Place(0x6092, 1): b"\x01\x02", Place(0x6091, 2): b"\x03"})
        spoilt = bytearray(good)
        spoilt[at % len(good)] ^= bits
        for data in (noise, good[: at % len(good)], bytes(spoilt), zlib.compress(noise + b"\xff")):
            with contextlib.suppress(ValueError):
                self.assertEqual(unpack_values(data), unpack_values(good))


class Standings(unittest.TestCase):
    def setUp(self) -> None:
        self.machine = verge()
        self.holding = ControllerImage(self.machine.shape, image(self.machine))

    def test_each_standing(self) -> None:
        pitch, rate = at(X, "chain.pitch"), at(None, "signals.step_rate")
        self.assertIs(standing(self.machine, None, pitch), Standing.UNKNOWN)
        self.assertIs(standing(self.machine, self.holding, pitch), Standing.SAME)
        edited = self.machine.with_values({pitch: Fraction(4)})
        self.assertIs(standing(edited, self.holding, pitch), Standing.EDITED)
        waits = ControllerImage(self.holding.shape, self.holding.raws, {place(rate): 0})
        self.assertIs(standing(self.machine, waits, rate), Standing.WAITING)
        self.assertEqual(count(edited, waits).words, "1 value edited, not sent · 1 value waiting for a restart")

    def test_what_was_sent_and_is_in_no_revision(self) -> None:
        pitch = at(X, "chain.pitch")
        sent = self.machine.with_values({pitch: Fraction(4)})
        holding = ControllerImage(sent.shape, image(sent))
        self.assertIs(standing(sent, holding, pitch, self.machine), Standing.IN_FORCE)
        self.assertIs(standing(sent, holding, pitch, sent), Standing.SAME)
        self.assertEqual(count(sent, holding, self.machine).words, "1 value in force, in no revision")
        self.assertEqual(count(sent, holding, sent).words, "the controller holds every value")
        self.assertEqual(count(sent, None).words, "no controller is connected")

    def test_rounding_on_the_wire_is_no_edit(self) -> None:
        near = self.machine.with_values({at(X, "pace.top_speed"): Fraction(3000) + Fraction(1, 10**5)})
        self.assertIs(standing(near, self.holding, at(X, "pace.top_speed")), Standing.SAME)

    def test_what_follows_from_a_new_screw(self) -> None:
        after = self.machine.with_values({at(X, "chain.pitch"): Fraction(4)})
        lines = {line.label: (line.before, line.after) for line in consequences(self.machine, after, X)}
        self.assertEqual(lines["counts per mm"], ("320", "400"))
        self.assertEqual(lines["one count"], ("3.125 µm", "2.5 µm"))
        self.assertEqual(lines["steps at top speed"], ("16.0 kHz", "20.0 kHz"))
        self.assertEqual(lines["motor at top speed"], ("600 rpm", "750 rpm"))
        self.assertEqual(consequences(self.machine, after, Y), [])

    def test_an_axis_that_the_controller_has_not_is_an_edit(self) -> None:
        small = Machine(("X",))
        holding = ControllerImage(small.shape, image(small))
        self.assertIs(standing(self.machine, holding, at(Y, "chain.pitch")), Standing.EDITED)
        counted = count(self.machine, holding)
        self.assertTrue(counted.to_send)
        self.assertIn("other axes, not sent", counted.words)
        fewer = count(small, ControllerImage(self.machine.shape, image(self.machine)))
        self.assertIs(fewer.axes, Standing.EDITED)
        same = ControllerImage(small.shape, image(small), {LETTERS: "XYZA"})
        self.assertTrue(count(small, same).to_restart)


class States(unittest.TestCase):
    def test_statuswords(self) -> None:
        for word, state in (
            (0x0250, State.OFF),
            (0x0231, State.READY),
            (0x0637, State.ENABLED),
            (0x0217, State.QUICK_STOP),
        ):
            self.assertIs(State.of(word), state)
        self.assertIs(State.of(0x0008), State.FAULT)
        self.assertIn("emergency stop", fault_text(0xFF01))
        self.assertIn("1234h", fault_text(0x1234))
        self.assertEqual(fault_text(0x7121), "its motor is held fast (error 7121h)")
        for code, near in ((0x2312, 0x2310), (0x8399, 0x8300), (0x5123, 0x5100), (0x5999, 0x5000), (0xFF12, 0xFF00)):
            self.assertEqual(error_code(code), CODES[near], f"{code:04X}h is told by what it belongs to")
        self.assertEqual((error_code(0xA000), fault_text(0xA000)), (("", ""), "error A000h"))
        self.assertIn("encoder's cable", way_back(0x7305))
        for meaning, way in CODES.values():
            self.assertTrue(meaning[0].islower() and not meaning.endswith(".") and way.endswith("."))
