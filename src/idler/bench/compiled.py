"""Compiles the stepping code."""

from __future__ import annotations

from idler.compiling import compiler

_SOURCES = (
    "state.py", "trajectory.py", "plant.py", "inputs.py", "outputs.py", "homing.py", "spindle.py", "turning.py",
    "flight.py", "path.py", "paper.py", "indexing.py", "world.py",
    "../core/values/roles.py", "../core/table/rows/spindle.py", "../core/values/speedpoints.py", "../core/profile/homing.py",
    "../core/profile/flight.py", "../core/profile/path.py", "../core/profile/indexing.py",
)  # fmt: skip

NAME = "stepping"

compiled = compiler(NAME, __file__, _SOURCES, allocates=False)
