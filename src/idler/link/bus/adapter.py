"""Opens the bus behind an address as a python-can bus, and turns what the system says into sentences."""

from __future__ import annotations

import contextlib
import errno
import fcntl
import getpass
import grp
import os
import re
import select
import socket
import stat
import time
from typing import Any

import can
from can.interfaces.slcan import slcanBus

from ..errors import LinkError, NobodyAnswers, NoPermission, NoSuchPort, PortBusy
from .address import BusAddress, require_interface

# A frame of 11 bits as adapters write it, an acknowledgement or a bell may stand before it; and what is not for us: longer
# identifiers, remote frames, acknowledgements, answers to what was asked of the adapter.
_FRAME = re.compile(rb"[zZ\a\n]*t([0-9A-Fa-f]{3})([0-8])([0-9A-Fa-f]*)")
_PASSED_OVER = re.compile(rb"[zZ\a\n]*(?:[TRr][0-9A-Fa-f]+|[VNFvn][\x20-\x7e]*)?")
TIMESTAMP = 4  # digits that may stand behind the data
LONGEST_LINE = 1024


class LineBus(slcanBus):  # type: ignore[misc]
    """python-can's serial-line bus, read in blocks: byte by byte would cost a quarter of a core at 400 frames a second.

    Works on whatever has a file descriptor: a serial device or pyserial's socket://.
    """

    spoilt = 0  # lines that made no sense

    def _read(self, timeout: float | None) -> str | None:
        descriptor = self.serialPortOrig.fileno()
        deadline = None if timeout is None else time.monotonic() + timeout
        while True:
            ends = [at for at in (self._buffer.find(b"\r"), self._buffer.find(b"\a")) if at >= 0]
            if ends:
                text = str(self._buffer[: min(ends) + 1].decode("ascii", "replace"))
                del self._buffer[: min(ends) + 1]
                return text
            left = None if deadline is None else max(0.0, deadline - time.monotonic())
            if not select.select([descriptor], [], [], left)[0]:
                return None
            self._receive()

    def _receive(self) -> None:
        """Takes what has come in from the descriptor."""
        try:
            data = os.read(self.fileno(), 65536)
        except BlockingIOError:
            return
        except OSError as why:
            raise can.CanOperationError(str(why)) from None
        if not data:
            raise can.CanOperationError("the other side has closed the line")
        self._buffer.extend(data)

    def fileno(self) -> int:
        return int(self.serialPortOrig.fileno())

    @property
    def waiting(self) -> bool:
        """Whether whole lines were read that nobody has taken yet: the descriptor does not say so any more."""
        return b"\r" in self._buffer

    def take(self, most: int) -> list[tuple[int, bytes]]:
        """Identifier and data of frames that have arrived, at most so many; what else the adapter says is passed over.

        Ten thousand foreign frames a second must be heard without falling behind, so no message is made of them. Extended and
        remote frames are other people's. Raises CanOperationError where the line is gone.
        """
        if not self.waiting and select.select([self.fileno()], [], [], 0)[0]:
            self._receive()
        found: list[tuple[int, bytes]] = []
        start = 0
        while len(found) < most and (end := self._buffer.find(b"\r", start)) >= 0:
            text = self._buffer[start:end]
            start = end + 1
            frame = _FRAME.fullmatch(text)
            if frame is not None and len(frame[3]) in (2 * (size := int(frame[2])), 2 * size + TIMESTAMP):
                found.append((int(frame[1], 16), bytes.fromhex(frame[3][: 2 * size].decode())))
            elif not _PASSED_OVER.fullmatch(text):
                self.spoilt += 1
        del self._buffer[:start]
        if len(self._buffer) > LONGEST_LINE and not self.waiting:
            self._buffer.clear()
            self.spoilt += 1
        return found

    def shutdown(self) -> None:
        """As the package does it, but without the 0.3 s that pyserial sleeps after closing a socket:// port."""
        port = self.serialPortOrig
        connection = getattr(port, "_socket", None)
        if connection is None:
            super().shutdown()
            return
        can.BusABC.shutdown(self)
        with contextlib.suppress(can.CanError, OSError):
            self.close()
        connection.close()
        port._socket, port.is_open = None, False


