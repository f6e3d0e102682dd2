from __future__ import annotations

import contextlib
import os
import re
import signal
import subprocess
import sys
import tempfile
import unittest
from fractions import Fraction
from pathlib import Path
from unittest import mock

from hypothesis import given, settings
from hypothesis import strategies as st

from idler.core.controller.sending import Sending
from idler.core.errors import IdlerError
from idler.core.machine import Machine
from idler.core.machine.changes import address_from, address_text, differences
from idler.core.machine.file import FileRefusal
from idler.core.profile.codec import Place
from idler.core.proof.claims import Witness, claims, evidence
from idler.core.proof.workzero import WorkSet, WorkZero
from idler.shelf import repository
from idler.shelf.files import FileTrouble, read_text, removed, write_text
from idler.shelf.hold import ShelfHold
from idler.shelf.pin import TooSoon
from idler.shelf.shelf import Shelf
from tests.support import A, X, Y, at, run_idler, verge, verge_text, wired, wiring

PITCH = at(X, "chain.pitch")
NOON = 1_795_435_200.0


class ShelfCase(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.root = Path(folder.name)
        self.shelf = Shelf(self.root)
        self.shelf.add("verge", verge_text(), "As it came", NOON)

    def git(self, *words: str) -> str:
        command = ["git", "-C", str(self.root / "machines"), *words]
        return subprocess.run(command, capture_output=True, text=True, check=True).stdout


ONE_ZERO = WorkSet().put(0, {"X": WorkZero(1.0)})


class WorkZeros(ShelfCase):
    def test_they_come_back_and_are_in_no_revision(self) -> None:
        self.assertEqual(self.shelf.work_zeros("verge"), WorkSet())
        first = {"X": WorkZero(-12.34567, {"X.homing.coordinate": "2 mm"}), "A": WorkZero(90.0)}
        zeros = WorkSet().put(0, first).put(3, {"X": WorkZero(5.0)}).named(3, " left  vice ")
        self.shelf.save_work_zeros("verge", WorkSet(zeros.places, zeros.names, 3))
        found = Shelf(self.root).work_zeros("verge")
        self.assertEqual(found.at(0), {"X": WorkZero(-12.3457, {"X.homing.coordinate": "2 mm"}), "A": WorkZero(90.0)})
        self.assertEqual((found.at(3), found.shown, found.title(3)), ({"X": WorkZero(5.0)}, 3, "G57 left vice"))
        self.assertEqual(self.git("status", "--porcelain"), "")

    def test_a_damaged_file_says_so_and_stays(self) -> None:
        path = self.root / "work" / "verge.toml"
        for text in ("work = [1", "[work]\nX = 'here'", "work = 3"):
            write_text(path, text)
            with self.assertRaisesRegex(IdlerError, "cannot be read"):
                self.shelf.work_zeros("verge")
            self.assertEqual(read_text(path), text)


class Revisions(ShelfCase):
    def test_keep_list_and_go_back(self) -> None:
        edited = verge().with_values({PITCH: Fraction(4)})
        kept = self.shelf.keep("verge", edited, "measured the screw", NOON + 60)
        self.assertEqual((kept.number, kept.note, kept.when), (2, "measured the screw", NOON + 60))
        newest, oldest = self.shelf.revisions("verge")
        self.assertEqual(self.shelf.at(newest), edited)
        self.assertEqual(self.shelf.at(oldest), verge())
        self.assertEqual(
            [str(c) for c in differences(self.shelf.at(oldest), edited)], ["X pitch of the screw 5 mm → 4 mm"]
        )

    def test_ordinary_git_reads_it(self) -> None:
        self.shelf.keep("verge", verge().with_values({PITCH: Fraction(4)}), "measured: “4 mm”", NOON)
        self.assertEqual(self.git("log", "--format=%s").splitlines(), ["measured: “4 mm”", "As it came"])
        self.assertEqual(self.git("status", "--porcelain"), "")
        self.assertEqual(self.git("fsck", "--strict").strip(), "")
        self.assertIn('+pitch = "4 mm"', self.git("show", "HEAD"))

    def test_as_found_is_kept_once_for_each_controller(self) -> None:
        self.assertTrue(self.shelf.keep_found("verge", 77, verge(), "As found", NOON))
        self.assertFalse(self.shelf.keep_found("verge", 77, verge(), "As found", NOON))
        self.assertTrue(self.shelf.keep_found("verge", 78, verge(), "As found", NOON))
        self.assertEqual([r.as_found for r in self.shelf.revisions("verge")], [True, True, False])

    def test_a_name_that_would_leave_the_shelf(self) -> None:
        for name in ("../evil", "A", "", "a/b", "-x"):
            with self.subTest(name), self.assertRaises(IdlerError):
                self.shelf.add(name, verge_text(), "no", NOON)

    def test_a_file_that_is_no_machine_is_not_put_on_the_shelf(self) -> None:
        with self.assertRaises(FileRefusal):
            self.shelf.add("other", "schema = 9", "no", NOON)
        self.assertEqual(self.shelf.names(), ["verge"])


class Drafts(ShelfCase):
    def test_edits_come_back(self) -> None:
        edits = {PITCH: Fraction(127, 35), at(Y, "axis.reversed"): True, at(None, "names.screen_unit"): "in"}
        self.shelf.save_draft("verge", verge().with_values(edits), verge())
        self.assertEqual(Shelf(self.root).draft("verge", verge()), (verge().with_values(edits), []))

    def test_an_axis_that_turned_rotary(self) -> None:
        edits = {at(X, "axis.kind"): "rotary", at(X, "chain.turn_travel"): Fraction(90)}
        self.shelf.save_draft("verge", verge().with_values(edits), verge())
        self.assertEqual(self.shelf.draft("verge", verge())[0], verge().with_values(edits))

    def test_terminals_that_were_taken_from_the_controller_and_edited_since(self) -> None:
        bare = Machine(("X", "Y", "Z", "A"))
        edited = Machine.shaped(verge().shape).with_values(wiring())
        self.shelf.save_draft("verge", edited, bare)
        self.assertEqual(self.shelf.draft("verge", bare), (edited, []))
        path = self.root / "drafts" / "verge.toml"
        path.write_text(path.read_text().replace("inputs = 12", "inputs = 99"))
        drafted, lost = self.shelf.draft("verge", bare)
        self.assertEqual(drafted, bare)
        self.assertIn("cannot be read", lost[0])

    def test_keeping_a_revision_empties_the_draft(self) -> None:
        edited = verge().with_values({PITCH: Fraction(4)})
        self.shelf.save_draft("verge", edited, verge())
        self.shelf.keep("verge", edited, "kept", NOON)
        self.assertEqual(self.shelf.draft("verge", edited), (edited, []))

    def test_what_cannot_be_taken_any_more_is_said_and_the_rest_stays(self) -> None:
        self.shelf.save_draft("verge", verge().with_values({PITCH: Fraction(4)}), verge())
        path = self.root / "drafts" / "verge.toml"
        path.write_text(path.read_text() + '"Q.chain.pitch" = "3 mm"\n"X.chain.starts" = "900"\n')
        drafted, lost = self.shelf.draft("verge", verge())
        self.assertEqual(drafted, verge().with_values({PITCH: Fraction(4)}))
        self.assertEqual(len(lost), 2)
        path.write_text("[edits\n")
        drafted, lost = self.shelf.draft("verge", verge())
        self.assertEqual(drafted, verge())
        self.assertIn("cannot be read", lost[0])

    def test_addresses_as_text(self) -> None:
        for address in (
            PITCH, at(A, "travel.low"), at(None, "signals.step_rate"), at(2, "input.role"), at(11, "input.filter"),
            at(9, "output.load"),
        ):  # fmt: skip
            self.assertEqual(address_from(verge(), address_text(verge(), address)), address)
        for text in (
            "13.input.role",
            "0.input.role",
            "X.input.role",
            "3.chain.pitch",
            "1.output.",
            "input.role",
            "x.y.z",
        ):
            self.assertIsNone(address_from(verge(), text), text)
        self.assertIsNone(address_from(verge(), "Q.chain.pitch"))
        self.assertIsNone(address_from(verge(), "X.chain.nothing"))


class Files(ShelfCase):
    def test_what_cannot_be_read(self) -> None:
        bad = self.root / "bad.toml"
        bad.write_bytes(b"\xff\xfe\x00")
        huge = self.root / "huge.toml"
        huge.write_bytes(b"#" * (2 << 20))
        for path, why in ((self.root / "none.toml", "no such file"), (bad, "not UTF-8"), (huge, "larger than")):
            with self.subTest(path.name), self.assertRaisesRegex(FileTrouble, why):
                read_text(path)

    def test_a_failing_disk_leaves_the_old_file(self) -> None:
        path = self.root / "machines" / "verge.toml"
        with (
            mock.patch.object(os, "replace", side_effect=OSError(28, "No space left on device")),
            self.assertRaises(FileTrouble),
        ):
            write_text(path, "new")
        self.assertEqual(path.read_text("utf-8"), verge_text())
        with mock.patch.object(os, "fsync", side_effect=OSError(5, "I/O error")), self.assertRaises(FileTrouble):
            self.shelf.keep("verge", verge(), "no", NOON)
        self.assertEqual(self.shelf.load("verge").machine, verge())

    def test_a_kill_while_saving_loses_nothing_that_was_confirmed(self) -> None:
        script = (
            "import sys\nfrom fractions import Fraction\nfrom pathlib import Path\n"
            "from idler.shelf.shelf import Shelf\nfrom tests.support import PITCH_ADDRESS as P, verge\n"
            "shelf = Shelf(Path(sys.argv[1]))\n"
            "for n in range(1, 10**6):\n"
            "    edit = {P: Fraction(n % 900 + 1)}\n"
            "    shelf.save_draft('verge', verge().with_values(edit), verge())\n"
            "    print(n % 900 + 1, flush=True)\n"
        ).replace(
            "from tests.support import PITCH_ADDRESS as P, verge",
            "from tests.support import X, at, verge\nP = at(X, 'chain.pitch')",
        )
        for lines in (1, 7, 23):
            command = [sys.executable, "-c", script, str(self.root)]
            process = subprocess.Popen(
                command, stdout=subprocess.PIPE, text=True, cwd=Path(__file__).resolve().parents[2]
            )
            assert process.stdout is not None
            for _ in range(lines):
                process.stdout.readline()
            process.send_signal(signal.SIGKILL)
            rest, _ = process.communicate()
            confirmed = int(rest.split()[-1]) if rest.split() else None
            drafted, lost = self.shelf.draft("verge", verge())
            self.assertEqual(lost, [])
            if confirmed is not None:
                self.assertIn(drafted[PITCH], (confirmed, confirmed % 900 + 1))


class Proofs(ShelfCase):
    def setUp(self) -> None:
        super().setUp()
        self.proofs = {
            c.key: evidence(wired(), c, 1.7e9, True, "“pressed”: off in 3 ms", Witness.EYES) for c in claims(wired())
        }

    def test_they_come_back_as_they_were_kept(self) -> None:
        self.assertEqual(self.shelf.proofs("verge"), {})
        self.shelf.save_proofs("verge", self.proofs)
        self.assertEqual(Shelf(self.root).proofs("verge"), self.proofs)
        self.assertEqual(self.shelf.names(), ["verge"])

    def test_a_proof_of_before_witnesses_were_kept_has_the_one_that_it_must_have_had(self) -> None:
        self.shelf.save_proofs("verge", self.proofs)
        path = self.root / "machines" / "proofs" / "verge.toml"
        path.write_text(re.sub(r"witness = .*\n", "", path.read_text("utf-8")), "utf-8")
        found = self.shelf.proofs("verge")
        self.assertEqual(set(found), set(self.proofs))
        for key, witness in (
            ("wiring.stop", Witness.TOUCH), ("direction.X", Witness.EYES), ("scale.X", Witness.INSTRUMENT),
            ("home.X", Witness.SWITCH), ("ends.X", Witness.SWITCH), ("speed.1", Witness.SENSOR),
        ):  # fmt: skip
            self.assertIs(found[key].witness, witness, key)

    def test_a_damaged_file_is_one_sentence(self) -> None:
        self.shelf.save_proofs("verge", self.proofs)
        path = self.root / "machines" / "proofs" / "verge.toml"
        for text in ("[proof", "proof = 3", "[proof.x]\nwhen = 'noon'", "[proof.x]\nwhen = 1\npassed = true",
                     '[proof.x]\nwhen = 1\npassed = true\nresult = "seen"\nwitness = "hearsay"\n[proof.x.rests]'):  # fmt: skip
            path.write_text(text)
            with self.subTest(text), self.assertRaisesRegex(IdlerError, "cannot be read"):
                self.shelf.proofs("verge")

    def test_nothing_is_written_over_what_could_not_be_read(self) -> None:
        for path, read, write in (
            (self.root / "machines" / "proofs" / "verge.toml", lambda: self.shelf.proofs("verge"),
             lambda: self.shelf.save_proofs("verge", self.proofs)),
            (self.root / "machines" / "passes" / "verge.toml", lambda: self.shelf.passes("verge"),
             lambda: self.shelf.save_passes("verge", {})),
            (self.root / "drafts" / "verge.toml", lambda: self.shelf.draft("verge", verge()),
             lambda: self.shelf.save_draft("verge", verge().with_values({PITCH: Fraction(4)}), verge())),
            (self.root / "work" / "verge.toml", lambda: self.shelf.work_zeros("verge"),
             lambda: self.shelf.save_work_zeros("verge", ONE_ZERO)),
            (self.root / "sending" / "verge.json", lambda: self.shelf.controllers("verge").begun(),
             lambda: self.shelf.controllers("verge").begin(Sending(7, 0, {}, {}))),
        ):  # fmt: skip
            for text, beside in (("[spoilt", ".damaged"), ("[again", ".damaged1")):
                with self.subTest(path.name, text=text):
                    path.parent.mkdir(exist_ok=True)
                    path.write_text(text)
                    with contextlib.suppress(IdlerError):
                        read()
                    write()
                    self.assertEqual(path.with_name(path.name + beside).read_text(), text)
                    self.assertNotEqual(path.read_text(), text)

    def test_an_edit_that_fits_no_more_is_kept_beside(self) -> None:
        path = self.root / "drafts" / "verge.toml"
        self.shelf.edit_draft("verge", {PITCH: Fraction(4)})
        path.write_text(path.read_text() + '"Q.chain.pitch" = "3 mm"\n')
        self.shelf.edit_draft("verge", {PITCH: Fraction(6)})
        self.assertEqual(self.shelf.draft("verge", verge()), (verge().with_values({PITCH: Fraction(6)}), []))
        self.assertIn("Q.chain.pitch", path.with_name("verge.toml.damaged").read_text())

    def test_a_failing_disk_leaves_the_old_ones(self) -> None:
        self.shelf.save_proofs("verge", self.proofs)
        full = OSError(28, "No space left on device")
        with mock.patch.object(os, "replace", side_effect=full), self.assertRaises(FileTrouble):
            self.shelf.save_proofs("verge", {})
        self.assertEqual(self.shelf.proofs("verge"), self.proofs)


class Machines(ShelfCase):
    def test_a_renamed_machine_keeps_all_that_it_had(self) -> None:
        self.shelf.keep("verge", verge().with_values({PITCH: Fraction(4)}), "measured", NOON)
        self.shelf.keep_found("verge", 77, verge(), "As found", NOON)
        self.shelf.save_draft("verge", verge().with_values({PITCH: Fraction(3)}), verge())
        self.shelf.save_work_zeros("verge", ONE_ZERO)
        self.shelf.save_startup("verge", verge(), {PITCH: Fraction(6)})
        self.shelf.controllers("verge").hear(77, {Place(0x6092, 1): 5})
        self.shelf.add("verge-2", verge_text(), "Another one", NOON)
        self.shelf.keep_found("verge-2", 78, verge(), "As found too", NOON)
        self.shelf.rename("verge", "plate-mill", NOON)
        self.assertEqual(self.shelf.names(), ["plate-mill", "verge-2"])
        notes = [revision.note for revision in self.shelf.revisions("plate-mill")]
        self.assertIn("Renamed verge to plate-mill", notes[0])
        self.assertEqual(notes[-3:], ["As found", "measured", "As it came"])
        oldest = self.shelf.revisions("plate-mill")[-1]
        self.assertEqual(self.shelf.at(oldest), verge())
        self.assertEqual(self.shelf.draft("plate-mill", verge())[0][PITCH], 3)
        self.assertEqual(self.shelf.work_zeros("plate-mill"), ONE_ZERO)
        self.assertEqual(self.shelf.startup("plate-mill", verge()), {PITCH: 6})
        self.assertEqual(self.shelf.controllers("plate-mill").heard(77), {Place(0x6092, 1): 5})
        self.assertEqual([r.note for r in self.shelf.revisions("verge-2")], ["As found too", "Another one"])
        self.assertEqual(self.git("status", "--porcelain"), "")
        with self.assertRaisesRegex(IdlerError, "has a machine of that name"):
            self.shelf.rename("plate-mill", "verge-2", NOON)
        self.shelf.add("verge", verge_text(), "A new one of the old name", NOON)
        self.assertEqual([r.note for r in self.shelf.revisions("verge")], ["A new one of the old name"])
        self.shelf.archive("plate-mill", NOON)
        self.shelf.bring_back("plate-mill", NOON)
        self.assertEqual([r.note for r in self.shelf.revisions("plate-mill")][-3:], notes[-3:])

    def test_archived_and_brought_back(self) -> None:
        self.shelf.archive("verge", NOON)
        self.assertEqual((self.shelf.names(), self.shelf.archived()), ([], ["verge"]))
        with self.assertRaisesRegex(IdlerError, "has a machine of that name"):
            self.shelf.add("verge", verge_text(), "no", NOON)
        self.shelf.bring_back("verge", NOON)
        self.assertEqual(self.shelf.load("verge").machine, verge())
        self.assertEqual(self.shelf.revisions("verge")[-1].note, "As it came")

    def test_a_clone_of_the_shelf_is_readable(self) -> None:
        self.shelf.rename("verge", "mill", NOON)
        target = self.root / "clone"
        subprocess.run(["git", "clone", "-q", str(self.root / "machines"), str(target)], check=True)
        log = subprocess.run(
            ["git", "-C", str(target), "log", "--format=%s"], capture_output=True, text=True, check=True
        )
        self.assertEqual(log.stdout.splitlines(), ["Renamed verge to mill", "As it came"])
        self.assertEqual((target / "mill.toml").read_text("utf-8"), verge_text())


class Pins(ShelfCase):
    def test_only_the_pin_opens_and_taking_it_away_leaves_a_mark(self) -> None:
        self.shelf.lock("verge", "4711", NOON)
        self.assertTrue(self.shelf.is_locked("verge"))
        opened = [self.shelf.opens("verge", pin, NOON) for pin in ("4711", "4712", "")]
        self.assertEqual(opened, [True, False, False])
        lock = self.root / "locks" / "verge.toml"
        self.assertNotIn("4711", lock.read_text("utf-8"))
        self.assertEqual(lock.stat().st_mode & 0o077, 0)
        self.assertNotIn("scrypt", self.git("log", "-p"))
        self.shelf.unlock("verge", "The PIN was taken away without being known", NOON)
        self.assertFalse(self.shelf.is_locked("verge"))
        self.assertEqual(self.git("log", "-1", "--format=%s").strip(), "The PIN was taken away without being known")

    def test_pins_that_cannot_be_used(self) -> None:
        for pin in ("", "123", " 1234", "x" * 65):
            with self.subTest(pin), self.assertRaisesRegex(IdlerError, "4 to 64 characters"):
                self.shelf.lock("verge", pin, NOON)
        self.assertFalse(self.shelf.is_locked("verge"))

    def test_a_damaged_lock_opens_for_nobody(self) -> None:
        self.shelf.lock("verge", "4711", NOON)
        write_text(self.root / "locks" / "verge.toml", "[scrypt]\nsalt = 3")
        with self.assertRaisesRegex(IdlerError, "cannot be read"):
            self.shelf.opens("verge", "4711", NOON)
        removed(self.root / "locks" / "verge.toml")
        self.assertTrue(self.shelf.is_locked("verge"))
        with self.assertRaisesRegex(IdlerError, "cannot be read"):
            self.shelf.opens("verge", "4711", NOON)

    def test_wrong_tries_wait_longer_each_time_and_a_restart_forgets_none(self) -> None:
        self.shelf.lock("verge", "4711", NOON)
        now, waited = NOON, []
        for _ in range(9):
            left = 0
            while True:
                try:
                    self.assertFalse(Shelf(self.root).opens("verge", "0000", now + left))
                    break
                except TooSoon as why:
                    self.assertIn("The next try is possible in", why.sentence)
                    left += 1
            waited.append(left)
            now += left
        self.assertEqual(waited, sorted(waited))
        self.assertGreater(waited[-1], 30)
        with self.assertRaises(TooSoon):
            self.shelf.opens("verge", "4711", now + 1)
        self.assertTrue(self.shelf.opens("verge", "4711", now + 1000))
        self.assertTrue(self.shelf.opens("verge", "4711", now + 1000))


class PersonsOwn(ShelfCase):
    def test_nothing_of_the_person_s_git_runs_or_breaks_keeping(self) -> None:
        """Signing, filters, hooks and a settings file that is broken; line ends stay as they are."""
        home, mark = self.root / "home", self.root / "ran"
        run = f"touch {mark}"
        write_text(
            home / ".gitconfig",
            f'[commit]\ngpgsign = true\n[gpg]\nprogram = {run}\n[core]\nautocrlf = true\n[filter "x"]\nclean = {run}\n',
        )
        control = self.root / "machines" / ".git"
        for name in ("pre-commit", "commit-msg", "post-commit"):
            write_text(control / "hooks" / name, f"#!/bin/sh\n{run}\nexit 1\n")
            (control / "hooks" / name).chmod(0o755)
        write_text(control / "info" / "attributes", "*.toml filter=x\n")
        write_text(self.root / "machines" / ".gitattributes", "*.toml filter=x\n")
        with mock.patch.dict(os.environ, {"HOME": str(home), "XDG_CONFIG_HOME": str(home)}):
            for number, settings in enumerate((None, "[commit\nthis is no [settings file", "\0\xff")):
                if settings is not None:
                    write_text(home / ".gitconfig", settings)
                shelf = Shelf(self.root)
                shelf.keep(
                    "verge", verge().with_values({PITCH: Fraction(3 + number)}), "kept all the same", NOON + number
                )
                shelf.add(f"crlf-{number}", verge_text().replace("\n", "\r\n"), "as it is", NOON)
        self.assertFalse(mark.exists())
        command = ["git", "-C", str(self.root / "machines"), "show", "HEAD:crlf-2.toml"]
        self.assertIn(b"\r\n", subprocess.run(command, capture_output=True, check=True).stdout)

    def test_a_file_without_a_commit_is_listed(self) -> None:
        write_text(self.root / "machines" / "loose.toml", verge_text())
        done = run_idler("shelf", "list", "--shelf", str(self.root))
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("loose: Plate mill “Verge”, axes XYZA, 0 revisions\n    no revision yet", done.stdout)
        write_text(self.root / "machines" / "spoilt.toml", "schema = ")
        self.assertIn("spoilt: this is not TOML", run_idler("shelf", "list", "--shelf", str(self.root)).stdout)


class Trails(ShelfCase):
    """What the commits changed is noted beside the repository; the notes never say anything else than the commits."""

    @settings(max_examples=20)
    @given(st.lists(st.tuples(st.integers(0, 4), st.integers(0, 2), st.integers(0, 2)), max_size=12))
    def test_notes_and_commits_agree_through_renaming_and_archiving(self, moves: list[tuple[int, int, int]]) -> None:
        with tempfile.TemporaryDirectory() as folder:
            root = Path(folder)
            shelf = Shelf(root)
            for when, (what, one, other) in enumerate(moves):
                name, new = f"mill-{one}", f"mill-{other}"
                there, gone = shelf.names(), shelf.archived()
                with contextlib.suppress(IdlerError):
                    if what == 0:
                        shelf.add(name, verge_text(), f"added {when}", when)
                    elif what == 1 and name in there:
                        shelf.keep(name, verge().with_values({PITCH: Fraction(when + 1, 7)}), f"kept {when}", when)
                    elif what == 2 and name in there:
                        shelf.rename(name, new, when)
                    elif what == 3 and name in there:
                        shelf.archive(name, when)
                    elif what == 4 and name in gone:
                        shelf.bring_back(name, when)
                if when % 3 == 0:
                    shelf = Shelf(root)
                    for known in shelf.names():
                        shelf.revisions(known)
            noted = {name: shelf.revisions(name) for name in shelf.names()}
            (root / "trail.jsonl").unlink(missing_ok=True)
            anew = Shelf(root)
            self.assertEqual({name: anew.revisions(name) for name in anew.names()}, noted)
            self.assertTrue(all(noted.values()))

    def test_notes_that_are_spoilt_or_of_another_repository_are_made_anew(self) -> None:
        self.shelf.keep("verge", verge().with_values({PITCH: Fraction(4)}), "measured", NOON)
        right = self.shelf.revisions("verge")
        notes = self.root / "trail.jsonl"
        text = notes.read_text("utf-8")
        for spoilt in (
            "",
            text[:-20],
            text + "[1]\n",
            text.splitlines()[1] + "\n",
            "\0",
        ):
            notes.write_text(spoilt, "utf-8")
            self.assertEqual(Shelf(self.root).revisions("verge"), right, spoilt[:40])
        self.git("commit", "-q", "--allow-empty", "-m", "by hand")
        self.git("reset", "-q", "--hard", "HEAD~2")
        self.assertEqual([item.note for item in Shelf(self.root).revisions("verge")], ["As it came"])

    def test_many_single_objects_are_packed(self) -> None:
        number = 0
        self.assertFalse(self.shelf.scattered)
        with mock.patch.object(repository, "LOOSE", 1):
            while not self.shelf.scattered:
                number += 1
                self.shelf.keep("verge", verge().with_values({PITCH: Fraction(number, 9)}), "again", NOON)
            self.assertEqual(run_idler("shelf", "pack", "--shelf", str(self.root)).returncode, 0)
            self.assertFalse(self.shelf.scattered)
        self.assertEqual(len(self.shelf.revisions("verge")), number + 1)  # read by what was open before
        self.shelf.keep("verge", verge().with_values({PITCH: Fraction(1, 7)}), "once more", NOON)
        self.assertEqual(len(Shelf(self.root).revisions("verge")), number + 2)
        self.assertTrue(list((self.root / "machines" / ".git" / "objects" / "pack").glob("*.pack")))
        self.assertEqual(self.git("fsck", "--strict").strip(), "")


class Holds(ShelfCase):
    def test_a_second_program_is_told_who_holds_the_shelf(self) -> None:
        hold = ShelfHold(self.root)
        self.addCleanup(hold.release)
        script = (
            "import sys; from pathlib import Path; from idler.shelf.hold import ShelfHold; ShelfHold(Path(sys.argv[1]))"
        )
        done = subprocess.run([sys.executable, "-c", script, str(self.root)], capture_output=True, text=True)
        self.assertNotEqual(done.returncode, 0)
        self.assertIn(f"Another Idler (process {os.getpid()}) works with the shelf", done.stderr)
        hold.release()
        again = ShelfHold(self.root)
        self.assertIsNone(again.left_since)
        again.release()

    def test_a_holder_that_was_killed_holds_no_more(self) -> None:
        script = (
            "import sys, time; from pathlib import Path; from idler.shelf.hold import ShelfHold\n"
            "h = ShelfHold(Path(sys.argv[1])); print('held', flush=True); sys.stdin.read()"
        )
        process = subprocess.Popen([sys.executable, "-c", script, str(self.root)], stdin=subprocess.PIPE,
                                   stdout=subprocess.PIPE)  # fmt: skip
        self.assertEqual(process.stdout.readline(), b"held\n")
        process.kill()
        process.wait()
        process.stdin.close()
        process.stdout.close()
        left = ShelfHold(self.root)
        self.assertIsNotNone(left.left_since)
        left.release()
        self.left_by_a_command(process.pid)
        again = ShelfHold(self.root)
        self.assertIsNone(again.left_since)
        again.release()

    def left_by_a_command(self, pid: int) -> None:
        """A command that comes between leaves the word of it to the window."""
        (self.root / "lock").write_text(str(pid))
        os.utime(self.root / "lock", (1000, 1000))
        for silent in (True, True, False):
            hold = ShelfHold(self.root, silent=silent)
            self.assertEqual(hold.left_since, 1000)
            hold.release()

    def test_a_disk_that_takes_nothing(self) -> None:
        """A limit on the size of files stands for a full disk: the system itself refuses every write."""
        script = (
            "import resource, signal, sys\nfrom pathlib import Path\n"
            "signal.signal(signal.SIGXFSZ, signal.SIG_IGN)\n"
            "resource.setrlimit(resource.RLIMIT_FSIZE, (0, 0))\n"
            "from idler.core.errors import IdlerError\nfrom idler.shelf.hold import ShelfHold\n"
            "from idler.shelf.shelf import Shelf\n"
            "root = Path(sys.argv[1])\nprint(ShelfHold(root).why_read_only)\nshelf = Shelf(root)\n"
            "machine = shelf.load('verge').machine\nprint(len(shelf.revisions('verge')))\n"
            "try:\n    shelf.keep('verge', machine.with_values({}), 'no', 0)\nexcept IdlerError as why:\n    print(why)\n"
        )
        done = subprocess.run([sys.executable, "-c", script, str(self.root)], capture_output=True, text=True)
        first, second, third = done.stdout.splitlines()
        self.assertIn("cannot be written (file too large). You can read, compare, jog and send", first)
        self.assertEqual(second, "1")
        self.assertIn("cannot be written", third)
        self.assertEqual(self.shelf.load("verge").text, verge_text())
        self.assertEqual(self.git("fsck", "--strict").strip(), "")
