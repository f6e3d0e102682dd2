"""The digits at a place of a text, up to eight of them at once: a loop over them costs most where its end is not foreseen."""

from __future__ import annotations

import sys
from collections.abc import Callable
from typing import Any

import numpy as np
from numba import types
from numba.extending import intrinsic

from .compiled import inlined
from .state import Array

AT_ONCE = 8  # signs
_ZEROS = np.uint64(0x3030303030303030)  # eight times "0"
_BEYOND_NINE = np.uint64(0x7676767676767676)  # sets the high bit of a byte above 9
_HIGH_BITS = np.uint64(0x8080808080808080)
_PAIRS, _FOURS = np.uint64(0x00FF00FF00FF00FF), np.uint64(0x0000FFFF0000FFFF)
_TEN, _HUNDRED, _MYRIAD = np.uint64(10), np.uint64(100), np.uint64(10_000)
_ONE_BYTE, _TWO_BYTES, _FOUR_BYTES = np.uint64(8), np.uint64(16), np.uint64(32)
_LOW_HALF = np.uint64(0xFFFFFFFF)

_made_by: Callable[[Callable[..., Any]], Any] = intrinsic  # of its type stubs a call knows nothing


@_made_by
def _eight(_typing: Any, text: Any, at: Any) -> tuple[Any, Callable[..., Any]]:
    """The eight signs from this place on as one number, the first of them lowest. There have to be so many."""

    def load(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        array = context.make_array(signature.args[0])(context, builder, arguments[0])
        place = builder.gep(array.data, [arguments[1]])
        number = builder.load(builder.bitcast(place, context.get_value_type(types.uint64).as_pointer()))
        number.align = 1
        return number if sys.byteorder == "little" else builder.bswap(number)

    return types.uint64(text, at), load


@_made_by
def _zeros_below(_typing: Any, number: Any) -> tuple[Any, Callable[..., Any]]:
    """How many bits below the lowest one that is set; 64 where none is."""

    def count(context: Any, builder: Any, _signature: Any, arguments: Any) -> Any:
        return builder.cttz(arguments[0], context.get_constant(types.boolean, False))

    return types.int64(types.uint64), count


@inlined
def digits_at(text: Array, at: int) -> tuple[np.int64, int]:
    """The number that the digits from here on are, and how many they are; AT_ONCE where they may be more.

    Neighbours are joined to pairs, pairs to fours, fours to eight; what is no digit is shifted out, and stands for zeros in
    front. There have to be AT_ONCE signs.
    """
    signs = _eight(text, at) ^ _ZEROS
    count = _zeros_below(((signs + _BEYOND_NINE) | signs) & _HIGH_BITS) >> 3
    if count == 0:
        return np.int64(0), 0
    signs <<= np.uint64(64 - 8 * count)
    pairs = (signs * _TEN + (signs >> _ONE_BYTE)) & _PAIRS
    fours = (pairs * _HUNDRED + (pairs >> _TWO_BYTES)) & _FOURS
    return np.int64((fours * _MYRIAD + (fours >> _FOUR_BYTES)) & _LOW_HALF), count
