"""A figure, and what its paper, or its part, says of the machine."""

from __future__ import annotations

from collections.abc import Generator
from functools import partial
from typing import TYPE_CHECKING

from idler.core.proof.claims import Witness, figure_claim, flat_pair, scale_claim
from idler.session.session import Session

from ..engine import Ending, Result, Run, Wait
from ..questions import choice, reading
from .program import ProgramRun

if TYPE_CHECKING:
    from idler.core.trial.figures import Figure


class FigureRun(ProgramRun):
    """A figure, and what its paper or its part says of the machine. seen: the way in which a hook was seen last."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.seen = ""

    def _came_to_its_end(self, result: Result) -> Run:
        figure = self._session.program.figure
        if figure is None or self.way.raised:
            return result
        pair = flat_pair(self._session.machine)
        if pair is None:
            return result
        if figure.kind == "hook":
            return (yield from self._seen(pair))
        if figure.kind in ("circle", "square"):
            return (yield from self._measured(pair, figure))
        return result

    def _seen(self, pair: tuple[int, int]) -> Run:
        """Which of eight drawings the paper shows."""
        from idler.core.trial import symmetry

        machine = self._session.machine
        names = machine.names[pair[0]], machine.names[pair[1]]
        shown = {seen.key: symmetry.words(seen, names) for seen in symmetry.WAYS}
        words = (
            f"Which of these does the paper show, with + of {names[0]} to the right and + of {names[1]} away from you?"
        )
        key = yield from self.ask(choice("figure.seen", words, {**shown, "other": "None of these."}))
        self.seen = key or "other"
        claim = figure_claim(machine, *pair)
        if self.seen == "other":
            self.keep_proof(claim, False, f"{self.ran}: none of the drawings", Witness.EYES)
            return Result.of(False, "The paper shows none of these: look at play, at what slips, and at the pen.")
        seen = symmetry.BY_KEY[self.seen]
        held = self.seen == "as_asked"
        self.keep_proof(claim, held, f"{self.ran}: {symmetry.words(seen, names)}", Witness.EYES)
        return Result.of(held, symmetry.words(seen, names), symmetry.edit(machine, pair, seen), seen=self.seen)

    def _measured(self, pair: tuple[int, int], figure: Figure) -> Run:
        """How wide and how high it became, and where a circle is flat."""
        from idler.core.trial.measured import judge_sizes, read_size

        machine, found = self._session.machine, []
        names = machine.names[pair[0]], machine.names[pair[1]]
        for slot, size in zip(pair, figure.size, strict=True):
            axis = machine.axis(slot)
            question = reading(
                "figure.size", f"How wide is it along {axis.name}?", partial(read_size, axis, size), axis=axis.name,
                instrument="caliper", unit=axis.reads.symbol,
            )  # fmt: skip
            found.append((yield from self.ask(question)) or 0.0)
        verdict = judge_sizes(machine, pair, figure.size, (found[0], found[1]))
        for slot, name in zip(pair, names, strict=True):
            if name in verdict.wrong:  # whatever proved its scale before, this contradicts it
                self.keep_proof(scale_claim(machine, slot), False, f"{self.ran}: {verdict.words}", Witness.INSTRUMENT)
        if verdict.wrong:
            self.keep_proof(figure_claim(machine, *pair), False, f"{self.ran}: {verdict.words}", Witness.INSTRUMENT)
        plays = (yield from self._flats(pair, figure.size[0] / 2)) if figure.kind == "circle" else {}
        reads = machine.axis(pair[0]).reads
        told = "".join(
            f" {name} has play: {reads.length(play, 2)} ± {reads.length(open_, 2)}. Measure it at Geometry."
            for name, (play, open_) in plays.items()
        )
        held = verdict.held and not plays
        end = Ending.DONE if held else Ending.NOT_PROVEN  # right within a pen's line is no proof of a scale
        figures = {**verdict.figures, **{f"play_{name}": play for name, (play, _) in plays.items()}}
        return Result(end, f"{verdict.words}{told}", figures)

    def _flats(self, pair: tuple[int, int], radius: float) -> Generator[Wait, None, dict[str, tuple[float, float]]]:
        """The play of each axis that leaves a flat, by its letter, and how uncertain it is, mm."""
        from idler.core.trial.measured import FLATS, flat_words, play_of_flat, read_flat

        machine = self._session.machine
        names = machine.names[pair[0]], machine.names[pair[1]]
        key = yield from self.ask(choice("figure.flats", "Is the circle flat anywhere?", flat_words(names)))
        plays = {}
        for which in FLATS[key or "none"]:
            axis = machine.axis(pair[which])
            question = reading(
                "figure.flat", f"How long is the flat where {axis.name} turns round, all of it?",
                partial(read_flat, axis, radius), axis=axis.name, instrument="rule", unit=axis.reads.symbol,
            )  # fmt: skip
            plays[axis.name] = play_of_flat(radius, (yield from self.ask(question)) or 0.0)
        return plays
