"""Programs made by chance."""

from __future__ import annotations

import numpy as np


def polyline(rng: np.random.Generator, moves: int, *, feed: float = 0.0) -> bytes:
    """Straight moves of the mill's X, Y and Z, long and short, some of them rapid."""
    lines = [f"G21 G90 F{feed or rng.integers(100, 8000)}"]
    place = rng.uniform((20, 20, -60), (280, 180, 10))
    for _ in range(moves):
        if rng.random() < 0.4:
            place = np.clip(place + rng.normal(0, 0.5, 3), (1, 1, -79), (299, 199, 19))
        else:
            place = rng.uniform((20, 20, -60), (280, 180, 10))
        lines.append(f"G{int(rng.random() > 0.2)} X{place[0]:.4f} Y{place[1]:.4f} Z{place[2]:.4f}")
    return "\n".join(lines).encode()


def mixed(rng: np.random.Generator, moves: int) -> bytes:
    """Lines, arcs, helices, an axis that turns, exact stops and tolerances."""
    lines = [f"G21 G90 F{rng.integers(100, 8000)}", "G0 X150 Y100 Z0 A0"]
    for _ in range(moves):
        x, y, z, turn = rng.uniform((20, 20, -60, -90), (280, 180, 10, 90))
        lines.append(
            (
                f"G0 X{x:.3f} Y{y:.3f}",
                f"G{rng.integers(2, 4)} X{x:.3f} Y{y:.3f} R{rng.uniform(400, 900):.3f}",
                f"G{rng.integers(2, 4)} I{rng.uniform(1, 8):.3f} J0",
                f"G1 A{turn:.3f}",
                f"G91 G1 X{rng.normal(0, 0.3):.3f} Y{rng.normal(0, 0.3):.3f}\nG90",
                "G61" if rng.random() < 0.5 else f"G64 P{rng.choice([0.005, 0.02, 0.1, 1])}",
                f"G1 X{x:.3f} Y{y:.3f} Z{z:.3f}",
            )[rng.integers(0, 7)]
        )
    return "\n".join(lines).encode()
