"""Values of what turns the tool: how its speed is told, its ranges by pulley or gear, its encoder; and the way oil."""

from __future__ import annotations

from fractions import Fraction

from ...values.build import LONGEST_PART, MICRO, U8, U16, U32, choice, flag, quantity, text, whole
from ...values.parameter import Apart, Choice, Parameter, Wire, WireType
from ...values.speedpoints import problem_of_points
from ...values.units import Dimension

MOST_RANGES = 4
FASTEST_SPINDLE = Fraction(200_000)  # rpm
_RPM_STEP = Fraction(1, 10)
_PERCENT_STEP = Fraction(1, 100)
_RATIO_STEP = Fraction(1, 1_000_000)
WITH_LEVEL = ("voltage", "pulse")
ON_BUS, OWN_DRIVE = "modbus", "drive"
_LEVELLED = {"used_when": ("spindle.kind", *WITH_LEVEL)}

SPINDLE_ROWS: tuple[Parameter, ...] = (
    choice(
        "spindle.kind", "kind of spindle",
        (
            Choice("none", "no spindle", 0), Choice("relay", "on and off", 1), Choice("voltage", "speed by 0–10 V", 2),
            Choice("pulse", "speed by pulse width", 3), Choice("modbus", "drive on Modbus", 4),
            Choice("drive", "drive of its own (CiA 402)", 5),
        ),
        Wire(0x2012, 1, U8), "What turns the tool, and how its speed is told to it.",
        "Look at the spindle's drive: a relay only, a 0–10 V input, a pulse-width input, a Modbus port, or CAN "
        "where the axes are plain drives, too.",
    ),
    whole(
        "spindle.ranges", "speed ranges", 1, (1, MOST_RANGES), Wire(0x2012, 2, U8),
        "How many pulley or gear steps there are between motor and spindle.", "Count the grooves or the lever's places.",
        apart=Apart.COUNT,
    ),
    whole(
        "spindle.engaged", "range engaged", 1, (1, MOST_RANGES), Wire(0x2012, 3, U8),
        "Where the belt or lever is now. Inputs with the role of a range are believed before this.",
        "Look at the belt.", apart=Apart.TURN,
    ),
    quantity(
        "spindle.rest", "level at rest", "0", Dimension.SHARE, ("0", "100"), Wire(0x2012, 4, U16, _PERCENT_STEP),
        "What the level output gives while the spindle is off.", "0, unless the drive's paper wants another.", **_LEVELLED,
    ),
    quantity(
        "spindle.frequency", "frequency of the pulses", "1000", Dimension.FREQUENCY, ("10", "50000"),
        Wire(0x2012, 5, U32), "How often in a second the pulse-width output repeats.",
        "The drive's data sheet gives a range; take its middle.", used_when=("spindle.kind", "pulse"),
    ),
    quantity(
        "spindle.start_speed", "speed for a bare start", "0", Dimension.ROTATION, ("0", FASTEST_SPINDLE),
        Wire(0x2012, 6, U32, _RPM_STEP),
        "A spindle is started only with a speed above zero. This one is taken where none was given.",
        "On an on-and-off spindle the speed that it has; else the one used most.",
    ),
    flag(
        "spindle.waits", "motion waits for it", True, Wire(0x2012, 7, U8),
        "Moves that begin while the spindle runs up wait until the time to speed is over.",
        "On, unless a probe turns slowly while axes move.",
    ),
    whole(
        "spindle.counts", "encoder counts per turn", 0, (0, 1_000_000), Wire(0x2012, 8, U32),
        "Counts of the spindle's encoder in one turn, after quadrature: four for each line. 0: there is none.",
        "Turn the spindle one turn by hand and let Idler count, or take four times the lines on the label.",
    ),
    flag(
        "spindle.counts_reversed", "encoder backwards", False, Wire(0x2012, 9, U8),
        "Turns the sign of the encoder round, so that right is +.", "Idler compares it with the way that was asked for.",
    ),
    whole(
        "spindle.pulses", "pulses per turn", 1, (1, 64), Wire(0x2012, 10, U8),
        "How often the input with the role “spindle pulse” is made in one turn.", "Count the magnets or slots.",
    ),
    flag(
        "spindle.needs_drives", "only with drives on", False, Wire(0x2012, 11, U8),
        "The spindle turns only while the drives are powered.", "On, where spindle and drives share one contactor.",
    ),
    text(
        "spindle.part", "drive, as it says of itself", "-", LONGEST_PART, Wire(0x2012, 12, WireType.STRING),
        "Where the spindle has a drive of its own on the bus: its maker, its kind and its serial number. Another drive is "
        "proven anew.", "The drive says it.", given=True, used_when=("spindle.kind", OWN_DRIVE),
    ),
    # -- way oil
    quantity(
        "oil.seconds", "way oil on for", "0", Dimension.TIME, ("0", "600"), Wire(0x2015, 1, U32, MICRO),
        "How long the pump runs at each stroke. 0: it never does.",
        "As long as the pump needs for a full stroke; its label says it.", apart=Apart.UPKEEP,
    ),
    quantity(
        "oil.every", "way oil every", "30", Dimension.LONG_TIME, ("0.1", "1440"), Wire(0x2015, 2, U32, MICRO),
        "Minutes between two strokes. Only time of the kind below counts.",
        "The maker of the ways or the pump; a film that is gone by noon wants it more often.", apart=Apart.UPKEEP,
    ),
    choice(
        "oil.of", "minutes of",
        (
            Choice("motion", "motion", 1), Choice("spindle", "spindle running", 2), Choice("either", "either of them", 3),
            Choice("power", "drives powered", 4),
        ),
        Wire(0x2015, 3, U8), "Which time is counted.", "Motion, where oil goes to ways; power would oil a machine that rests.",
        apart=Apart.UPKEEP,
    ),
    quantity(
        "oil.dose", "oil per stroke", "0", Dimension.VOLUME, ("0", "1000"), Wire(0x2015, 4, U32, MICRO),
        "What one stroke gives. Only for the picture of the day.", "Catch ten strokes in a measuring glass.",
        apart=Apart.UPKEEP,
    ),
)  # fmt: skip

