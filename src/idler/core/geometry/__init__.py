"""Geometry: what a dial, a rule and a square tell of the machine itself, each with its uncertainty."""


def not_told(expanded: float, tolerance: float, known: str, wanted: str) -> str:
    """Why a measurement does not tell: it is coarser than what is wanted, or what was found lies too near to its bound. known,
    wanted: both in words, with their units."""
    if expanded > tolerance:
        return f"It is known to {known}, and {wanted} are wanted."
    return f"It is known to {known}, and lies so near to the {wanted} that are wanted that it may be within or beyond."
