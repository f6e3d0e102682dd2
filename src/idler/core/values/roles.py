"""What a terminal can be for, and what it is electrically. The choices of the table are made from these."""

from __future__ import annotations

from enum import Enum


class AxisNeed(Enum):
    """Whether a role belongs to one axis."""

    NO = "the machine"
    MAY = "one axis, or all"
    MUST = "one axis"


class InputRole(Enum):
    """key, number on the wire, label, axis, and the words for at rest and for made."""

    NONE = ("none", 0, "free", AxisNeed.NO, "", "")
    STOP = ("stop", 1, "emergency stop", AxisNeed.NO, "released", "pressed")
    GUARD = ("guard", 2, "guard", AxisNeed.NO, "closed", "open")
    HOME = ("home", 3, "home switch", AxisNeed.MUST, "clear", "made")
    HOME_SECOND = ("home_second", 4, "home switch, second motor", AxisNeed.MUST, "clear", "made")
    HOME_CHAIN = ("home_chain", 5, "home chain of all axes", AxisNeed.NO, "clear", "made")
    LIMIT_LOW = ("limit_low", 6, "limit, low end", AxisNeed.MUST, "clear", "made")
    LIMIT_HIGH = ("limit_high", 7, "limit, high end", AxisNeed.MUST, "clear", "made")
    HOME_LIMIT = ("home_limit", 8, "home and limit in one", AxisNeed.MUST, "clear", "made")
    PROBE = ("probe", 9, "touch probe", AxisNeed.NO, "clear", "touching")
    INDEX = ("index", 10, "index mark", AxisNeed.MUST, "off", "on it")
    TROUBLE = ("trouble", 11, "drive trouble", AxisNeed.MAY, "none", "trouble")
    READY = ("ready", 12, "spindle ready", AxisNeed.NO, "waiting", "ready")
    PULSE = ("pulse", 13, "spindle pulse", AxisNeed.NO, "off", "on it")
    RANGE_1 = ("range_1", 14, "first speed range engaged", AxisNeed.NO, "no", "engaged")
    RANGE_2 = ("range_2", 15, "second speed range engaged", AxisNeed.NO, "no", "engaged")
    RANGE_3 = ("range_3", 16, "third speed range engaged", AxisNeed.NO, "no", "engaged")
    RANGE_4 = ("range_4", 17, "fourth speed range engaged", AxisNeed.NO, "no", "engaged")
    LIMIT_CHAIN = ("limit_chain", 18, "limit chain", AxisNeed.NO, "clear", "made")
    STOP_LINE_1 = ("stop_line_1", 19, "index stop, line 1", AxisNeed.MUST, "off", "on")
    STOP_LINE_2 = ("stop_line_2", 20, "index stop, line 2", AxisNeed.MUST, "off", "on")
    STOP_LINE_3 = ("stop_line_3", 21, "index stop, line 3", AxisNeed.MUST, "off", "on")
    STOP_LINE_4 = ("stop_line_4", 22, "index stop, line 4", AxisNeed.MUST, "off", "on")
    STOP_LINE_5 = ("stop_line_5", 23, "index stop, line 5", AxisNeed.MUST, "off", "on")
    STOP_LINE_6 = ("stop_line_6", 24, "index stop, line 6", AxisNeed.MUST, "off", "on")
    STOP_STROBE = ("stop_strobe", 25, "index stop, strobe", AxisNeed.MUST, "off", "on")
    STOP_COUNT = ("stop_count", 26, "index stop, pulses", AxisNeed.MUST, "off", "on")
    STOP_START = ("stop_start", 27, "index stop, start", AxisNeed.MUST, "off", "on")

    def __init__(self, key: str, raw: int, label: str, axis: AxisNeed, clear: str, made: str) -> None:
        self.key = key
        self.raw = raw
        self.label = label
        self.axis = axis
        self.clear = clear
        self.made = made

    @property
    def guards(self) -> bool:
        """Whether a broken wire would go unseen with a contact that is open at rest."""
        return self in _GUARDS

    @property
    def pulses(self) -> bool:
        """Whether short changes are what it is for, and no noise."""
        return self in (InputRole.INDEX, InputRole.PULSE, InputRole.READY, *STOP_LINES, *STOP_PULSES)

    @property
    def homes(self) -> bool:
        return self in _HOMES

    @property
    def limits(self) -> bool:
        return self in _LIMITS

    @property
    def chained(self) -> bool:
        """Whether switches of several axes hang on it, which it cannot tell apart."""
        return self in (InputRole.HOME_CHAIN, InputRole.LIMIT_CHAIN)


