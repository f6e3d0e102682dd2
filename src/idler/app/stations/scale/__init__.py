"""The Scale station: what one unit really is, proven with an instrument."""
