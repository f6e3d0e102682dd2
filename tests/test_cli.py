from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

from idler import new_machine
from idler.core.machine import file as machinefile
from idler.shelf.shelf import Shelf
from tests.support import run_idler, verge_text, wired

ROOT = Path(__file__).resolve().parent.parent


class FolderCase(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def file(self, text: str) -> str:
        path = self.folder / "machine.toml"
        path.write_text(text, "utf-8")
        return str(path)


class CommandLine(FolderCase):
    def test_check(self) -> None:
        done = run_idler("check", self.file(machinefile.write(wired(), verge_text())), "--json")
        self.assertEqual((done.returncode, json.loads(done.stdout)["findings"]), (0, []), done.stderr)
        self.assertEqual(json.loads(done.stdout)["axes"]["X"]["counts_per_unit"], 320)
        done = run_idler("check", self.file(verge_text().replace('screen_unit = "mm"', 'screen_unit = "in"')))
        self.assertIn("Y: 8\u202f128 counts per inch  (200 × 8 ÷ 0.19685)", done.stdout)
        done = run_idler("check", self.file(verge_text().replace('"3000 mm/min"', '"90000 mm/min"', 1)), "--json")
        self.assertEqual(done.returncode, 1)
        self.assertIn("step_rate_exceeded", [item["code"] for item in json.loads(done.stdout)["findings"]])

    def test_what_cannot_be_read_is_one_sentence_and_exit_code_two(self) -> None:
        for path in (self.file('schema = 2\n[axis.X.chain]\npitch = "5 s"\n'), str(self.folder / "none.toml")):
            done = run_idler("check", path)
            self.assertEqual((done.returncode, done.stdout), (2, ""))
            self.assertEqual(len(done.stderr.strip().splitlines()), 1)
        self.assertIn("none.toml", done.stderr)

    def test_what_is_next_is_listed_and_left_out_with_a_reason(self) -> None:
        new_machine("verge", shelf=self.folder)
        shelf = ("--shelf", str(self.folder))
        told = json.loads(run_idler("next", "verge", *shelf, "--json").stdout)
        self.assertEqual(told[0]["key"], "link")
        self.assertTrue(
            {"key", "station", "page", "text", "why", "procedure", "needs", "minutes", "waits_for"} <= set(told[0])
        )
        self.assertIn("→ Connect the controller", run_idler("next", "verge", *shelf).stdout)
        self.assertEqual(run_idler("next", "verge", *shelf, "--skip", "level=").returncode, 2)
        self.assertEqual(run_idler("next", "verge", *shelf, "--skip", "levle=a").returncode, 2)
        self.assertIn(
            "left out: no dial here", run_idler("next", "verge", *shelf, "--skip", "level=no dial here").stdout
        )
        told = json.loads(run_idler("next", "verge", *shelf, "--json").stdout)
        self.assertEqual({step["key"]: step["skipped"] for step in told if step["skipped"]}, {"level": "no dial here"})
        self.assertIn("no dial here", run_idler("report", "verge", *shelf).stdout)
        self.assertNotIn("left out", run_idler("next", "verge", *shelf, "--take-up", "level").stdout)

    def test_eds_and_descriptions(self) -> None:
        done = run_idler("eds", "--axes", "2")
        self.assertIn("[60FD]", done.stdout)
        self.assertNotIn("[70FD]", done.stdout)
        target = self.folder / "profile.md"
        self.assertEqual(run_idler("describe", "profile", "--output", str(target)).returncode, 0)
        self.assertIn("608Fh:01", target.read_text("utf-8"))

    def test_words_without_a_window_need_no_qt(self) -> None:
        script = (
            "import sys\nsys.modules['PySide6'] = None\nfrom idler.cli import main\n"
            "sys.argv = ['idler', 'check', sys.argv[1]]\nmain()\n"
        )
        command = [sys.executable, "-c", script, self.file(machinefile.write(wired()))]
        done = subprocess.run(command, capture_output=True, text=True)
        self.assertEqual((done.returncode, done.stderr), (0, ""))

    def test_every_layer_but_the_application_imports_without_qt(self) -> None:
        script = (
            "import sys, pkgutil, importlib\nsys.modules['PySide6'] = None\nimport idler\n"
            "for part in ('core', 'link', 'shelf', 'bench', 'cli'):\n"
            "    package = importlib.import_module(f'idler.{part}')\n"
            "    for found in pkgutil.walk_packages(package.__path__, package.__name__ + '.'):\n"
            "        importlib.import_module(found.name)\n"
        )
        done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True)
        self.assertEqual((done.returncode, done.stderr), (0, ""))


