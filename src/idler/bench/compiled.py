"""Compiles the stepping code."""

from __future__ import annotations

from idler.compiling import compiler

_SOURCES = (
    "state.py", "world.py", "firmware/trajectory.py", "firmware/inputs.py", "firmware/outputs.py", "firmware/homing.py",
    "firmware/spindle.py", "firmware/flight.py", "firmware/path.py", "firmware/indexing.py",
    "plant/axis.py", "plant/turning.py", "plant/paper.py",
    "../core/values/roles.py", "../core/table/rows/spindle.py", "../core/values/speedpoints.py", "../core/profile/homing.py",
    "../core/profile/flight.py", "../core/profile/path.py", "../core/profile/indexing.py",
)  # fmt: skip

NAME = "stepping"

compiled = compiler(NAME, __file__, _SOURCES, allocates=False)
