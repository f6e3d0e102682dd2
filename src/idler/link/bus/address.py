"""Addresses of controllers: slcan://HOST:PORT, a serial device, or a SocketCAN interface. And what is there to find."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from pathlib import Path

from idler.core.controller.parts import parse_parts
from idler.core.errors import Refusal

from ..errors import LinkError, NoSuchPort

DEFAULT_BIT_RATE = 500_000
BIT_RATES = (1_000_000, 800_000, 500_000, 250_000, 125_000, 100_000, 50_000, 20_000, 10_000)
RATES_MET = (500_000, 250_000, 1_000_000, 125_000, 100_000, 50_000)  # in the order in which they are met
_NET = Path("/sys/class/net")
_CAN_HARDWARE = "280"  # ARPHRD_CAN


@dataclass(frozen=True)
class BusAddress:
    """kind: "tcp", "serial" or "socketcan". where: host:port, device path or interface name. rate in bit/s.

    node: the number of the controller, 0 where it is to be found. parts: which nodes make it, where it is made of plain ones
    (idler.core.controller.parts).
    """

    kind: str
    where: str
    rate: int = DEFAULT_BIT_RATE
    node: int = 0
    parts: str = ""

    def __str__(self) -> str:
        text = f"slcan://{self.where}" if self.kind == "tcp" else self.where
        more = [f"bitrate={self.rate}"] if self.rate != DEFAULT_BIT_RATE else []
        more += [f"node={self.node}"] if self.node else []
        more += [f"parts={self.parts}"] if self.parts else []
        return text + ("?" + "&".join(more) if more else "")

    @property
    def bit_rate_words(self) -> str:
        """Behind a name; nothing for an interface, whose bit rate the system has set."""
        return "" if self.kind == "socketcan" else f", {self.rate // 1000} kbit/s"

    @property
    def nobody(self) -> str:
        """That no controller answers, and what to do: the bit rate of an interface is the system's, of an adapter ours."""
        asked = "no controller answers" + (f" as node {self.node}" if self.node else "")
        other = next(rate for rate in RATES_MET if rate != self.rate)
        if self.kind == "socketcan":
            return (
                f"{asked}. Check its power, the bus ends, and the bit rate of the interface. Run: sudo ip link set "
                f"{self.where} down && sudo ip link set {self.where} up type can bitrate {other}"
            )
        tried = str(replace(self, rate=other))
        return (
            f"{asked} at {self.rate // 1000} kbit/s. Check its power, the bus ends, and the bit rate: write {tried} to try "
            "another."
        )

    def of_node(self, node: int) -> BusAddress:
        return replace(self, node=node)

    def of_parts(self, parts: str) -> BusAddress:
        """Raises LinkError where these are no parts."""
        try:
            return replace(self, parts=str(parse_parts(parts)) if parts else "")
        except Refusal as why:
            raise LinkError(f"Address {self}: {why.sentence}") from None


def parse(text: str) -> BusAddress:
    """Reads an address; "?bitrate=250000", "?node=5" and "?parts=1=X,2=Y" may follow it, with & between them. Raises
    LinkError with what it should look like."""
    where, _, query = text.strip().partition("?")
    rate, node, parts = DEFAULT_BIT_RATE, 0, ""
    for piece in query.split("&") if query else ():
        name, _, value = piece.partition("=")
        number = int(value) if value.isdecimal() and len(value) < 8 else 0
        if name == "bitrate" and number in BIT_RATES:
            rate = number
        elif name == "node" and 1 <= number <= 127:
            node = number
        elif name == "parts":
            parts = value
        else:
            known = ", ".join(str(known) for known in BIT_RATES)
            ways = f"?bitrate= and one of {known}, ?node= and a number from 1 to 127, or ?parts= as 1=X,2=Y"
            raise LinkError(f"Address {text.strip()[:60]}: “{piece[:40]}” is not understood. Write {ways}.")
    if found := re.fullmatch(r"slcan://([^\s:/]+):(\d{1,5})", where):
        if not 0 < int(found[2]) < 65536:
            raise LinkError(f"Address {text}: port {found[2]} is not from 1 to 65535.")
        return BusAddress("tcp", f"{found[1]}:{found[2]}", rate, node).of_parts(parts)
    if where.startswith("/"):
        return BusAddress("serial", where, rate, node).of_parts(parts)
    if re.fullmatch(r"[A-Za-z][A-Za-z0-9_.-]{0,14}", where):
        return BusAddress("socketcan", where, rate, node).of_parts(parts)
    raise LinkError(
        f"Address “{text.strip()[:60]}” is not understood. Write a serial device (/dev/ttyACM0), "
        "a CAN interface (can0), or slcan://HOST:PORT."
    )


@dataclass(frozen=True)
class Found:
    """A place where a controller may be: its address and what the system says about it."""

    address: str
    what: str


def interfaces() -> list[str]:
    """Names of the CAN interfaces of this computer."""
    found = []
    for entry in sorted(_NET.iterdir()) if _NET.exists() else []:
        try:
            if (entry / "type").read_text().strip() == _CAN_HARDWARE:
                found.append(entry.name)
        except OSError:
            continue
    return found


def search() -> list[Found]:
    """Serial devices and CAN interfaces of this computer, adapters that look like serial CAN first."""
    from serial.tools import list_ports

    found = [Found(name, "CAN interface") for name in interfaces()]
    ports = sorted(list_ports.comports(), key=lambda port: (port.vid is None, port.device))
    found += [Found(port.device, port.description or "serial port") for port in ports if port.vid is not None]
    return found


def require_interface(name: str) -> None:
    """Raises NoSuchPort where no CAN interface has this name."""
    there = interfaces()
    if name not in there:
        known = (
            f"Here are: {', '.join(there)}"
            if there
            else "This computer shows no CAN interface; is the adapter plugged in?"
        )
        raise NoSuchPort(f"CAN interface {name}: is not there. {known}")
