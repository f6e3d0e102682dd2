"""Draws very many strokes into a picture, with soft edges; compiled, for a million of them are to be drawn while one looks."""

from __future__ import annotations

import math

import numpy as np

from idler.compiling import compiler
from idler.core.program.state import Array

from .shades import RAPID

compiled = compiler("pictures", __file__, ("raster.py", "shades.py"))

DASH = 7.0  # pixels of a rapid that are drawn, and that are left out
FAINT = 150  # of 255: how strongly a stroke shorter than a pixel is drawn


@compiled
def _dot(cover: Array, shades: Array, x: int, y: int, strength: float, shade: int) -> None:
    """Covers a pixel, where nothing covers it more. What is fed goes over what is rapid."""
    if 0 <= x < cover.shape[1] and 0 <= y < cover.shape[0]:
        value = min(255, int(strength * 255))
        old = shades[y, x]
        if shade != RAPID and old == RAPID and cover[y, x] > 0 and value > 40:
            cover[y, x], shades[y, x] = max(value, cover[y, x]), shade
        elif value >= cover[y, x] and not (shade == RAPID and old != RAPID and cover[y, x] > 60):
            cover[y, x], shades[y, x] = value, shade


@compiled
def draw(points: Array, rapid: Array, shade_of: Array, first: int, last: int, view: Array, width: float, cover: Array,
         shades: Array) -> None:  # fmt: skip
    """Strokes first to last, without it. view: column of x, scale, offset; column of y, scale, offset, in pixels.

    Each step along the longer side covers two pixels across, by how near their middles are (a line of one pixel); wider lines
    cover `width` of them fully.
    """
    a, b = int(view[0]), int(view[3])
    high, wide = cover.shape
    for at in range(first, last):
        x0, y0 = points[at, a] * view[1] + view[2], points[at, b] * view[4] + view[5]
        x1, y1 = points[at + 1, a] * view[1] + view[2], points[at + 1, b] * view[4] + view[5]
        if max(x0, x1) < -2 or max(y0, y1) < -2 or min(x0, x1) > wide + 2 or min(y0, y1) > high + 2:
            continue
        shade = RAPID if rapid[at] else shade_of[at]
        dx, dy = x1 - x0, y1 - y0
        long = max(abs(dx), abs(dy))
        if long < 1.0:
            _dot(cover, shades, int(x1), int(y1), FAINT / 255, shade)
            continue
        flat = abs(dx) >= abs(dy)
        thick = 1.0 if shade == RAPID else width
        length = math.hypot(dx, dy)
        begin, end = 0.0, long
        edge = wide if flat else high
        begins, way = (x0, dx) if flat else (y0, dy)
        if begins < 0 or begins > edge or begins + way < 0 or begins + way > edge:  # only what is to be seen of it
            near, far = (0.0 - begins) / way * long, (edge - begins) / way * long
            begin, end = max(0.0, min(near, far)), min(long, max(near, far))
        for step in range(int(begin), int(end) + 1):
            gone = min(1.0, step / long)
            if shade == RAPID and int(gone * length / DASH) % 2:
                continue
            x, y = x0 + gone * dx, y0 + gone * dy
            across = y if flat else x
            low = across - thick / 2
            for pixel in range(int(math.floor(low)), int(math.floor(low + thick)) + 1):
                strength = min(pixel + 1.0, low + thick) - max(float(pixel), low)
                if strength > 0.04:
                    if flat:
                        _dot(cover, shades, int(x), pixel, min(1.0, strength), shade)
                    else:
                        _dot(cover, shades, pixel, int(y), min(1.0, strength), shade)


@compiled
def _colour(cover: Array, shades: Array, palette: Array, made: Array) -> None:
    for y in range(cover.shape[0]):
        for x in range(cover.shape[1]):
            part = np.int64(cover[y, x])
            pixel = part << 24
            if part:
                shade = shades[y, x]
                for at in range(3):
                    pixel |= part * palette[shade, at] // 255 << (16 - 8 * at)
            made[y, x] = pixel


def coloured(cover: Array, shades: Array, palette: Array) -> Array:
    """Pixels as 0xAARRGGBB, premultiplied. palette: (256, 3) red, green, blue by shade."""
    made: Array = np.empty(cover.shape, np.uint32)
    _colour(cover, shades, palette, made)
    return made


def warm_up() -> None:
    """Compiles it, or takes it from the cache."""
    cover, shades = (np.zeros((8, 8), np.uint8) for _ in range(2))
    draw(
        np.ones((2, 3), np.float32), np.zeros(1, np.bool_), np.zeros(1, np.uint8), 0, 1, np.ones(6), 1.0, cover, shades
    )
    coloured(cover, shades, np.zeros((256, 3), np.uint8))
