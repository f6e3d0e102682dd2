"""Outputs: what the firmware switches for each role and under which conditions."""

from __future__ import annotations

from idler.core.values.roles import OutputRole

from ..compiled import compiled
from ..state import Row, Rows

_NONE = OutputRole.NONE.raw
_DRIVES_ON, _DRIVE_RESET = OutputRole.DRIVES_ON.raw, OutputRole.DRIVE_RESET.raw
_SPINDLE_ON, _RIGHT, _LEFT = OutputRole.SPINDLE_ON.raw, OutputRole.TURN_RIGHT.raw, OutputRole.TURN_LEFT.raw
_DIRECTION, _LEVEL, _HEALTHY = OutputRole.DIRECTION.raw, OutputRole.SPINDLE_LEVEL.raw, OutputRole.HEALTHY.raw
_WAY_OIL = OutputRole.WAY_OIL.raw
_IN_PLACE, _NOT_IN_PLACE = OutputRole.IN_PLACE.raw, OutputRole.NOT_IN_PLACE.raw


@compiled
def may_try(role: int, controller: Row, powered: int) -> bool:
    """Whether an output may be tried now; the client says the reasons, the firmware keeps to them."""
    if role == _DIRECTION:
        return controller.run == 0
    if role == _NONE:  # what hangs on it is not known
        return not (controller.stop or controller.guard or powered or controller.run)
    if role == _DRIVES_ON:
        return not controller.stop
    if role in (_SPINDLE_ON, _RIGHT, _LEFT, _LEVEL):
        return not (controller.stop or controller.guard)
    return True


@compiled
def advance_outputs(outputs: Rows, controller: Row, powered: int) -> None:
    """One tick: the state of every output follows from its role and from what is tried."""
    if controller.reset_ticks > 0:
        controller.reset_ticks -= 1
    for number in range(len(outputs)):
        out = outputs[number]
        run = controller.run
        on, level = 0, 0.0
        if out.role == _DRIVES_ON:
            on = powered
        elif out.role == _SPINDLE_ON:
            on = 1 if run != 0 else 0
        elif out.role == _RIGHT:
            on = 1 if run > 0 else 0
        elif out.role == _LEFT or out.role == _DIRECTION:
            on = 1 if run < 0 else 0
        elif out.role == _DRIVE_RESET:
            on = 1 if controller.reset_ticks > 0 else 0
        elif out.role == _HEALTHY:
            on = 0 if controller.stop or controller.faulted else 1
        elif out.role == _WAY_OIL:
            on = 1 if controller.oil_left > 0 else 0
        elif out.role == _IN_PLACE:
            on = controller.in_place
        elif out.role == _NOT_IN_PLACE:
            on = controller.not_in_place
        elif out.role == _LEVEL:
            level = controller.run_level
        if controller.tried == number:
            if may_try(out.role, controller, powered):
                on, level = 1, controller.tried_level
            else:
                controller.refused = 1
                controller.tried = -1
        out.energised = 1 - on if out.inverted and not out.level_kind else on
        out.level = level if out.level_kind else 0.0
        if out.level_kind:
            out.energised = 1 if level > 0 else 0
