"""Own actions made up at random, run on the bench and ended at any moment: where the axes were, and what stayed on."""

from __future__ import annotations

import random
import time

ACTIONS = 300
INSIDE = 60.0  # mm of the travel to both sides of where they begin
SPILL = 0.2  # mm of iron that play and a stop may add


def made_up(dice: random.Random) -> str:
    """Two actions, the first of which may call the second; much of what is asked lies outside."""

    def place() -> str:
        return f"{dice.choice((1, 5, 30, 70, 500)) * dice.choice((-1, 1)) * dice.random():.3f} mm"

    def step(depth: int) -> str:
        kind = dice.choice(
            ("machine", "work", "by", "by", "by", "output", "spindle", "dwell", "wait", "if", "ask", "call")
        )
        axis = dice.choice("XYZ")
        match kind:
            case "machine" | "work" | "by":
                speed = f" at {dice.choice((60, 300, 2000))} mm/min" if dice.random() < 0.5 else ""
                return f"move {kind} {axis} {place()}{speed};"
            case "output":
                return f"output coolant {dice.choice(('on', 'on', 'off'))};"
            case "spindle":
                return dice.choice(("spindle right 1200 rpm;", "spindle left 800 rpm;", "spindle off;"))
            case "dwell":
                return f"dwell {dice.choice((0, 0.05, 0.2))} s;".replace("0 s", "0.0 s")
            case "wait":
                return f"wait guard {dice.choice(('on', 'off', 'off', 'off'))} within 0.1 s;"
            case "call":
                return 'call "b";' if depth == 0 else ""
        if depth > 2:
            return ""
        inner = " ".join(step(depth + 1) for _ in range(2))
        head = 'ask "Well?"' if kind == "ask" else f"if guard {dice.choice(('on', 'off'))}"
        return f"{head} {{ {inner} }} else {{ {step(depth + 1)} }}"

    first = " ".join(step(0) for _ in range(dice.randint(1, 6)))
    second = " ".join(step(1) for _ in range(2)).replace('call "b";', "")
    return f'action "a" {{ {first} }} action "b" {{ {second} }}'


def run() -> list[tuple[str, str, str]]:
    from tests.procedures.faults import Faulty

    from idler.core.actions.text import one_line, read
    from idler.core.profile.terminals import Condition
    from idler.procedures.actions.action import ActionRun

    case = Faulty()
    Faulty.setUpClass()
    outside, left_on, twice, ended, stopped, furthest = 0, 0, 0, 0, 0, 0.0
    try:
        case.setUp()
        session = case.mill.session
        for number in range(ACTIONS):
            dice = random.Random(number)
            case.again()
            iron = case.iron()
            case.mill["actions.text"] = one_line(read(made_up(dice)))
            run_ = ActionRun(session)
            before = session.acts.count("a")
            stops_at = time.monotonic() + (dice.random() * 1.5 if dice.random() < 0.5 else 60)
            begun = not run_.start("a")
            while run_.running and time.monotonic() < stops_at:
                case.mill.loop.until(lambda run_=run_: not run_.running or run_.question is not None, 0.02)
                if run_.question is not None:
                    run_.answer(dice.choice(("yes", "no")))
                furthest = max(furthest, float(abs(case.iron() - iron).max()))
            stopped += run_.running
            ended += not run_.running and begun
            if run_.running:
                case.mill.stop()
            case.mill.wait(lambda: not session.moving, 20)
            furthest = max(furthest, float(abs(case.iron() - iron).max()))
            outside += float(abs(case.iron() - iron).max()) > INSIDE + SPILL
            off = lambda: not session.panel.energised >> 4 & 1 and not session.panel.conditions & Condition.SPINDLE  # noqa: E731
            left_on += not case.mill.wait(off, 10)
            twice += session.acts.count("a") - before > begun
    finally:
        case.doCleanups()
        Faulty.doClassCleanups()
    return [
        (f"{ACTIONS} own actions made up at random, half of them stopped at any moment: beyond the travel, something left on, "
         "run twice", "0, 0, 0", f"{outside}, {left_on}, {twice}; {ended} came to an end, {stopped} were stopped, "
         f"{furthest:.2f} mm at most from the middle of ± {INSIDE:g} mm"),
    ]  # fmt: skip


if __name__ == "__main__":
    for row in run():
        print(*row, sep=" | ")
