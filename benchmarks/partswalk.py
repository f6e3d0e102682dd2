"""The example of plain parts in the window, from its delivery to its sign-off, by whoever presses what Next leads to. What was
proven then is tried against the rig by somebody else, who opens the same machine. It takes half an hour: it goes in the time of
the room.
"""

from __future__ import annotations

import time
from collections import Counter

from tests.app.test_walk import TRIES, Walk
from tests.link.test_plain import PARTS
from tests.spoilt import false_proofs

from idler.app.qt_wait import TooLong, until
from idler.app.run import Application
from idler.bench.rigs.rig import load
from idler.core.proof.claims import Proof
from idler.core.report.agenda import KEEP, RESTART, SEND
from idler.library import open_machine

POWER_FIRST = "Power the drives first"


class PartsWalk(Walk):
    rig, pace, longest = "pieces", 1, 900.0

    def open(self) -> None:
        self.application = Application(self.root, demo=False, rig=self.rig)
        self.addCleanup(self.application.close)
        self.window, self.session = self.application.window, self.application.session
        self.application.show()
        self.session.connect_to(f"{self.bench.link}?parts={PARTS},5=encoder")
        until(lambda: self.session.connected, "it to be connected", 60)

    def to_sign_off(self) -> None:
        begun, tries = time.monotonic(), Counter[str]()
        self.person.in_the_room = True
        while (step := self.session.agenda.next) is not None and step.key != KEEP:
            tries[step.key] += step.key not in (SEND, RESTART)
            if tries[step.key] > TRIES:
                self.session.agenda.skip(step.key, "does not come to an end")
                continue
            told = len(self.story)
            try:
                self.do(step)
            except (AssertionError, TooLong) as why:
                self.story.append(f"    refused: {why}")
                self.rest()
            if POWER_FIRST in self.story[-1]:
                self.power()
            for line in self.story[told:]:
                print(f"{time.monotonic() - begun:5.0f} {line[:200]}", flush=True)
        self.click(self.strip.go)
        assert self.app.focusWidget() is self.window.header.keep_button
        self.session.history.keep("commissioned")
        seconds, name, left = time.monotonic() - begun, self.session.name, dict(self.session.agenda.skips)
        self.application.close()
        with open_machine(name, self.root) as machine:
            machine.in_the_room = True  # type: ignore[attr-defined]
            machine.connect(f"{self.bench.link}?parts={PARTS},5=encoder")
            proven = [key for key, found in machine.proofs.items() if found is Proof.PROVEN]
            false = false_proofs(machine, load(self.rig), self.bench.hands)
        struck = max(axis["struck"] for axis in self.bench.hands.ask(do="look")["axes"])
        print(f"{len(proven)} proven, left out: {left or 'nothing'}, false: {false or 'nothing'}")
        print(f"signed off in the window after {seconds:.0f} s, struck {struck:.2f} mm/s")


if __name__ == "__main__":
    walk = PartsWalk("to_sign_off")
    PartsWalk.setUpClass()
    result = walk.run()
    for _, trace in [*result.errors, *result.failures] if result is not None else []:
        print(trace)
