"""Coming back: how well an axis finds the same place again, from near and far, slowly and fast, by a dial at what it moves.

Model. Arrival number t (0, 1, 2 …) of the kind k (near or far, slow or fast), always from below, is read as
    y = m_k + d (t − t̄) + e.
An arrival that was dropped is made again at the end of the others: t is when it was made, and not which one it is.
The four kinds take turns and begin with another one in each round, so that what changes with time is not taken for what hangs
on the kind. Least squares with a mean for each kind gives, with sums over all arrivals and t̄_k, ȳ_k the means of a kind,
    d = Σ (t − t̄_k)(y − ȳ_k) / Σ (t − t̄_k)²,   m_k = ȳ_k − d (t̄_k − t̄),
    s² = Σ (y − m_k − d (t − t̄))² / (N − 5),   u(d) = s / √Σ (t − t̄_k)².
What the way or the speed does is the mean over its two kinds less that over the other two: N/2 arrivals on each side,
    u = √(4 s²/N + (t̄_one − t̄_other)² u(d)²).
s is never taken for less than one reading's own uncertainty: a dial that shows the same each time is not better than its
division (GUM, 4.3.7). That something matters is said where it is more than three times its u: three are looked at, and one in
a hundred false alarms is enough.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import Enum

from ..machine import Axis
from ..mechanics.scale import COVERAGE, Instrument
from .play import travel

NEAR = 4.0  # mm: how far away an axis turns round for the short way
INSIDE = 4.0  # mm: how far it stays inside of its soft limits
FURTHEST = 0.75  # of the travel: where the place lies, so that the long way is long
SLOW = 1 / 4  # of the fast speed
MATTERS = 3.0  # times the standard uncertainty
FEWEST_ROUNDS = 2


class Approach(Enum):
    """How an axis arrives. words: as a sentence says it."""

    NEAR_SLOW = ("near, slowly", False, False)
    NEAR_FAST = ("near, fast", False, True)
    FAR_SLOW = ("far, slowly", True, False)
    FAR_FAST = ("far, fast", True, True)

    def __init__(self, words: str, far: bool, fast: bool) -> None:
        self.words = words
        self.far = far
        self.fast = fast


@dataclass(frozen=True)
class Arrival:
    """What was read, mm (°), + as the axis counts. turn: which one it was in time, from 0."""

    approach: Approach
    value: float
    turn: int


def order(rounds: int) -> tuple[Approach, ...]:
    """The approaches of so many rounds; each round begins with another one."""
    kinds = tuple(Approach)
    return tuple(kinds[(start + k) % len(kinds)] for start in range(rounds) for k in range(len(kinds)))


def place(axis: Axis) -> tuple[float, float] | None:
    """Where to come back to, and how far the long way is, in mm (°); None where the travel leaves no room."""
    ends = travel(axis)
    low, high = ends[0] + INSIDE, ends[1] - INSIDE
    at = low + FURTHEST * (high - low)
    return (at, at - low) if at - low >= 2 * NEAR else None


@dataclass(frozen=True)
class Effect:
    """value: mm; standard: its uncertainty, mm."""

    value: float
    standard: float

    @property
    def matters(self) -> bool:
        return abs(self.value) > MATTERS * self.standard


@dataclass(frozen=True)
class Comeback:
    """half: mm (°), half of what lies between the outermost readings; one: standard uncertainty of a reading. drift: from the
    first arrival to the last. far, fast: by how much the long way and the fast one end further on than the short and the slow.
    motor: it was read by the encoder of its motor, which sees nothing of what hangs on the motor."""

    half: float
    one: float
    scatter: float
    drift: Effect
    far: Effect
    fast: Effect
    arrivals: int
    motor: bool = False

    @property
    def expanded(self) -> float:
        """Of `half`, mm: of both outermost readings together half of √2 · 2u, and no less than one's."""
        return COVERAGE * self.one


def comeback(arrivals: Sequence[Arrival], dial: Instrument) -> Comeback | None:
    """None where not every kind has arrived at least twice."""
    number = len(arrivals)
    by_kind = {kind: [each for each in arrivals if each.approach is kind] for kind in Approach}
    if min(len(mine) for mine in by_kind.values()) < FEWEST_ROUNDS:
        return None
    values = [each.value for each in arrivals]
    turns = [each.turn for each in arrivals]
    middle = (min(turns) + max(turns)) / 2
    when = {kind: _mean([each.turn for each in mine]) for kind, mine in by_kind.items()}
    what = {kind: _mean([each.value for each in mine]) for kind, mine in by_kind.items()}
    spans = sum((each.turn - when[each.approach]) ** 2 for each in arrivals)
    slope = sum((each.turn - when[each.approach]) * (each.value - what[each.approach]) for each in arrivals) / spans
    means = {kind: what[kind] - slope * (when[kind] - middle) for kind in Approach}
    rest = sum((each.value - means[each.approach] - slope * (each.turn - middle)) ** 2 for each in arrivals)
    scatter = max(dial.reading, math.sqrt(rest / max(1, number - len(by_kind) - 1)))
    sure = scatter / math.sqrt(spans)

    def effect(of: Callable[[Approach], bool]) -> Effect:
        sides = [[kind for kind in Approach if of(kind) is side] for side in (True, False)]
        value, apart = (
            _mean([by[kind] for kind in sides[0]]) - _mean([by[kind] for kind in sides[1]]) for by in (means, when)
        )
        shares = sum(1 / (4 * len(by_kind[kind])) for kind in Approach)
        return Effect(value, math.hypot(scatter * math.sqrt(shares), apart * sure))

    whole = max(turns) - min(turns)
    return Comeback(
        (max(values) - min(values)) / 2, dial.reading, scatter, Effect(slope * whole, sure * whole),
        effect(lambda kind: kind.far), effect(lambda kind: kind.fast), number,
    )  # fmt: skip