class Launcher(unittest.TestCase):
    def test_the_script_is_plain_shell_and_passes_words_on(self) -> None:
        self.assertEqual(subprocess.run(["sh", "-n", str(ROOT / "idler")]).returncode, 0)
        done = subprocess.run([str(ROOT / "idler"), "--version"], capture_output=True, text=True)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertTrue(done.stdout.startswith("idler, version"))

    def test_no_committed_file_carries_a_path_of_a_machine(self) -> None:
        listed = subprocess.run(["git", "-C", str(ROOT), "ls-files"], capture_output=True, text=True).stdout.split()
        for name in listed:
            path = ROOT / name
            if (
                path.suffix in (".py", ".md", ".toml", ".lock", ".txt", ".desktop", ".xml", ".svg", "")
                and path.is_file()
            ):
                text = path.read_text("utf-8", "ignore")
                self.assertNotIn(str(ROOT) + "/", text, name)
                self.assertNotIn("--index-url", text.replace('assertNotIn("--index-url"', ""), name)


class Exchange(FolderCase):
    def test_every_kind_goes_out_and_comes_in(self) -> None:
        source, shelf = self.file(machinefile.write(wired(), verge_text())), ("--shelf", str(self.folder / "shelf"))
        for ending in ("json", "csv", "dcf"):
            target = str(self.folder / f"mill.{ending}")
            self.assertEqual(run_idler("export", source, target).returncode, 0)
            same = run_idler("compare", source, target)
            self.assertEqual((same.returncode, same.stdout), (0, "They are the same.\n"))
        done = run_idler("import", str(self.folder / "mill.dcf"), "--as", "mill", *shelf)
        self.assertEqual((done.returncode, done.stdout), (0, "mill is on the shelf.\n"), done.stderr)
        other = (self.folder / "mill.csv").read_text("utf-8").replace("X.chain.pitch,5 mm", "X.chain.pitch,4 mm")
        (self.folder / "other.csv").write_text(other, "utf-8")
        done = run_idler("import", str(self.folder / "other.csv"), "--into", "mill", *shelf)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("X pitch of the screw 5 mm → 4 mm", done.stdout)
        self.assertEqual(run_idler("compare", "mill@draft", str(self.folder / "other.csv"), *shelf).returncode, 0)
        for name in ("../../x", "archive/../mill", "nobody", ""):
            with self.subTest(name):
                refused = run_idler("import", str(self.folder / "other.csv"), "--into", name, *shelf)
                self.assertEqual(
                    (refused.returncode, "is not on the shelf" in refused.stderr), (2, True), refused.stderr
                )
        shown = run_idler("import", str(self.folder / "other.csv"), *shelf)
        self.assertIn("X pitch of the screw 5 mm → 4 mm", shown.stdout)

    def test_tools_are_told_once_and_programs_are_read_with_them(self) -> None:
        new_machine("mill", shelf=self.folder / "shelf")
        shelf = ("--shelf", str(self.folder / "shelf"))
        part = self.folder / "part.nc"
        part.write_text("G21 G90 F500\nG0 G43 H3 Z-20\nM30\n")
        read = ("program", str(part), "--machine", "mill", "--json", *shelf)
        self.assertEqual(json.loads(run_idler(*read).stdout)["extents"]["Z"], [-20, -20])
        wrong = run_idler("tools", "mill", "--length", "3=12.5", "--length", "100=1", *shelf)
        self.assertEqual((wrong.returncode, "1 to 99" in wrong.stderr), (2, True), wrong.stderr)
        self.assertEqual(run_idler("tools", "mill", *shelf).stdout, "No tool has a length.\n")
        told = json.loads(run_idler("tools", "mill", "--length", "3=-12.5", "--json", *shelf).stdout)
        self.assertEqual(told, {"tools": {"3": {"length": -12.5, "name": "", "stale": False}}, "radii": {}})
        self.assertEqual(json.loads(run_idler(*read).stdout)["extents"]["Z"], [-32.5, -32.5])
        self.assertEqual(json.loads(run_idler(*read, "--length", "3=1").stdout)["extents"]["Z"], [-19, -19])
        self.assertIn("No tool", run_idler("tools", "mill", "--remove", "3", *shelf).stdout)

    def test_a_makers_data_sheet_is_read_and_kept_for_the_parts_that_it_names(self) -> None:
        shelf, file = self.folder / "shelf", self.folder / "drive.eds"
        one = "[607F]\nParameterName=Max speed\nObjectType=7\nDataType=7\nAccessType=rw\nHighLimit=500\n"
        file.write_text(one)
        nameless = run_idler("sheet", str(file), "--keep", "--shelf", str(shelf))
        self.assertEqual((nameless.returncode, "Link, Parts" in nameless.stderr), (2, True), nameless.stderr)
        file.write_text(f"[DeviceInfo]\nVendorNumber=0x5A5\nProductNumber=7\n{one}LowLimit=900\n")
        told = run_idler("sheet", str(file), "--keep", "--json", "--shelf", str(shelf))
        found = json.loads(told.stdout)
        self.assertEqual((told.returncode, found["vendor"], found["bounds"], len(found["errors"])), (1, 0x5A5, [], 1))
        self.assertEqual((shelf / "sheets" / "000005a5-00000007.eds").read_text(), file.read_text())
        none = run_idler("sheet", str(shelf / "nothing.eds"))
        self.assertEqual((none.returncode, "nothing.eds" in none.stderr), (2, True), none.stderr)

    def test_a_forgotten_pin_is_taken_away_with_a_mark(self) -> None:
        kept = Shelf(self.folder / "shelf")
        kept.add("mill", verge_text(), "as it came", 0)
        kept.lock("mill", "4711", 0)
        shelf = ("--shelf", str(self.folder / "shelf"))
        locked = run_idler("import", self.file(verge_text()), "--into", "mill", *shelf)
        self.assertEqual(locked.returncode, 2)
        self.assertIn("locked with a PIN", locked.stderr)
        sent = run_idler("send", "mill", "--to", "slcan://127.0.0.1:1", *shelf)
        self.assertEqual((sent.returncode, "locked with a PIN" in sent.stderr), (2, True))
        done = run_idler("unlock", "mill", "--forgotten", *shelf)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertEqual(kept.revisions("mill")[0].note, "The PIN of mill was taken away without being known")