def open_bus(address: BusAddress, *, silent: bool = False) -> Any:
    """A python-can bus. silent: this computer only listens. Raises a LinkError that says why it cannot be opened."""
    if address.kind == "socketcan":
        return _open_interface(address)
    if address.kind == "serial":
        _try_device(address.where)
        channel = address.where
    else:
        _try_host(address.where)
        channel = f"socket://{address.where}"
    try:
        bus = LineBus(channel=channel, bitrate=address.rate, sleep_after_open=0, listen_only=silent)
    except (can.CanError, OSError, ValueError) as why:
        raise LinkError(f"{address}: cannot be opened ({why}).") from None
    if address.kind == "serial":
        fcntl.flock(bus.fileno(), fcntl.LOCK_EX | fcntl.LOCK_NB)
    return bus


def _try_device(path: str) -> None:
    try:
        descriptor = os.open(path, os.O_RDWR | os.O_NOCTTY | os.O_NONBLOCK)
    except FileNotFoundError:
        raise NoSuchPort(f"{path}: there is no such port. Is the adapter plugged in? Look for ports again.") from None
    except PermissionError:
        raise NoPermission(f"{path}: {permission_hint(path)}") from None
    except OSError as why:
        if why.errno == errno.EBUSY:
            raise PortBusy(f"{path}: another program has this port open. Close it there, then connect again.") from None
        raise LinkError(f"{path}: cannot be opened ({(why.strerror or str(why)).lower()}).") from None
    try:
        if not os.isatty(descriptor):
            raise NoSuchPort(f"{path}: is not a serial port.")
        fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        raise PortBusy(f"{path}: another program has this port open. Close it there, then connect again.") from None
    finally:
        os.close(descriptor)


def permission_hint(path: str) -> str:
    """What gives a person the right to use a device: its group, where one may use it and is not root's; a log-in, where the
    person is in it since; else the device itself."""
    there = os.stat(path)
    may = stat.S_IRGRP | stat.S_IWGRP
    if there.st_gid == 0 or there.st_mode & may != may:
        return (
            f"you have no permission for this port, and no group of users has. Run: sudo chown $USER {path} (until it is "
            "unplugged)."
        )
    try:
        group, members = (found := grp.getgrgid(there.st_gid)).gr_name, found.gr_mem
    except KeyError:
        group, members = str(there.st_gid), []
    if getpass.getuser() in members and there.st_gid not in os.getgroups():
        return f"the group {group} may use this port, and you are in it since you logged in. Log in again."
    return (
        f"you have no permission for this port; the group {group} has. "
        f"Run: sudo usermod -aG {group} $USER, then log in again."
    )


def _try_host(where: str) -> None:
    host, _, port = where.rpartition(":")
    try:
        socket.create_connection((host, int(port)), timeout=2).close()
    except socket.gaierror:
        raise NoSuchPort(f"slcan://{where}: no computer of the name {host} is known here.") from None
    except ConnectionRefusedError:
        raise NobodyAnswers(
            f"slcan://{where}: nothing listens there. Is the bench or the adapter's server running?"
        ) from None
    except OSError as why:
        raise NobodyAnswers(f"slcan://{where}: cannot be reached ({(why.strerror or str(why)).lower()}).") from None


def _open_interface(address: BusAddress) -> Any:
    require_interface(address.where)
    try:
        return can.Bus(interface="socketcan", channel=address.where)
    except (can.CanError, OSError) as why:
        code = getattr(why, "errno", None) or getattr(why, "error_code", None)
        if code == errno.ENETDOWN:
            rate = address.rate
            raise LinkError(
                f"CAN interface {address.where}: is down. Run: sudo ip link set {address.where} up type can bitrate {rate}"
            ) from None
        if code in (errno.EPERM, errno.EACCES):
            raise NoPermission(f"CAN interface {address.where}: you have no permission to use it.") from None
        raise LinkError(f"CAN interface {address.where}: cannot be opened ({why}).") from None
