"""Moments as people read them, in the time of this computer."""

from __future__ import annotations

import time


def day(when: float) -> str:
    """ "5 Mar 2026". when: seconds since 1970."""
    return time.strftime("%-d %b %Y", time.localtime(when))


def moment(when: float) -> str:
    """ "5 Mar 2026, 14:07"."""
    return time.strftime("%-d %b %Y, %H:%M", time.localtime(when))
