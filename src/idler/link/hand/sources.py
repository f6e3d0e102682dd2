"""Which hand devices there are, and reading one in a thread of its own.

A device of the kernel (evdev) is taken for Idler alone, so that its keys write nothing into any window. A simulated one is a
Unix socket: it says who it is in a line of JSON, then each event as type, code and value of linux/input.h.
"""

from __future__ import annotations

import contextlib
import errno
import json
import os
import selectors
import socket
import stat
import tempfile
import threading
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Protocol

from idler.core.hand.assignment import Control, Sort

from ..errors import LinkError

SOCKETS = Path(os.environ.get("XDG_RUNTIME_DIR") or tempfile.gettempdir()) / f"idler-hands-{os.getuid()}"
KERNEL = Path("/dev/input")
ENDING = ".hand"
LONGEST = 4096  # bytes of a line
PATIENCE = 2.0  # s in which a simulated one says who it is
_SORTS = {sort.kind: sort for sort in Sort}

Heard = Callable[[Control, float], None]


@dataclass(frozen=True)
class HandDevice:
    """vendor, product: as it says them. axes: lowest and highest value of each stick, by code."""

    path: Path
    name: str
    vendor: int
    product: int
    axes: Mapping[int, tuple[float, float]] = field(default_factory=dict)

    def is_like(self, other: HandDevice) -> bool:
        """Whether it may be the same one, wherever it is plugged in."""
        return (self.name, self.vendor, self.product) == (other.name, other.vendor, other.product)


class _Stream(Protocol):
    def fileno(self) -> int: ...

    def events(self) -> Iterator[tuple[int, int, int]]: ...

    def close(self) -> None: ...


def places() -> tuple[str, ...]:
    """Where devices are, or might be: it changes where one is plugged in or out."""
    folders()
    return tuple(str(path) for path in (*sorted(KERNEL.glob("event*")), *sorted(SOCKETS.glob(f"*{ENDING}"))))


def folders() -> list[str]:
    """What to watch for that. That of the simulated ones is made: nobody sees what comes into a folder that is not there."""
    with contextlib.suppress(OSError):
        SOCKETS.mkdir(mode=0o700, parents=True, exist_ok=True)
    return [str(folder) for folder in (KERNEL, SOCKETS) if folder.is_dir()]


def find() -> tuple[list[HandDevice], str]:
    """All that are there, and why some could not be looked at."""
    found, why = _kernel()
    with contextlib.suppress(OSError):
        for path in sorted(SOCKETS.glob(f"*{ENDING}")):
            with contextlib.suppress(OSError, ValueError, KeyError, TypeError, LinkError):
                stream = _Socket(path)
                found.append(stream.device)
                stream.close()
    return found, why


def _kernel() -> tuple[list[HandDevice], str]:
    nodes = sorted(KERNEL.glob("event*"))
    if not nodes:
        return [], ""
    try:
        import evdev
    except ImportError:
        return [], "Devices of this computer cannot be read: the package evdev is not installed."
    found: list[HandDevice] = []
    closed = [node for node in nodes if not os.access(node, os.R_OK)]
    for node in nodes:
        with contextlib.suppress(OSError):
            device = evdev.InputDevice(str(node))
            found.append(_of_kernel(node, device))
            device.close()
    if closed:
        return found, f"{len(closed)} devices may not be read: join the group “{_group(closed[0])}”, and log in again."
    return found, ""


def _group(node: Path) -> str:
    import grp

    try:
        return grp.getgrgid(os.stat(node, follow_symlinks=True).st_gid).gr_name
    except (KeyError, OSError):
        return "input"


def _of_kernel(node: Path, device: Any) -> HandDevice:
    sticks = device.capabilities().get(Sort.STICK.kind, [])
    axes = {int(code): (float(info.min), float(info.max)) for code, info in sticks}
    return HandDevice(node, str(device.name), int(device.info.vendor), int(device.info.product), axes)


class _Kernel:
    def __init__(self, path: Path) -> None:
        import evdev

        self._device = evdev.InputDevice(str(path))
        self._device.grab()

    def fileno(self) -> int:
        return int(self._device.fd)

    def events(self) -> Iterator[tuple[int, int, int]]:
        for event in self._device.read():
            yield event.type, event.code, event.value

    def close(self) -> None:
        self._device.close()


