"""The values of a controller at once, read as a block: 200Bh:01 those that it holds, 200Bh:02 those in force of the ones
that wait for a restart.

Each is a zlib stream (RFC 1950) of a concise device configuration as CiA 302-3 has it for 1F22h: the number of entries (U32),
then of each its index (U16), sub-index (U8), the number of its bytes (U32) and the bytes, all low byte first.
"""

from __future__ import annotations

import struct
import zlib
from collections.abc import Mapping

from .codec import Place

VALUES, IN_FORCE = Place(0x200B, 1), Place(0x200B, 2)
_COUNT, _ENTRY = struct.Struct("<I"), struct.Struct("<HBI")
_LONGEST = 1 << 20


def pack_values(values: Mapping[Place, bytes]) -> bytes:
    parts = [_COUNT.pack(len(values))]
    for place, data in values.items():
        parts += (_ENTRY.pack(place.index, place.sub, len(data)), data)
    return zlib.compress(b"".join(parts))


def unpack_values(data: bytes) -> dict[Place, bytes]:
    """Raises ValueError for what is no such stream, or was cut or spoilt."""
    try:
        stream = zlib.decompressobj()
        whole = stream.decompress(data, _LONGEST)
        (count,) = _COUNT.unpack_from(whole)
        at, found = _COUNT.size, {}
        for _ in range(count):
            index, sub, size = _ENTRY.unpack_from(whole, at)
            at += _ENTRY.size + size
            found[Place(index, sub)] = whole[at - size : at]
    except (zlib.error, struct.error) as why:
        raise ValueError(f"no values of a controller: {why}") from None
    if not stream.eof or at != len(whole) or len(found) != count:
        raise ValueError("no values of a controller: their number does not fit what follows")
    return found
