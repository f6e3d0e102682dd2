"""Figures that any machine can draw with a pen, what their paper shows, and what must be so before anything runs."""
