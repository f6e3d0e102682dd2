"""How the values of a station are laid out: groups with a head each, and what a value is called under that head."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Group:
    """Values that are read together. names: by key, what a value is called here; an empty name is that of its row."""

    head: str
    names: dict[str, str]


def _group(head: str, *keys: str) -> Group:
    return Group(head, dict.fromkeys(keys, ""))


TRAVEL: tuple[Group, ...] = (
    Group("Soft limits", {"travel.low": "lowest coordinate", "travel.high": "highest coordinate",
                          "travel.limits_on": "soft limits hold", "travel.beyond": "a jog beyond them"}),
    Group("Iron and switches", {"travel.stop_low": "hard stop, low end", "travel.stop_high": "hard stop, high end",
                                "travel.switches_on": "limit switches"}),
    Group("Cushion", {"travel.cushion": "how long", "travel.cushion_speed": "speed in it"}),
    Group("Parking", {"travel.parks": "has a place", "travel.park": "coordinate"}),
)  # fmt: skip
HOMING: tuple[Group, ...] = (
    _group("How", "homing.method", "homing.towards", "homing.turn"),
    Group("On the way", {"homing.approach": "", "homing.touch": "", "homing.acceleration": "acceleration",
                         "homing.search": ""}),
    Group("At the switch", {"homing.back_off": "", "homing.leave": "leave it by", "homing.effort": "",
                            "homing.coordinate": "coordinate there"}),
    _group("Index mark", "homing.index_within", "homing.mark_distance", "homing.mark_spread"),
    _group("Two sides", "homing.squaring", "homing.apart"),
)  # fmt: skip
PACE: tuple[Group, ...] = (Group("", {"pace.top_speed": "", "pace.acceleration": "", "pace.deceleration": ""}),)
MOVE: tuple[Group, ...] = (
    Group("", {"pace.shape": "shape of the velocity", "pace.jerk": "", "pace.motor_speed": "highest motor speed"}),
)
SIGNALS: tuple[Group, ...] = (
    Group("Steps", {"signals.step_rate": "", "signals.pulse_width": "step pulse width",
                    "signals.direction_setup": "", "signals.step_inverted": "step inverted"}),
    Group("Power", {"signals.power_delay": "", "signals.enable_inverted": "enable inverted"}),
)  # fmt: skip
SPINDLE: tuple[Group, ...] = (
    _group("What it is", "spindle.kind", "spindle.ranges", "spindle.engaged", "spindle.rest", "spindle.frequency"),
    Group(
        "Starting", {"spindle.start_speed": "", "spindle.waits": "motion waits", "spindle.needs_drives": "drives first"}
    ),
    Group(
        "How its speed is seen", {"spindle.counts": "", "spindle.counts_reversed": "backwards", "spindle.pulses": ""}
    ),
)
CUTTER: tuple[Group, ...] = (  # of a cutting table, in place of these
    Group("What cuts", {"build.cutter": "what it is", "spindle.kind": "how it is switched"}),
    Group(
        "Starting",
        {"range.run_up": "from on to through", "spindle.waits": "motion waits", "spindle.needs_drives": "drives first"},
    ),
)
RANGE_SHEET: tuple[Group, ...] = (
    _group("The range engaged", "range.name", "range.ratio", "range.low", "range.high", "range.points"),
)
TIMES: tuple[Group, ...] = (_group("Waits", "range.run_up", "range.run_down", "spindle.waits"),)
OIL: tuple[Group, ...] = (_group("Way oil", "oil.seconds", "oil.every", "oil.of", "oil.dose"),)
INDEX: tuple[Group, ...] = (
    Group("Way", {"index.way": "which way", "index.over": "beyond it by", "index.tolerance": ""}),
    Group("Picked", {"index.pick": "by", "index.settle": "", "index.tools": ""}),
)
SHEETS: dict[str, tuple[Group, ...]] = {
    "travel": TRAVEL, "homing": HOMING, "pace": PACE, "move": MOVE, "signals": SIGNALS, "spindle": SPINDLE, "cutter": CUTTER,
    "range": RANGE_SHEET, "times": TIMES, "oil": OIL, "index": INDEX,
}  # fmt: skip
