"""The flight record on the wire: 200Ah holds the last seconds of the machine, from before a stop to shortly after it.

200Ah:01 tells the state (State), 200Ah:02 lets a held record go (write 1), 200Ah:03 is the record: a zlib stream
(RFC 1950) of a head of six words (U16: milliseconds between two samples, their number, the number of axes, the sample at
which the stop was seen, and the emergency code of the stop, 0) and the samples, each packed as `sample_type` says.
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
_LONGEST = 1 << 20


class State(Enum):
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
    """period in s. moment: the sample at which the stop was seen. code: of its emergency message, 0 where none is known."""

    period: float
    moment: int
    code: int
    samples: NDArray[Any]

    @property
    def axes(self) -> int:
        return int(self.samples["position"].shape[1])


def pack_flight(samples: NDArray[Any], moment: int, code: int) -> bytes:
    axes = samples["position"].shape[1]
    return zlib.compress(_HEAD.pack(PERIOD_MS, len(samples), axes, moment, code, 0) + samples.tobytes())


def unpack_flight(data: bytes) -> FlightRecord:
    """Raises ValueError for a block that is no flight record."""
    import numpy as np

    try:
        stream = zlib.decompressobj()
        whole = stream.decompress(data, _LONGEST)
        period, count, axes, moment, code, _ = _HEAD.unpack_from(whole)
        samples = np.frombuffer(whole, sample_type(axes), count, _HEAD.size)
    except (zlib.error, struct.error, ValueError) as why:
        raise ValueError(f"no flight record: {why}") from None
    if not period or moment >= max(count, 1) or len(whole) != _HEAD.size + samples.nbytes:
        raise ValueError("no flight record: its head does not fit what follows")
    return FlightRecord(period / 1000, moment, code, samples)
