"""Values of each axis: what it is, its train, its pace, its travel, its homing."""

from __future__ import annotations

from fractions import Fraction

from ...finals import FINALS
from ...values.build import (
    ACCELERATION_STEP,
    CORRECTION_STEP,
    FASTEST,
    I16,
    I32,
    JERK_STEP,
    LONGEST_PART,
    MICRO,
    MOST_AXES,
    POSITION_STEP,
    REACH,
    SHARE_STEP,
    SPEED_STEP,
    U8,
    U16,
    U32,
    choice,
    flag,
    quantity,
    text,
    whole,
)
from ...values.curve import problem_of_curve
from ...values.indexstops import brief_of_stops, problem_of_stops
from ...values.parameter import Apart, Choice, Kind, Parameter, Wire, WireType
from ...values.units import Dimension

# Ways of homing, as the choices that put a value to use
_SWITCHES, _STOPS = ("switch", "switch_index"), ("stop", "stop_index")
BY_SWITCH, BY_STOP = ("homing.method", *_SWITCHES), ("homing.method", *_STOPS)
BY_INDEX = ("homing.method", "switch_index", "stop_index")
ENDLESS = ("axis.kind", "endless", "spindle")
BY_LINES = ("index.pick", "binary", "gray", "pulses")
MOVING = ("homing.method", *_SWITCHES, *_STOPS)

