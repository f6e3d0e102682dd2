"""The description of a drive on Modbus: it reads back, and says what cannot be taken."""

from __future__ import annotations

import unittest

from hypothesis import given
from hypothesis import strategies as st

from idler.core.errors import IdlerError
from idler.core.spindle.registers import (
    DUTIES,
    PARITIES,
    RATES,
    TABLES,
    TYPES,
    Register,
    Registers,
    number_of,
    port_of,
    read,
    write,
)

_NUMBERS = st.integers(0, 0xFFFF)
_VALUES = {"run": ("stop", "right", "left"), "reset": ("value",)}


@st.composite
def described(draw: st.DrawFn) -> Registers:
    found = {}
    for duty in DUTIES:
        if duty in ("run", "speed") or draw(st.booleans()):
            rpm = draw(st.floats(0.001, 1000)) if duty in ("speed", "measured") else 1.0
            found[duty] = Register(
                draw(_NUMBERS), draw(st.sampled_from(sorted(TYPES))), draw(st.sampled_from(TABLES)), rpm,
                {key: draw(_NUMBERS) for key in _VALUES.get(duty, ())},
            )  # fmt: skip
    name = draw(st.text(st.characters(exclude_categories=("Cs",)), max_size=30))
    return Registers(name, "tcp://127.0.0.1:502", draw(st.integers(1, 247)), draw(st.sampled_from(RATES)),
                     draw(st.sampled_from(PARITIES)), found)  # fmt: skip


class Text(unittest.TestCase):
    @given(described())
    def test_a_description_reads_back(self, found) -> None:
        self.assertEqual(read(write(found)), found)

    def test_what_cannot_be_taken_is_named(self) -> None:
        good = write(Registers())
        for old, new, words in (
            ("unit = 1", "unit = 300", "1 to 247"), ("rate = 19200", "rate = 12345", "One of 1200"),
            ('port = "/dev/ttyUSB0"', 'port = "COM3"', "tcp://HOST:PORT"),
            ("register = 0x0000", 'register = "x"', "run.register"),
            ('type = "u16"', 'type = "f64"', "One of u16"), ("rpm = 1.0", "rpm = 0", "Above 0"), ("[speed]", "[pace]", "pace"),
            ("[line]", "line = 3\n[other]", "line is not a table"),
        ):  # fmt: skip
            with self.subTest(new), self.assertRaisesRegex(IdlerError, words.replace(".", r"\.")):
                read(good.replace(old, new, 1))
        for text in ("", "[run]\nregister = 1\n", "not toml = = 1"):
            with self.assertRaises(IdlerError):
                read(text)

    def test_numbers_and_ports_as_people_write_them(self) -> None:
        self.assertEqual([number_of(text) for text in ("2000h", "0x2000", "8192", " 1001H ")], [8192, 8192, 8192, 4097])
        for text in ("", "70000", "-1", "zwei", "FFFFFh"):
            with self.assertRaises(IdlerError):
                number_of(text)
        self.assertEqual(port_of(" tcp://drive:502 "), "tcp://drive:502")


class Values(unittest.TestCase):
    @given(st.sampled_from(sorted(TYPES)), st.integers(-(2**31), 2**32 - 1))
    def test_words_give_the_value_back_where_the_type_holds_it(self, kind, raw) -> None:
        register = Register(0, kind)
        held = register.raw(float(raw))
        self.assertEqual(register.from_words(register.to_words(held)), held)
        self.assertEqual(len(register.to_words(held)), register.words)

    def test_a_speed_in_steps(self) -> None:
        self.assertEqual(Register(0, rpm=6.0).raw(2880), 480)
        self.assertEqual(Register(0, "u16", rpm=0.01).raw(99_999), 65535)

    def test_what_must_be_there_cannot_be_taken_out(self) -> None:
        with self.assertRaises(IdlerError):
            Registers().with_register("run", None)
        more = Registers().with_register("fault", Register(7))
        self.assertEqual(more.with_register("fault", None), Registers())


class OnTheWire(unittest.TestCase):
    def test_a_raw_value_of_any_type_is_the_same_when_it_comes_back(self) -> None:
        for kind, (words, signed) in TYPES.items():
            register, bits = Register(0, kind), 16 * words - signed
            for raw in (
                0,
                1,
                (1 << bits) - 1,
                1 << bits - 1,
                *((-1, -(1 << bits), -(1 << bits - 1) - 1) if signed else ()),
            ):
                self.assertEqual(register.from_words(register.to_words(raw)), raw, (kind, raw))
            self.assertEqual(register.raw(1e12), (1 << bits) - 1)
            self.assertEqual(register.raw(-1e12), -(1 << bits) if signed else 0)
