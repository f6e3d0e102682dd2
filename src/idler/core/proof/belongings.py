"""What was measured, proven and taken for the axes of a machine, kept by their letters; it goes with the axis and not with
the letter: a renamed axis keeps it, and one that is added anew begins with nothing.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TypeVar

from ..mechanics.scale import Pass
from ..mechanics.torqueprint import TorquePrint
from .claims import Evidence
from .workzero import Places

T = TypeVar("T")
Letters = Mapping[str, str | None]  # the letter that each axis gets; None: it is gone


@dataclass(frozen=True)
class Belongings:
    """passes, zeros, doubts, prints by letter; proofs by the key of their claim, which ends with the letter."""

    passes: Mapping[str, Sequence[Pass]]
    proofs: Mapping[str, Evidence]
    zeros: Places
    doubts: Mapping[str, float]
    prints: Mapping[str, Sequence[TorquePrint]]

    def relettered(self, letters: Letters) -> Belongings:
        """With other letters; what is of an axis that is gone goes with it."""
        zeros = {
            axis: {number: replace(zero, rests=_texts(zero.rests, letters)) for number, zero in kept.items()}
            for axis, kept in self.zeros.items()
        }
        proofs: dict[str, Evidence] = {}
        for key, kept in self.proofs.items():
            begin, _, axis = key.rpartition(".")
            new = letters.get(axis, axis) if begin else axis
            if new is not None:
                claim = f"{begin}.{new}" if begin else key
                proofs[claim] = replace(kept, claim=claim, rests=_texts(kept.rests, letters))
        return Belongings(
            _moved(self.passes, letters), proofs, _moved(zeros, letters), _moved(self.doubts, letters),
            _moved(self.prints, letters),
        )  # fmt: skip

    def with_those_of(self, other: Belongings) -> Belongings:
        """These, and what of the other is under no key of these."""
        return Belongings(
            {**other.passes, **self.passes}, {**other.proofs, **self.proofs}, {**other.zeros, **self.zeros},
            {**other.doubts, **self.doubts}, {**other.prints, **self.prints},
        )  # fmt: skip


def back_again(letters: Letters) -> dict[str, str | None]:
    """The way back: what has come under a letter that was cleared for it goes."""
    cleared = {axis: None for axis, new in letters.items() if new is None}
    return {**cleared, **{new: axis for axis, new in letters.items() if new is not None}}


def _moved(by_letter: Mapping[str, T], letters: Letters) -> dict[str, T]:
    found = ((letters.get(axis, axis), item) for axis, item in by_letter.items())
    return {axis: item for axis, item in found if axis is not None}


def _texts(rests: Mapping[str, str], letters: Letters) -> dict[str, str]:
    """Texts of values by the texts of their addresses ("X.chain.pitch"); an input says its axis as a value."""
    found: dict[str, str] = {}
    for key, text in rests.items():
        begin, _, rest = key.partition(".")
        new = letters.get(begin) if rest and begin in letters else begin
        value = (letters.get(text) or "none") if key.endswith(".axis") and text in letters else text
        if new is not None:
            found[f"{new}.{rest}" if rest else key] = value
    return found
