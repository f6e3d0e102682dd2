"""Geometry: what a dial, a rule and a square tell of the machine itself, each with its uncertainty."""
