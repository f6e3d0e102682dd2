"""Actions that would start themselves again: by calling one another, or by what starts them."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from .steps import Action, Call, Event, Home, Power, every

CAUSES = {Home: Event.HOMED, Power: Event.POWERED}  # steps that are what starts others


def circles(actions: tuple[Action, ...]) -> list[tuple[str, ...]]:
    """Each circle once, by the names and events along it; its first one is its last one, too."""
    by_name = {action.name: action for action in actions}
    ways = {action.name: list(dict.fromkeys(_next(action, actions))) for action in actions}
    found: dict[frozenset[str], tuple[str, ...]] = {}
    for name in by_name:
        for circle in _from(name, ways):
            found.setdefault(frozenset(circle), circle)
    return list(found.values())


def _next(action: Action, actions: tuple[Action, ...]) -> Iterator[tuple[str, str]]:
    """What it starts, and by what."""
    names = [each.name for each in actions]
    for step in every(action.steps):
        if isinstance(step, Call) and step.name in names:
            yield step.name, ""
        event = CAUSES.get(type(step))
        if event is not None and not (isinstance(step, Power) and not step.on):
            for each in actions:
                if each.event is event:
                    yield each.name, event.words


def _from(start: str, ways: Mapping[str, list[tuple[str, str]]]) -> Iterator[tuple[str, ...]]:
    """Circles that come back to where they began, the shortest first; each place is gone to once."""
    ahead: list[tuple[str, tuple[str, ...]]] = [(start, (start,))]
    seen = set()
    while ahead:
        name, path = ahead.pop(0)
        for other, by in ways[name]:
            longer = (*path, *((by,) if by else ()), other)
            if other == start:
                yield longer
                return
            if other not in seen:
                seen.add(other)
                ahead.append((other, longer))
