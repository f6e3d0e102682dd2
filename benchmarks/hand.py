"""From the dead man that is let go of, or the hand device that is pulled out, to the first slower step, in the real window.

The device is the simulated one, over its socket. The bench writes down the wall clock of the step.
"""

from __future__ import annotations

import contextlib
import tempfile
import time
from pathlib import Path
from unittest import mock

from tests.procedures.test_handstreams import Streams
from tests.support import Bench, wiring

from benchmarks.latency import figures
from idler.app.qt_wait import until
from idler.app.run import Application, qt_application
from idler.core.hand.assignment import Assigned, Control, Does, Sort
from idler.link.hand import sources
from idler.link.hand.simulated import SimulatedHand

TIMES = 40
STREAMS = 10_000
DEAD, STICK = Control(Sort.BUTTON, 288), Control(Sort.STICK, 0)
ENDS = {"let go of": lambda made: made.do("button 288 up"), "pulled out": lambda made: made.close()}


def run() -> list[tuple[str, str, str]]:
    qt_application()
    bench = Bench(pace=1)
    took: dict[str, list[float]] = {how: [] for how in ENDS}
    with contextlib.ExitStack() as stack:
        root, folder = (Path(stack.enter_context(tempfile.TemporaryDirectory())) for _ in range(2))
        stack.enter_context(mock.patch.object(sources, "SOCKETS", folder))
        application = Application(root, demo=False)
        application.show()
        application.use_bench(bench.ready)
        session, desk = application.session, application.window.hand
        until(lambda: session.connected, "the bench")
        session.set_values(wiring())
        session.send()
        until(lambda: not session.busy and not session.count().to_send, "the wiring", 20)
        session.power(True)
        until(lambda: session.powered, "power", 20)
        for turn in range(TIMES):
            for how, end in ENDS.items():
                made = SimulatedHand(f"Pendant {turn} {how}", folder)
                desk.connect(sources.find()[0][0])
                until(lambda made=made: made.listeners > 0, "the device")
                for control, assigned in ((DEAD, Assigned(Does.DEAD_MAN)), (STICK, Assigned(Does.SPEED, "Y"))):
                    desk.assign(control, assigned)
                made.do("button 288 down")
                until(lambda: desk.held, "the dead man")
                made.do("stick 0 0.2")
                made.do(f"stick 0 {-1 if turn % 2 else 1}")
                until(lambda: abs(session.axes[1].velocity) > 200, "motion", 20)
                bench.hands.ask(do="events")
                ended = time.monotonic()
                end(made)
                until(lambda: not session.moving, "rest", 20)
                events = bench.hands.ask(do="events")["events"]
                took[how].append(next(each["at"] for each in events if each["kind"] == "slowed") - ended)
                made.close()
                until(lambda: desk.device is None, "that it is gone", 20)
        application.close()
    bench.close()
    return [streams(), *((f"a hand device {how} to the first slower step, {TIMES} times", "under 100 ms", figures(each))
            for how, each in took.items())]  # fmt: skip


def streams(times: int = STREAMS) -> tuple[str, str, str]:
    """Random ones, over the device's wire to the jog that they would move; nothing else of the machine is there."""
    with tempfile.TemporaryDirectory() as root, mock.patch.object(sources, "SOCKETS", Path(root)):
        made = Streams(Path(root), seed=11)
        for _ in range(times):
            made.one()
        made.close()
    desk = made.desk
    words = f"{desk.wrong} of {desk.moved} motions without the dead man; let go of after {1000 * made.slowest:.1f} ms at most"
    return f"{times} random streams of a hand device, {desk.heard} events", "none; under 100 ms", words


if __name__ == "__main__":
    for row in run():
        print(row)
