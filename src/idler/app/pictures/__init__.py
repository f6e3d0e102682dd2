"""Painted pictures: geometry comes from pure functions, then it is painted."""
