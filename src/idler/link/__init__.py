"""The client's side of the wire: finds a controller, reads and sends values, moves axes, hears what happens.

One thread owns the bus and is the only one that sends. No Qt; never imports the bench.
"""
