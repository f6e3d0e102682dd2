"""Idler: carries a machine builder's knowledge to a CNC controller, and proves it by moving.

What a script needs is `open_machine` (see docs/library.md); it is loaded when it is asked for.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from .wording import spoken

if TYPE_CHECKING:
    from .library import OpenMachine as OpenMachine
    from .library import new_machine as new_machine
    from .library import open_machine as open_machine

__version__ = "0.1.0"
__all__ = ["OpenMachine", "__version__", "new_machine", "open_machine"]

spoken.speak()


def __getattr__(name: str) -> object:
    if name in __all__:
        from . import library

        return getattr(library, name)
    raise AttributeError(f"module 'idler' has no attribute {name!r}")
