"""What measured passes say of an axis, in sentences; the figures are those of `scale`."""

from __future__ import annotations

from collections.abc import Sequence

from ..machine import Axis
from ..values.measures import Measures
from ..words import capital
from .scale import (
    Estimate,
    Instrument,
    Pass,
    Verdict,
    alone,
    by_way,
    estimate,
    instrument_needed,
    lacking,
    lost_steps,
    move_needed,
    of_now,
    ways,
    worst_way,
)


def percent(share: float) -> str:
    places = 3 if abs(share) < 0.01 else 2
    return f"{share * 100:.{places}f} %"


def title(axis: Axis, said: Verdict, tolerance: float) -> str:
    name = axis.name
    return {
        Verdict.NOTHING: f"{name} is not measured yet", Verdict.PROVEN: f"{name} is proven to {percent(tolerance)}",
        Verdict.OFF: f"{name} is off", Verdict.ONE_WAY: f"{name} is off on one way: measure the other, too",
        Verdict.COARSE: f"{name} cannot be told so finely",
        Verdict.REVERSED: f"{name} went the other way", Verdict.APART: f"The passes of {name} contradict each other",
        Verdict.AGAIN: f"{name} is corrected: measure it once more", Verdict.WAYS: f"{name} goes otherwise there than back",
    }[said]  # fmt: skip


def _wrong(found: Estimate, told: float) -> tuple[str, str]:
    """How far the axis goes wrong, and which way."""
    error = found.error(told)
    return percent(abs(error)), "too far" if error > 0 else "too short"


def off_by(found: Estimate, told: float) -> tuple[str, str]:
    """Which way the axis goes wrong, in words that a figure follows, and that figure."""
    error, way = _wrong(found, told)
    return f"the axis goes {way} by", error


def sentence(
    axis: Axis,
    passes: Sequence[Pass],
    said: Verdict,
    told: float,
    tolerance: float,
    length: float,
    instrument: Instrument,
) -> str:
    """said: the verdict of these passes. told: counts per unit in force. length, instrument: of the move that is planned."""
    found = estimate(passes)
    if said is Verdict.NOTHING:
        return "Take up the play, set the instrument to zero, move, read. Three passes tell more than one."
    if said is Verdict.REVERSED or found is None:
        return (
            "The reading has the other sign than the move. If the sign was forgotten, drop this pass; else turn the direction "
            "of the axis round at Drives first."
        )
    if said is Verdict.APART:
        return _apart(axis, passes, told)
    if said is Verdict.AGAIN:
        return "The counts fit what was measured before. Only a move that was made with them proves them."
    if said is Verdict.WAYS or (said is Verdict.PROVEN and ways(passes) is not None):
        return _ways(passes, said, told, tolerance)
    error, way = _wrong(found, told)
    known = f"It goes {error} {way}, known to ± {percent(found.expanded)}"
    if said is Verdict.PROVEN:
        return f"{known}: both together are within {percent(tolerance)}."
    if said is Verdict.OFF:
        return f"{known}."
    if said is Verdict.ONE_WAY:
        return f"{known}, on one way. Where the other way tells otherwise, iron was met or steps were lost: the scale is right."
    return _way_out(axis, passes, told, tolerance, length, instrument)


def _ways(passes: Sequence[Pass], said: Verdict, told: float, tolerance: float) -> str:
    now = of_now(passes, told) or passes
    each = [(sign, estimate(one), len(one)) for sign, one in zip("+−", by_way(now), strict=True)]
    known = [
        f"to {sign} it goes {' '.join(_wrong(one, told))} (± {percent(one.expanded)}, {_passes(count)})"
        for sign, one, count in each if one is not None
    ]  # fmt: skip
    found = f"{capital(', '.join(known))}. Passes of one way agree with each other"
    if said is Verdict.PROVEN:
        return f"{found}, and both ways are within {percent(tolerance)}. Likely its play is not the same along the way."
    if lacking(now):
        return f"{found}: measure each way twice."
    return (
        f"{found}: its play is not the same along the way, or steps were lost on one of them. Measure its play at Geometry and "
        "take it up, then measure anew."
    )


def _apart(axis: Axis, passes: Sequence[Pass], told: float) -> str:
    lost = lost_steps(passes)
    screw = axis.choice("chain.final") == "screw"
    warm = " Or its screw grew warm meanwhile: run it for a while, and measure anew." if screw else ""
    if lost is not None:
        return (
            f"At {axis.reads.speed(lost[1])} it went {percent(lost[0])} less far than slowly: its motor loses steps at that "
            "pace, or has met something. Lower the pace at Drives, drop the fast passes, and measure slowly, and less far."
            f"{warm}"
        )
    found = estimate(passes)
    assert found is not None
    which = alone(passes)
    cause = "steps were lost, iron was met, the instrument slipped, or a reading was mistaken"
    said = f"They lie further apart than the instrument explains, so that all together tell it to ± {percent(found.expanded)}"
    if which is not None:
        return f"{said}: {cause}. Pass {which + 1} lies alone: without it the others agree."
    return f"{said}: {cause}. Drop what is wrong, and measure slowly again.{warm}"


def _way_out(
    axis: Axis, passes: Sequence[Pass], told: float, tolerance: float, length: float, instrument: Instrument
) -> str:
    """What would be enough: a longer move, a finer instrument."""
    count = max(1, len(passes))
    needed = move_needed(instrument, told, tolerance, count)
    finer = instrument_needed(length, told, tolerance, count, rotary=axis.rotary)
    longer = f"a move of {axis.reads.length(needed, trim=True)} with the {instrument.words(axis.reads)}"
    ways = [longer] if needed <= instrument.reach else []
    if finer is not None and finer.resolution < instrument.resolution:
        ways.append(f"the {finer.words(axis.reads)}")
    return f"With what was measured {percent(tolerance)} cannot be proven. It would take {' or '.join(ways) or 'more passes'}."


def reading_words(name: str, told: float) -> str:
    """What is to be read after a move. told: in mm (°), with its sign."""
    way, sign = ("+", "positive") if told > 0 else ("−", "negative")
    return f"Read the instrument, with its sign: {name} was told to go to {way}, and if it did, the reading is {sign}."


def proof_words(passes: Sequence[Pass], told: float, reads: Measures) -> str:
    """What the passes with these counts prove, as it is kept."""
    counted = of_now(passes, told)
    found = estimate(counted)
    if found is None:
        return ""
    with_what = ", ".join(dict.fromkeys(p.instrument.words(reads) for p in counted))
    split = ways(passes) is not None
    within = percent(worst_way(counted, told) if split else abs(found.error(told)) + found.expanded)
    return f"within {within} in {_passes(len(counted))} with {with_what}"


def _passes(count: int) -> str:
    return f"{count} {'pass' if count == 1 else 'passes'}"
