"""The flight record on the wire: 200Ah holds the last seconds of the machine, from before a stop to shortly after it.

200Ah:01 tells the state (State), 200Ah:02 lets a held record go (write 1), 200Ah:03 is the record: a zlib stream
(RFC 1950) of a head of six words (U16: milliseconds between two samples, their number, the number of axes, the sample at
which the stop was seen, the emergency code of the stop, and the input that stopped the machine, from 1, 0: none), the
samples, each packed as `sample_type` says, and one U32: for how many µs that input was away from its rest, FFFFFFFFh
where it still was. Records of before have no such U32.
"""

from __future__ import annotations

import struct
import zlib
from dataclasses import dataclass
from enum import Enum, IntFlag
from typing import TYPE_CHECKING, Any

from .codec import Place

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

FLIGHT_STATE, FLIGHT_GO, FLIGHT = (Place(0x200A, sub) for sub in (1, 2, 3))
PERIOD_MS, SAMPLES, AFTERWARDS = 5, 1000, 200  # 200 Hz, 5 s, of which 1 s follows the stop
_HEAD = struct.Struct("<6H")
_HELD = struct.Struct("<I")
_STILL = 0xFFFFFFFF
_LONGEST = 1 << 20


class FlightState(Enum):
    RECORDING = 0
    ENDING = 1  # a stop was seen: the second after it is still recorded
    HELD = 2


class Flag(IntFlag):
    """What an axis was in at a sample."""

    POWERED = 1
    MOVING = 2
    HOMED = 4
    STOPPING = 8  # with the deceleration of a stop
    LOW = 16  # its low limit switch is made
    HIGH = 32
    HOMING = 64
    AT_LIMIT = 128  # a soft limit holds it


def sample_type(axes: int) -> np.dtype[Any]:
    """closed, energised: a bit for each terminal. conditions: of 2004h:03. spindle in rpm.

    Of each axis: position in position units, velocity in velocity units, following error in 0.001 mm (°), flags.
    """
    import numpy as np  # the link and the objects need the numbers above, and no NumPy

    return np.dtype(
        [
            ("closed", "<u4"), ("energised", "<u2"), ("conditions", "<u2"), ("spindle", "<i2"),
            ("position", "<i4", (axes,)), ("velocity", "<i4", (axes,)), ("lag", "<i2", (axes,)), ("flags", "u1", (axes,)),
        ]
    )  # fmt: skip


@dataclass(frozen=True)
class FlightRecord:
    """period in s. moment: the sample at which the stop was seen. code: of its emergency message, 0 where none is known.

    input: the slot of the input that stopped the machine, and held: for how many seconds it was away from its rest, to the
    µs; None where no input did, and where it still was when the record ended.
    """

    period: float
    moment: int
    code: int
    samples: NDArray[Any]
    input: int | None = None
    held: float | None = None

    @property
    def axes(self) -> int:
        return int(self.samples["position"].shape[1])


def pack_flight(
    samples: NDArray[Any], moment: int, code: int, number: int | None = None, held_us: int | None = None,
    period_ms: int = PERIOD_MS,
) -> bytes:  # fmt: skip
    """number: the slot of the input that stopped the machine. held_us: for how long it was away from its rest."""
    axes = samples["position"].shape[1]
    head = _HEAD.pack(period_ms, len(samples), axes, moment, code, 0 if number is None else number + 1)
    held = _HELD.pack(_STILL if held_us is None else min(held_us, _STILL - 1))
    return zlib.compress(head + samples.tobytes() + held)


def unpack_flight(data: bytes) -> FlightRecord:
    """Raises ValueError for a block that is no flight record."""
    import numpy as np

    try:
        stream = zlib.decompressobj()
        whole = stream.decompress(data, _LONGEST)
        period, count, axes, moment, code, number = _HEAD.unpack_from(whole)
        samples = np.frombuffer(whole, sample_type(axes), count, _HEAD.size)
        end = _HEAD.size + samples.nbytes
        held = _HELD.unpack_from(whole, end)[0] if len(whole) == end + _HELD.size else _STILL
    except (zlib.error, struct.error, ValueError) as why:
        raise ValueError(f"no flight record: {why}") from None
    if not period or moment >= max(count, 1) or len(whole) not in (end, end + _HELD.size):
        raise ValueError("no flight record: its head does not fit what follows")
    return FlightRecord(
        period / 1000, moment, code, samples, number - 1 if number else None, None if held == _STILL else held / 1e6
    )
