"""One printed page: what was worked on, what changed, what is next."""

from __future__ import annotations

from html import escape
from pathlib import Path

from PyQt6.QtCore import QMarginsF, QRectF
from PyQt6.QtGui import QPageSize, QPainter, QPdfWriter, QTextDocument

from jigwright.ui.painting.takeprint import paint_take_print
from jigwright.ui.painting.trend import paint_trend
from jigwright.ui.theme import LIGHT, sans
from jigwright.ui.viewmodels.daybook.daybook_model import DaybookModel
from jigwright.wording.catalogue import tr
from jigwright.wording.daybook import change_sentence, figure_name
from jigwright.wording.findings import finding_advice, finding_sentence, finding_title

_WIDTH, _HEIGHT = 780.0, 1120.0
_MOST_DAYS = 10


def write_report(
    model: DaybookModel, player: str, path: Path, *, first: str = "", last: str = "9999-12-31"
) -> None:
    """Write the page about the days from ``first`` to ``last``, complete or not at all.

    Raises
    ------
    OSError
        If it cannot be written.
    """
    part = path.with_name(f".{path.name}.part")
    part.touch()
    writer = QPdfWriter(str(part))
    writer.setTitle(tr("Practice report"))
    writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
    writer.setPageMargins(QMarginsF(15, 15, 15, 15))
    painter = QPainter(writer)
    scale = painter.viewport().width() / _WIDTH
    painter.scale(scale, scale)
    used = _text(painter, _head(model, player, first, last), 0.0)
    used = _findings(painter, model, used, first, last)
    used = _text(painter, _changed(), used)
    for jig_id, title in model.trend_jigs()[:3]:
        points = model.trend(jig_id, "off_cents")
        if len(points) < 3 or used > _HEIGHT - 260:
            continue
        change = model.change(points)
        day = points[change.at].day if change is not None else ""
        words = change_sentence(
            change, "off_cents", day, len(points), cut=any(p.cut_before for p in points)
        )
        used = _text(painter, f"<h3>{escape(title)}</h3><p>{escape(words)}</p>", used)
        painter.save()
        paint_trend(
            painter, QRectF(0, used, _WIDTH, 150), [p.value for p in points],
            [p.day for p in points], [p.cut_before for p in points], change, LIGHT, zero=True,
        )  # fmt: skip
        painter.restore()
        used += 156
    _text(painter, _next(model, first, last), used)
    painter.end()
    part.replace(path)


def _text(painter: QPainter, html: str, top: float) -> float:
    document = QTextDocument()
    document.setDefaultFont(sans(14))
    document.setTextWidth(_WIDTH)
    # a page is white paper, whatever the window's colours are
    document.setHtml(f'<body style="color:{LIGHT.ink}">{html}</body>')
    painter.save()
    painter.translate(0, top)
    document.drawContents(painter)
    painter.restore()
    return top + document.size().height()


def _head(model: DaybookModel, player: str, first: str, last: str) -> str:
    days = [d for d in model.days() if d.n_takes and first <= d.day <= last][:_MOST_DAYS]
    total = round(sum(d.seconds for d in days) / 60)
    rows = "".join(
        f"<tr><td>{escape(d.day)}&nbsp;&nbsp;</td><td>{d.n_takes}&nbsp;&nbsp;</td>"
        f"<td>{escape(', '.join(j for j in d.jigs if j))}</td>"
        f"<td>&nbsp;&nbsp;<i>{escape(d.note.word)}</i></td></tr>"
        for d in days
    )
    about = tr("{n} days, {m} minutes of recorded playing").format(n=len(days), m=total)
    return (
        f"<h1>{escape(player or tr('Practice report'))}</h1><p>{escape(about)}</p>"
        f"<table cellpadding='2'><tr><th align='left'>{escape(tr('Day'))}</th>"
        f"<th align='left'>{escape(tr('Takes'))}</th><th align='left'>{escape(tr('Worked on'))}"
        f"</th><th></th></tr>{rows}</table>"
    )


def _changed() -> str:
    return f"<h2>{escape(tr('What changed'))}</h2><p>{escape(figure_name('off_cents'))}</p>"


def _findings(painter: QPainter, model: DaybookModel, used: float, first: str, last: str) -> float:
    """Up to three findings of the newest take, with the picture of that take."""
    newest = next(
        (
            t for t in reversed(model.takes())
            if t.jig_id is not None and first <= t.day.isoformat() <= last
        ),
        None,
    )  # fmt: skip
    judged = model.judged_of(newest) if newest is not None else None
    if newest is None or judged is None or used > _HEIGHT - 200:
        return used
    strings = model.strings_of(newest)
    titles = dict(model.trend_jigs())
    rows = "".join(
        f"<li><b>{escape(finding_title(f, strings))}</b><br>{escape(finding_sentence(f))}"
        f" <i>{escape(finding_advice(f))}</i></li>"
        for f in judged.findings[:3]
    ) or f"<li>{escape(tr('Nothing stands out beyond doubt.'))}</li>"  # fmt: skip
    about = f"{titles.get(newest.jig_id or '', '')}, {newest.day.isoformat()}"
    used = _text(painter, f"<h2>{escape(tr('Newest take'))}</h2><p>{escape(about)}</p>", used)
    notes = [(n.cents if n.standing != "wrong" else None, n.standing) for n in judged.notes]
    painter.save()
    paint_take_print(painter, QRectF(0, used, _WIDTH, 56), notes, LIGHT)
    painter.restore()
    return _text(painter, f"<ol>{rows}</ol>", used + 60)


def _next(model: DaybookModel, first: str, last: str) -> str:
    days = [d for d in model.days() if first <= d.day <= last]
    words = [d.note.next_time for d in days if d.note.next_time][:3]
    if not words:
        return ""
    items = "".join(f"<li>{escape(w)}</li>" for w in words)
    return f"<h2>{escape(tr('Next'))}</h2><ul>{items}</ul>"