class Programs(FolderCase):
    def test_a_program_is_judged_from_a_file_and_from_a_pipe_and_drawn(self) -> None:
        machine, plate = ROOT / "src/idler/data/verge.toml", ROOT / "src/idler/data/plate.nc"
        words = ("program", str(plate), "--machine", str(machine), "--zero", "X=-200,Y=-90,Z=-60")
        done = run_idler(*words, "--json", "--picture", str(self.folder / "plate.png"))
        found = json.loads(done.stdout)
        self.assertEqual((done.returncode, found["fits"], found["shift"]), (1, False, {"Y": -21.5}), done.stderr)
        self.assertEqual([(item["axis"], item["side"], item["by"]) for item in found["beyond"]], [("Y", "high", 21.5)])
        self.assertEqual((self.folder / "plate.png").read_bytes()[:4], b"\x89PNG")
        done = run_idler(*words[:-1], "X=-200,Y=-111.5,Z=-60", "--picture", str(self.folder / "plate.svg"))
        self.assertEqual((done.returncode, done.stdout.splitlines()[0]), (0, "It fits this machine at this work zero."))
        self.assertTrue((self.folder / "plate.svg").read_text().startswith("<svg"))
        done = run_idler("program", str(self.folder), "--machine", str(machine))
        self.assertEqual((done.returncode, done.stdout), (2, ""))
        self.assertIn("directory", done.stderr)
        piped = subprocess.run(
            [sys.executable, "-m", "idler", "program", "-", "--machine", str(machine)], input=b"G21 G90\nG0 X-10\n",
            capture_output=True, check=False,
        )  # fmt: skip
        self.assertEqual(piped.returncode, 0, piped.stderr)
