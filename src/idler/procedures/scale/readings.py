"""What the passes of an axis say of its scale."""

from __future__ import annotations

from fractions import Fraction

from idler.core.machine import Address
from idler.core.mechanics.axis_directions import shown_per_travel
from idler.core.mechanics.chain import Chain
from idler.core.mechanics.drivers import counts_at, other_counts
from idler.core.mechanics.mistakes import ScaleCause, causes
from idler.core.mechanics.pulses import longer_pulses
from idler.core.mechanics.scale import Pass, Verdict, correction, estimate, lacking, of_now, verdict
from idler.core.proof.claims import SIGNALS, motor_keys, value_texts
from idler.core.values.parameter import Value
from idler.session.session import Session

from ..engine import Procedure

GROSS = 0.02  # relative: less than that an axis is known well enough to go further


class ScaleReadings(Procedure):
    """Of one axis: its passes so far, what they prove, and what would mend it. Counts per unit throughout."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._slot = 0

    @property
    def _wraps(self) -> bool:
        return self._session.in_force.axis(self._slot).wraps

    @property
    def told(self) -> float:
        """Counts per unit that the controller has in force, or those of the draft where there is none."""
        session = self._session
        machine = session.in_force if session.in_force.shape == session.machine.shape else session.machine
        return float(Chain.of(machine.axis(self._slot)).counts_per_unit)

    @property
    def passes(self) -> list[Pass]:
        """Those that were made with the pulses that the drives are told now, and by the motors that move the axis now: with
        others, other steps may have been lost, or another screw was turned."""
        kept = self._session.passes.get(self._session.machine.names[self._slot], [])
        return [each for each in kept if each.signals in ("", self._signals)]

    @property
    def _signals(self) -> str:
        """How its motors are driven, without the letter of the axis, which may become another one."""
        machine = self._session.in_force
        where = [*(Address(None, key) for key in SIGNALS), *(Address(self._slot, key) for key in motor_keys(machine))]
        texts = value_texts(machine, where).values()
        return "; ".join(f"{address.key} {text}" for address, text in zip(where, texts, strict=True))

    def said(self, tolerance: float) -> Verdict:
        """Of the passes so far. What is off one way only is no scale: iron was met, or steps were lost."""
        found = verdict(self.passes, self.told, tolerance)
        return Verdict.ONE_WAY if found is Verdict.OFF and not self._both_ways else found

    @property
    def _both_ways(self) -> bool:
        """Whether passes with the counts in force went up and down; an axis that turns on has no ends to meet."""
        ways = {p.commanded > 0 for p in of_now(self.passes, self.told)}
        return len(ways) > 1 or self._wraps

    @property
    def _lacks(self) -> int:
        return lacking(of_now(self.passes, self.told))

    @property
    def _grossly_off(self) -> bool:
        found = estimate(of_now(self.passes, self.told))
        return found is None or abs(found.error(self.told)) > max(GROSS, found.expanded)

    @property
    def likely(self) -> ScaleCause | None:
        """The most probable cause, where one edit of the train would mend it."""
        best = max(self.explained(), key=lambda cause: cause.probability, default=None)
        return best if best is not None and best.listed else None

    def explained(self) -> list[ScaleCause]:
        """What would explain the passes, most probable first; empty where nothing was measured."""
        machine, found = self._session.machine, estimate(self.passes)
        if found is None:
            return []
        axis, pulse = machine.axis(self._slot), machine[Address(None, "signals.pulse_width")]
        assert isinstance(pulse, Fraction)
        ratio = 1 + found.error(float(Chain.of(axis).counts_per_unit))
        cross = shown_per_travel(machine, self._slot) != 1
        return causes(axis, ratio, found.relative, pulse, longer_pulses(machine), cross=cross)

    def edit_for(self, cause: ScaleCause) -> dict[Address, Value]:
        """Mends the link of the train that explains the ratio; a correction that was there goes."""
        return {**dict(cause.slip.edit), Address(self._slot, "chain.correction"): Fraction(1)}

    def corrected(self) -> dict[Address, Value]:
        """The correction that the passes ask for; the train stays as it was drawn."""
        found, where = estimate(self.passes), Address(self._slot, "chain.correction")
        if found is None:
            return {}
        axis = self._session.machine.with_values({where: Fraction(1)}).axis(self._slot)
        factor = correction(float(Chain.of(axis).counts_per_unit), found)
        if where.row.low <= factor <= where.row.high:
            return {where: factor}
        # So much is no inaccuracy: a driver that counts otherwise is mended first, and only the rest is a correction.
        counts = other_counts(axis, float(factor))
        if counts is None:
            return {}
        rest = correction(float(Chain.of(axis).counts_per_unit) * counts / axis.whole(counts_at(axis).key), found)
        return {counts_at(axis): counts, where: rest} if where.row.low <= rest <= where.row.high else {}
