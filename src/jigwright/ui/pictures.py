"""Pictures as files: SVG or PNG by the suffix, complete or not at all."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtSvg import QSvgGenerator

from jigwright.wording.catalogue import tr

Paint = Callable[[QPainter, QRectF], None]


def picture_image(paint: Paint, width: float, height: float, *, scale: float = 2.0) -> QImage:
    """Paint a picture into pixels, ``scale`` times finer than on the screen."""
    image = QImage(round(width * scale), round(height * scale), QImage.Format.Format_ARGB32)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    painter.scale(scale, scale)
    paint(painter, QRectF(0, 0, width, height))
    painter.end()
    return image


def save_picture(path: Path, title: str, paint: Paint, width: float, height: float) -> str:
    """Save a picture and return what to say of it; on failure nothing is left behind."""
    part = path.with_name(f".{path.name}.part")
    try:
        part.touch()  # says what is wrong with the place before anything is painted
        if path.suffix.lower() == ".png":
            if not picture_image(paint, width, height).save(str(part), "PNG"):
                raise OSError(5, tr("The picture could not be written"))
        else:
            generator = QSvgGenerator()
            generator.setFileName(str(part))
            generator.setSize(QSize(round(width), round(height)))
            generator.setViewBox(QRectF(0, 0, width, height))
            generator.setTitle(title)
            painter = QPainter(generator)
            paint(painter, QRectF(0, 0, width, height))
            painter.end()
        part.replace(path)
    except OSError as error:
        part.unlink(missing_ok=True)
        return tr("{what}. Nothing was changed.").format(what=error.strerror)
    return tr("Saved as {name}.").format(name=path.name)
