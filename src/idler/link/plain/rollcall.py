"""Who the parts of a controller are: each is asked before anything else, and Idler takes a number that nobody has."""

from __future__ import annotations

import contextlib
import time
from collections.abc import Collection, Mapping, Set
from typing import TYPE_CHECKING

from idler.core.profile.cia301 import SDO_REQUEST

from ..errors import LinkError, NoAnswer, WriteRefused
from .part import NMT_START, Part

if TYPE_CHECKING:
    from idler.core.controller.parts import Parts

    from ..bus.address import BusAddress
    from ..bus.line import Line
    from ..bus.sdo import Pump

OWN_NODES = range(126, 0, -1)  # numbers for Idler's own heartbeat: the first that nobody has
LISTENED, PROBED = 0.25, 0.05  # s in which others are listened for, and in which one may answer
STARTS = 3  # times that a part may start anew while it is asked who it is
OF_DRIVES, OF_TERMINALS, OF_ENCODERS = 402, 401, 406  # profiles, in the lower half of 1000h
_MEANT = {OF_DRIVES: "a drive", OF_TERMINALS: "terminals", OF_ENCODERS: "an encoder"}


def _profiles(parts: Parts) -> dict[int, int]:
    """By node, the profile of what it was said to be."""
    found = {node: OF_DRIVES for node, _ in parts.axes} | dict.fromkeys(parts.terminals, OF_TERMINALS)
    found |= {parts.encoder: OF_ENCODERS} if parts.encoder else {}
    return found | ({parts.spindle: OF_DRIVES} if parts.spindle else {})


def call_all(address: BusAddress, parts: Parts, called: Mapping[int, Part], search: Collection[float]) -> None:
    """Asks every part who it is, and starts it. search: seconds to wait for an answer, try by try. Raises LinkError where one
    does not answer, or is not what it was said to be."""
    profiles = _profiles(parts)
    for node, part in called.items():
        try:
            kind = _who_is(part, search)
        except NoAnswer:
            raise LinkError(
                f"{address}: {part.called} does not answer. Check its power, its number and the bit rate; "
                "`idler nodes` lists who is there."
            ) from None
        except WriteRefused as why:
            raise LinkError(f"{address}: {why.sentence}") from None
        if kind & 0xFFFF != profiles[node]:
            raise LinkError(
                f"{address}: node {node} is a device of profile {kind & 0xFFFF}, and was said to be one of "
                f"{profiles[node]}, {_MEANT[profiles[node]]}. Say what it is, or leave it out."
            )


def _who_is(part: Part, search: Collection[float]) -> int:
    """Its device type; one that just starts is asked again. Raises NoAnswer."""
    for _ in range(STARTS):
        part.booted = False
        for patience in search:
            part.manage(NMT_START)  # one that was stopped answers nothing
            with contextlib.suppress(NoAnswer):
                part.look_for(patience)
                return part.identify()
        if not part.booted:
            break
    raise NoAnswer(f"{part.called} does not answer.")


def own_number(address: BusAddress, line: Line, wait: Pump, taken: Collection[int], heard: Set[int]) -> int:
    """A number for Idler's own heartbeat that nobody is heard with, and nobody answers to. heard: those of others, which grows
    while it waits. Raises LinkError where there is none."""
    deadline = time.monotonic() + LISTENED
    while (left := deadline - time.monotonic()) > 0:
        wait(left)
    for node in OWN_NODES:
        if node in taken or node in heard:
            continue
        line.send(SDO_REQUEST + node, bytes((0x40, 0x00, 0x10, 0, 0, 0, 0, 0)))
        deadline = time.monotonic() + PROBED
        while node not in heard and (left := deadline - time.monotonic()) > 0:
            wait(left)
        if node not in heard:
            return node
    raise LinkError(f"{address}: all node numbers of this bus are taken; Idler needs one for its heartbeat.")
