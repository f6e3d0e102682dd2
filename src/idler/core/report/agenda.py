"""What is next: all that is left between a machine as it is now and its sign-off, in the order of the work.

Each step waits only for steps that come before it in the list, so that there is no circle; the first step that waits for none
is there for as long as the list is not empty, so that there is no dead end. Derived; nothing here is stored but the reasons of
what was skipped.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

from ..machine import Address, Machine
from ..machine.changes import address_text
from ..profile.homes import Home, where
from ..proof.claims import Claim, Evidence, Proof, claims, duty_key, state
from ..rules.findings import Finding, Severity
from ..table import all_rows
from ..table.stations import Station, Tab
from ..values.parameter import Value
from ..wiring import missing
from ..wiring.tool import tool_of
from ..words import capital
from .progress import station_of

CONNECT, SEND, RESTART, KEEP, LEARN, BUS = "link", "send", "restart", "sign_off", "learn", "spindle_bus"


@dataclass(frozen=True)
class Way:
    """How claims of one kind are proven. text: with {label}, {axis} and {pair}. procedure: as `./idler run` takes it. after:
    kinds of claims, of the same axes where they have some, that come first. minutes: of an unhurried person; an estimate."""

    text: str
    page: str
    procedure: str
    needs: tuple[str, ...]
    minutes: float
    after: tuple[str, ...] = ()
    at: Station | None = None  # where it is done, where that is not the station of the claim


TURNS = ("wiring.guard", "spindle", "quiet", "speed", "times")  # what is proven while the spindle turns
CHAINS = ("home_chain", "limit_chain")  # wiring that is of all axes
POWERED, HOMED = "drives powered", "homed"
# In the order of the work. A key is the begin of a claim's key; what a way comes after stands above it.
WAYS: dict[str, Way] = {
    "wiring.stop": Way("Press the emergency stop and see that all stops", Tab.PROVE, "stop",
                       (POWERED, "a hand at the stop"), 2),
    "wiring.guard": Way("Open the guard and see what it ends", Tab.PROVE, "guard", ("a hand at the guard",), 2,
                        ("wiring.stop",)),
    "wiring": Way("Touch the {label}", Tab.PROVE, "touch", ("a hand at the machine",), 1, ("wiring.stop",)),
    "direction": Way("See which way {axis} goes", Tab.DIRECTION, "direction --axis {axis}", (POWERED, "eyes on the machine"), 1,
                     ("wiring.stop",)),
    "scale": Way("Measure a move of {axis}", "", "scale --axis {axis}", (POWERED, "an instrument"), 6, ("direction",)),
    "home": Way("Let {axis} find its home", "", "home --axis {axis}", (POWERED, "a hand at STOP"), 2,
                ("direction", "scale", "wiring")),
    "ends": Way("Drive {axis} to both ends", "", "ends --axis {axis}", (POWERED, HOMED), 3, ("home",)),
    "overtravel": Way("Let {axis} find its home at full approach speed, and see how far it runs on", "", "home --axis {axis}",
                      (POWERED,), 1, ("home", "ends"), Station.HOMING),
    "pace": Way("Run {axis} hard between touches of its switch", Tab.RELIABLE, "pace --axis {axis}", (POWERED, HOMED), 5,
                ("home", "ends")),
    "repeat": Way("Home {axis} again and again", "", "repeat --axis {axis}", (POWERED, HOMED), 4, ("home",)),
    "home.all": Way("Home all axes in their turns", "", "home", (POWERED,), 2, ("home",)),
    "spindle.way": Way("See which way the spindle turns", Tab.WAY, "spindle-way", (POWERED, "eyes on the spindle"), 2,
                       ("wiring.stop", "wiring.guard")),
    "spindle.encoder": Way("Turn the spindle by hand and see what its encoder counts", Tab.WAY, "spindle-encoder",
                           ("a hand at the spindle",), 1),
    "spindle.pulses": Way("Turn the spindle by hand and see how many pulses come", Tab.WAY, "spindle-encoder",
                          ("a hand at the spindle",), 1),
    "spindle": Way("See that {label}", Tab.LADDER, "spindle-stop --way {last}", (POWERED, "the spindle free to turn"), 2,
                   ("spindle.way",)),
    "quiet": Way("Hear what the inputs pick up while the spindle runs", Tab.FILTER, "study --spindle",
                 (POWERED, "the spindle free to turn"), 1, ("spindle.way", "spindle", "wiring")),
    "speed": Way("Measure the {label}", Tab.CURVE, "spindle-speeds --range {last}", (POWERED, "a tachometer or an encoder"), 8,
                 ("spindle.way", "spindle.encoder", "spindle.pulses")),
    "times": Way("Take the {label}", Tab.TIMES, "spindle-times --range {last}", (POWERED, "the spindle free to turn"), 3,
                 ("speed",)),
    "play": Way("Measure the play of {axis} with a dial", Tab.PLAY, "play --axis {axis}", (POWERED, HOMED, "a dial"), 10,
                ("scale", "pace", "home")),
    "return": Way("See with a dial whether {axis} comes back", Tab.COMES_BACK, "return --axis {axis}",
                  (POWERED, HOMED, "a dial"), 8, ("play", "pace", "ends")),
    "kept": Way("Move all axes at once and touch their switches again", Tab.STEPS_KEPT, "kept", (POWERED, HOMED), 6,
                ("pace", "home", "ends")),
    "runout": Way("See with a dial whether {axis} turns true", Tab.RUNOUT, "runout --axis {axis}",
                  (POWERED, HOMED, "a dial"), 8, ("scale", "home")),
    "tailstock": Way("Turn a bar between centres and measure both ends", Tab.TAILSTOCK, "tailstock", ("a caliper", "a bar"),
                     15),
    "square": Way("Measure the right angle of {pair}", Tab.SQUARE, "square", (POWERED, HOMED, "a rule or a tape"), 20,
                  ("scale", "ends")),
    "level": Way("Run a dial over the bed", Tab.LEVEL, "level", (POWERED, HOMED, "a dial"), 20, ("scale", "ends")),
    "figure": Way("Draw the hook with a pen and look at the sheet", Tab.FIGURES, procedure="figure hook",
                  needs=(POWERED, HOMED, "a pen"), minutes=10, after=("scale", "direction", "ends")),
    "trial": Way("Run a program and touch the switch of {axis} again", Tab.RUN, "program", (POWERED, HOMED, "a program"), 15,
                 ("pace", "ends", "home", "figure")),
    "index": Way("Look at each index stop of {axis}", Tab.INDEX_STOPS, "index --axis {axis}", (POWERED, HOMED), 4,
                 ("home", "scale")),
}  # fmt: skip


@dataclass(frozen=True)
class Step:
    """One thing to do. page: of the station, "" where it has none. control: the value that it is about, where it is one.
    waits_for: keys of steps that must be done first; those that were skipped are not waited for."""

    key: str
    station: Station
    text: str
    why: str
    page: str = ""
    procedure: str = ""
    needs: tuple[str, ...] = ()
    minutes: float = 1.0
    waits_for: tuple[str, ...] = ()
    axis: str = ""
    control: Address | None = None
    edit: tuple[tuple[Address, Value], ...] = ()  # what would settle it
    skipped: str = ""  # the reason

    def as_json(self) -> dict[str, object]:
        return {
            "key": self.key, "station": self.station.key, "page": self.page, "text": self.text, "why": self.why,
            "procedure": self.procedure, "needs": list(self.needs), "minutes": self.minutes,
            "waits_for": list(self.waits_for), "skipped": self.skipped,
        }  # fmt: skip


@dataclass(frozen=True)
class Now:
    """How things stand beside the machine itself. edited, waiting: values that are to be sent, or wait for a restart; where
    no controller is connected nothing is known of them. kept: whether a revision holds what is in force. spoken: whether the
    spindle's drive is spoken to, where that is done over a bus."""

    connected: bool
    edited: int
    waiting: int
    kept: bool
    spoken: bool = True


