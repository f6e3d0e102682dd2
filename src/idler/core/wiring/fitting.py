"""A machine that was written for other terminals than its controller has."""

from __future__ import annotations

from ..machine import Machine, Shape
from ..values.parameter import Scope
from ..values.roles import InputRole, OutputRole
from . import inputs, outputs


def fitted(machine: Machine, controller: Machine) -> Machine | None:
    """With the terminals of the controller: those that are new to the machine with all that the controller holds of them, the
    others with what it tells of itself. None where one would go that has a role."""
    if any(item.duty.role is not InputRole.NONE for item in inputs(machine)[controller.inputs :]):
        return None
    if any(item.role is not OutputRole.NONE for item in outputs(machine)[controller.outputs :]):
        return None
    made = machine.shaped_as(Shape(machine.names, controller.inputs, controller.outputs))
    before = {Scope.INPUT: machine.inputs, Scope.OUTPUT: machine.outputs}
    return made.with_values({
        where: controller[where]
        for where in made.addresses()
        if where.row.scope in before and (where.row.given or (where.slot or 0) >= before[where.row.scope])
    })  # fmt: skip
