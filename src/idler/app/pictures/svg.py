"""A drawing in SVG as a picture in points."""

from __future__ import annotations

import os

from PySide6.QtCore import QBuffer, QByteArray, Qt
from PySide6.QtGui import QGuiApplication, QImage, QImageWriter, QPainter
from PySide6.QtSvg import QSvgRenderer

LARGER = 2  # points for each unit of the drawing


def png_of(svg: bytes) -> bytes:
    """Needs no window and no screen."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    _application = QGuiApplication.instance() or QGuiApplication([])
    renderer = QSvgRenderer(QByteArray(svg))
    image = QImage(renderer.defaultSize() * LARGER, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.white)
    painter = QPainter(image)
    renderer.render(painter)
    painter.end()
    buffer = QBuffer()
    buffer.open(QBuffer.OpenModeFlag.WriteOnly)
    QImageWriter(buffer, QByteArray(b"png")).write(image)
    return bytes(buffer.data().data())
