"""The proofs that a machine has, as they hold at the controller that was heard last."""

from __future__ import annotations

import time
from collections.abc import Mapping

from idler.core.machine import Machine
from idler.core.proof.claims import Claim, Evidence, Witness, at_controller, evidence


class Proven:
    """kept: all of them, as they were gathered. here: those of another controller hold no more, and come back with it."""

    def __init__(self) -> None:
        self._controller = 0  # its serial number; 0 where none was heard, or where each part is told by its own
        self.kept: Mapping[str, Evidence] = {}
        self.here: Mapping[str, Evidence] = {}

    def put(self, proofs: Mapping[str, Evidence]) -> None:
        self.kept = dict(proofs)
        self.here = at_controller(self.kept, self._controller)

    def add(self, machine: Machine, claim: Claim, passed: bool, result: str, witness: Witness) -> None:
        found = evidence(machine, claim, time.time(), passed, result, witness, self._controller)
        self.put({**self.kept, claim.key: found})

    def hear(self, controller: int) -> str:
        """A controller answers: a sentence where that is another one than proofs were gathered with."""
        self._controller = controller
        self.put(self.kept)
        others = [key for key, found in self.here.items() if found is not self.kept[key]]
        if not others:
            return ""
        numbers = sorted({str(self.kept[key].controller) for key in others})
        return (
            f"This is another controller: {len(others)} of the proofs were gathered with serial number {', '.join(numbers)}. "
            "What its wires, drives and outputs do is to be proven anew."
        )
