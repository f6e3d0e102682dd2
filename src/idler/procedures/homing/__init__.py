"""Homing, its record, and homing again and again."""
