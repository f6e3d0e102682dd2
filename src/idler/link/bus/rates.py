"""The bit rate of a bus, found by listening at each in turn; nothing is said meanwhile, not even that a frame was heard."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from idler.core.profile.cia402 import HEARTBEAT

from ..errors import LinkError
from ..times import usual
from .address import RATES_MET, BusAddress
from .survey import Survey

LISTENED = 1.2  # s at each: nodes that say that they are there mostly do so every second, or more often


@dataclass(frozen=True)
class RateHeard:
    """What was heard at one rate: frames, lines that made no sense, and the nodes that said that they are there."""

    rate: int
    frames: int
    spoilt: int
    nodes: tuple[int, ...]


def find_rate(
    address: BusAddress, seconds: float = LISTENED, tell: Callable[[int], object] = lambda _rate: None
) -> list[RateHeard]:
    """Rates at which something was heard, the likeliest first. tell: called with each before it is listened to.

    Raises LinkError where the adapter cannot, or cannot be opened.
    """
    if address.kind == "socketcan":
        raise LinkError(
            f"{address}: the bit rate of an interface is the system's. Set another (sudo ip link set {address.where} down, "
            f"then up type can bitrate {RATES_MET[1]}), and listen again with --listen."
        )
    found = []
    for rate in RATES_MET:
        tell(rate)
        with Survey(replace(address, rate=rate), usual, silent=True) as bus:
            bus.listen(seconds)
            heard = bus.frames.since(0)
            nodes = {frame.identifier & 0x7F for frame in heard if frame.identifier & 0x780 == HEARTBEAT}
            if heard or bus.spoilt:
                found.append(RateHeard(rate, len(heard), bus.spoilt, tuple(sorted(nodes - {0}))))
    return sorted(found, key=lambda each: (-len(each.nodes), -each.frames))
