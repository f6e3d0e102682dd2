"""Compiles stepping, reading and planning code, with a cache that goes by the text of all of it.

Numba's own cache looks only at the file of the outermost function; a change in a function that it calls would go unseen.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterable
from contextlib import AbstractContextManager
from pathlib import Path
from typing import Any, Literal

import numba
from numba.core import event
from platformdirs import user_cache_path

Compile = Callable[..., Any]
_functions: dict[str, list[Any]] = {}  # what is compiled, by the name of the whole


class _Progress(event.Listener):
    """Counts those of a whole that have been compiled; what comes out of the cache is none of them."""

    def __init__(self, name: str, tell: Callable[[int, int], None]) -> None:
        self._of, self._tell = _functions[name], tell
        self._done: set[int] = set()

    def on_start(self, event: event.Event) -> None:
        pass

    def on_end(self, event: event.Event) -> None:
        made = event.data["dispatcher"]
        if any(each is made for each in self._of) and id(made) not in self._done:
            self._done.add(id(made))
            self._tell(len(self._done), len(self._of))


def watched(name: str, tell: Callable[[int, int], None]) -> AbstractContextManager[None]:
    """While it lasts, `tell` hears how many functions of this name are compiled, and of how many."""
    watching: AbstractContextManager[None] = event.install_listener("numba:compile", _Progress(name, tell))
    return watching


def compiler(name: str, file: str, sources: Iterable[str], *, allocates: bool = True) -> Compile:
    """What compiles the functions of these files (paths from that of `file`), kept for as long as none of them changes.

    allocates: whether they make arrays of their own. Where none does, Numba counts no references to those that are handed
    over, which takes a third of the time of functions that are as short as ours.
    """
    folder = Path(file).parent
    text = b"".join((folder / source).read_bytes() for source in sources)
    mark = hashlib.sha256(text + f"{numba.__version__}{allocates}".encode()).hexdigest()[:16]
    counting: dict[str, Any] = {} if allocates else {"_nrt": False}  # known to Numba, but not to its types
    kept = str(user_cache_path("idler") / f"{name}-{mark}")

    def compiled(function: Callable[..., Any], inline: Literal["never", "always"] = "never") -> Any:
        numba.config.CACHE_DIR = kept  # type: ignore[attr-defined]  # read while a function is decorated
        made = numba.njit(cache=True, nogil=True, inline=inline, **counting)(function)
        _functions.setdefault(name, []).append(made)
        return made

    return compiled
