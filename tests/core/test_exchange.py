"""Files of other kinds: round trips lose nothing, an independent reader agrees, hostile files give one sentence."""

from __future__ import annotations

import io
import json
import tempfile
import unittest
from fractions import Fraction
from pathlib import Path

import canopen
import jsonschema
from hypothesis import given
from hypothesis import strategies as st

from idler.core import machinefile
from idler.core.errors import IdlerError
from idler.core.exchange.dcf import dcf_text, read_device_file
from idler.core.exchange.jsonfile import json_text, read_json
from idler.core.exchange.tables import csv_text, read_csv
from idler.core.machine import Machine
from idler.core.wire.codec import image, place
from idler.core.wire.eds import eds_text
from idler.core.wire.objects import entries
from idler.shelf.exchange import FORMATS, read_machine, write_machine
from tests.core.test_random_machines import machines
from tests.support import A, X, at, verge, wired


class RoundTrips(unittest.TestCase):
    @given(machines())
    def test_json(self, machine: Machine) -> None:
        text = json_text(machine)
        jsonschema.validate(json.loads(text), machinefile.schema())
        self.assertEqual(read_json(text).machine, machine)

    @given(machines())
    def test_csv(self, machine: Machine) -> None:
        found = read_csv(csv_text(machine))
        self.assertEqual((found.machine, found.notes), (machine, ()))

    @given(machines())
    def test_dcf(self, machine: Machine) -> None:
        found = read_device_file(dcf_text(machine))
        self.assertEqual((image(found.machine), found.notes), (image(machine), ()))

    def test_every_kind_of_file(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            for ending in FORMATS:
                path = Path(folder) / f"mill{ending}"
                write_machine(path, wired())
                found = read_machine(path).machine
                expected = Machine.shaped(wired().shape) if ending == ".eds" else wired()
                self.assertEqual(image(found), image(expected), ending)

    def test_a_table_as_a_spreadsheet_saves_it(self) -> None:
        semicolons = "key;value\naxes;X\ninputs;0\noutputs;0\nX.chain.pitch;4 mm\n"
        found = read_csv(semicolons)
        self.assertEqual(found.machine[at(X, "chain.pitch")], 4)
        self.assertIn("values are not in the file", found.notes[0])


class IndependentReader(unittest.TestCase):
    def test_it_agrees_on_every_value_of_a_dcf(self) -> None:
        machine = verge().with_values({at(A, "axis.reversed"): True, at(X, "travel.low"): Fraction(-2503, 10)})
        stream = io.StringIO(dcf_text(machine, node=5))
        stream.name = "mill.dcf"
        read = canopen.import_od(stream)
        self.assertEqual(read.node_id, 5)
        raws = image(machine)
        for where, raw in raws.items():
            found = read[where.index]
            variable = found if isinstance(found, canopen.objectdictionary.ODVariable) else found[where.sub]
            self.assertEqual(variable.value, raw, where)

    def test_it_agrees_on_limits_and_types_of_an_eds(self) -> None:
        stream = io.StringIO(eds_text(entries(verge().shape)))
        stream.name = "controller.eds"
        read = canopen.import_od(stream)
        for entry in entries(verge().shape):
            found = read[entry.index]
            variable = found if isinstance(found, canopen.objectdictionary.ODVariable) else found[entry.sub]
            self.assertEqual((variable.data_type, variable.access_type), (entry.type.code, entry.access), entry.place)


class Hostile(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def refused(self, name: str, data: bytes) -> str:
        path = self.folder / name
        path.write_bytes(data)
        with self.assertRaises(IdlerError) as caught:
            read_machine(path)
        self.assertEqual(len(caught.exception.sentence.splitlines()), 1)
        self.assertLess(len(caught.exception.sentence), 400)
        return caught.exception.sentence

    def test_files_that_are_something_else(self) -> None:
        for ending in FORMATS:
            for data in (
                b"",
                b"\x89PNG\r\n\x1a\n\0\0",
                "größe".encode("utf-16"),
                b"[" * 100_000,
                b'{"a":' * 100_000,
                b"\xff",
            ):
                with self.subTest(ending, data=data[:8]):
                    self.refused(f"a{ending}", data)

    def test_truncated_at_any_place(self) -> None:
        for ending, kind in FORMATS.items():
            text = kind.write(Machine(("X",))).encode()
            for part in (len(text) // 7, len(text) // 3, len(text) // 2):
                with self.subTest(ending, part=part):
                    path = self.folder / f"cut{ending}"
                    path.write_bytes(text[:part])
                    try:
                        found = read_machine(path)
                    except IdlerError as why:
                        self.assertEqual(len(why.sentence.splitlines()), 1)
                        continue
                    self.assertNotIn(ending, (".json", ".dcf", ".eds"))  # those say what must be there
                    lost = ending == ".toml" or any("are not in the file" in note for note in found.notes)
                    self.assertTrue(lost, found.notes)

    @given(st.sampled_from(list(FORMATS)), st.binary(max_size=300), st.integers(0, 5000))
    def test_a_damaged_file_never_fails_otherwise(self, ending: str, noise: bytes, where: int) -> None:
        text = bytearray(FORMATS[ending].write(Machine(("X", "A"), {}, 1, 1)).encode())
        text[where : where + len(noise)] = noise
        path = self.folder / f"noise{ending}"
        path.write_bytes(bytes(text))
        try:
            read_machine(path)
        except IdlerError as why:
            self.assertEqual(len(why.sentence.splitlines()), 1)

    def test_a_hundred_megabytes(self) -> None:
        path = self.folder / "huge.json"
        with open(path, "wb") as file:
            file.truncate(100 << 20)
        with self.assertRaisesRegex(IdlerError, "huge.json: has 100 MB; no machine has more than 8 MB"):
            read_machine(path)

    def test_what_stands_twice(self) -> None:
        self.assertIn("stands twice", self.refused("a.json", b'{"schema": 2, "schema": 2}'))
        self.assertIn("stands twice", self.refused("a.csv", b"key,value\naxes,X\naxes,Y\n"))
        self.assertIn("stands twice", self.refused("a.dcf", b"[2000sub5]\nA=1\n[2000sub5]\nA=1\n"))
        self.assertIn("a.toml", self.refused("a.toml", b"schema = 2\nschema = 2\n"))

    def test_values_out_of_bounds_name_themselves(self) -> None:
        text = csv_text(verge()).replace("X.chain.pitch,5 mm", "X.chain.pitch,5000000 mm")
        self.assertIn("X pitch of the screw", self.refused("a.csv", text.encode()))
        where = place(at(X, "chain.pitch"))
        device = (
            dcf_text(verge())
            .replace(
                f"[{where.index:04X}sub{where.sub:X}]\nParameterName=pitch of the screw",
                f"[{where.index:04X}sub{where.sub:X}]\nParameterValue=many\nParameterName=pitch of the screw",
            )
            .replace("ParameterValue=5000000\n", "", 1)
        )
        self.assertIn("“many” is no whole number", self.refused("a.dcf", device.encode()))

    def test_a_kind_that_is_not_known(self) -> None:
        with self.assertRaisesRegex(IdlerError, "mill.exe: files that end with .toml, .json"):
            read_machine(self.folder / "mill.exe")
