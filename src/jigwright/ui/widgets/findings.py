"""The left column: which take this is, what is worth saying, and in which tuning it was."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime, timedelta
from functools import partial

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout

from jigwright.core.jig.model import Jig
from jigwright.core.judge.findings import Finding
from jigwright.core.judge.tuning import TuningEstimate
from jigwright.services.records import TakeRecord
from jigwright.ui.theme import Palette
from jigwright.ui.viewmodels.desk.desk_model import DeskModel
from jigwright.ui.widgets.aims_list import AimsList
from jigwright.ui.widgets.column import ScrollColumn
from jigwright.ui.widgets.flow import FlowLayout
from jigwright.ui.widgets.labels import clear, label, rule, word_button
from jigwright.ui.widgets.painted import Painted
from jigwright.wording.beside import talk_text, warning_text
from jigwright.wording.catalogue import tr, trn, with_comma
from jigwright.wording.findings import finding_advice, finding_sentence, finding_title
from jigwright.wording.notes import reference_name


class FindingsColumn(ScrollColumn):
    """Title, findings and tuning of the shown take.

    Parameters
    ----------
    model : DeskModel
    palette : Palette
    listen, loop : callable
        Play the selected notes once, or over and over.
    make_jig : callable
        Make an exercise of the place a finding speaks of.
    best_bow : callable
        Hear the same part of the player's best long bow beside a fault of the bow.
    jig : callable
        The jig that is chosen.
    change_aims : callable or None
        Change what it is for; ``None``: nothing can be changed here.
    """

    def __init__(
        self,
        model: DeskModel,
        palette: Palette,
        *,
        listen: Callable[[], None],
        loop: Callable[[], None],
        make_jig: Callable[[Finding], None],
        best_bow: Callable[[Finding], None],
        jig: Callable[[], Jig | None],
        change_aims: Callable[[], object] | None,
    ) -> None:
        super().__init__(
            palette, tr("What is worth saying about the take"), narrowest=222, widest=280
        )
        self._model, self._change_aims = model, change_aims
        self._listen, self._loop, self._make_jig = listen, loop, make_jig
        self._best_bow, self._jig = best_bow, jig
        model.judged_changed.connect(self.refresh)

    def refresh(self) -> None:
        """Write the column anew."""
        clear(self._layout)
        model = self._model
        jig = self._jig()
        self._layout.addWidget(
            label(jig.title if jig else tr("Free playing"), px=21, old_style=True)
        )
        if model.take is None:
            self._layout.addStretch(1)
            return
        self._layout.addWidget(label(self._subtitle(model.take), px=13, second=True))
        self._layout.addSpacing(10)
        if model.judged is None:
            text = tr("This take has not been analysed yet.")
            if model.failed:
                text = tr(
                    "cannot tell: judging this take failed. Its sound is kept and can be heard; a "
                    "line about it stands in the log (F1)."
                )
            self._layout.addWidget(label(text, px=13, second=True))
            self._layout.addStretch(1)
            return
        if model.judged.aims and (own := model.take_jig()) is not None:
            aims = AimsList(self._palette, model.select)
            aims.show_results(model.judged.aims, model.judged.notes, own)
            self._layout.addWidget(aims)
            if self._change_aims is not None and jig is not None and jig.id == own.id:
                change = word_button(
                    tr("Change"), self._change_aims, name=tr("Change what it is for")
                )
                self._layout.addWidget(change, 0, Qt.AlignmentFlag.AlignLeft)
        self._findings(model.judged.findings)
        self._warnings()
        self._layout.addSpacing(6)
        self._layout.addWidget(rule())
        self._tuning(model.judged.tuning)
        self._layout.addStretch(1)

    def _subtitle(self, take: TakeRecord) -> str:
        number, total = self._model.take_number(), len(self._model.prints)
        when = datetime.fromisoformat(take.recorded_utc) + timedelta(minutes=take.utc_offset_min)
        return tr("take {n} of {all}, {day}").format(
            n=number,
            all=total,
            day=f"{when.day} {_month(when.month)} {when:%H:%M}",
        )

    def _findings(self, findings: tuple[Finding, ...]) -> None:
        if not findings:
            rows = self._model.rows
            if not any(r.cents is not None for r in rows):
                text = tr("No notes were heard in this take. Was the microphone near enough?")
            elif all(r.standing == "in" for r in rows):
                text = tr("Every note that was heard lies inside the tolerance.")
            else:
                text = tr("Nothing stands out beyond doubt.")
            self._layout.addWidget(label(text, px=14))
            return
        self._layout.addWidget(
            label(tr("Worth your next five minutes"), px=13, bold=True, second=True)
        )
        self._layout.addSpacing(4)
        strings = self._model.context().strings
        for n, finding in enumerate(findings, start=1):
            row = QHBoxLayout()
            row.setSpacing(8)
            number = label(str(n), px=18, old_style=True, wrap=False)
            number.setStyleSheet(f"color: {self._palette.accent};")
            number.setAlignment(Qt.AlignmentFlag.AlignTop)
            number.setFixedWidth(14)
            row.addWidget(number, 0, Qt.AlignmentFlag.AlignTop)
            column = QVBoxLayout()
            column.setSpacing(2)
            title = finding_title(finding, strings)
            column.addWidget(label(title, px=14, bold=True))
            column.addWidget(label(finding_sentence(finding), px=13, second=True))
            advice = finding_advice(finding)
            if advice:
                column.addWidget(label(advice, px=13, italic=True, second=True))
            words = FlowLayout()
            words.addWidget(
                word_button(tr("Listen"), partial(self._play, finding, loop=False),
                            name=tr("Listen: {title}").format(title=title))
            )  # fmt: skip
            words.addWidget(
                word_button(tr("Loop it"), partial(self._play, finding, loop=True),
                            name=tr("Loop it: {title}").format(title=title))
            )  # fmt: skip
            words.addWidget(
                word_button(tr("Show"), partial(self._model.select, finding.notes[0]),
                            name=tr("Show: {title}").format(title=title))
            )  # fmt: skip
            if self._jig() is not None:
                words.addWidget(
                    word_button(tr("Make a jig of it"), partial(self._make_jig, finding),
                                name=tr("Make a jig of it: {title}").format(title=title))
                )  # fmt: skip
                if finding.id.startswith("bow_"):
                    words.addWidget(
                        word_button(tr("Your best bow"), partial(self._best_bow, finding),
                                    name=tr("Hear your best long bow there"))
                    )  # fmt: skip
            column.addLayout(words)
            row.addLayout(column, 1)
            self._layout.addLayout(row)
            self._layout.addSpacing(6)

    def _play(self, finding: Finding, *, loop: bool) -> None:
        self._model.select(finding.notes[0])
        (self._loop if loop else self._listen)()

    def _warnings(self) -> None:
        heard = self._model.heard
        if heard is None:
            return
        for warning in heard.warnings:
            text = warning_text(warning, a4_hz=self._model.context().a4_hz)
            self._layout.addWidget(label(text, px=13, italic=True, second=True))
        if heard.talks:
            text = talk_text(heard.talks)
            self._layout.addWidget(label(text, px=13, italic=True, second=True))

    def _tuning(self, tuning: TuningEstimate) -> None:
        self._layout.addWidget(label(tr("In which tuning?"), px=13, bold=True, second=True))
        if not tuning.by_reference:
            self._layout.addWidget(
                label(tr("cannot tell: too few steady notes"), px=13, italic=True, second=True)
            )
            return
        worst = max(rms for _, rms in tuning.by_reference[:4])
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(2)
        for i, (name, rms) in enumerate(tuning.by_reference[:4]):
            first = i == 0 and tuning.best_reference is not None
            text = label(reference_name(name), px=13, bold=first)
            grid.addWidget(text, i, 0)
            grid.addWidget(self._bar(rms / max(worst, 0.1), strong=first), i, 1)
            figure = label(with_comma(f"{rms:.1f} c"), px=13, second=not first, wrap=False)
            grid.addWidget(figure, i, 2)
        grid.setColumnStretch(0, 3)
        grid.setColumnStretch(1, 2)
        self._layout.addLayout(grid)
        count = tuning.n_telling
        if tuning.best_reference is None:
            text_ = tr("no preference: these notes do not tell them apart")
        else:
            text_ = trn(
                "likely {name} ({n} note tells)", "likely {name} ({n} notes tell them apart)", count
            ).format(name=reference_name(tuning.best_reference), n=count)
        self._layout.addWidget(label(text_, px=13, italic=True, second=True))
        if tuning.estimated_a4_hz is not None:
            own = tr("your A: {hz} Hz").format(hz=f"{tuning.estimated_a4_hz:.1f}")
            self._layout.addWidget(label(own, px=13, second=True))

    def _bar(self, share: float, *, strong: bool) -> Painted:
        def paint(painter: QPainter, rect: QRectF) -> None:
            color = self._palette.color("ink" if strong else "ink2", 255 if strong else 130)
            painter.fillRect(QRectF(0, rect.center().y() - 4, rect.width() * share, 8), color)

        return Painted(paint, 16)


def _month(n: int) -> str:
    names = (tr("January"), tr("February"), tr("March"), tr("April"), tr("May"), tr("June"),
             tr("July"), tr("August"), tr("September"), tr("October"), tr("November"),
             tr("December"))  # fmt: skip
    return names[n - 1]
