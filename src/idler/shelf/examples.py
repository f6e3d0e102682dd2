"""The machine files that Idler comes with."""

from __future__ import annotations

from importlib import resources


def examples() -> dict[str, str]:
    """Texts by name."""
    data = resources.files("idler") / "data"
    names = sorted(file.name.removesuffix(".toml") for file in data.iterdir() if file.name.endswith(".toml"))
    return {name: (data / f"{name}.toml").read_text("utf-8") for name in names}
