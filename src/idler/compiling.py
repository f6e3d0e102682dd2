"""Compiles stepping, reading and planning code, with a cache that goes by the text of all of it.

Numba's own cache looks only at the file of the outermost function; a change in a function that it calls would go unseen.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any, Literal

import numba
from platformdirs import user_cache_path

Compile = Callable[..., Any]


def compiler(name: str, file: str, sources: Iterable[str]) -> Compile:
    """What compiles the functions of these files (paths from that of `file`), kept for as long as none of them changes."""
    folder = Path(file).parent
    text = b"".join((folder / source).read_bytes() for source in sources)
    mark = hashlib.sha256(text + numba.__version__.encode()).hexdigest()[:16]
    kept = str(user_cache_path("idler") / f"{name}-{mark}")

    def compiled(function: Callable[..., Any], inline: Literal["never", "always"] = "never") -> Any:
        numba.config.CACHE_DIR = kept  # type: ignore[attr-defined]  # read while a function is decorated
        return numba.njit(cache=True, nogil=True, inline=inline)(function)

    return compiled
