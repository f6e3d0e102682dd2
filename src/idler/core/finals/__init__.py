"""Final elements: what turns the motor's turning into the motion of an axis. Each is a module of its own with a FINAL; one
more is one more module here, and its picture in the module of the same name under `app/pictures/finals`."""

from __future__ import annotations

from importlib import import_module
from pkgutil import iter_modules

from .base import FinalElement

_MODULES = [import_module(f"{__name__}.{found.name}") for found in iter_modules(__path__) if found.name != "base"]
FINALS: dict[str, FinalElement] = {
    made.key: made for made in sorted((module.FINAL for module in _MODULES), key=lambda made: made.raw)
}