RANGE_ROWS: tuple[Parameter, ...] = (
    text(
        "range.name", "name of the range", "range", 24, Wire(0x2180, 1, WireType.UNICODE),
        "What this range is called in the workshop.", "For example after its groove or the lever's mark.",
        apart=Apart.NAME,
    ),
    quantity(
        "range.ratio", "turns per motor turn", "1", Dimension.PURE, ("0.001", "1000"),
        Wire(0x2180, 2, U32, _RATIO_STEP),
        "What pulleys or gears make of a turn of the motor.", "Motor pulley over spindle pulley, in diameters or teeth: 60/90.",
    ),
    quantity(
        "range.low", "lowest speed", "0", Dimension.ROTATION, ("0", FASTEST_SPINDLE), Wire(0x2180, 3, U32, _RPM_STEP),
        "Slower is not asked for in this range: the motor stalls or is not cooled there.",
        "The drive's data sheet, times the ratio.",
    ),
    quantity(
        "range.high", "highest speed", "6000", Dimension.ROTATION, ("1", FASTEST_SPINDLE), Wire(0x2180, 4, U32, _RPM_STEP),
        "The speed at full level, before anything was measured; faster is not asked for.",
        "Top speed of the motor times the ratio, and not more than the bearings take.",
    ),
    text(
        "range.points", "measured points", "none", 200, Wire(0x2180, 5, WireType.STRING),
        "Level in % and the speed in rpm that it gives, from low to high. Between them a straight line; “none”: the line "
        "from 0 to the highest speed.",
        "Measure the curve at the Spindle station.", problem=problem_of_points,
    ),
    quantity(
        "range.run_up", "time to speed", "0", Dimension.SHORT_TIME, ("0", "120000"), Wire(0x2180, 6, U32, MICRO),
        "How long the spindle needs to its speed; motion waits for so long.", "Measure it at the Spindle station.",
    ),
    quantity(
        "range.run_down", "time to standstill", "0", Dimension.SHORT_TIME, ("0", "120000"), Wire(0x2180, 7, U32, MICRO),
        "How long the spindle needs to stand. It is turned the other way only after it.",
        "Measure it at the Spindle station.",
    ),
)  # fmt: skip
