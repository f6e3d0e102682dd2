"""Inputs that nobody should send: for both ports of the bench and for every reader of a file or a text."""

from __future__ import annotations

import json
import random
import socket
from collections.abc import Iterator

from tests.support import Bench

_ODD = (b"", b"\0", b"\xff" * 8, b"1e400", b"[" * 200, b'{"do":' * 50, b"-1", b"NaN", b"9" * 50)
_DOES = (
    "look", "zero", "read", "press", "release", "break", "loosen", "sound", "jam", "free", "push", "belt", "spin", "tachometer",
    "trip", "restore", "fault", "events", "pace", "nothing",
)  # fmt: skip
_VALUES = (
    None,
    True,
    -1,
    0,
    1,
    10**30,
    1.5,
    -1e308,
    "X",
    "X home",
    "",
    "dial",
    [],
    {},
    [[]] * 3,
    "caliper",
    "clip",
    "deg",
)


def frames(dice: random.Random, node: int, number: int) -> Iterator[bytes]:
    """Lines of a serial CAN adapter: mostly frames to the node in every service, some that are no frames."""
    bases = (0x000, 0x080, 0x180, 0x200, 0x300, 0x400, 0x500, 0x580, 0x600, 0x600, 0x600, 0x700)
    places = (0x1000, 0x1010, 0x1011, 0x1016, 0x1400, 0x1800, 0x2002, 0x200B, 0x4001, 0x6040, 0x607A, 0x60FF, 0x7FFF)
    for _ in range(number):
        kind = dice.random()
        if kind < 0.1:
            yield dice.choice(_ODD) + bytes(dice.randrange(256) for _ in range(dice.randrange(20)))
            continue
        identifier = (dice.choice(bases) + dice.choice((node, node, node, 0, dice.randrange(128)))) & 0x7FF
        size = 8 if kind < 0.8 else dice.randrange(9)
        data = bytearray(dice.randrange(256) for _ in range(size))
        if identifier & 0x780 == 0x600 and size == 8:
            data[0] = dice.choice(
                (0x40, 0x23, 0x2B, 0x2F, 0x60, 0x70, 0x80, 0xA0, 0xA1, 0xA2, 0xA3, 0xA4, 0xC2, data[0])
            )
            place = dice.choice(places)
            data[1:4] = bytes((place & 0xFF, place >> 8, dice.choice((0, 1, 2, 255))))
        if identifier == 0 and size > 1 and data[0] in (0x81, 0x82):
            continue  # a restart is silent for a while; it has tests of its own
        yield b"t%03X%d%s" % (identifier, size, bytes(data).hex().upper().encode())


def hands(dice: random.Random, number: int) -> Iterator[bytes]:
    """Lines to the bench's hands."""
    for _ in range(number):
        if dice.random() < 0.2:
            yield dice.choice(_ODD) + bytes(dice.randrange(32, 256) for _ in range(dice.randrange(30)))
            continue
        keys = ("axis", "switch", "instrument", "place", "turns", "kind", "after", "factor")
        asked = {key: dice.choice(_VALUES) for key in dice.sample(keys, dice.randrange(len(keys)))}
        asked["do"] = dice.choice(_DOES)
        if asked["do"] == "pace":
            asked["factor"] = dice.choice((-1, 1e308, "fast", None))
        if asked["do"] == "fault":
            asked["kind"] = "none"  # what is planned would spoil the count of answers
        yield json.dumps(asked).encode()


def pour(bench: Bench, dice: random.Random, number: int) -> None:
    """So many inputs at each port, in pieces that end anywhere; a client that does not read its answers among them."""
    deaf = socket.create_connection(("127.0.0.1", bench.port))
    deaf.sendall(b"S6\rO\r")
    with deaf, socket.create_connection(("127.0.0.1", bench.port)) as line:
        line.settimeout(30)
        line.sendall(b"S6\rO\r")
        for begin in range(0, number, 200):
            text = b"\r".join(frames(dice, bench.node, min(200, number - begin))) + b"\rV\r"
            for at in range(0, len(text), 997):
                line.sendall(text[at : at + 997])
            said = b""
            while b"V1013\r" not in said:
                said = said[-8:] + line.recv(65536)
    host, port = bench.ready["hands"].removeprefix("tcp://").split(":")
    with socket.create_connection((host, int(port))) as hand:
        hand.settimeout(30)
        for begin in range(0, number, 100):
            lines = [line.replace(b"\n", b" ") for line in hands(dice, min(100, number - begin))]
            hand.sendall(b"\n".join(lines) + b"\n")
            answers = b""
            while answers.count(b"\n") < len(lines):
                answers += hand.recv(65536)
