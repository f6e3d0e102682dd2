"""The PIN of a machine's set-up: kept as a scrypt hash (RFC 7914) among the revisions, so that taking it away leaves a mark.

DIR/machines/locks/NAME.toml
"""

from __future__ import annotations

import hashlib
import hmac
import os
from pathlib import Path

from idler.core import filedata
from idler.core.errors import Refusal

from .files import read_text, understood

SHORTEST, LONGEST = 4, 64
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


def opens(path: Path, pin: str) -> bool:
    """Whether a PIN is the one of a lock. A lock that cannot be read is opened by nothing: raises IdlerError."""
    with understood("lock", path, "See “A forgotten PIN” in the README."):
        kept = filedata.toml(read_text(path))["scrypt"]
        cost, block, parallel = (int(kept[key]) for key in ("cost", "block", "parallel"))
        made = _hash(pin, bytes.fromhex(str(kept["salt"])), cost, block, parallel)
        return hmac.compare_digest(made, str(kept["hash"]))


def _hash(pin: str, salt: bytes, cost: int, block: int, parallel: int) -> str:
    return hashlib.scrypt(pin.encode(), salt=salt, n=cost, r=block, p=parallel, maxmem=1 << 26).hex()
