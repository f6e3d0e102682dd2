"""Why a link fails, in plain sentences."""

from __future__ import annotations

from idler.core.errors import IdlerError


class LinkError(IdlerError):
    """Anything that goes wrong between Idler and a controller."""


class NoSuchPort(LinkError):
    pass


class NoPermission(LinkError):
    pass


class PortBusy(LinkError):
    pass


class NobodyAnswers(LinkError):
    pass


class LinkLost(LinkError):
    pass


class NotAllowedNow(LinkError):
    """The controller is in a state in which this cannot be done."""


class Overtaken(LinkError):
    """STOP was asked for after this motion was: it is not begun."""


class WriteRefused(LinkError):
    """The controller refused a value (SDO abort), or holds another one after it was written."""
