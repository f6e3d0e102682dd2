"""The Geometry station."""
