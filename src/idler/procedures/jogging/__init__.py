"""Moves that a hand asks for: buttons, keys, a device with wheels, a distance."""
