"""Finding anything: what a word leads to, which of several comes first, and that what is not in use is not found."""

from __future__ import annotations

import unittest

from idler.core.machine import Address
from idler.core.machine import file as machinefile
from idler.core.report.agenda import Now, agenda
from idler.core.report.finder import Entry, Sort, find, others, proofs, values
from idler.core.rules.findings import findings
from idler.shelf.examples import examples

FUSEE = machinefile.read(examples()["fusee"]).machine


def everything() -> list[Entry]:
    found = findings(FUSEE)
    steps = agenda(FUSEE, {}, found, Now(False, 0, 0, False), {})
    return [*values(FUSEE), *proofs(FUSEE, {}), *others(FUSEE, found, steps)]


class Found(unittest.TestCase):
    def first(self, typed: str) -> Entry:
        found = find(everything(), typed)
        self.assertTrue(found, typed)
        return found[0]

    def test_a_value_by_its_name_its_key_its_object_and_its_help(self) -> None:
        pitch = Address(1, "chain.pitch")
        for typed in ("Z pitch", "chain.pitch z", "Z screw pitch"):
            self.assertEqual(self.first(typed).address, pitch, typed)
        self.assertEqual(self.first("Z pitch").now, FUSEE.show(pitch))
        self.assertIn(Address(0, "axis.reversed"), [entry.address for entry in find(everything(), "607e")])

    def test_whatever_else_there_is(self) -> None:
        for typed, sort in (
            ("index stops of A", Sort.PROOF), ("stop 3 parting", Sort.STOP), ("connect controller", Sort.STEP),
            ("touch each switch", Sort.STEP), ("no input is the emergency stop", Sort.FINDING),
        ):  # fmt: skip
            self.assertIs(self.first(typed).sort, sort, typed)

    def test_what_begins_with_the_words_comes_before_what_only_has_them(self) -> None:
        named = [Entry(Sort.COMMAND, name) for name in ("Wiring diagram", "On the wire", "A rewired thing", "Else")]
        told = [*named, Entry(Sort.COMMAND, "Other", more="wire")]
        self.assertEqual([entry.name for entry in find(reversed(told), "wir")],
                         ["Wiring diagram", "On the wire", "A rewired thing", "Other"])  # fmt: skip

    def test_every_word_must_be_there_and_nothing_typed_finds_nothing(self) -> None:
        self.assertEqual(find(everything(), "   "), [])
        self.assertEqual(find(everything(), "pitch of the moon"), [])

    def test_what_is_not_in_use_is_not_found(self) -> None:
        slots = {entry.address.slot for entry in values(FUSEE) if entry.address and entry.address.key == "index.settle"}
        self.assertEqual(slots, {3})  # X, Z and C have no stops that lines pick
