"""All that is wrong or doubtful about a machine."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import replace

from ..machine import Machine
from ..machine.finding import Finding, Severity
from ..mechanics.chain import Chain
from ..profile.homes import absent
from ..travel import travel_rules
from ..wiring.tool import tool_of
from .actions import action_rules
from .axis import AXIS_RULES
from .homing import homing_rules
from .index import index_rules
from .spindle import SPINDLE_RULES
from .wiring import WIRING_RULES, unused_changes

__all__ = ["Finding", "Severity", "check_json", "derived_values", "findings"]


def findings(machine: Machine, seen: Mapping[int, int] | None = None) -> list[Finding]:
    """All findings, errors first, then the wiring, then in the order of the axes.

    seen: how many edges were seen at each input (by slot) while somebody watched, where that is known.
    """
    order = list(Severity)
    found = [*machine.once(_of_machine), *unused_changes(machine, seen or {})]
    if machine.made_of_parts:
        found = [item for item in found if not absent(machine, item.where)]
    return sorted(found, key=lambda item: order.index(item.severity))


def _of_machine(machine: Machine) -> tuple[Finding, ...]:
    wiring = [item for rule in WIRING_RULES for item in rule(machine)]
    homing = [item for axis in machine.axes for item in homing_rules(machine, axis)]
    travel = [item for axis in machine.axes for item in travel_rules(machine, axis)]
    spindle = [item for rule in SPINDLE_RULES for item in rule(machine)]
    found = (
        *wiring,
        *spindle,
        *homing,
        *travel,
        *(item for axis in machine.axes for rule in AXIS_RULES for item in rule(machine, axis)),
        *(item for axis in machine.axes for item in index_rules(machine, axis)),
        *action_rules(machine),
    )
    tool = tool_of(machine)
    return found if tool.turns else tuple(replace(item, text=tool.worded(item.text)) for item in found)


def derived_values(machine: Machine) -> dict[str, dict[str, object]]:
    """Per axis what follows from its values, for the command line and reports."""
    rows: dict[str, dict[str, object]] = {}
    for axis in machine.axes:
        chain, top = Chain.of(axis), axis.number("pace.top_speed")
        rows[axis.name] = {
            "counts_per_unit": float(chain.counts_per_unit),
            "unit": "deg" if axis.rotary else "mm",
            "derivation": f"{chain.counts_text} = {chain.derivation}",
            "resolution": float(chain.resolution),
            "step_rate": float(chain.step_rate(top)),
            "step_rate_ceiling": float(machine.step_rate),
            "motor_rpm": float(chain.motor_rpm(top)),
            "top_speed": float(top),
        }
    return rows


def check_json(machine: Machine) -> str:
    found = [item.as_json() for item in findings(machine)]
    return json.dumps({"axes": derived_values(machine), "findings": found}, indent=2, ensure_ascii=False)
