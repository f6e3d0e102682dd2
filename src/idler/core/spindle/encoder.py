"""Counts per turn and sign of a spindle's encoder, from turning it by hand and from letting it run."""

from __future__ import annotations

from dataclasses import dataclass

from ..values.units import several

QUADRATURE = 4  # counts for each line: both edges of both tracks
USUAL_LINES = (
    100, 128, 180, 200, 250, 256, 300, 360, 400, 500, 512, 600, 720, 900, 1000, 1024, 1200, 1250, 1440, 1500, 1800, 2000,
    2048, 2500, 3600, 4096, 5000,
)  # fmt: skip
HAND = 0.03  # of a turn: as closely as a hand comes back to a mark
SURE_TURNS = 5  # tell apart all usual encoders that a hand confuses in one
_FEWEST = 40


@dataclass(frozen=True)
class Counted:
    """counts: per turn, after quadrature. lines: of a usual encoder that fits, or 0. words: what was found.
    again: turns to be made instead, where two usual encoders fit, else 0; then counts are those of the nearer one.
    """

    counts: int
    lines: int
    words: str
    again: int = 0


def from_hand(moved: int, turns: int) -> Counted | None:
    """What whole turns by hand say: the usual encoder that is nearest, where one lies within a hand's care."""
    each = abs(moved) / turns
    if each < _FEWEST:
        return None
    off = {lines: abs(lines * QUADRATURE / each - 1) for lines in USUAL_LINES}
    fit = sorted((lines for lines in USUAL_LINES if off[lines] <= HAND / turns + 1e-9), key=lambda lines: off[lines])
    turned = several(turns, "turn")
    if len(fit) > 1 and turns < SURE_TURNS:
        either = " and ".join(f"{lines}" for lines in sorted(fit))
        words = f"{abs(moved)} counts in {turned}: encoders of {either} lines fit. Turn it {SURE_TURNS} times"
        return Counted(fit[0] * QUADRATURE, fit[0], words, again=SURE_TURNS)
    if fit:
        near = fit[0]
        return Counted(
            near * QUADRATURE, near, f"{abs(moved)} counts in {turned}: {near} lines, {near * QUADRATURE} counts"
        )
    counts = round(each / QUADRATURE) * QUADRATURE
    return Counted(
        counts,
        0,
        f"{abs(moved)} counts in {turned}: {counts} a turn; no usual encoder has {counts // QUADRATURE} lines",
    )


def pulses_from_hand(moved: int, turns: int) -> Counted | None:
    """What whole turns by hand say of pulses: how many come in each; None where that is no whole number. One more or less
    than whole turns have is the magnet that stood at its switch."""
    each = round(moved / turns)
    if each and abs(moved - each * turns) <= 1:
        return Counted(each, 0, f"{several(moved, 'pulse')} in {several(turns, 'turn')}: {each} a turn")
    return None


def cause_of_ratio(measured: float, expected: float) -> str:
    """A likely cause where the encoder's speed is a plain multiple of the one expected; else nothing. Speeds in rpm."""
    if expected <= 0 or measured <= 0:
        return ""
    for ratio, why in (
        (4.0, "the encoder's lines were told, and each gives four counts"), (0.25, "its counts were told four times too high"),
        (2.0, "only two counts for each line were reckoned, and four come"), (0.5, "its counts were told twice too high"),
    ):  # fmt: skip
        if abs(measured / expected / ratio - 1) < 0.06:
            return f"It measures {measured:.0f} rpm where {expected:.0f} are expected, {ratio:g} times: {why}."
    return ""


def sign_words(way: int, speed: float) -> str:
    """What the encoder says of the way, against the one that was asked for (1 right, -1 left)."""
    if not speed:
        return ""
    seen = "right" if speed > 0 else "left"
    asked = "right" if way > 0 else "left"
    if seen == asked:
        return f"Asked to turn {asked}, and the encoder counts {seen}: they agree."
    why = "its two tracks are swapped, or the spindle turns the wrong way"
    return f"Asked to turn {asked}, and the encoder counts {seen}: {why}."
