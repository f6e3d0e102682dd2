"""What an action would do, step by step, with nothing moved: calls are written out, branches are shown both."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import islice

from .edits import side_words, sides
from .steps import Action, Call, Step
from .text import step_text

Line = tuple[int, str]  # how deep it lies, and what is done

DEEPEST = 40
MOST_LINES = 4000  # that anybody reads: actions that call others many times each have more than can be written


def rehearse(action: Action, actions: tuple[Action, ...]) -> list[Line]:
    """An action that calls itself is written out once, and named where it comes again."""
    by_name = {each.name: each for each in actions}
    return list(islice(_lines(action.steps, by_name, (action.name,), 0), MOST_LINES))


def _lines(steps: tuple[Step, ...], by_name: dict[str, Action], within: tuple[str, ...], depth: int) -> Iterator[Line]:
    for step in steps:
        yield depth, step_text(step)
        for word, block in zip(side_words(step), sides(step), strict=True):
            if block:
                yield depth + 1, f"{word}:"
                yield from _lines(block, by_name, within, depth + 2)
        if isinstance(step, Call) and step.name in by_name and step.name not in within and depth < DEEPEST:
            yield from _lines(by_name[step.name].steps, by_name, (*within, step.name), depth + 1)
