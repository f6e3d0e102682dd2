"""What a machine is: its values, their units, what follows from them, and what is wrong with them.

No Qt, no I/O, no clock of its own, no threads. Everything here is pure and is tested on its own.
"""
