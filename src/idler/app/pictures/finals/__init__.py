"""The picture of each final element: a module with its key as its name, and `draw` in it."""
