"""Values of each terminal: inputs and outputs. What the controller says of itself is `given`: it is read and never sent."""

from __future__ import annotations

from enum import Enum
from typing import Any

from ...values.build import LONGEST_PART, MICRO, U8, U32, choice, flag, quantity, text
from ...values.parameter import AXIS_LETTERS, Apart, Choice, Parameter, Wire, WireType
from ...values.roles import InputKind, InputRole, Load, OutputKind, OutputRole, Sensor
from ...values.units import Dimension


def _choices(kinds: type[Enum]) -> tuple[Choice, ...]:
    members: Any = kinds
    return tuple(Choice(kind.key, kind.label, kind.raw) for kind in members)


INPUT_ROWS: tuple[Parameter, ...] = (
    text(
        "input.terminal", "terminal", "-", 12, Wire(0x2100, 1, WireType.STRING),
        "What is printed beside this terminal on the controller.", "The controller says it.", given=True,
        apart=Apart.FACT,
    ),
    text(
        "input.part", "part that it is on", "-", LONGEST_PART, Wire(0x2100, 8, WireType.STRING),
        "Where terminals are parts of their own: maker, kind and serial number. Wires of another one are proven anew.",
        "The part says it.", given=True,
    ),
    choice(
        "input.kind", "electrical kind", _choices(InputKind), Wire(0x2100, 2, U8),
        "What this terminal takes at its screw.", "The controller says it.", given=True, apart=Apart.FACT,
    ),
    choice(
        "input.role", "role", _choices(InputRole), Wire(0x2100, 3, U8), "What this wire tells the controller.",
        "Press “Learn” and touch the switch on the machine: Idler sees which terminal it is.",
    ),
    choice(
        "input.axis", "axis", (Choice("none", "no axis", 0), *(Choice(a, a, n) for n, a in enumerate(AXIS_LETTERS, 1))),
        Wire(0x2100, 4, U8), "The axis that this wire belongs to. Drive trouble without an axis stops all of them.",
        "Follow the cable, or learn it by pressing the switch.",
    ),
    choice(
        "input.rest", "contact at rest", (Choice("closed", "closed", 1), Choice("open", "open", 0)),
        Wire(0x2100, 5, U8),
        "Which way the contact is while nobody touches it. A stop or limit is wired closed, so that a broken wire shows.",
        "Learn it by pressing the switch, or look at the live trace while nothing is pressed.",
    ),
    choice(
        "input.sensor", "what is wired", _choices(Sensor), Wire(0x2100, 6, U8),
        "A switch answers at one place of the travel, a mark at every turn of what it sits on. Only a switch can be a limit.",
        "Look at it: a mark sits on a motor, a screw or a worm wheel.",
    ),
    quantity(
        "input.filter", "filter", "1", Dimension.SHORT_TIME, ("0", "100"), Wire(0x2100, 7, U32, MICRO),
        "A level counts only after it has stood still for so long. Longer forgives more noise, and makes every switch later.",
        "Record with the spindle running: twice the longest false pulse.",
    ),
)  # fmt: skip

OUTPUT_ROWS: tuple[Parameter, ...] = (
    text(
        "output.terminal", "terminal", "-", 12, Wire(0x2140, 1, WireType.STRING),
        "What is printed beside this terminal on the controller.", "The controller says it.", given=True,
        apart=Apart.FACT,
    ),
    text(
        "output.part", "part that it is on", "-", LONGEST_PART, Wire(0x2140, 11, WireType.STRING),
        "Where terminals are parts of their own: maker, kind and serial number. Wires of another one are proven anew.",
        "The part says it.", given=True,
    ),
    choice(
        "output.kind", "electrical kind", _choices(OutputKind), Wire(0x2140, 2, U8),
        "How this terminal switches.", "The controller says it.", given=True, apart=Apart.FACT,
    ),
    quantity(
        "output.own_volts", "voltage of its own", "0", Dimension.VOLTAGE, ("0", "1000"), Wire(0x2140, 3, U32, MICRO),
        "What a push-pull or level output gives by itself; 0 for a contact.", "The controller says it.", given=True,
        apart=Apart.FACT,
    ),
    quantity(
        "output.most_volts", "highest voltage", "30", Dimension.VOLTAGE, ("0", "1000"), Wire(0x2140, 4, U32, MICRO),
        "The most that this terminal may switch.", "The controller says it.", given=True, apart=Apart.FACT,
    ),
    quantity(
        "output.most_amps", "highest current", "0.5", Dimension.CURRENT, ("0", "100"), Wire(0x2140, 5, U32, MICRO),
        "The most that this terminal may carry.", "The controller says it.", given=True, apart=Apart.FACT,
    ),
    choice(
        "output.role", "role", _choices(OutputRole), Wire(0x2140, 6, U8), "What this terminal switches.",
        "Hold “try” and see what clicks.",
    ),
    flag(
        "output.inverted", "on when released", False, Wire(0x2140, 7, U8),
        "Turns the terminal round: it is energised while its role is off.",
        "Hold “try”: if the thing stops instead of starting, change this.",
    ),
    choice(
        "output.load", "load", _choices(Load), Wire(0x2140, 8, U8), "What hangs on this terminal.",
        "The label of the relay, valve or device at the other end of the wire.", apart=Apart.ESTIMATE,
    ),
    quantity(
        "output.load_volts", "voltage of the load", "0", Dimension.VOLTAGE, ("0", "1000"), Wire(0x2140, 9, U32, MICRO),
        "The voltage that the load is made for.", "Its label.", apart=Apart.ESTIMATE,
    ),
    quantity(
        "output.load_amps", "current of the load", "0", Dimension.CURRENT, ("0", "100"), Wire(0x2140, 10, U32, MICRO),
        "The current that the load takes.", "Its label; power divided by voltage.", apart=Apart.ESTIMATE,
    ),
)  # fmt: skip
