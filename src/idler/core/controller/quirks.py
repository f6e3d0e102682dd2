"""What a maker's parts do beyond the standard, as a person has read it in the maker's paper: a small file for each product.

vendor = "5A5"          # 1018h:01 and :02, as hexadecimal
product = "205"
reason = "Manual, page 41: homing at a hard stop, by the motor's current"

[homing]
stop_high = -17         # number of its method (6098h) at a hard stop towards +, without an index
stop_low = -18
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from ..errors import Refusal
from ..machine import filedata

STOPS = {-1: "stop_high", -2: "stop_low"}  # by our own number of the way (see `idler.core.profile.codec.homing_method`)
_LOWEST = -128  # of a method: it has one byte, and those below zero are the maker's (CiA 402-2)
_KNOWN = {"vendor", "product", "reason", "homing"}


@dataclass(frozen=True)
class Quirk:
    """methods: the maker's number for each of our own ways below zero."""

    vendor: int
    product: int
    reason: str
    methods: Mapping[int, int] = field(default_factory=dict)


def read_quirk(text: str) -> Quirk:
    """Raises Refusal with the part, the value and the way out."""
    data = filedata.toml(text)
    if unknown := sorted(set(data) - _KNOWN):
        raise Refusal(
            unknown[0], "", "is not known in a file about a maker's parts", f"known are {', '.join(sorted(_KNOWN))}"
        )
    reason = data.get("reason")
    if not isinstance(reason, str) or not reason.strip():
        raise Refusal("reason", str(reason or "none")[:40], "says nothing; say where the maker says so")
    homing = data.get("homing", {})
    if not isinstance(homing, dict) or (unknown := sorted(set(homing) - set(STOPS.values()))):
        raise Refusal("homing", str(homing)[:40], f"is not understood; known are {', '.join(STOPS.values())}")
    methods = {own: _method(name, homing[name]) for own, name in STOPS.items() if name in homing}
    return Quirk(_hex("vendor", data.get("vendor")), _hex("product", data.get("product")), reason.strip(), methods)


def _hex(part: str, value: Any) -> int:
    try:
        found = int(str(value), 16)
    except ValueError:
        found = -1
    if not 0 <= found < 1 << 32:
        raise Refusal(part, str(value)[:40], "is no hexadecimal number of 32 bits, as its part says it in 1018h")
    return found


def _method(part: str, value: Any) -> int:
    if not isinstance(value, int) or isinstance(value, bool) or not _LOWEST <= value < 0:
        raise Refusal(part, str(value)[:40], f"is no maker's homing method; those go from {_LOWEST} to -1")
    return value
