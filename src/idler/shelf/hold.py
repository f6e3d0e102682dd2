"""One writer at a time: a shelf is held by the program that changes it, and says so to any other."""

from __future__ import annotations

import contextlib
import errno
import fcntl
import os
from pathlib import Path

from idler.core.errors import About, IdlerError

_READ_ONLY = (errno.EROFS, errno.EACCES, errno.EPERM, errno.ENOSPC, errno.EDQUOT, errno.EFBIG)


class Busy(IdlerError):
    """Another program holds the shelf."""

    about = About.ELSEWHERE


class ShelfHold:
    """Taken when made, until `release` or the end of the process, however it ends. Raises Busy.

    why_read_only: a sentence where the disk takes nothing; then nothing is held, for nothing can be changed.
    left_since: seconds since 1970 at which the last holder began, where it ended without letting go; else None.
    silent: this holder tells nobody of that, and leaves it to the next one.
    """

    def __init__(self, root: Path, *, silent: bool = False) -> None:
        self._silent = silent
        self.why_read_only = ""
        self.left_since: float | None = None
        self._descriptor: int | None = None
        path = root / "lock"
        try:
            root.mkdir(parents=True, exist_ok=True)
            descriptor = os.open(path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o644)
        except OSError as why:
            self._refuse(root, why)
            return
        try:
            fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            holder = os.pread(descriptor, 20, 0).decode("ascii", "replace").strip()
            os.close(descriptor)
            of = f" (process {holder})" if holder.isdigit() else ""
            raise Busy(
                f"Another Idler{of} works with the shelf {root}. Go on there, or close it first; nothing was changed."
            ) from None
        self._descriptor = descriptor
        state = os.fstat(descriptor)
        self.left_since = state.st_mtime if state.st_size else None
        try:
            os.ftruncate(descriptor, 0)
            os.pwrite(descriptor, str(os.getpid()).encode(), 0)
        except OSError as why:
            self._refuse(root, why)

    def _refuse(self, root: Path, why: OSError) -> None:
        if why.errno not in _READ_ONLY:
            raise IdlerError(f"{root}: cannot be used ({(why.strerror or str(why)).lower()}).") from None
        self.why_read_only = (
            f"The shelf {root} cannot be written ({(why.strerror or str(why)).lower()}). You can read, compare, jog and "
            "send; edits and revisions are not kept until that is mended."
        )

    def release(self) -> None:
        if self._descriptor is not None:
            with contextlib.suppress(OSError):
                os.ftruncate(self._descriptor, 0)
                if self._silent and self.left_since is not None:
                    os.pwrite(self._descriptor, b"-", 0)
                    os.utime(self._descriptor, (self.left_since, self.left_since))
            os.close(self._descriptor)
            self._descriptor = None
