"""A hand device that is none: a socket that speaks the events of one, for trying out and for tests."""

from __future__ import annotations

import contextlib
import json
import re
import socket
import threading
from pathlib import Path

from idler.core.errors import Refusal
from idler.core.hand.assignment import Control, Sort, control_from

from . import sources

WAY = 1000  # of a stick to each side
VENDOR, PRODUCT = 0x1D1E, 0x0001


class SimulatedHand:
    """Listens until it is closed; whoever connects hears what is done from then on."""

    def __init__(self, name: str = "Simulated hand", folder: Path | None = None) -> None:
        """folder: where such devices are looked for."""
        folder = folder or sources.SOCKETS
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        self.path = folder / f"{re.sub('[^A-Za-z0-9]+', '-', name).strip('-').lower() or 'hand'}{sources.ENDING}"
        self.path.unlink(missing_ok=True)
        self._hello = {"name": name, "vendor": VENDOR, "product": PRODUCT,
                       "axes": {str(code): (-WAY, WAY) for code in range(8)}}  # fmt: skip
        self._heard: list[socket.socket] = []
        self._lock, self._closed = threading.Lock(), False
        self._server = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
        self._server.bind(str(self.path))
        self._server.listen()
        threading.Thread(target=self._serve, name="simulated hand", daemon=True).start()

    @property
    def listeners(self) -> int:
        return len(self._heard)

    def _serve(self) -> None:
        while True:
            try:
                client, _ = self._server.accept()
            except OSError:
                return
            try:
                client.sendall(json.dumps(self._hello).encode() + b"\n")
            except OSError:
                client.close()
                continue
            with self._lock:
                if not self._closed:
                    self._heard.append(client)
                    continue
            client.close()  # it was unplugged while this one came

    def say(self, control: Control, value: float) -> None:
        """value: detents of a wheel, −1 to 1 of a stick, 1 or 0 of a button."""
        raw = round(value * WAY) if control.sort is Sort.STICK else int(value)
        line = json.dumps({"type": control.sort.kind, "code": control.code, "value": raw}).encode() + b"\n"
        with self._lock:
            for client in list(self._heard):
                try:
                    client.sendall(line)
                except OSError:
                    self._heard.remove(client)
                    client.close()

    def do(self, words: str) -> None:
        """ "wheel 8 -2", "stick 0 0.5", "button 288 down", "button 288 up". Raises Refusal."""
        name, _, value = words.strip().rpartition(" ")
        control = control_from(name)
        try:
            told = {"down": 1.0, "up": 0.0}.get(value)
            self.say(control, float(value) if told is None else told)
        except ValueError:
            raise Refusal(str(control), f"“{value[:20]}”", "is nothing that it does", "a number, down or up") from None

    def close(self) -> None:
        """As if it were unplugged."""
        with contextlib.suppress(OSError):
            self._server.shutdown(socket.SHUT_RDWR)
        self._server.close()
        self.path.unlink(missing_ok=True)
        with self._lock:
            self._closed = True
            for client in self._heard:
                with contextlib.suppress(OSError):
                    client.shutdown(socket.SHUT_RDWR)
                client.close()
            self._heard.clear()
