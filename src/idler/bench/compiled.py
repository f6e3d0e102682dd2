"""Compiles the stepping code, with a cache that goes by the text of all of it.

Numba's own cache looks only at the file of the outermost function; a change in a function that it calls would go unseen.
"""

from __future__ import annotations

import hashlib
from pathlib import Path

import numba
from platformdirs import user_cache_path

_SOURCES = (
    "state.py", "trajectory.py", "plant.py", "inputs.py", "outputs.py", "homing.py", "spindle.py", "turning.py",
    "flight.py", "world.py",
    "../core/values/roles.py", "../core/table/rows/spindle.py", "../core/values/speedpoints.py", "../core/profile/homing.py",
    "../core/profile/flight.py",
)  # fmt: skip


def _fingerprint() -> str:
    folder = Path(__file__).parent
    text = b"".join((folder / name).read_bytes() for name in _SOURCES)
    return hashlib.sha256(text + numba.__version__.encode()).hexdigest()[:16]


numba.config.CACHE_DIR = str(user_cache_path("idler") / f"stepping-{_fingerprint()}")  # type: ignore[attr-defined]
compiled = numba.njit(cache=True)
