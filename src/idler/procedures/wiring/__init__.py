"""Inputs and outputs: learned by touching, tried, and listened to; signals between controller and drives."""
