"""Tests mirror src/. They drive the real window and the real bench over its real wire; nothing sleeps."""

from hypothesis import settings

settings.register_profile("idler", deadline=None, derandomize=True, database=None, max_examples=60)
settings.load_profile("idler")
