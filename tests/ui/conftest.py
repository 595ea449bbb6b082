from __future__ import annotations

import multiprocessing
import shutil
from collections.abc import Callable, Iterator
from multiprocessing.context import BaseContext
from pathlib import Path

import pytest
from PyQt6.QtCore import QEvent, QtMsgType, qInstallMessageHandler
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from jigwright.audio.capture import capture
from jigwright.audio.output import RecordingOutput
from jigwright.handlers import make_handlers
from jigwright.listening import listen
from jigwright.store.opening import open_studio
from jigwright.ui.app import Outside, make_window
from jigwright.ui.main_window import MainWindow
from jigwright.work.process import WorkerProcess
from jigwright.work.stream import StreamProcess

_WORKED_WITH = (
    "jigwright.handlers", "jigwright.listening", "jigwright.audio.files", "jigwright.audio.capture",
    "jigwright.core.sound.loop_delay", "jigwright.engraving.score", "jigwright.services.analysing",
    "jigwright.services.ear", "jigwright.core.player.play", "jigwright.services.references",
    "jigwright.services.demo_takes",
)  # fmt: skip
_KNOWN = ("propagateSizeHints", "This plugin does not support", "pipewire")


@pytest.fixture(autouse=True)
def no_qt_warnings() -> Iterator[None]:
    seen: list[str] = []

    def handler(kind: QtMsgType, _context: object, text: str | None) -> None:
        serious = kind in (QtMsgType.QtWarningMsg, QtMsgType.QtCriticalMsg)
        if serious and text and not any(k in text for k in _KNOWN):
            seen.append(text)

    before = qInstallMessageHandler(handler)
    yield
    qInstallMessageHandler(before)
    assert seen == []


@pytest.fixture(scope="session")
def processes() -> BaseContext:
    """Workers and ears that share what they import: each of some hundred windows starts three.

    How they begin in the application is tested in tests/work and tests/test_package.py.
    """
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(list(_WORKED_WITH))
    return context


@pytest.fixture
def output() -> RecordingOutput:
    return RecordingOutput()


@pytest.fixture
def open_window(
    qtbot: QtBot, tmp_path: Path, output: RecordingOutput, processes: BaseContext
) -> Iterator[Callable[..., MainWindow]]:
    studios, windows = [], []

    def make(folder: Path, theme: str = "light") -> MainWindow:
        studio = open_studio(folder)
        studios.append(studio)
        outside = Outside(
            studio=studio, worker=WorkerProcess(make_handlers, context=processes),
            output=lambda: output, cache=tmp_path / "cache",
            capture=lambda: StreamProcess(capture, context=processes),
            ear=lambda: StreamProcess(listen, context=processes),
        )  # fmt: skip
        window = make_window(outside, theme)
        qtbot.addWidget(window)
        windows.append(window)
        window.show()
        return window

    yield make
    for window in windows:
        window.close()
        window.deleteLater()
        QApplication.sendPostedEvents(window, QEvent.Type.DeferredDelete)
    for studio in studios:
        studio.close()
    shutil.rmtree(tmp_path / "cache", ignore_errors=True)


@pytest.fixture
def window(open_window: Callable[..., MainWindow], studio_copy: Path) -> MainWindow:
    return open_window(studio_copy)
