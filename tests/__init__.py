"""Tests mirror src/. They drive the real window and the real bench over its real wire; nothing sleeps."""

from hypothesis import settings

from idler.link import times

settings.register_profile("idler", deadline=None, derandomize=True, database=None, max_examples=40)
settings.load_profile("idler")

times.usual = times.Times(
    hold=0.8, terminals=1.0, motion=1.5, confirm=1.2, part=1.0, silence=3.0, answer=6.0, power=10.0, report=0.5
)  # a computer that pauses under tests ends nothing by that; what they prove is what follows from what