class _Socket:
    """device: as it says that it is. Raises LinkError, OSError, ValueError, KeyError or TypeError where it is none."""

    def __init__(self, path: Path) -> None:
        self._socket = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
        self._rest = b""
        self._socket.settimeout(PATIENCE)
        try:
            self._socket.connect(str(path))
            while b"\n" not in self._rest:
                more = self._socket.recv(LONGEST)
                if not more or len(self._rest) > LONGEST:
                    raise LinkError(f"{path}: is no hand device.")
                self._rest += more
            line, _, self._rest = self._rest.partition(b"\n")
            told = json.loads(line)
            axes = {int(code): (float(low), float(high)) for code, (low, high) in dict(told.get("axes", {})).items()}
            self.device = HandDevice(path, str(told["name"])[:60], int(told["vendor"]), int(told["product"]), axes)
        except BaseException:
            self._socket.close()
            raise
        self._socket.settimeout(0.0)

    def fileno(self) -> int:
        return self._socket.fileno()

    def events(self) -> Iterator[tuple[int, int, int]]:
        more = self._socket.recv(LONGEST)
        if not more:
            raise OSError(errno.ENODEV, "nobody is there any more")
        *lines, self._rest = (self._rest + more).split(b"\n")
        if len(self._rest) > LONGEST:
            raise OSError("it says what makes no sense")
        for line in lines:
            with contextlib.suppress(ValueError, KeyError, TypeError):  # what makes no sense means nothing
                told = json.loads(line)
                yield int(told["type"]), int(told["code"]), int(told["value"])

    def close(self) -> None:
        self._socket.close()


class HandReader:
    """heard and gone are called on its own thread; gone once, with a sentence, where it was unplugged."""

    def __init__(self, device: HandDevice, heard: Heard, gone: Callable[[str], None]) -> None:
        """Raises LinkError where it cannot be opened."""
        self.device, self._heard, self._gone = device, heard, gone
        try:
            self._stream: _Stream = _open(device.path)
        except (OSError, ValueError, KeyError, TypeError, ImportError) as why:
            raise LinkError(f"{device.name}: cannot be opened ({why}).") from None
        self._wake, self._woken = os.pipe()
        self._thread = threading.Thread(target=self._run, name="hand", daemon=True)
        self._thread.start()

    def close(self) -> None:
        """A second call does nothing."""
        if self._woken >= 0:
            os.write(self._woken, b"w")
            if threading.current_thread() is not self._thread:
                self._thread.join()
            os.close(self._wake)
            os.close(self._woken)
            self._woken = -1

    def _run(self) -> None:
        with selectors.DefaultSelector() as ready:
            ready.register(self._stream, selectors.EVENT_READ)
            ready.register(self._wake, selectors.EVENT_READ)
            try:
                while True:
                    if any(key.fileobj == self._wake for key, _ in ready.select()):
                        return
                    for kind, code, value in self._stream.events():
                        self._tell(kind, code, value)
            except OSError as why:
                if why.errno == errno.ENODEV:
                    self._gone(f"{self.device.name} was unplugged.")
                else:
                    self._gone(f"{self.device.name} is gone: {why.strerror or why}.")
            finally:
                self._stream.close()

    def _tell(self, kind: int, code: int, value: int) -> None:
        sort = _SORTS.get(kind)
        if sort is None or not 0 <= code <= 0x2FF:
            return
        if sort is Sort.STICK:
            low, high = self.device.axes.get(code, (-1.0, 1.0))
            if high <= low:
                return
            self._heard(Control(sort, code), max(-1.0, min(1.0, 2 * (value - low) / (high - low) - 1)))
        elif sort is not Sort.BUTTON or value in (0, 1):  # 2: the kernel repeats it
            self._heard(Control(sort, code), float(value))


def _open(path: Path) -> _Stream:
    if stat.S_ISSOCK(path.stat().st_mode):
        return _Socket(path)
    return _Kernel(path)