def agenda(
    machine: Machine, proofs: Mapping[str, Evidence], found: Sequence[Finding], now: Now, skips: Mapping[str, str]
) -> tuple[Step, ...]:
    """All that is left. skips: reasons by the keys of steps that are left out on purpose; they stay in the list, and nothing
    waits for them."""
    linked = _linked(now)
    waits = tuple(step.key for step in linked)
    steps = [*linked, *(replace(step, waits_for=waits if step.procedure else ()) for step in _settled(machine, found))]
    steps += [replace(step, waits_for=tuple(each.key for each in steps)) for step in _sent(now)]
    before = tuple(step.key for step in steps)
    bus = _spoken(now, waits)
    steps += bus
    keys: list[str] = []
    for claim in machine.once(_ordered):
        how = state(machine, claim, proofs)
        if how is not Proof.PROVEN:
            first = [step.key for step in bus if claim.key.startswith(TURNS)]
            first += [key for key in keys if _after(claim.key, key)]
            steps.append(_proof(machine, claim, how, (*before, *first)))
            keys.append(claim.key)
    everything = tuple(step.key for step in steps)
    if any(key not in skips for key in everything) or not now.kept:
        steps.append(
            Step(KEEP, Station.SIGN_OFF, "Keep a revision", "So that this state can be come back to, and be printed.",
                 waits_for=everything, page=Tab.REVISIONS)
        )  # fmt: skip
    tool = tool_of(machine)
    return tuple(
        step
        if tool.turns
        else replace(
            step, text=tool.worded(step.text), why=tool.worded(step.why), needs=tuple(map(tool.worded, step.needs))
        )
        for step in _with_skips(steps, skips)
    )


