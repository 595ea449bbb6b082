"""One printed page: what was worked on, what changed, what is next."""

from __future__ import annotations

from collections.abc import Sequence
from html import escape
from pathlib import Path

from PyQt6.QtCore import QMarginsF, QRectF
from PyQt6.QtGui import QPageSize, QPainter, QPdfWriter, QTextDocument

from jigwright.core.judge.sounding import count_strings
from jigwright.core.judge.verdict import bar_of
from jigwright.services.engraving import engrave_request
from jigwright.services.notation import Engraved, EngraveRequest
from jigwright.services.pupils import WorkRow
from jigwright.services.reporting import (
    FIGURE,
    NewestTake,
    PracticeReport,
    ReportTrend,
    bars_of_interest,
)
from jigwright.ui.painting.marked_notes import marked_height, paint_marked_notes
from jigwright.ui.painting.takeprint import paint_take_print
from jigwright.ui.painting.trend import paint_trend
from jigwright.ui.theme import LIGHT, SERIF, sans
from jigwright.wording.aims import aim_sentence
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.daybook import (
    change_sentence,
    conditions_text,
    figure_name,
    work_sentence,
)
from jigwright.wording.findings import finding_advice, finding_sentence, finding_title
from jigwright.wording.ringing import ring_sentence

_WIDTH, _HEIGHT = 780.0, 1120.0
_STAFF, _MOST_NOTES = 34, 260.0


def notes_request(report: PracticeReport) -> EngraveRequest | None:
    """What of the newest take's notes the page shows, for the engraver."""
    newest = report.newest
    bars = None if newest is None else bars_of_interest(newest)
    if newest is None or newest.jig is None or bars is None:
        return None
    return engrave_request(
        newest.jig, scale=_STAFF, target_width=_WIDTH, wrap=True, bars=bars, fingerings=True
    )


