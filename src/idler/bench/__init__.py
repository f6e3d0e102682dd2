"""The stand-in controller with its simulated machine (a rig): firmware, plant, instruments, and its server.

A process of its own. Knows the table and the objects of the core, never its motion code, and never link or app.
"""
