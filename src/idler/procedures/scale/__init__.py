"""The scale of an axis, measured."""