_LIMITS = (InputRole.LIMIT_LOW, InputRole.LIMIT_HIGH, InputRole.HOME_LIMIT, InputRole.LIMIT_CHAIN)
_GUARDS = (InputRole.STOP, InputRole.GUARD, *_LIMITS)
STOP_LINES = (
    InputRole.STOP_LINE_1, InputRole.STOP_LINE_2, InputRole.STOP_LINE_3,
    InputRole.STOP_LINE_4, InputRole.STOP_LINE_5, InputRole.STOP_LINE_6,
)  # fmt: skip
STOP_PULSES = (InputRole.STOP_COUNT, InputRole.STOP_START)
RANGE_ROLES = (InputRole.RANGE_1, InputRole.RANGE_2, InputRole.RANGE_3, InputRole.RANGE_4)
_HOMES = (InputRole.HOME, InputRole.HOME_SECOND, InputRole.HOME_CHAIN, InputRole.HOME_LIMIT)


class Sensor(Enum):
    """What sits at the other end of an input's wire."""

    SWITCH = ("switch", 0, "a switch at one place")
    MARK = ("mark", 1, "a mark that passes at every turn")

    def __init__(self, key: str, raw: int, label: str) -> None:
        self.key = key
        self.raw = raw
        self.label = label


class OutputRole(Enum):
    """key, number on the wire, label."""

    NONE = ("none", 0, "free")
    DRIVES_ON = ("drives_on", 1, "drives on")
    DRIVE_RESET = ("drive_reset", 2, "drive reset")
    SPINDLE_ON = ("spindle_on", 3, "spindle on")
    TURN_RIGHT = ("turn_right", 4, "spindle turns right")
    TURN_LEFT = ("turn_left", 5, "spindle turns left")
    DIRECTION = ("direction", 6, "spindle direction")
    SPINDLE_RESET = ("spindle_reset", 7, "spindle drive reset")
    SPINDLE_LEVEL = ("spindle_level", 8, "spindle speed")
    HEALTHY = ("healthy", 9, "healthy relay")
    COOLANT = ("coolant", 10, "coolant")
    MIST = ("mist", 11, "mist")
    WAY_OIL = ("way_oil", 12, "way oil")
    IN_PLACE = ("in_place", 13, "index stop reached")
    NOT_IN_PLACE = ("not_in_place", 14, "index stop wrong")

    def __init__(self, key: str, raw: int, label: str) -> None:
        self.key = key
        self.raw = raw
        self.label = label

    @property
    def turns_spindle(self) -> bool:
        """Whether this output alone can set the spindle turning."""
        return self in (OutputRole.SPINDLE_ON, OutputRole.TURN_RIGHT, OutputRole.TURN_LEFT)

    @property
    def of_spindle(self) -> bool:
        return self.turns_spindle or self in (
            OutputRole.DIRECTION, OutputRole.SPINDLE_RESET, OutputRole.SPINDLE_LEVEL,
        )  # fmt: skip


class OutputKind(Enum):
    """What an output terminal is electrically: key, number on the wire, label."""

    RELAY = ("relay", 0, "relay contact")
    SINK = ("sink", 1, "transistor to ground")
    PUSH_PULL = ("push_pull", 2, "push-pull")
    VOLTAGE = ("voltage", 3, "0–10 V level")
    PULSE = ("pulse", 4, "pulse width level")

    def __init__(self, key: str, raw: int, label: str) -> None:
        self.key = key
        self.raw = raw
        self.label = label

    @property
    def level(self) -> bool:
        """Gives a level rather than on or off."""
        return self in (OutputKind.VOLTAGE, OutputKind.PULSE)


class InputKind(Enum):
    """What an input terminal is electrically: key, number on the wire, label, and what the contact's other side hangs on."""

    CONTACT = ("contact", 0, "contact to ground, 24 V", "0 V")
    OPTO = ("opto", 1, "optocoupler, 24 V", "24 V")
    LOGIC = ("logic", 2, "logic, 5 V", "0 V")

    def __init__(self, key: str, raw: int, label: str, common: str) -> None:
        self.key = key
        self.raw = raw
        self.label = label
        self.common = common


class Load(Enum):
    """What hangs on an output: key, number on the wire, label, a noun for it, and what it does when it is switched off."""

    UNKNOWN = ("unknown", 0, "not told", "load", "ends")
    COIL = ("coil", 1, "DC coil or valve", "coil", "lets go")
    COIL_AC = ("coil_ac", 2, "AC coil or motor", "coil", "lets go")
    LAMP = ("lamp", 3, "lamp or heater", "lamp", "goes out")
    SIGNAL = ("signal", 4, "input of a device", "device's input", "reads off")

    def __init__(self, key: str, raw: int, label: str, noun: str, ends: str) -> None:
        self.key = key
        self.raw = raw
        self.label = label
        self.noun = noun
        self.ends = ends
