"""A path on the wire: places of several axes at equal times, kept in the controller's buffer and gone along by one clock.

Interpolated position (CiA 402-2, mode 7) knows a set-point of one axis (60C1h), its time (60C2h), the way between two of
them (60C0h: 0, straight) and the size of the buffer (60C4h). What it lacks is ours, in 200Ch:

    01  records, written as a block: a head (U32 number of the first record, U16 their number, U8 flags, U8 the axes, a
        bit for each, U16 the number of stretches), the places of the first record as an I32 in position units for each
        of these axes, in their order; for each record after it how much further each axis is, as I16, or with the flag
        WIDE as I32; and the stretches of one line: U16 how many records, U32 the line of the program, with bit 31 set
        in a rapid and bit 30 in a wait, whose time is not stretched. Record 0 is where the axes stand; it begins a new
        path. FINAL: the path ends with the last of these. A record that is there already may come again.
    02  the wanted rate of feeds in ‰, 03 that of rapids: time is stretched smoothly, and no axis leaves the path
    04  the record at which it is waited, none: NOWHERE
    05  what became of it, see `PathReport`

All axes of the path in mode 7, enabled, and with bit 4 of their controlwords: then it begins. A quick stop of one of them
ends it on the path. Where the buffer runs dry it is waited on the path for what comes.
"""

from __future__ import annotations

import struct
from dataclasses import dataclass
from enum import IntEnum

from .codec import Place

RECORDS, FEED_RATE, RAPID_RATE, WAIT_AT, REPORT = (Place(0x200C, sub) for sub in (1, 2, 3, 4, 5))
PERIOD_MS = 4  # between two records (60C2h)
BUFFER = 8192  # records that the controller holds (60C4h:01)
MOST_RECORDS = 1024  # in one block
FINAL, WIDE = 1, 2  # flags
NOWHERE = 0xFFFFFFFF
RAPID, REST = 1 << 31, 1 << 30  # bits of the line of a record
LINE_BITS = REST - 1
WHOLE_RATE = 1000  # ‰

_REPORT = struct.Struct("<IHHIIIB")


class PathState(IntEnum):
    NONE = 0  # nothing was given
    GIVEN = 1  # it has not begun
    RUNS = 2
    WAITS = 3  # stands on the path: by its rate, at a record, or because the buffer ran dry
    ENDED = 4  # at its last record
    STOPPED = 5  # stands on the path, by a quick stop
    LEFT = 6  # an axis was stopped by itself: they stand beside it


@dataclass(frozen=True)
class PathReport:
    """at: records since its begin that are gone through, with what lies between two of them. given: records so far. rate:
    how fast time goes now, from 0 to 1. line: of the program. ran: ms by the controller's clock in which it did not wait."""

    state: PathState = PathState.NONE
    at: float = 0.0
    given: int = 0
    rate: float = 0.0
    line: int = 0
    ran: int = 0


def pack_report(report: PathReport) -> bytes:
    whole = int(report.at)
    part = min(int((report.at - whole) * 65536), 65535)
    return _REPORT.pack(
        whole, part, round(report.rate * WHOLE_RATE), report.given, report.line, report.ran, report.state
    )


def unpack_report(data: bytes) -> PathReport:
    """Raises ValueError where it is none."""
    try:
        whole, part, rate, given, line, ran, state = _REPORT.unpack(data)
    except struct.error as why:
        raise ValueError(str(why)) from None
    return PathReport(PathState(state), whole + part / 65536, given, rate / WHOLE_RATE, line, ran)
