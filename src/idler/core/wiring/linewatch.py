"""What lines tell, where no controller watches them: a state counts once it has stood still, and only a change does."""

from __future__ import annotations

from dataclasses import dataclass

from .indexing import number_of


@dataclass
class LineWatch:
    """settle: s in which a state must stand still. gray: whether it is told in Gray code. number: what they told last, None
    before the first state has settled: that one is not obeyed."""

    settle: float
    gray: bool = False
    number: int | None = None
    _state: int = -1
    _since: float = 0.0
    _strobed: bool = True

    def take(self, state: int, now: float, strobe: bool | None = None) -> int | None:
        """The lines as they are now (line 1 the lowest bit), at a time in s; the number that is picked, or None. strobe:
        whether the strobe is made, where there is one; then a settled state is picked where it rises."""
        if state != self._state:
            self._state, self._since = state, now
        if now - self._since < self.settle:
            return None
        before, self.number = self.number, number_of(state, gray=self.gray)
        if strobe is None:
            return self.number if before is not None and before != self.number else None
        rises, self._strobed = strobe and not self._strobed, strobe
        return self.number if rises and before is not None else None