def ready(steps: Sequence[Step]) -> Step | None:
    """What is next: the first that waits for nothing and is not skipped. None where nothing is left."""
    return next((step for step in steps if not step.waits_for and not step.skipped), None)


def _with_skips(steps: Sequence[Step], skips: Mapping[str, str]) -> list[Step]:
    return [
        replace(
            step, skipped=skips.get(step.key, ""), waits_for=tuple(key for key in step.waits_for if key not in skips)
        )
        for step in steps
    ]


def _linked(now: Now) -> list[Step]:
    if now.connected:
        return []
    return [
        Step(CONNECT, Station.LINK, "Connect the controller", "Nothing can be proven without it.", needs=("a cable",))
    ]


def _spoken(now: Now, waits: tuple[str, ...]) -> list[Step]:
    if now.spoken:
        return []
    text, why = "Speak to the drive of the spindle over its bus", "Nothing turns the spindle without it."
    return [
        Step(
            BUS,
            Station.SPINDLE,
            text,
            why,
            Tab.BUS,
            needs=("the drive switched on", "a cable to it"),
            waits_for=waits,
        )
    ]


def _settled(machine: Machine, found: Sequence[Finding]) -> list[Step]:
    """Errors hold back what is sent, or say that something is missing; warnings are doubts and hold nothing back."""
    steps: list[Step] = []
    for item in found:
        station = station_of(item)
        if (item.severity is not Severity.ERROR and not item.missing) or station is None:
            continue
        if item.missing and item.where.key == "input.role":
            # by what is missing: who has left out a guard has not left out a home switch that is missing later
            key = f"{LEARN}.{'+'.join(duty_key(duty).partition('.')[2] for duty in missing(machine))}"
            if key not in [step.key for step in steps]:
                text = "Touch each switch, so that Idler learns which input it is"
                steps.append(Step(key, station, text, item.text, Tab.LEARN, "learn", ("a hand at the machine",), 5))
            continue
        key = f"settle.{item.code}.{address_text(machine, item.where)}"
        if key not in [step.key for step in steps]:
            at = (Station.WIRING, Tab.OUTPUTS) if item.missing else (station, "")
            first, _, more = item.text.partition(". ")
            text, why = first.rstrip("."), more or f"It is settled at {item.place}."
            steps.append(Step(key, at[0], text, why, at[1], control=item.where, edit=item.edit))
    return steps


