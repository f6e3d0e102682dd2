"""Runs of the spindle."""
