"""What hand devices are assigned to: a file for each kind, shared by all machines of a shelf."""

from __future__ import annotations

import tomllib
from pathlib import Path

from idler.core.errors import Refusal
from idler.core.hand.assignment import DeviceProfile, profile_from, profile_table

from .files import FileTrouble, read_text, write_text


def _path(root: Path, vendor: int, product: int) -> Path:
    return root / "hands" / f"{vendor:04x}-{product:04x}.toml"


def device_profile(root: Path, vendor: int, product: int, name: str) -> DeviceProfile:
    """What was kept, or one with nothing assigned. Raises FileTrouble."""
    path = _path(root, vendor, product)
    if not path.exists():
        return DeviceProfile(vendor, product, name)
    try:
        return profile_from(tomllib.loads(read_text(path)))
    except (Refusal, ValueError, TypeError, KeyError) as why:
        raise FileTrouble(f"{path}: says nothing that a hand device does ({why}). Nothing is assigned.") from None


def save_device_profile(root: Path, profile: DeviceProfile) -> None:
    """Raises FileTrouble."""
    import tomli_w

    path = _path(root, profile.vendor, profile.product)
    path.parent.mkdir(parents=True, exist_ok=True)
    write_text(path, tomli_w.dumps(profile_table(profile)))