def write_report(
    report: PracticeReport, player: str, path: Path, engraved: Engraved | None = None
) -> None:
    """Write the page, complete or not at all.

    Parameters
    ----------
    report : PracticeReport
    player : str
    path : Path
    engraved : Engraved or None
        Of `notes_request`; without it the page has everything but notes.

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
    used = _text(painter, _head(report, player), 0.0)
    if report.newest is not None and used <= _HEIGHT - 200:
        used = _newest(painter, report.newest, used, engraved)
    used = _text(painter, _set(report.set_work), used)
    if report.trends:
        used = _text(painter, _changed(), used)
    for one in report.trends:
        if used > _HEIGHT - 260:
            break
        used = _trend(painter, one, used)
    _text(painter, _next(report.next_words), used)
    painter.end()
    part.replace(path)


def _trend(painter: QPainter, one: ReportTrend, used: float) -> float:
    """What a trend says, and its picture."""
    points = one.points
    day = points[one.change.at].day if one.change is not None else ""
    words = change_sentence(
        one.change, FIGURE, day, len(points), cut=any(p.cut_before for p in points)
    )
    used = _text(painter, f"<h3>{escape(one.title)}</h3><p>{escape(words)}</p>", used)
    painter.save()
    paint_trend(
        painter, QRectF(0, used, _WIDTH, 150), [p.value for p in points],
        [p.day for p in points], [p.cut_before for p in points], one.change, LIGHT, zero=True,
    )  # fmt: skip
    painter.restore()
    return used + 156


def _text(painter: QPainter, html: str, top: float) -> float:
    document = QTextDocument()
    document.setDefaultFont(sans(14))
    document.setTextWidth(_WIDTH)
    document.setDefaultStyleSheet(
        f"h1 {{ font-family: '{SERIF}'; font-weight: normal; font-size: 38px }}"
        f" h2 {{ font-family: '{SERIF}'; font-weight: normal; font-size: 26px }}"
    )
    # a page is white paper, whatever the window's colours are
    document.setHtml(f'<body style="color:{LIGHT.ink}">{html}</body>')
    painter.save()
    painter.translate(0, top)
    document.drawContents(painter)
    painter.restore()
    return top + document.size().height()


def _head(report: PracticeReport, player: str) -> str:
    days, total = report.days, report.minutes
    rows = "".join(
        f"<tr><td>{escape(d.day)}&nbsp;&nbsp;</td><td>{d.n_takes}&nbsp;&nbsp;</td>"
        f"<td>{escape(', '.join(j for j in d.jigs if j))}</td>"
        f"<td>&nbsp;&nbsp;<i>{escape(d.note.word)}</i></td></tr>"
        for d in days
    )
    n_days = trn("{n} day", "{n} days", len(days)).format(n=len(days))
    minutes = trn("{n} minute", "{n} minutes", total).format(n=total)
    about = tr("{days}, {minutes} of recorded playing").format(days=n_days, minutes=minutes)
    return (
        f"<h1>{escape(player or tr('Practice report'))}</h1><p>{escape(about)}</p>"
        f"<table cellpadding='2'><tr><th align='left'>{escape(tr('Day'))}</th>"
        f"<th align='left'>{escape(tr('Takes'))}</th><th align='left'>{escape(tr('Worked on'))}"
        f"</th><th></th></tr>{rows}</table>"
    )


def _changed() -> str:
    return f"<h2>{escape(tr('What changed'))}</h2><p>{escape(figure_name(FIGURE))}</p>"


def _newest(painter: QPainter, newest: NewestTake, used: float, engraved: Engraved | None) -> float:
    """Up to three findings of the newest take, with its notes and the picture of that take."""
    judged, strings = newest.judged, newest.strings
    aims = "".join(
        f"<li>{escape(aim_sentence(r, bar_of(r.row, judged.notes, newest.jig)))}</li>"
        for r in judged.aims
        if newest.jig is not None
    )
    rows = "".join(
        f"<li><b>{escape(finding_title(f, strings))}</b><br>{escape(finding_sentence(f))}"
        f" <i>{escape(finding_advice(f))}</i></li>"
        for f in judged.findings[:3]
    ) or f"<li>{escape(tr('Nothing stands out beyond doubt.'))}</li>"  # fmt: skip
    take = newest.take
    held = conditions_text(
        newest.instrument, take.a4_hz, take.reference, take.tolerance_cents, take.day.isoformat()
    )
    used = _text(
        painter,
        f"<h2>{escape(tr('Newest take'))}</h2>"
        f"<p><b>{escape(newest.title)}</b><br>{escape(held)}</p>",
        used,
    )
    if engraved is not None:
        used = _notes(painter, newest, used, engraved)
    if engraved is None or len(engraved.heads) < _n_heads(newest):
        notes = [(n.cents if n.standing != "wrong" else None, n.standing) for n in judged.notes]
        painter.save()
        paint_take_print(painter, QRectF(0, used, _WIDTH, 56), notes, LIGHT)
        painter.restore()
        used += 60
    asked = f"<h3>{escape(tr('What it is for'))}</h3><ul>{aims}</ul>" if aims else ""
    counts = count_strings(judged.notes)
    rung = f"<p>{escape(ring_sentence(counts, strings))}</p>" if counts else ""
    return _text(painter, f"{asked}<ol>{rows}</ol>{rung}", used)


def _n_heads(newest: NewestTake) -> int:
    return sum(len(e.heads) for e in newest.jig.events) if newest.jig is not None else 0


def _notes(painter: QPainter, newest: NewestTake, used: float, engraved: Engraved) -> float:
    """What was to be played, and beside each head what was heard of it."""
    marks = {
        n.measured.lined.note_id: (n.cents, n.standing)
        for n in newest.judged.notes  # what was played again counts as it came last
        if n.measured.lined.note_id is not None
    }
    height = marked_height(engraved, _WIDTH)
    rect = QRectF(0, used, _WIDTH, min(height, _MOST_NOTES))
    painter.save()
    painter.setClipRect(rect)
    paint_marked_notes(painter, rect, engraved, marks, LIGHT)
    painter.restore()
    legend = tr("A bar above a note: it was high; below: low; a ring: not heard, or another note.")
    said = f"<p style='font-size: 12px; color: {LIGHT.ink2}'>{escape(legend)}</p>"
    return _text(painter, said, used + rect.height()) + 4


def _set(rows: Sequence[WorkRow]) -> str:
    if not rows:
        return ""
    items = "".join(f"<li>{escape(work_sentence(*row))}</li>" for row in rows)
    return f"<h2>{escape(tr('What was set'))}</h2><ul>{items}</ul>"


def _next(words: Sequence[str]) -> str:
    if not words:
        return ""
    items = "".join(f"<li>{escape(w)}</li>" for w in words)
    return f"<h2>{escape(tr('Next'))}</h2><ul>{items}</ul>"
