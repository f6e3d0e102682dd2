"""Shades of the strokes of a path: most go along a palette, two say what they are."""

SHADES = 253  # the last one of the palette
BEYOND = 254  # beyond an end of the machine
RAPID = 255
