"""The bench's one loop: frames in, time on, frames out. One thread, so that nothing needs a lock."""

from __future__ import annotations

import json
import logging
import os
import select
import selectors
import signal
import socket
import stat
import sys
import time
import traceback
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..objects.memory import Memory
from ..objects.node import Node
from ..plant.instruments import Toolbox
from ..rigs.rig import Rig
from ..state import TICK
from ..wire.hub import Hub, Line
from ..world import World
from .hands import Hands

if TYPE_CHECKING:
    from ..parts.pieces import Pieces

MOST_TICKS = 1200  # in one round of the loop, so that frames are answered soon; beyond it the rig's clock falls behind
ROUND = 0.002  # s, while something moves at the pace of the room: what stops it is seen by then
IDLE_ROUND = 0.02  # s, while nothing does, or at a quicker pace
ALONE_ROUND = 0.25  # s: the clock stands and no client is there, so that only what comes in is to be done
LONGEST_REQUEST = 65536  # bytes that a hand may say in one line
SLOWEST_READER = 0.2  # s for which the bench waits for whoever does not read


class Server:
    """Listens on two loopback ports (0: any free one) and, if asked, on a pseudo terminal."""

    def __init__(
        self, rig: Rig, *, port: int, hands_port: int, pace: float, seed: int, memory: Path | None, pty: bool
    ) -> None:
        self._world = World(rig, seed)
        self._hub = Hub(self._frame)
        self._node = _controller(self._world, self._hub, Memory(memory))
        self._hands = Hands(self._world, self._node, self._hub, Toolbox(seed), pace)
        self._selector = selectors.DefaultSelector()
        self._hub.dropped = self._selector.unregister
        self._ends = False
        self._behind = 0
        bus, hands = _listen(port), _listen(hands_port)
        self._selector.register(bus, selectors.EVENT_READ, lambda: self._accept_client(bus))
        self._selector.register(hands, selectors.EVENT_READ, lambda: self._accept_hand(hands))
        self.ready: dict[str, Any] = {
            "link": f"slcan://127.0.0.1:{bus.getsockname()[1]}",
            "node": rig.node,
            "hands": f"tcp://127.0.0.1:{hands.getsockname()[1]}",
        }
        if rig.spindle.on_bus and rig.inverter is None:
            drive = _listen(0)
            self._selector.register(drive, selectors.EVENT_READ, lambda: self._accept_drive(drive))
            self.ready["drive"] = f"tcp://127.0.0.1:{drive.getsockname()[1]}"
            if pty:
                self.ready["drive_device"] = self._open_drive_terminal()
        if pty:
            self.ready["device"] = self._open_terminal()

    def _frame(self, identifier: int, data: bytes) -> None:
        """Nothing that is sent ends the firmware: what it stumbles over is said on standard error, and it goes on."""
        try:
            self._node.frame(identifier, data, time.monotonic())
        except Exception:
            traceback.print_exc()
            self._hands.stumbles += 1

    def _open_terminal(self) -> str:
        import tty

        ours, theirs = os.openpty()  # theirs stays open here, so that a client may come and go
        tty.setraw(theirs)
        self._watch(self._hub.add_descriptor(ours))
        return os.ttyname(theirs)

    def _open_drive_terminal(self) -> str:
        """A serial line with the spindle's drive on it."""
        import tty

        from .modbus import DriveBus

        ours, theirs = os.openpty()
        tty.setraw(theirs)
        drive = DriveBus(self._world, lambda: self._hands.pace, rtu=True)
        self._selector.register(ours, selectors.EVENT_READ, lambda: os.write(ours, drive.take(os.read(ours, 4096))))
        return os.ttyname(theirs)

    def _accept_client(self, listener: socket.socket) -> None:
        if (connection := _accepted(listener)) is not None:
            self._watch(self._hub.add_socket(connection))

    def _watch(self, line: Line) -> None:
        def take() -> None:
            if not self._hub.take(line):
                self._hub.drop(line)

        self._selector.register(line.descriptor, selectors.EVENT_READ, take)

    def _accept_hand(self, listener: socket.socket) -> None:
        if (connection := _accepted(listener)) is None:
            return
        buffer = bytearray()

        def answer(data: bytes) -> bytes:
            buffer.extend(data)
            *lines, rest = bytes(buffer).split(b"\n")
            buffer[:] = rest
            if len(rest) > LONGEST_REQUEST:
                raise OSError("a request without end")
            return b"".join(self._hands.answer(line) for line in lines)

        self._serve(connection, answer)

    def _accept_drive(self, listener: socket.socket) -> None:
        from .modbus import DriveBus  # only a rig with such a drive needs the package

        if (connection := _accepted(listener)) is not None:
            self._serve(connection, DriveBus(self._world, lambda: self._hands.pace).take)

    def _serve(self, connection: socket.socket, answer: Callable[[bytes], bytes]) -> None:
        """Answers what comes on a connection until the other side closes it."""
        connection.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        connection.setblocking(False)  # whoever stops reading is left, and stops nobody else

        def take() -> None:
            try:
                data = connection.recv(65536)
                if data:
                    _send(connection, answer(data))
                    return
            except BlockingIOError:
                return
            except OSError:
                pass
            self._selector.unregister(connection)
            connection.close()

        self._selector.register(connection, selectors.EVENT_READ, take)

    def _round(self, now: float) -> float:
        """s until the loop looks at its clocks again where nothing comes in; a frame is answered at once."""
        pace = self._hands.pace
        if not pace and not self._hub.lines:
            return ALONE_ROUND
        if pace and pace <= 1 and self._world.moving:
            return ROUND
        most = MOST_TICKS * TICK / pace / 2 if pace else IDLE_ROUND
        return max(0.0, min(IDLE_ROUND, most, self._node.due - now))

    def _go_on(self, now: float, owed: float, *, least: int = 0) -> tuple[int, float]:
        """Lets the rig's clock run; its ticks, and what is left then of those that it owes."""
        ticks = max(least, int(owed))
        left = owed - ticks
        if ticks > MOST_TICKS:
            self._behind += ticks - MOST_TICKS
            ticks = MOST_TICKS
        if ticks:
            self._hands.note(self._world.run(ticks), now)
        return ticks, left

    def serve(self) -> None:
        """Runs until SIGTERM or SIGINT, or until the parent's pipe on standard input closes."""
        logging.getLogger("canopen").setLevel(
            logging.CRITICAL
        )  # it answers a spoilt request by an abort, and needs no more words
        for number in (signal.SIGTERM, signal.SIGINT):
            signal.signal(number, lambda *_: self._end())
        if stat.S_ISFIFO(os.fstat(0).st_mode):
            self._selector.register(0, selectors.EVENT_READ, self._parent)
        print(json.dumps(self.ready), flush=True)
        now, owed, ticks = time.monotonic(), 0.0, 0
        while not self._ends:
            came = self._selector.select(0 if ticks == MOST_TICKS else self._round(now))
            last, now = now, time.monotonic()
            ticks, owed = self._go_on(now, owed + (now - last) * self._hands.pace / TICK)
            for key, _ in came:
                self._serve_one(key.data)
            if came and self._hands.pace and owed > -1:  # what was told is done before anything is judged by it
                _, owed = self._go_on(now, owed, least=1)
            self._node.tick(now)
            self._hub.flush()
        self._node.keep_count()
        if self._behind:
            print(f"bench: fell {self._behind * TICK:.1f} s of the rig's clock behind", file=sys.stderr)

    def _serve_one(self, take: Callable[[], None]) -> None:
        """Nothing that comes in ends the bench: what it stumbles over is said on standard error, and it goes on."""
        try:
            take()
        except Exception:
            traceback.print_exc()
            self._hands.stumbles += 1

    def _parent(self) -> None:
        if not os.read(0, 4096):
            self._end()

    def _end(self) -> None:
        self._ends = True


def _controller(world: World, hub: Hub, memory: Memory) -> Node | Pieces:
    if world.rig.parts:
        from ..parts.pieces import Pieces

        return Pieces(world, hub, memory)
    return Node(world, hub, memory)


def _accepted(listener: socket.socket) -> socket.socket | None:
    """The next connection; None where it is gone again, or no more can be had."""
    try:
        return listener.accept()[0]
    except OSError:
        return None


def _send(connection: socket.socket, data: bytes) -> None:
    """Raises OSError where the other side does not read."""
    deadline = time.monotonic() + SLOWEST_READER
    while data:
        try:
            data = data[connection.send(data) :]
        except BlockingIOError:
            left = deadline - time.monotonic()
            if left <= 0 or not select.select([], [connection], [], left)[1]:
                raise OSError("the other side does not read") from None


def _listen(port: int) -> socket.socket:
    listener = socket.socket()
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    listener.bind(("127.0.0.1", port))
    listener.listen()
    return listener
