"""What rests on what: the claims are the only table, and every value is in one of them or says why not."""

from __future__ import annotations

import unittest
from collections.abc import Iterator
from fractions import Fraction

from idler.core.errors import Refusal
from idler.core.machine import Address, Machine
from idler.core.machine import file as machinefile
from idler.core.proof.claims import Proof, Witness, claims, evidence, staled, state
from idler.core.table import all_rows
from idler.core.values.parameter import Kind, Value
from idler.shelf.examples import examples
from tests.support import X, Y, at, wired

EXAMPLES = 4


def machines() -> Iterator[Machine]:
    """The examples, wired where they are not, and what none of them has."""
    yield from (machinefile.read(text).machine for text in examples().values())
    mill = wired()
    yield mill
    second = {at(7, "input.role"): "home_second", at(7, "input.axis"): "Y", at(Y, "axis.second_output"): 6}
    yield mill.with_values({at(X, "chain.final"): "belt", **second})
    yield mill.with_values({at(None, "build.kind"): "table", at(None, "spindle.kind"): "relay"})
    yield mill.with_values({at(None, "build.controller"): "parts"})
    yield mill.with_values({at(None, "build.controller"): "parts", at(None, "spindle.kind"): "drive"})
    for method in ("switch_index", "stop", "stop_index", "here"):
        yield mill.with_values({at(slot, "homing.method"): method for slot in range(4)})


def another(machine: Machine, address: Address) -> Iterator[Value]:
    """Other values that this one could have."""
    row, now = address.row, machine[address]
    if row.kind is Kind.FLAG:
        yield not now
    elif row.kind is Kind.CHOICE:
        yield from (choice.key for choice in row.choices if choice.key != now)
    elif row.given and row.kind is Kind.TEXT:
        yield "another"
    elif row.kind in (Kind.QUANTITY, Kind.WHOLE):
        assert isinstance(now, Fraction | int)
        for value in (now + 1, now - 1, row.low, row.high):
            if row.low <= value <= row.high and value != now:
                yield Fraction(value) if row.kind is Kind.QUANTITY else int(value)


class Claims(unittest.TestCase):
    def test_every_value_is_in_a_claim_or_says_in_a_word_why_it_is_in_none(self) -> None:
        claimed = {address.key for machine in machines() for claim in claims(machine) for address in claim.rests}
        for row in all_rows():
            with self.subTest(row.key):
                self.assertEqual(row.key in claimed, row.apart is None, row.apart)
                self.assertTrue(row.apart is None or row.apart.value.isalpha())

    def test_what_is_proven_goes_stale_by_exactly_the_values_that_it_rests_on(self) -> None:
        tried, keys = 0, set[str]()
        for number, machine in enumerate(machines()):
            known = list(claims(machine))
            kept = {claim.key: evidence(machine, claim, 0.0, True, "seen", Witness.EYES) for claim in known}
            for address in list(machine.addresses())[
                number % 2 :: 2 if number < EXAMPLES else 6
            ]:  # the others differ in few of them
                rest_on_it = {claim.key for claim in known if address in claim.rests}
                for value in another(machine, address):
                    try:
                        after = machine.with_values({address: value})
                    except Refusal:
                        continue
                    stale = {claim.key for claim in staled(machine, after, kept)}
                    # it may also take a claim away, or make it rest on something else: another terminal, another part
                    there = {claim.key: claim for claim in claims(after)}
                    others = {claim.key for claim in known if there.get(claim.key) != claim}
                    self.assertLessEqual(rest_on_it, stale, (address, value))
                    self.assertLessEqual(stale, rest_on_it | others, (address, value))
                    tried, keys = tried + 1, keys | {address.key}
                    break
            self.assertEqual({state(machine, claim, kept) for claim in claims(machine)}, {Proof.PROVEN})
        self.assertGreater(tried, 600)
        listed = {row.key for row in all_rows() if row.kind not in (Kind.TEXT, Kind.STAGES) and row.apart is None}
        self.assertEqual(listed - keys, set())
