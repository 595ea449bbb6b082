"""Start-up of the window: the exception hook first, then fonts, theme and window."""

from __future__ import annotations

import sys
import traceback
from collections.abc import Callable
from importlib import resources
from pathlib import Path
from types import TracebackType

from PyQt6.QtCore import QLibraryInfo, QLocale, QTimer, QTranslator
from PyQt6.QtGui import QGuiApplication, QIcon, QPixmap
from PyQt6.QtWidgets import QApplication, QFileDialog, QMainWindow

from jigwright.core.errors import JigwrightError
from jigwright.core.isolation import isolated, note_failure
from jigwright.services.settling_in import settle_in
from jigwright.ui.main_window import MainWindow
from jigwright.ui.outside import Outside, open_elsewhere
from jigwright.ui.theme import DARK, LIGHT, load_fonts, qt_palette, sans, style_sheet, use_style
from jigwright.ui.widgets.empty import EmptyPlace
from jigwright.ui.widgets.labels import tint
from jigwright.wording.catalogue import LANGUAGES, language_now, tr
from jigwright.wording.errors import error_sentence

__all__ = ["Outside", "make_window", "run_app"]


def _install_hook() -> None:
    """Without this PyQt6 ends the process at an uncaught error in a slot."""

    def hook(kind: type[BaseException], error: BaseException, where: TracebackType | None) -> None:
        traceback.print_exception(kind, error, where)
        note_failure("window", error)
        for window in QApplication.topLevelWidgets():
            if isinstance(window, MainWindow):
                window.say(
                    tr(
                        "Something went wrong inside the program ({kind}). What was kept is kept; "
                        "a line about it stands in the log (F1)."
                    ).format(kind=kind.__name__)
                )

    sys.excepthook = hook


def _translate_dialogs() -> None:
    """Dialogs of the toolkit speak the window's language, and calendars its names of days."""
    language = language_now()
    QLocale.setDefault(QLocale(language) if language in dict(LANGUAGES) else QLocale.c())
    translator = QTranslator(QApplication.instance())
    folder = QLibraryInfo.path(QLibraryInfo.LibraryPath.TranslationsPath)
    if language != "en" and translator.load(f"qtbase_{language}", folder):
        QApplication.installTranslator(translator)


def make_window(outside: Outside, theme: str | None = None) -> MainWindow:
    """Build the window on a studio; an application must exist."""
    load_fonts()
    _translate_dialogs()
    use_style()
    QApplication.setFont(sans(14))
    settle_in(outside.studio)
    chosen = theme or outside.studio.setting("theme", "light")
    window = MainWindow(outside, DARK if chosen == "dark" else LIGHT)
    isolated("opening what was shown last", window.session.load, None)
    window.leftovers.look()
    if outside.studio.read_only:
        window.say(
            tr("This studio is open in another window: it can be looked at here, not changed.")
        )
    return window


def run_app(
    outside: Outside, *, shots: Path | None, theme: str | None, files: tuple[Path, ...] = ()
) -> int:
    """Open the window and stay until it closes, or write pictures and leave.

    ``files`` are brought in once the window stands.
    """
    _install_hook()
    app = QApplication.instance() or QApplication(sys.argv[:1])
    QGuiApplication.setDesktopFileName("org.jigwright.Jigwright")
    icon = QPixmap()
    icon.loadFromData((resources.files("jigwright.desktop") / "jigwright.svg").read_bytes(), "SVG")
    QApplication.setWindowIcon(QIcon(icon))
    window = make_window(outside, theme)
    if shots is not None:
        from jigwright.ui.shots import write_shots

        return write_shots(window, shots)
    window.show()
    window.greet()
    QTimer.singleShot(300, lambda: window.jobs.run("warm", None, done=_nothing, failed=_nothing))
    if files:
        QTimer.singleShot(0, lambda: window.files.take(list(files)))
    if window.making is not None:
        window.making.start()
    window.rehearing.start()
    return int(app.exec())


def run_refusal(
    sentence: str,
    *,
    theme: str | None,
    mend: Callable[[], str] | None = None,
    folder: Path | None = None,
) -> int:
    """Say in a window why the studio could not be opened; returns 1 when it closes.

    ``mend`` repairs a damaged studio and says what came of it.
    """
    _install_hook()
    app = QApplication.instance() or QApplication(sys.argv[:1])
    window = make_refusal(sentence, theme, mend=mend, folder=folder)
    window.show()
    app.exec()
    return 1


def make_refusal(
    sentence: str,
    theme: str | None,
    *,
    mend: Callable[[], str] | None = None,
    folder: Path | None = None,
) -> QMainWindow:
    """Build the window that says why a studio could not be opened."""
    load_fonts()
    use_style()
    palette = DARK if theme == "dark" else LIGHT
    QApplication.setPalette(qt_palette(palette))
    window = QMainWindow()
    window.setWindowTitle(tr("Jigwright"))
    window.setStyleSheet(style_sheet(palette) + tint(palette))

    def choose() -> None:
        folder = QFileDialog.getExistingDirectory(window, tr("Another studio folder"))
        if folder:
            open_elsewhere(Path(folder))
            window.close()

    def open_again() -> None:
        if folder is not None:
            open_elsewhere(folder)
        window.close()

    def try_to_mend() -> None:
        assert mend is not None
        try:
            said = mend()
        except JigwrightError as error:
            said = error_sentence(error)
            window.setCentralWidget(
                EmptyPlace(tr("It could not be mended"), said, ((tr("Close"), window.close),))
            )
            return
        again = (tr("Open it"), open_again)
        window.setCentralWidget(
            EmptyPlace(tr("Mended"), said, (again, (tr("Close"), window.close)))
        )

    doings: list[tuple[str, Callable[[], object]]] = []
    if mend is not None:
        doings.append((tr("Mend it"), try_to_mend))
    doings += [(tr("Open another folder"), choose), (tr("Close"), window.close)]
    window.setCentralWidget(EmptyPlace(tr("This studio stays closed"), sentence, tuple(doings)))
    window.resize(900, 600)
    return window


def _nothing(_: object) -> None:
    return