def _mean(values: Sequence[float]) -> float:
    return sum(values) / len(values)


class ComebackVerdict(Enum):
    """key and what it means."""

    NOTHING = ("nothing", "not measured yet")
    PROVEN = ("proven", "comes back within what is wanted")
    DRIFTS = ("drifts", "wanders with time")
    FAST = ("fast", "ends elsewhere when it comes fast")
    FAR = ("far", "ends elsewhere when it comes from far")
    SCATTERS = ("scatters", "scatters, however it comes")
    COARSE = ("coarse", "cannot be told with this")
    MOTOR = ("motor", "its motor comes back; nobody has looked at the part")

    def __init__(self, key: str, words: str) -> None:
        self.key = key
        self.words = words


def verdict(found: Comeback | None, tolerance: float) -> ComebackVerdict:
    """tolerance: ± mm (°) around the middle. Proven only where every reading with its uncertainty lies within it, and was taken
    at the part that moves."""
    if found is None:
        return ComebackVerdict.NOTHING
    if found.half + found.expanded <= tolerance:
        return ComebackVerdict.MOTOR if found.motor else ComebackVerdict.PROVEN
    named = (
        (found.drift, ComebackVerdict.DRIFTS), (found.fast, ComebackVerdict.FAST), (found.far, ComebackVerdict.FAR)
    )  # fmt: skip
    strong = [(abs(effect.value), said) for effect, said in named if effect.matters]
    if strong:
        return max(strong, key=lambda each: each[0])[1]
    return ComebackVerdict.SCATTERS if found.half - found.expanded > tolerance else ComebackVerdict.COARSE


def can_prove(dial: Instrument) -> float:
    """The least ± in mm that readings which are all the same would prove."""
    return COVERAGE * dial.reading


def figures(found: Comeback, axis: Axis) -> str:
    """What was found, in words."""
    reads = axis.reads
    parts = [
        f"{name} {'+' * (effect.value > 0)}{reads.length(effect.value, 3)} ± {reads.length(COVERAGE * effect.standard, 3)}"
        for name, effect in (("drift", found.drift), ("far", found.far), ("fast", found.fast))
    ]
    return (
        f"± {reads.length(found.half, 3)} over {found.arrivals} arrivals, each known to {reads.length(found.expanded, 3)}; "
        + ", ".join(parts)
    )


def sentence(found: Comeback, axis: Axis, tolerance: float) -> str:
    """What is to be done about it."""
    reads = axis.reads
    wanted = f"± {reads.length(tolerance, 3, trim=True)}"
    by = {name: reads.length(abs(getattr(found, name).value), 3) for name in ("drift", "far", "fast")}
    match verdict(found, tolerance):
        case ComebackVerdict.PROVEN:
            return f"From near and far, slowly and fast, it came back within {wanted}."
        case ComebackVerdict.MOTOR:
            return (
                f"By its encoder the motor came back within {wanted}. Coupling, belt and screw come after it: hold a dial "
                "against the part that moves, and measure again."
            )
        case ComebackVerdict.DRIFTS:
            return (
                f"It wandered by {by['drift']} from the first arrival to the last, however it came: something grows warm, "
                "slips, or loses a step where it turns round. Let it run warm and measure again; where it goes on, try the "
                "signals at Wiring, then look at coupling, pulley and clamp."
            )
        case ComebackVerdict.FAST:
            return (
                f"What came fast ended {by['fast']} beside what came slowly: steps are lost, or the part still swings. Find "
                "the pace anew at Drives, or accelerate less."
            )
        case ComebackVerdict.FAR:
            return (
                f"What came from far ended {by['far']} beside what came from near: counts are lost on the way. Try the signals "
                "at Wiring and the pace at Drives."
            )
        case ComebackVerdict.SCATTERS:
            return "Neither the way, nor the speed, nor the time explains it: something is loose. " + (
                "Look at the coupling of its encoder."
                if found.motor
                else "Look at the dial's holder first, then at bearings, nut and coupling."
            )
    finer = "Hold the dial further out" if axis.rotary and not found.motor else "Take a finer dial"
    return f"A reading is known to {reads.length(found.expanded, 3)}, and {wanted} are wanted. {finer}, or want less."
