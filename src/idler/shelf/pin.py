"""The PIN of a machine's set-up: kept as a scrypt hash (RFC 7914) that only its owner may read, and in no revision.

DIR/locks/NAME.toml    the hash, and how often it was tried wrongly. That a machine is locked stands among its revisions, so
                       that taking the PIN away leaves a mark.
"""

from __future__ import annotations

import hashlib
import hmac
import math
import os
from pathlib import Path

from idler.core.errors import About, IdlerError, Refusal
from idler.core.machine import filedata
from idler.core.values.units import several

from .files import read_text, removed, understood, write_text

SHORTEST, LONGEST = 4, 64
FREE_TRIES, LONGEST_DELAY = 3, 300.0
_COST, _BLOCK, _PARALLEL = 1 << 14, 8, 1  # 16 MiB and about 50 ms for each guess


def checked(pin: str) -> str:
    """A PIN that may be used. Raises Refusal."""
    if not SHORTEST <= len(pin) <= LONGEST or pin.strip() != pin:
        raise Refusal("The PIN", "", "cannot be used", f"{SHORTEST} to {LONGEST} characters, no space at either end")
    return pin


def lock_text(pin: str) -> str:
    """The file of a lock. Raises Refusal for a PIN that may not be used."""
    salt = os.urandom(16)
    return (
        "# The set-up of this machine is locked with a PIN. Forgotten: idler unlock NAME --forgotten\n"
        f'[scrypt]\nsalt = "{salt.hex()}"\ncost = {_COST}\nblock = {_BLOCK}\nparallel = {_PARALLEL}\n'
        f'hash = "{_hash(checked(pin), salt, _COST, _BLOCK, _PARALLEL)}"\n'
    )


class Locked(IdlerError):
    """The set-up of a machine is locked with a PIN."""

    about = About.LOCKED


class TooSoon(Locked):
    """A PIN was tried wrongly just now: the next try waits."""


def delay(wrong: int) -> float:
    """Seconds that the next try waits after so many wrong ones in a row: none after the first three, then twice as long
    each time."""
    return 0.0 if wrong < FREE_TRIES else min(LONGEST_DELAY, 2.0 ** (wrong - FREE_TRIES + 1))


def tried(path: Path, pin: str, when: float) -> bool:
    """Whether a PIN is the one of a lock; a wrong one is counted. when: seconds since 1970. Raises TooSoon, IdlerError."""
    counts = path.with_suffix(".tries")
    wrong, last = _tries(counts)
    left = last + delay(wrong) - when
    if 0 < left <= LONGEST_DELAY:
        raise TooSoon(f"The PIN was wrong {several(wrong, 'time')}. The next try is possible in {math.ceil(left)} s.")
    if opens(path, pin):
        removed(counts)
        return True
    write_text(counts, f"wrong = {wrong + 1}\nlast = {when}\n", private=True)
    return False


def _tries(path: Path) -> tuple[int, float]:
    if not path.exists():
        return 0, 0.0
    with understood("tries of the PIN", path, "Take the PIN away with “./idler unlock”."):
        kept = filedata.toml(read_text(path))
        return int(kept["wrong"]), float(kept["last"])


def opens(path: Path, pin: str) -> bool:
    """Whether a PIN is the one of a lock. A lock that cannot be read is opened by nothing: raises IdlerError."""
    with understood("lock", path, "Take the PIN away with “./idler unlock NAME --forgotten”."):
        kept = filedata.toml(read_text(path))["scrypt"]
        cost, block, parallel = (int(kept[key]) for key in ("cost", "block", "parallel"))
        made = _hash(pin, bytes.fromhex(str(kept["salt"])), cost, block, parallel)
        return hmac.compare_digest(made, str(kept["hash"]))


def _hash(pin: str, salt: bytes, cost: int, block: int, parallel: int) -> str:
    return hashlib.scrypt(pin.encode(), salt=salt, n=cost, r=block, p=parallel, maxmem=1 << 26).hex()
