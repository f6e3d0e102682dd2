"""Idler: carries a machine builder's knowledge to a CNC controller, and proves it by moving."""

__version__ = "0.1.0"
