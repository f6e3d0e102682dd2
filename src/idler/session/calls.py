"""What calls the person who stands with their back to the screen."""

from __future__ import annotations

from enum import Enum


class Call(Enum):
    """A procedure asks something; one has come to its end; the machine was stopped, by whomever."""

    QUESTION = "question"
    END = "end"
    STOP = "stop"
