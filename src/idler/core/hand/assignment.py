"""What is on a hand device, and what each of it does; kept for each kind of device, by vendor and product.

Nothing is assigned at first. Controls are named by the sort and the code of the kernel's input events.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import Enum
from typing import NamedTuple

from ..errors import Refusal


class Sort(Enum):
    """key, and the type of the kernel's input event."""

    WHEEL = ("wheel", 2)  # EV_REL: detents, signed
    STICK = ("stick", 3)  # EV_ABS: from −1 to 1
    BUTTON = ("button", 1)  # EV_KEY: 1 pressed, 0 let go

    def __init__(self, key: str, kind: int) -> None:
        self.key = key
        self.kind = kind


class Control(NamedTuple):
    sort: Sort
    code: int

    def __str__(self) -> str:
        return f"{self.sort.key} {self.code}"


class Does(Enum):
    """key, the sorts of controls that it suits, and words."""

    NOTHING = ("nothing", tuple(Sort), "nothing")
    DEAD_MAN = ("dead_man", (Sort.BUTTON,), "dead man: motion only while it is held")
    STOP = ("stop", (Sort.BUTTON,), "STOP, with or without the dead man")
    STEP = ("step", (Sort.WHEEL,), "a jog step of an axis for each detent")
    SPEED = ("speed", (Sort.STICK,), "the speed of an axis")
    CHOOSE = ("choose", (Sort.BUTTON,), "chooses an axis")
    FINER = ("finer", (Sort.BUTTON,), "the next smaller jog step")
    COARSER = ("coarser", (Sort.BUTTON,), "the next larger jog step")
    FEED = ("feed", (Sort.WHEEL, Sort.STICK), "the feed of a program that runs")
    SPINDLE = ("spindle", (Sort.WHEEL, Sort.STICK), "the speed of the spindle, which turns while the dead man is held")
    ACTION = ("action", (Sort.BUTTON,), "an own action")

    def __init__(self, key: str, sorts: tuple[Sort, ...], words: str) -> None:
        self.key = key
        self.sorts = sorts
        self.words = words


class Assigned(NamedTuple):
    """what: an axis letter, empty for the chosen one; or the name of an action."""

    does: Does
    what: str = ""


@dataclass(frozen=True)
class DeviceProfile:
    """vendor, product: as the device says them. dead_zone: share of a stick's way in which it does nothing. curve: power
    by which its way becomes speed."""

    vendor: int
    product: int
    name: str = ""
    assigned: Mapping[Control, Assigned] = field(default_factory=dict)
    dead_zone: float = 0.1
    curve: float = 2.0

    def of(self, control: Control) -> Assigned:
        return self.assigned.get(control, Assigned(Does.NOTHING))

    def with_one(self, control: Control, assigned: Assigned) -> DeviceProfile:
        """Raises Refusal where it does not suit the control."""
        if control.sort not in assigned.does.sorts:
            suits = " or a ".join(sort.key for sort in assigned.does.sorts)
            raise Refusal(str(control), assigned.does.words, "is not done by it", f"a {suits}")
        others = {key: value for key, value in self.assigned.items() if key != control}
        if assigned.does is not Does.NOTHING:
            others[control] = assigned
        return DeviceProfile(self.vendor, self.product, self.name, others, self.dead_zone, self.curve)

    @property
    def dead_men(self) -> frozenset[Control]:
        return frozenset(control for control, each in self.assigned.items() if each.does is Does.DEAD_MAN)

    def share(self, way: float) -> float:
        """The share of the jog speed at a way of a stick from −1 to 1: 0 within the dead zone, then w^curve up to 1."""
        size = min(1.0, abs(way))
        if size <= self.dead_zone:
            return 0.0
        risen = (size - self.dead_zone) / (1 - self.dead_zone)
        return float(risen**self.curve) * (1 if way > 0 else -1)


def control_from(text: str) -> Control:
    """Raises Refusal."""
    found = re.fullmatch(r"(\w+) (\d{1,5})", text.strip())
    sort = next((sort for sort in Sort if found is not None and sort.key == found[1]), None)
    if found is None or sort is None:
        raise Refusal("control", f"“{text[:40]}”", "is none", "wheel, stick or button, and a number")
    return Control(sort, int(found[2]))


def profile_table(profile: DeviceProfile) -> dict[str, object]:
    """As it is kept."""
    return {
        "vendor": profile.vendor, "product": profile.product, "name": profile.name, "dead_zone": profile.dead_zone,
        "curve": profile.curve,
        "assigned": {str(control): f"{each.does.key} {each.what}".strip() for control, each in profile.assigned.items()},
    }  # fmt: skip


def profile_from(table: Mapping[str, object]) -> DeviceProfile:
    """What was kept. Raises Refusal, ValueError, TypeError or KeyError where it is no profile."""
    made = DeviceProfile(
        int(str(table["vendor"])), int(str(table["product"])), str(table.get("name", "")),
        dead_zone=float(str(table.get("dead_zone", 0.1))), curve=float(str(table.get("curve", 2.0))),
    )  # fmt: skip
    if not (0 <= made.dead_zone < 1 and 0.1 <= made.curve <= 10):
        raise Refusal("hand device", made.name, "has a dead zone or a curve that is none")
    assigned = table.get("assigned", {})
    if not isinstance(assigned, Mapping):
        raise Refusal("hand device", made.name, "has no assignments")
    for text, told in assigned.items():
        key, _, what = str(told).partition(" ")
        does = next((does for does in Does if does.key == key), None)
        if does is None:
            raise Refusal(str(text), f"“{key[:40]}”", "is nothing that is done", ", ".join(each.key for each in Does))
        made = made.with_one(control_from(str(text)), Assigned(does, what))
    return made
