"""What a node of a bus is, by what it says of itself."""

from __future__ import annotations

from enum import Enum

from ..profile.objects import PRODUCT, VENDOR

_KINDS, _INVERTER = (
    0b111,
    0b001,
)  # of drives, above the number of the profile: frequency converter, servo, stepper (CiA 402-1)


class What(Enum):
    """What a node is by its device type (1000h, CiA 301 7.5.2.1): key, number of its profile, and words."""

    CONTROLLER = ("controller", 0, "controller of Idler's own profile")
    DRIVE = ("drive", 402, "drive (CiA 402)")
    INVERTER = ("inverter", -3, "inverter (CiA 402)")  # one that turns something, and goes to no places
    TERMINALS = ("terminals", 401, "terminals (CiA 401)")
    ENCODER = ("encoder", 406, "encoder (CiA 406)")
    OTHER = ("other", -1, "device of another kind")
    SILENT = ("silent", -2, "heard, and answers nothing")

    def __init__(self, key: str, profile: int, words: str) -> None:
        self.key = key
        self.profile = profile
        self.words = words

    @property
    def is_part(self) -> bool:
        """Whether a controller can be made of it."""
        return self in (What.DRIVE, What.INVERTER, What.TERMINALS, What.ENCODER)


def what_is(device_type: int, vendor: int, product: int) -> What:
    """Our own profile is one of drives, too: only its maker tells it apart."""
    if (vendor, product) == (VENDOR, PRODUCT):
        return What.CONTROLLER
    if device_type & 0xFFFF == What.DRIVE.profile and device_type >> 16 & _KINDS == _INVERTER:
        return What.INVERTER
    return next((each for each in What if each.profile == device_type & 0xFFFF and each.profile > 0), What.OTHER)
