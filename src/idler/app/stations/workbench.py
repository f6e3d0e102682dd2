"""What every station's page is: a workbench that is told when it comes and goes, and shows what moves."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget


class Workbench(QWidget):
    """live: whether something on it moves even while the machine rests, so that it wants every frame."""

    live = False

    def entered(self) -> None:
        """It is on the stage now."""

    def left(self) -> None:
        """Another station is on the stage now."""

    def show_motion(self) -> None:
        """Called at the picture's pace while it is on the stage."""
