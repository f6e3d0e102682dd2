"""Changing own actions a step at a time: what a list of them does, with nothing but whole actions before and after.

A block is the steps of an action, or one side of a branch in it. Where a step stands is a way down to it: its number in its
block, and for each branch above it that one's number and its side (0 first, 1 otherwise), as (2, 1, 0).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from ..errors import Refusal
from .steps import Action, Ask, Call, If, Step

Place = tuple[int, ...]
Steps = tuple[Step, ...]
FIRST, OTHERWISE = 0, 1


def sides(step: Step) -> tuple[Steps, ...]:
    """The blocks of a branch; none of anything else."""
    match step:
        case Ask(_, yes, no):
            return yes, no
        case If(_, then, otherwise):
            return then, otherwise
    return ()


def side_words(step: Step) -> tuple[str, ...]:
    """What is said before each of them."""
    return ("yes", "no") if isinstance(step, Ask) else ("so", "else") if isinstance(step, If) else ()


def with_side(step: Step, side: int, steps: Steps) -> Step:
    """A branch with another block on one side."""
    match step:
        case Ask():
            return replace(step, yes=steps) if side == FIRST else replace(step, no=steps)
        case If():
            return replace(step, then=steps) if side == FIRST else replace(step, otherwise=steps)
    raise ValueError("it has no sides")


def places(steps: Steps, above: Place = ()) -> Iterator[tuple[Place, Step]]:
    """All steps in the order of their text."""
    for number, step in enumerate(steps):
        yield (*above, number), step
        for side, block in enumerate(sides(step)):
            yield from places(block, (*above, number, side))


def gaps(steps: Steps, above: Place = ()) -> Iterator[Place]:
    """Where a step may be put in, in the order of the text."""
    yield (*above, 0)
    for number, step in enumerate(steps):
        for side, block in enumerate(sides(step)):
            yield from gaps(block, (*above, number, side))
        yield (*above, number + 1)


def step_at(steps: Steps, place: Place) -> Step:
    """Raises IndexError where there is none."""
    step = steps[place[0]]
    return step if len(place) == 1 else step_at(sides(step)[place[1]], place[2:])


def put_in(steps: Steps, place: Place, step: Step) -> Steps:
    """With a step more, before the one that stands there, or at the end of that block."""
    return _changed(steps, place, (step,), 0)


def put_for(steps: Steps, place: Place, step: Step) -> Steps:
    """With another step in the place of one."""
    return _changed(steps, place, (step,), 1)


def taken_out(steps: Steps, place: Place) -> Steps:
    """Without a step, and, of a branch, without what lies in it."""
    return _changed(steps, place, (), 1)


def shifted(steps: Steps, place: Place, by: int) -> tuple[Steps, Place]:
    """A step moved by so many gaps of the text, into branches and out of them; not beyond either end. And where it stands."""
    step, rest = step_at(steps, place), taken_out(steps, place)
    found = list(gaps(rest))
    there = found[max(0, min(len(found) - 1, found.index(place) + by))]
    return put_in(rest, there, step), there


def _changed(steps: Steps, place: Place, new: Steps, instead_of: int) -> Steps:
    at = place[0]
    if len(place) == 1:
        return (*steps[:at], *new, *steps[at + instead_of :])
    block = _changed(sides(steps[at])[place[1]], place[2:], new, instead_of)
    return (*steps[:at], with_side(steps[at], place[1], block), *steps[at + 1 :])


# -- whole actions ------------------------------------------------------------------------------------------------------


def unused_name(actions: tuple[Action, ...], begins: str = "new action") -> str:
    """A name that no action has."""
    names = {each.name for each in actions}
    return next(
        name for name in (begins, *(f"{begins} {number}" for number in range(2, len(names) + 3))) if name not in names
    )


def renamed(actions: tuple[Action, ...], name: str, new: str) -> tuple[Action, ...]:
    """With another name, in what calls it too. Raises Refusal where another one has it already."""
    if new != name and any(each.name == new for each in actions):
        raise Refusal("action", f"“{new}”", "is there already", way_out="give it another name")

    def told(step: Step) -> Step:
        if isinstance(step, Call) and step.name == name:
            return Call(new)
        for side, block in enumerate(sides(step)):
            step = with_side(step, side, tuple(told(each) for each in block))
        return step

    return tuple(
        replace(each, name=new if each.name == name else each.name, steps=tuple(told(step) for step in each.steps))
        for each in actions
    )


def with_one(actions: tuple[Action, ...], action: Action) -> tuple[Action, ...]:
    """One in the place of that of its name, or behind the others."""
    if all(each.name != action.name for each in actions):
        return (*actions, action)
    return tuple(action if each.name == action.name else each for each in actions)


def without(actions: tuple[Action, ...], name: str) -> tuple[Action, ...]:
    return tuple(each for each in actions if each.name != name)
