"""A jig on paper: A4 pages as PDF with title, notation and the bow plan's words."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QByteArray, QMarginsF, QRectF, Qt
from PyQt6.QtGui import QPageSize, QPainter, QPdfWriter
from PyQt6.QtSvg import QSvgRenderer

from jigwright.core.jig.model import Jig
from jigwright.services.engraving import engrave_request
from jigwright.services.jobs import PagesRequest
from jigwright.services.notation import coloured
from jigwright.ui.tasks import JobRunner
from jigwright.ui.theme import LIGHT, sans, serif
from jigwright.wording.catalogue import tr
from jigwright.wording.errors import error_sentence
from jigwright.wording.makers import kind_name

_WIDTH_PX, _HEIGHT_PX = 780.0, 960.0


def print_jig(jobs: JobRunner, jig: Jig, path: Path, *, said: Callable[[str], None]) -> None:
    """Engrave pages in the worker and write the PDF, complete or not at all."""
    request = PagesRequest(
        engrave=engrave_request(jig, scale=40, target_width=_WIDTH_PX, wrap=True),
        page_height=_HEIGHT_PX,
    )

    def done(pages: tuple[str, ...]) -> None:
        try:
            write_pdf(jig, pages, path)
        except OSError as error:
            said(error_sentence(error))
            return
        said(tr("Saved as {name}.").format(name=path.name))

    jobs.run("engrave_pages", request, done=done, failed=lambda e: said(error_sentence(e)))


def write_pdf(jig: Jig, pages: tuple[str, ...], path: Path) -> None:
    """Write engraved pages.

    Raises
    ------
    OSError
        If the file cannot be written.
    """
    part = path.with_name(f".{path.name}.part")
    part.touch()
    writer = QPdfWriter(str(part))
    writer.setTitle(jig.title)
    writer.setCreator("Jigwright")
    writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
    writer.setPageMargins(QMarginsF(15, 15, 15, 15))
    painter = QPainter(writer)
    full = QRectF(painter.viewport())
    scale = full.width() / _WIDTH_PX
    painter.scale(scale, scale)
    for i, svg in enumerate(pages):
        if i:
            writer.newPage()
        painter.setPen(LIGHT.color("ink"))
        top = 0.0
        if i == 0:
            painter.setFont(serif(26))
            painter.drawText(QRectF(0, 0, _WIDTH_PX, 40), Qt.AlignmentFlag.AlignLeft, jig.title)
            painter.setFont(sans(13))
            painter.setPen(LIGHT.color("ink2"))
            about = f"{kind_name(jig.instrument_id)}, ♩ = {round(jig.tempo_bpm)}"
            painter.drawText(QRectF(0, 42, _WIDTH_PX, 24), Qt.AlignmentFlag.AlignLeft, about)
            top = 74.0
        renderer = QSvgRenderer(
            QByteArray(coloured(svg, ink=LIGHT.ink, faint=LIGHT.faint).encode())
        )
        size = renderer.viewBoxF().size()
        height = _WIDTH_PX * size.height() / max(size.width(), 1.0)
        renderer.render(painter, QRectF(0, top, _WIDTH_PX, height))
    painter.end()
    part.replace(path)
