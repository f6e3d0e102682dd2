"""Files of other kinds: round trips lose nothing, an independent reader agrees, hostile files give one sentence."""

from __future__ import annotations

import io
import json
import os
import re
import tempfile
import unittest
from fractions import Fraction
from pathlib import Path
from unittest import mock

import canopen
from hypothesis import given, settings
from hypothesis import strategies as st
from jsonschema import Draft202012Validator as Validator

from idler.core.errors import IdlerError
from idler.core.exchange.dcf import dcf_text, read_device_file
from idler.core.exchange.imported import ImportRefusal
from idler.core.exchange.jsonfile import json_text, read_json
from idler.core.exchange.tables import csv_text, read_csv
from idler.core.machine import Machine
from idler.core.machine import file as machinefile
from idler.core.profile.codec import image, place
from idler.core.profile.eds import Written, eds_text
from idler.core.profile.objects import entries
from idler.shelf import files
from idler.shelf.exchange import FORMATS, WRITTEN, Writing, read_machine, write_machine
from tests.core.machine.test_random_machines import machines
from tests.support import A, X, at, verge, verge_text, wired


class RoundTrips(unittest.TestCase):
    schema = Validator(machinefile.schema())

    @settings(max_examples=20)
    @given(machines())
    def test_json(self, machine: Machine) -> None:
        text = json_text(machine)
        self.schema.validate(json.loads(text))
        self.assertEqual(read_json(text).machine, machine)

    @settings(max_examples=20)
    @given(machines())
    def test_csv(self, machine: Machine) -> None:
        found = read_csv(csv_text(machine))
        self.assertEqual((found.machine, found.notes), (machine, ()))

    @settings(max_examples=20)
    @given(machines())
    def test_dcf(self, machine: Machine) -> None:
        found = read_device_file(dcf_text(machine))
        self.assertEqual((image(found.machine), found.notes), (image(machine), ()))

    def test_every_kind_of_file(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            for ending in WRITTEN:
                path = Path(folder) / f"mill{ending}"
                write_machine(path, wired())
                self.assertEqual(image(read_machine(path).machine), image(wired()), ending)

    def test_a_data_sheet_holds_no_values(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "mill.eds"
            with self.assertRaisesRegex(IdlerError, "holds none of them. Write a .dcf instead"):
                write_machine(path, wired())
            self.assertFalse(path.exists())
            path.write_text(eds_text(entries(wired().shape)), "utf-8")
            found = read_machine(path)
            self.assertEqual(image(found.machine), image(Machine.shaped(wired().shape)))
            self.assertIn("holds no values of a machine", found.notes[0])

    def test_a_machine_file_keeps_its_comments_out_and_in(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "mill.toml"
            changed = verge().with_values({at(X, "chain.pitch"): Fraction(4)})
            write_machine(path, changed, template=verge_text().replace("[axis.X.chain]", "# measured\n[axis.X.chain]"))
            found = read_machine(path)
            self.assertEqual(found.machine, changed)
            self.assertIn("# measured", found.text)

    def test_what_a_file_leaves_out_is_counted(self) -> None:
        for read, text in (
            (read_csv, "key,value\naxes,X\ninputs,0\noutputs,0\nX.chain.pitch,4 mm\n"),
            (read_json, '{"schema": 3, "axis": {"X": {"chain": {"pitch": "4 mm"}}}}'),
        ):
            found = read(text)
            absent = sum(1 for _ in found.machine.addresses()) - 1
            self.assertEqual(found.notes, (f"{absent} values are not in the file and took what is usual.",))

    def test_a_dcf_says_whose_it_is(self) -> None:
        text = dcf_text(verge(), node=5, name="plate mill.dcf", created=Written("11-27-2026", "04:05PM"))
        for line in (
            "FileName=plate mill.dcf", "CreationDate=11-27-2026", "CreationTime=04:05PM", "NodeID=0x5", "Baudrate=500",
            "NodeName=Plate mill 'Verge'", "LastEDS=controller.eds",
        ):  # fmt: skip
            self.assertIn(f"{line}\n", text)
        self.assertTrue(all(line.isascii() for line in text.splitlines() if not line.startswith("ParameterValue")))

    def test_a_table_as_a_spreadsheet_saves_it(self) -> None:
        semicolons = "key;value\naxes;X\ninputs;0\noutputs;0\nX.chain.pitch;4 mm\n"
        found = read_csv(semicolons)
        self.assertEqual(found.machine[at(X, "chain.pitch")], 4)
        self.assertIn("values are not in the file", found.notes[0])

    def test_a_table_of_a_spreadsheet_that_writes_otherwise(self) -> None:
        rows = ["sep=;", "key;value;", "axes;X;", "inputs;0;", "outputs;0;", "X.chain.pitch;4,000 mm;",
                "names.machine;Fräse;", "jog.steps_mm;10 1 0,1;", ";;", "", ";;"]  # fmt: skip
        for end in ("\r\n", "\n", "\r"):
            for encoding in ("cp1252", "utf-16", "utf-8-sig"):
                with self.subTest(end, encoding=encoding), tempfile.TemporaryDirectory() as folder:
                    path = Path(folder) / "mill.csv"
                    path.write_bytes(end.join(rows).encode(encoding))
                    found = read_machine(path).machine
                    self.assertEqual(found[at(X, "chain.pitch")], 4)
                    self.assertEqual(found.title, "Fräse")
                    self.assertEqual(found[at(None, "jog.steps_mm")], "10 1 0.1")

    def test_a_comma_that_may_be_either_is_refused_unless_the_table_settles_it(self) -> None:
        for text in (
            'key,value\naxes,X\ninputs,0\noutputs,0\nX.chain.pitch,"4,000 mm"\n',
            "key;value\naxes;X\ninputs;0\noutputs;0\nX.chain.pitch;4,000 mm\nX.travel.high;0.5 mm\n",
        ):
            with self.assertRaisesRegex(ImportRefusal, "Write 4.000 or 4000"):
                read_csv(text)


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
        for ending, kind in WRITTEN.items():
            assert kind.write is not None
            text = kind.write(Machine(("X",)), Writing("cut")).encode()
            for part in (len(text) // 7, len(text) // 3, len(text) // 2):
                with self.subTest(ending, part=part):
                    path = self.folder / f"cut{ending}"
                    path.write_bytes(text[:part])
                    try:
                        found = read_machine(path)
                    except IdlerError as why:
                        self.assertEqual(len(why.sentence.splitlines()), 1)
                        continue
                    self.assertNotIn(ending, (".json", ".dcf"))  # those say what must be there
                    lost = ending == ".toml" or any("are not in the file" in note for note in found.notes)
                    self.assertTrue(lost, found.notes)

    @given(st.sampled_from(list(WRITTEN)), st.binary(max_size=300), st.integers(0, 5000))
    def test_a_damaged_file_never_fails_otherwise(self, ending: str, noise: bytes, where: int) -> None:
        text = bytearray(WRITTEN[ending].write(Machine(("X", "A"), {}, 1, 1), Writing("noise")).encode())  # type: ignore[misc]
        text[where : where + len(noise)] = noise
        path = self.folder / f"noise{ending}"
        path.write_bytes(bytes(text))
        try:
            read_machine(path)
        except IdlerError as why:
            self.assertEqual(len(why.sentence.splitlines()), 1)

    def test_numbers_of_a_device_file_are_those_of_its_standard(self) -> None:
        before, section, after = dcf_text(Machine(("X",))).partition("[2000sub3]")
        for text, inputs in (
            ("0x0A", 10), ("012", 10), ("10", 10), ("0" + "9" * 60, None), ("9" * 5000, None), ("08", None), ("1e1", None),
        ):  # fmt: skip
            changed = before + section + re.sub(r"(DefaultValue|ParameterValue)=0", rf"\g<1>={text}", after, count=2)
            with self.subTest(text[:8]):
                if inputs is None:
                    with self.assertRaisesRegex(ImportRefusal, "is no number of terminals"):
                        read_device_file(changed)
                else:
                    self.assertEqual(read_device_file(changed).machine.inputs, inputs)

    def test_a_hundred_megabytes(self) -> None:
        path = self.folder / "huge.json"
        with open(path, "wb") as file:
            file.truncate(100 << 20)
        with self.assertRaisesRegex(IdlerError, "huge.json: is larger than any file of ours, 8 MB"):
            read_machine(path)

    def test_what_has_no_size(self) -> None:
        endless = self.folder / "endless.toml"
        endless.symlink_to("/dev/zero")
        pipe = self.folder / "pipe.toml"
        os.mkfifo(pipe)
        for path, why in ((endless, "is larger than"), (pipe, "nothing came from it"), (self.folder / "a.toml", "")):
            patience = mock.patch.object(files, "PATIENCE", 0.1)
            with self.subTest(path.name), patience, self.assertRaisesRegex(IdlerError, why):
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