def _sent(now: Now) -> list[Step]:
    if now.edited:
        return [
            Step(SEND, Station.LINK, "Send what was edited", f"{now.edited} of its values are not in the controller.")
        ]
    if now.waiting:
        return [
            Step(RESTART, Station.LINK, "Restart the controller", f"{now.waiting} of its values wait for a restart.")
        ]
    return []


@lru_cache(maxsize=1024)
def _kinds(key: str) -> frozenset[str]:
    """The ways whose keys a claim's key begins with."""
    return frozenset(kind for kind in WAYS if key == kind or key.startswith(f"{kind}."))


def way_of(claim: Claim) -> str:
    """The key of the way in which a claim is proven: the longest that its key begins with."""
    return _way(claim.key)


@lru_cache(maxsize=1024)
def _way(key: str) -> str:
    return max(_kinds(key), key=len)


def _ordered(machine: Machine) -> tuple[Claim, ...]:
    """Claims in the order of the work, and of their axes."""
    order = {kind: place for place, kind in enumerate(WAYS)}
    return tuple(sorted(claims(machine), key=lambda claim: order[way_of(claim)]))


@lru_cache(maxsize=1024)
def _axes(key: str) -> str:
    """Letters of the axes that a claim is of; empty where it is of the machine."""
    last = key.rpartition(".")[2]
    return last if last.isupper() else ""


@lru_cache(maxsize=1 << 14)
def _after(claim: str, key: str) -> bool:
    """Whether a claim that is left is to be proven before another: where they are of the same axes, if both have some; of the
    wiring those of its axes and of chains."""
    kinds = _kinds(key).intersection(WAYS[_way(claim)].after)
    if not kinds:
        return False
    axes, theirs = set(_axes(claim)), _axes(key)
    if not axes or (not theirs and kinds != {"wiring"}):
        return True
    return bool(axes & set(theirs)) or key.rpartition(".")[2] in CHAINS


def pages_for(machine: Machine, station: Station) -> frozenset[str]:
    """The pages of a station on which this machine has anything to prove."""
    kinds = {way_of(claim) for claim in claims(machine) if claim.station is station}
    return frozenset({WAYS[kind].page for kind in kinds} | ({Tab.BY_A_SQUARE} if "square" in kinds else set()))


# Pages that are about values alone, by the begin of their keys; and those of what only a controller hears that counts.
_ABOUT = {Tab.OIL: "oil.", Tab.SIGNALS: "signals."}
_OF_EDGES = frozenset({Tab.FILTER})


def pages_without(machine: Machine) -> frozenset[str]:
    """Pages of what is not to be had with the kind of controller that this machine has."""
    if not machine.made_of_parts:
        return frozenset()
    keys = [row.key for row in all_rows()]
    return _OF_EDGES | {
        page
        for page, begin in _ABOUT.items()
        if all(where(key).home is Home.ABSENT for key in keys if key.startswith(begin))
    }


def _proof(machine: Machine, claim: Claim, how: Proof, waits_for: tuple[str, ...]) -> Step:
    kind = way_of(claim)
    way, axes, last = WAYS[kind], _axes(claim.key), claim.key.rpartition(".")[2]
    page, procedure = way.page, way.procedure
    if kind == "square" and "Z" in axes:
        page, procedure = Tab.BY_A_SQUARE, f"blade --plane {axes}"
    words = {"label": claim.label, "axis": axes, "last": last, "pair": " and ".join(axes)}
    why = {
        Proof.FAILED: "It did not hold when it was tried last.",
        Proof.STALE: "It was proven, and a value that it rests on has changed since.",
    }.get(how, "It was never tried.")
    return Step(
        claim.key, way.at or claim.station, capital(way.text.format(**words)), why, page, procedure.format(**words), way.needs,
        way.minutes, waits_for, axes if axes in machine.names else "",
    )  # fmt: skip
