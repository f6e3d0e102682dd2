"""What a drive says went wrong: error codes of 603Fh and of emergency frames (CiA 402-1, error codes; CiA 301, 7.2.7.1).

A code that has no line of its own is said by what it belongs to: its first three figures, two, or one, as the standards
arrange them. FFxxh is the maker's.
"""

from __future__ import annotations

_SUPPLY = "Look at its supply and its cable, then press “Power drives”."
_WIRING = "Take the power off, look at the motor's cable and plug, then press “Power drives”."
_HEAT = "Let it cool down, and look what it is loaded with and whether air reaches it; then press “Power drives”."
_HELD = "Look what holds the axis, or lower its pace; then press “Power drives”."
_SENSOR = "Look at its encoder and the encoder's cable; then press “Power drives”, and home again: its place is lost."
_SETTINGS = "Look at its own settings, with its maker's papers; then press “Power drives”."
_BUS = "Look at the bus: its cable, its two terminating resistors, its bit rate; then press “Power drives”."
_OUTSIDE = "Look what hangs on its inputs, the emergency stop first; then press “Power drives”."
_BROKEN = "Switch its supply off and on. Where it says so again, it is for its maker."
_BRAKE = "Brake more gently, or look at its brake resistor; then press “Power drives”."
_PAPERS = "Look the number up in its maker's papers; then press “Power drives”."

# The meaning, and the way back.
CODES: dict[int, tuple[str, str]] = {
    0x1000: ("something that it has no number for", _PAPERS),
    0x2000: ("its current", _WIRING),
    0x2110: ("a short circuit or leakage to earth at its input", _SUPPLY),
    0x2120: ("leakage to earth at its input", _SUPPLY),
    0x2130: ("a short circuit at its input", _SUPPLY),
    0x2200: ("too much current inside of it", _HELD),
    0x2220: ("too much current for too long inside of it", _HELD),
    0x2230: ("a short circuit or leakage to earth inside of it", _WIRING),
    0x2240: ("leakage to earth inside of it", _WIRING),
    0x2250: ("a short circuit inside of it", _WIRING),
    0x2300: ("too much current to its motor", _HELD),
    0x2310: ("too much current to its motor for too long", _HELD),
    0x2320: ("a short circuit or leakage to earth at its motor", _WIRING),
    0x2330: ("leakage to earth at its motor", _WIRING),
    0x2340: ("a short circuit at its motor", _WIRING),
    0x3000: ("its voltage", _SUPPLY),
    0x3100: ("its mains", _SUPPLY),
    0x3110: ("too much mains voltage", _SUPPLY),
    0x3120: ("too little mains voltage", _SUPPLY),
    0x3130: ("a phase of its mains is missing", _SUPPLY),
    0x3140: ("the frequency of its mains", _SUPPLY),
    0x3200: ("the voltage inside of it", _SUPPLY),
    0x3210: ("too much voltage inside of it, as where it brakes hard without a brake resistor", _BRAKE),
    0x3220: ("too little voltage inside of it", _SUPPLY),
    0x3230: ("its load", _HELD),
    0x3300: ("the voltage to its motor", _WIRING),
    0x3310: ("too much voltage to its motor", _WIRING),
    0x4000: ("temperature", _HEAT),
    0x4110: ("the room is too hot for it", _HEAT),
    0x4120: ("the room is too cold for it", _HEAT),
    0x4210: ("it is too hot", _HEAT),
    0x4220: ("it is too cold", _HEAT),
    0x4310: ("its motor is too hot", _HEAT),
    0x4320: ("its motor is too cold", _HEAT),
    0x4410: ("its supply is too hot", _HEAT),
    0x5000: ("its own parts", _BROKEN),
    0x5100: ("a supply inside of it", _BROKEN),
    0x5200: ("its control", _BROKEN),
    0x5400: ("its power stage", _BROKEN),
    0x5500: ("its memory", _BROKEN),
    0x6000: ("its own software", _BROKEN),
    0x6010: ("its software began anew by itself", _BROKEN),
    0x6200: ("the program that runs in it", _SETTINGS),
    0x6300: ("its settings", _SETTINGS),
    0x6310: ("it has lost its settings", _SETTINGS),
    0x6320: ("one of its settings", _SETTINGS),
    0x7000: ("something that is built into it or hangs on it", _PAPERS),
    0x7110: ("its brake resistor or what switches it", _WIRING),
    0x7120: ("its motor", _WIRING),
    0x7121: ("its motor is held fast", _HELD),
    0x7122: ("its motor does not turn as its field does", _WIRING),
    0x7200: ("what it measures current or voltage with", _BROKEN),
    0x7300: ("its encoder", _SENSOR),
    0x7310: ("what it measures speed with", _SENSOR),
    0x7320: ("what it measures its place with", _SENSOR),
    0x7400: ("what it reckons with", _BROKEN),
    0x7500: ("what it speaks with", _BUS),
    0x7600: ("what it keeps its settings in", _BROKEN),
    0x8000: ("what it watches over", _PAPERS),
    0x8100: ("its bus", _BUS),
    0x8110: ("frames were lost at it", _BUS),
    0x8120: ("it has seen many faulty frames", _BUS),
    0x8130: ("it has not heard who watches over it", _BUS),
    0x8140: ("it was off the bus for its faulty frames, and is back", _BUS),
    0x8150: ("another node sends with its number", _BUS),
    0x8200: ("a frame that it did not understand", _BUS),
    0x8210: ("a frame with process data that is too short", _BUS),
    0x8220: ("a frame with process data that is too long", _BUS),
    0x8300: ("its torque", _HELD),
    0x8311: ("too much torque", _HELD),
    0x8312: ("it cannot get its load to move", _HELD),
    0x8313: ("too much torque at rest", _HELD),
    0x8321: ("too little torque", _HELD),
    0x8400: ("its speed", _HELD),
    0x8500: ("its place", _HELD),
    0x8600: ("where it goes to", _HELD),
    0x8611: ("it lagged behind further than allowed", _HELD),
    0x8612: ("it was sent beyond an end", _SETTINGS),
    0x8700: ("it does not keep in step", _BUS),
    0x9000: ("something outside of it, told by an input", _OUTSIDE),
    0xF000: ("something that only such a drive does", _PAPERS),
    0xF001: ("it could not brake as it should", _HELD),
    0xFF00: ("something of its maker's own", _PAPERS),
}


def error_code(code: int) -> tuple[str, str]:
    """The meaning of a code and the way back, as near as the standards say; empty where they say nothing."""
    for mask in (0xFFFF, 0xFFF0, 0xFF00, 0xF000):
        if found := CODES.get(code & mask):
            return found
    return "", ""