AXIS_ROWS: tuple[Parameter, ...] = (
    # -- the axis itself
    choice(
        "axis.kind", "kind of axis",
        (
            Choice("linear", "linear", 0), Choice("rotary", "rotary, limited", 1),
            Choice("endless", "rotary, endless", 2), Choice("spindle", "spindle, positioned", 3),
        ),
        Wire(0x4000, 1, U8),
        "A linear axis counts in millimetres, a rotary one in degrees; an endless one and a spindle begin again at 360°.",
        "A slide is linear; a table or dividing head is rotary, and endless where it may turn round and round.",
        restart=True,
    ),
    whole(
        "axis.output", "drive output", 0, (0, MOST_AXES), Wire(0x4000, 4, U8),
        "The controller's output for the motor of this axis. 0: no motor; the axis only counts, for trying things out.",
        "Follow the cable of the motor to the number beside its plug.", restart=True,
    ),
    text(
        "axis.part", "drive, as it says of itself", "-", LONGEST_PART, Wire(0x4000, 8, WireType.STRING),
        "Where each axis is a drive of its own: its maker, its kind and its serial number. Another drive is proven anew.",
        "The drive says it.", given=True,
    ),
    whole(
        "axis.second_output", "drive output, second motor", 0, (0, MOST_AXES), Wire(0x4000, 5, U8),
        "The output of a second motor that moves the same axis, as on a gantry. 0: there is none.",
        "Follow the cable of the second motor.", restart=True,
    ),
    flag(
        "axis.second_reversed", "second motor reversed", False, Wire(0x4000, 6, U8),
        "Turns the second motor against the first. Two motors that face each other must turn opposite ways.",
        "Loosen the couplings, or jog one small step and look whether both sides of the beam go the same way.",
        restart=True,
    ),
    flag(
        "axis.mirrored", "mirrored on purpose", False, Wire(0x4000, 7, U8),
        "The axis counts against ISO 841 and is meant to. Programs come out as in a mirror.",
        "Leave it off, unless a drawing or an old program counts the other way.",
    ),
    choice(
        "axis.moves", "what moves", (Choice("work", "the work", 0), Choice("tool", "the tool", 1)),
        Wire(0x4000, 2, U8),
        "Signs count the tool over the work (ISO 841). Where the table carries the work, + moves the table the other way.",
        "Jog the axis and look whether the tool or the table goes.",
    ),
    flag(
        "axis.reversed", "direction reversed", False, Wire(0x607E, 0, U8, on=0xC0),
        "Turns the sign of this motor, so that + moves the tool over the work as ISO 841 says.",
        "Jog a small step to +. If the tool went the other way over the work, change this.",
    ),
    # -- the train from motor to carriage
    choice(
        "chain.motor", "kind of motor", (Choice("stepper", "stepper", 0), Choice("counts", "counts per turn", 1)),
        Wire(0x4001, 1, U8),
        "A stepper counts full steps and microsteps; a servo or closed-loop motor takes a number of counts for each turn.",
        "Its label, or whether its drive has switches for microsteps or a setting for counts per turn.",
    ),
    whole(
        "chain.full_steps", "full steps per turn", 200, (1, 20_000), Wire(0x4001, 2, U16),
        "Steps for one turn of the motor with no microsteps.",
        "360° over the step angle on its label: 1.8° makes 200, 0.9° makes 400.",
        used_when=("chain.motor", "stepper"),
    ),
    whole(
        "chain.microsteps", "microsteps", 8, (1, 1024), Wire(0x4001, 3, U16),
        "Parts into which the drive divides a full step.",
        "The switches on the drive, and the table printed beside them. Often read one row off: half or double travel.",
        used_when=("chain.motor", "stepper"),
    ),
    whole(
        "chain.motor_counts", "counts per motor turn", 4000, (1, 100_000_000), Wire(0x4001, 4, U32),
        "Counts that the drive takes for one turn of the motor, its own gearing included.",
        "The drive's setting or data sheet. An encoder's lines are a quarter of its counts.",
        used_when=("chain.motor", "counts"),
    ),
    Parameter(
        "chain.stages", "gears and belts", Kind.STAGES, (), Wire(0x4001, 5, WireType.STRING),
        "Each stage between motor and final element, from the motor on. 20 to 40 teeth (or 20:40) halves the speed; "
        "3 : 1 takes three turns in for one turn out.",
        "Count the teeth of both wheels: driver is the one nearer the motor.", high=Fraction(200),
    ),
    choice(
        "chain.final", "final element",
        tuple(Choice(final.key, final.key, final.raw) for final in FINALS.values()),
        Wire(0x4001, 6, U8), "What turns the motor's turning into the motion of the axis.",
        "Look at what holds the carriage or the table.",
    ),
    *(row for final in FINALS.values() for row in final.rows),
    quantity(
        "chain.correction", "measured correction", "1", Dimension.PURE, ("0.5", "2"), Wire(0x4001, 16, U32, CORRECTION_STEP),
        "The travel that was measured, by the travel that the train as drawn would give. 1: nothing was corrected.",
        "Prove the scale with an instrument; accepting its result writes this. The train stays as it was drawn.",
    ),
    quantity(
        "play.backlash", "backlash taken up", "0", Dimension.TRAVEL, ("0", "10"), Wire(0x4004, 1, U32, POSITION_STEP),
        "At each reversal the controller adds so much travel, uncounted and at a quarter of its acceleration: the carriage "
        "follows at once.",
        "Approach a mark from both sides with a dial indicator; the difference is the play.",
    ),
    # -- pace
    quantity(
        "pace.top_speed", "top speed", "3000", Dimension.SPEED, ("0", FASTEST), Wire(0x607F, 0, U32, SPEED_STEP),
        "The fastest that this axis ever moves.",
        "Begin with a third of what the motor promises and raise it until it loses steps; keep a margin.",
    ),
    quantity(
        "pace.acceleration", "acceleration", "250", Dimension.ACCELERATION, ("0", "200000"),
        Wire(0x6083, 0, U32, ACCELERATION_STEP),
        "How quickly the axis gathers speed. May be typed as the time to top speed, for example 0.2 s.",
        "A time to top speed of 0.2 to 0.5 s suits most machines; a heavy table wants longer.",
    ),
    quantity(
        "pace.deceleration", "deceleration", "250", Dimension.ACCELERATION, ("0", "200000"),
        Wire(0x6084, 0, U32, ACCELERATION_STEP),
        "How quickly the axis comes to rest at the end of a move.", "Take the same as the acceleration at first.",
    ),
    quantity(
        "pace.stop_deceleration", "deceleration of a stop", "500", Dimension.ACCELERATION, ("1", "200000"),
        Wire(0x6085, 0, U32, ACCELERATION_STEP),
        "How hard STOP and Esc brake, whatever the shape of the velocity.",
        "As hard as the axis holds without losing steps: try twice the acceleration.",
    ),
    quantity(
        "pace.motor_speed", "highest motor speed", "3000", Dimension.ROTATION, ("1", "60000"), Wire(0x6080, 0, U32),
        "The motor is never turned faster than this.",
        "Where the torque curve in its data sheet has fallen to a third; 600 to 1500 rpm for most steppers.",
    ),
    choice(
        "pace.shape", "shape of the velocity",
        (
            Choice("constant", "constant acceleration", 0), Choice("limited", "limited jerk", 3),
            Choice("smoothest", "smoothest", -1),
        ),
        Wire(0x6086, 0, I16),
        "How speed is gathered: at once with the full acceleration, or with the acceleration itself growing and falling.",
        "If the frame shakes at the ends of a move, limit the jerk; it costs a little time.",
    ),
    quantity(
        "pace.jerk", "jerk", "5000", Dimension.JERK, ("0", "4000000"), Wire(0x60A4, 1, U32, JERK_STEP),
        "How quickly the acceleration grows. Not used with constant acceleration.",
        "Ten to fifty times the acceleration; less is softer and slower.",
    ),
    # -- what the motor gives, and what it has to move: optional
    text(
        "motor.torque", "torque curve", "none", 120, Wire(0x4005, 1, WireType.STRING),
        "Torque of the motor in N·m at speeds in rpm. Where it is known, the map shows how much of it a pace takes.",
        "The motor's data sheet. Write points as “0 1.9, 300 1.7, 900 0.9”: rpm, then N·m.", problem=problem_of_curve,
        apart=Apart.ESTIMATE,
    ),
    quantity(
        "motor.inertia", "inertia at the motor", "0", Dimension.INERTIA, ("0", "100000"), Wire(0x4005, 2, U32, MICRO),
        "Rotor, screw and the moved weight as the motor feels them. 0: not known.",
        "Rotor from its data sheet; a steel screw 25 mm across and 300 mm long has 0.9 kg·cm²; a moved mass adds its kg "
        "times the square of its centimetres per turn, over 39.5.", apart=Apart.ESTIMATE,
    ),
    quantity(
        "motor.friction", "friction at the motor", "0", Dimension.TORQUE, ("0", "1000"), Wire(0x4005, 3, U32, MICRO),
        "Torque that it takes to keep the axis moving slowly, weight included. 0: not known.",
        "Hang a weight on a string round the pulley until it turns, or take a tenth of the motor's torque.",
        apart=Apart.ESTIMATE,
    ),
    quantity(
        "frame.rings", "the frame rings at", "0", Dimension.FREQUENCY, ("0", "2000"), Wire(0x4005, 4, U32, MICRO),
        "How fast the head or table shakes when it is struck. With it the shaking after a move is worked out. 0: not known.",
        "Strike the head with a wooden mallet beside a telephone that shows a spectrum, or measure a move on the bench.",
        apart=Apart.ESTIMATE,
    ),
    # -- travel
    quantity(
        "travel.stop_low", "hard stop at the low end", "-1", Dimension.TRAVEL, (-REACH, REACH),
        Wire(0x4002, 1, I32, POSITION_STEP),
        "Where the axis meets iron at the low end. It is drawn on the rail; nothing moves by it.",
        "Turn the axis by hand to its end and read the position.",
    ),
    quantity(
        "travel.stop_high", "hard stop at the high end", "1", Dimension.TRAVEL, (-REACH, REACH),
        Wire(0x4002, 2, I32, POSITION_STEP),
        "Where the axis meets iron at the high end. It is drawn on the rail; nothing moves by it.",
        "Turn the axis by hand to its end and read the position.",
    ),
    flag(
        "travel.limits_on", "soft limits", False, Wire(0x4002, 3, U8),
        "Whether motion ends at the lowest and highest coordinate. They count once the axis is homed.",
        "Leave them on; turn them off only to reach a stop on purpose.",
    ),
    quantity(
        "travel.low", "lowest coordinate", "0", Dimension.TRAVEL, (-REACH, REACH), Wire(0x607D, 1, I32, POSITION_STEP),
        "The axis goes no lower. The value itself can be reached.",
        "Jog to the low end of the useful travel and leave a few millimetres to the switch.",
    ),
    quantity(
        "travel.high", "highest coordinate", "0", Dimension.TRAVEL, (-REACH, REACH), Wire(0x607D, 2, I32, POSITION_STEP),
        "The axis goes no higher. The value itself can be reached.",
        "Jog to the high end of the useful travel and leave a few millimetres to the switch.",
    ),
    choice(
        "travel.beyond", "a jog beyond the end", (Choice("shorten", "goes to the end", 0), Choice("refuse", "is refused", 1)),
        Wire(0x4002, 4, U8), "What happens to a step that would pass the lowest or highest coordinate.",
        "Going to the end suits setting up; refusing suits a machine that others use.",
    ),
    quantity(
        "travel.cushion", "cushion", "0", Dimension.TRAVEL, ("0", "10000"), Wire(0x4002, 5, U32, POSITION_STEP),
        "Distance before each end within which speed is held down.", "A few millimetres; more for a heavy axis.",
    ),
    quantity(
        "travel.cushion_speed", "speed in the cushion", "600", Dimension.SPEED, ("1", FASTEST),
        Wire(0x4002, 6, U32, SPEED_STEP),
        "The most that the axis moves inside the cushion.", "A fifth of the top speed.",
    ),
    flag(
        "travel.switches_on", "limit switches", True, Wire(0x4002, 9, U8),
        "Whether a limit switch stops every axis at once and leaves only the way off it open.",
        "Leave it on; turn it off only to find out what is wrong with a switch.",
    ),
    flag(
        "travel.parks", "has a parking place", False, Wire(0x4002, 7, U8),
        "Whether this axis goes to a place of its own when the machine is parked.",
        "Park where the tool is clear of the work and a hand can reach the chuck.", apart=Apart.PLACE,
    ),
    quantity(
        "travel.park", "parking place", "0", Dimension.TRAVEL, (-REACH, REACH), Wire(0x4002, 8, I32, POSITION_STEP),
        "Where the axis goes to be parked. The axis that carries the tool away from the work goes first.",
        "Jog there and read the position.", apart=Apart.PLACE,
    ),
    # -- homing
    choice(
        "homing.method", "method",
        (
            Choice("switch", "switch", 0), Choice("switch_index", "switch and index mark", 1),
            Choice("stop", "hard stop", 2), Choice("stop_index", "hard stop and index mark", 3),
            Choice("here", "home is here", 4),
        ),
        Wire(0x4003, 1, U8), "What tells the axis where its zero is.",
        "A switch suits most axes. “Home is here” takes the place where the axis stands.",
    ),
    choice(
        "homing.towards", "home lies towards", (Choice("high", "the high end, +", 0), Choice("low", "the low end, −", 1)),
        Wire(0x4003, 2, U8), "To which end of its travel the axis goes to look for home.",
        "Where the switch is: on a mill most often the top of Z and the high ends of X and Y.",
    ),
    whole(
        "homing.turn", "turn", 1, (0, MOST_AXES), Wire(0x4003, 3, U8),
        "Axes with the same turn home together, lower turns first; 0 is left out.",
        "The axis that clears the work goes first: Z on a mill.",
    ),
    quantity(
        "homing.approach", "approach speed", "600", Dimension.SPEED, ("0", FASTEST), Wire(0x6099, 1, U32, SPEED_STEP),
        "Speed on the way to the switch.", "Slow enough to stop within the switch's overtravel.",
        used_when=MOVING,
    ),
    quantity(
        "homing.touch", "touch speed", "60", Dimension.SPEED, ("0", FASTEST), Wire(0x6099, 2, U32, SPEED_STEP),
        "Speed of the second, careful touch that sets the zero.", "A tenth of the approach or less.",
        used_when=MOVING,
    ),
    quantity(
        "homing.acceleration", "acceleration while homing", "100", Dimension.ACCELERATION, ("0", "200000"),
        Wire(0x609A, 0, U32, ACCELERATION_STEP), "Used for every phase of homing.", "Half of the acceleration of the axis.",
        used_when=MOVING,
    ),
    quantity(
        "homing.back_off", "back-off", "2", Dimension.TRAVEL, ("0", "1000"), Wire(0x4003, 4, U32, POSITION_STEP),
        "How far the axis goes back from the switch before it touches again.",
        "Further than the switch needs to let go: 1 to 3 mm.",
        used_when=MOVING,
    ),
    quantity(
        "homing.leave", "leave the switch by", "2", Dimension.TRAVEL, ("0", "1000"), Wire(0x4003, 5, U32, POSITION_STEP),
        "Where the axis stands when homing is done, seen from the switch.", "Enough for the switch to let go.",
        used_when=MOVING,
    ),
    quantity(
        "homing.search", "search distance", "1000", Dimension.TRAVEL, ("0", "10000"), Wire(0x4003, 6, U32, POSITION_STEP),
        "How far the axis goes to look for its switch or stop before it gives up.", "A little more than the whole travel.",
        used_when=MOVING,
    ),
    quantity(
        "homing.index_within", "index mark within", "6", Dimension.TRAVEL, ("0", "1000"),
        Wire(0x4003, 7, U32, POSITION_STEP), "How far the axis goes from the switch to look for the index mark.",
        "A little more than one turn of what the mark sits on.",
        used_when=BY_INDEX,
    ),
    quantity(
        "homing.mark_distance", "from there to the mark", "0", Dimension.TRAVEL, ("0", "1000"),
        Wire(0x4003, 8, U32, POSITION_STEP),
        "Where the mark lies, seen from the switch or stop. Found elsewhere, the homing fails: something has moved. "
        "0: not known, and not compared.",
        "Home once and keep the distance that was measured.",
        used_when=BY_INDEX,
    ),
    quantity(
        "homing.mark_spread", "which may differ by", "0.5", Dimension.TRAVEL, ("0.001", "1000"),
        Wire(0x4003, 9, U32, POSITION_STEP), "How far the mark may lie from where it is known to be.",
        "A quarter of a turn of what the mark sits on, or less.",
        used_when=BY_INDEX,
    ),
    quantity(
        "homing.effort", "effort that means iron", "0.6", Dimension.PURE, ("0.05", "1"), Wire(0x4003, 10, U16, SHARE_STEP),
        "The share of the motor's torque at which the axis has met its hard stop. Only for homing by a hard stop.",
        "Twice the effort that the axis takes on its way, as the last homing measured it; below 0.9.",
        used_when=BY_STOP,
    ),
    quantity(
        "homing.squaring", "squaring offset", "0", Dimension.TRAVEL, ("-50", "50"), Wire(0x4003, 11, I32, POSITION_STEP),
        "How far the side of the second motor goes on, to +, after each side has stopped on its own switch.",
        "Cut or mark a large square and measure both diagonals; or lay a square against the beam.",
        used_when=BY_SWITCH,
    ),
    quantity(
        "homing.apart", "sides may differ by", "2", Dimension.TRAVEL, ("0", "100"), Wire(0x4003, 12, U32, POSITION_STEP),
        "How far one side goes on alone to look for its switch before it gives up, so that the beam is not bent.",
        "What the beam bears without harm: 1 to 3 mm.",
        used_when=BY_SWITCH,
    ),
    quantity(
        "homing.coordinate", "coordinate at the switch", "0", Dimension.TRAVEL, (-REACH, REACH),
        Wire(0x607C, 0, I32, POSITION_STEP), "The machine coordinate of the place that homing finds.",
        "0 for a switch at the high end: all travel is then negative.",
    ),
    # -- watching a closed loop
    flag(
        "loop.measured", "position is measured", False, Wire(0x4006, 1, U8),
        "Whether an encoder tells the controller where the motor really is.",
        "Look whether a second cable goes from the motor to the controller, not only to its drive.",
    ),
    quantity(
        "loop.window", "following error allowed", "1", Dimension.TRAVEL, ("0", "1000"),
        Wire(0x6065, 0, U32, POSITION_STEP),
        "How far the axis may lag behind before the controller stops it. Only an axis with a measured position has one.",
        "Twice the lag seen while it accelerates.",
    ),
    quantity(
        "loop.window_time", "for longer than", "20", Dimension.SHORT_TIME, ("0", "10000"), Wire(0x6066, 0, U16),
        "A lag shorter than this is forgiven.", "10 to 50 ms.",
    ),
    # -- index stops
    text(
        "index.stops", "index stops", "none", 2000, Wire(0x4007, 1, WireType.UNICODE),
        "Places that the axis goes to by their number, counted from home: those of a tool turret or a dividing head.",
        "Write each place with its name, and semicolons between them: 0 roughing; 60 finishing; 120 parting. Degrees of an "
        "axis that turns, millimetres of a slide; 360/7 is kept as it is.",
        problem=problem_of_stops, brief=brief_of_stops,
    ),
    choice(
        "index.way", "way to a stop",
        (Choice("shorter", "the shorter way", 0), Choice("up", "always to +", 1), Choice("down", "always to −", 2)),
        Wire(0x4007, 2, U8), "Which way round an endless axis goes to its next stop.",
        "A turret with a pawl can be turned one way only.", used_when=ENDLESS,
    ),
    quantity(
        "index.over", "travel beyond the stop", "0", Dimension.TRAVEL, ("0", "360"), Wire(0x4007, 3, U32, POSITION_STEP),
        "It goes beyond its stop by so much and comes back, against a pawl or out of the play: always from the same side. "
        "0: it goes straight to the stop.", "A little more than the pawl needs to fall in.",
    ),
    quantity(
        "index.tolerance", "reached within", "0.05", Dimension.TRAVEL, ("0.0001", "10"),
        Wire(0x4007, 4, U32, POSITION_STEP), "Nearer than this to a stop it counts as reached.",
        "What the tool or the work can bear; less than half of the distance between two stops.",
    ),
    choice(
        "index.pick", "stop is picked by",
        (
            Choice("screen", "the screen and programs", 0), Choice("binary", "a number on its lines", 1),
            Choice("gray", "a number on its lines, Gray code", 2), Choice("pulses", "counted pulses", 3),
        ),
        Wire(0x4007, 5, U8), "Who else than the screen, an action or a program tells the axis its stop.",
        "What the panel or the old control of the turret gives. In Gray code one line at a time changes.",
    ),
    quantity(
        "index.settle", "settling time", "20", Dimension.SHORT_TIME, ("1", "2000"), Wire(0x4007, 6, U16),
        "A state of the lines counts only after it has stood still for so long, so that what passes meanwhile does nothing.",
        "Longer than the lines need to change one after the other and to stop bouncing; the trace shows it.",
        used_when=BY_LINES,
    ),
    flag(
        "index.tools", "tools of a program", False, Wire(0x4007, 7, U8),
        "A tool change of a program goes to the stop that has the tool's number: M6 with T3 to stop 3, without a question.",
        "Of a turret, switch it on. Where tools are changed by hand, leave it off.",
    ),
)  # fmt: skip
