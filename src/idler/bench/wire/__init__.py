"""Frames between a client and whatever answers on the bench's bus, and mischief done to them."""
