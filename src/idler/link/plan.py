"""What is to be sent to a controller: worked out here, sent by its kind."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from idler.core.controller.sending import labels
from idler.core.controller.standing import ControllerImage
from idler.core.machine import Machine
from idler.core.profile.codec import Place, Raw, given, image
from idler.core.profile.homes import Home

from .errors import NotAllowedNow

Journal = Callable[[Mapping[Place, Raw], Mapping[Place, Raw]], None]


@dataclass(frozen=True)
class Plan:
    """What is to be written, in order, with the names of the values. restart: the controller is restarted afterwards.

    before: what the controller held when this was planned and shown; where it holds something else, nothing is sent.
    begun is called with the old and the new values before the first of them is written; it may raise IdlerError.
    """

    wanted: Mapping[Place, Raw]
    names: Mapping[Place, str]
    before: ControllerImage
    restart: bool = False
    begun: Journal = lambda _old, _new: None


def plan(
    machine: Machine, before: ControllerImage, *, restart: bool = False, begun: Journal = lambda _o, _n: None
) -> Plan:
    """Whatever of a machine differs from what a controller holds.

    Other axes than the controller has are sent as well: it takes them up at its next restart, and gives no power until
    then. Raises NotAllowedNow where the terminals are others.
    """
    if (machine.inputs, machine.outputs) != (before.shape.inputs, before.shape.outputs):
        raise NotAllowedNow(f"This machine has {machine.shape}; the controller has {before.shape}.")
    facts = given(machine)
    raws = {
        where: raw
        for where, raw in image(machine).items()
        if raw != before.raws.get(where) and where not in facts and before.home(where) is not Home.ABSENT
    }
    return Plan(raws, labels(machine), before, restart, begun)
