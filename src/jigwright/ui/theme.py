"""Colours by name, fonts, and the two themes."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from importlib import resources

from PyQt6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PyQt6.QtWidgets import QApplication

SANS = "Lato"
SERIF = "EB Garamond 12"
SIGNS = "Jigwright Accidentals"


@dataclass(frozen=True, slots=True, kw_only=True)
class Palette:
    """Named colours; the only source of colour in the interface.

    Parameters
    ----------
    name : str
        ``light`` or ``dark``.
    paper, panel, line, ink, ink2, band, accent, on_accent, low, high, hover, faint : str
        ``#RRGGBB``.
    """

    name: str
    paper: str
    panel: str
    line: str
    ink: str
    ink2: str
    band: str
    accent: str
    on_accent: str
    low: str
    high: str
    hover: str
    faint: str

    def color(self, name: str, alpha: int = 255) -> QColor:
        """Return a named colour."""
        color = QColor(getattr(self, name))
        color.setAlpha(alpha)
        return color


LIGHT = Palette(
    name="light", paper="#F6F1E7", panel="#FFFDF8", line="#DDD3C2", ink="#241C15", ink2="#6A5E50",
    band="#ECE4D4", accent="#8A2E16", on_accent="#FFFDF8", low="#14637F", high="#8A4B00",
    hover="#F1E9DA", faint="#A89C8B",
)  # fmt: skip
DARK = Palette(
    name="dark", paper="#171411", panel="#211D19", line="#3A332B", ink="#EFE7DA", ink2="#AFA493",
    band="#2C2721", accent="#E58E62", on_accent="#171411", low="#74BEDA", high="#E3A548",
    hover="#2C2721", faint="#6F655A",
)  # fmt: skip


def use_style() -> None:
    """The toolkit's own style everywhere; setting it again would polish every widget anew."""
    style = QApplication.style()
    if style is None or style.objectName() != "fusion":
        QApplication.setStyle("Fusion")


@cache
def load_fonts() -> None:
    """Register the bundled fonts, once."""
    folder = resources.files("jigwright.ui").joinpath("fonts")
    for entry in folder.iterdir():
        if entry.name.endswith((".ttf", ".otf")):
            QFontDatabase.addApplicationFontFromData(entry.read_bytes())


def sans(px: float, *, bold: bool = False, italic: bool = False) -> QFont:
    """The working face with tabular figures; accidentals come from our own signs."""
    font = QFont()
    font.setFamilies([SANS, SIGNS])
    font.setPixelSize(max(1, round(px * _scale())))
    font.setBold(bold)
    font.setItalic(italic)
    font.setFeature(QFont.Tag("tnum"), 1)
    return font


def serif(px: float) -> QFont:
    """The face for words that matter."""
    font = QFont()
    font.setFamilies([SERIF, "EB Garamond", SIGNS])
    font.setPixelSize(max(1, round(px * _scale())))
    font.setFeature(QFont.Tag("lnum"), 1)  # a one that is no letter
    return font


def _scale() -> float:
    """Sizes follow the system font, 10 pt being plain."""
    from PyQt6.QtGui import QGuiApplication

    points = QGuiApplication.font().pointSizeF()
    return min(1.6, max(0.85, points / 10.0)) if points > 0 else 1.0


def qt_palette(p: Palette) -> QPalette:
    """The theme for widgets that the style draws itself."""
    made = QPalette()
    roles = {
        QPalette.ColorRole.Window: p.panel, QPalette.ColorRole.WindowText: p.ink,
        QPalette.ColorRole.Base: p.paper, QPalette.ColorRole.AlternateBase: p.panel,
        QPalette.ColorRole.Text: p.ink, QPalette.ColorRole.Button: p.panel,
        QPalette.ColorRole.ButtonText: p.ink, QPalette.ColorRole.ToolTipBase: p.panel,
        QPalette.ColorRole.ToolTipText: p.ink, QPalette.ColorRole.PlaceholderText: p.ink2,
        QPalette.ColorRole.Highlight: p.accent, QPalette.ColorRole.HighlightedText: p.on_accent,
        QPalette.ColorRole.Link: p.accent, QPalette.ColorRole.Accent: p.accent,
    }  # fmt: skip
    for role, color in roles.items():
        made.setColor(role, QColor(color))
    for role in (
        QPalette.ColorRole.Text, QPalette.ColorRole.ButtonText, QPalette.ColorRole.WindowText,
    ):  # fmt: skip
        made.setColor(QPalette.ColorGroup.Disabled, role, QColor(p.ink2))
    return made


def style_sheet(p: Palette) -> str:
    """Style of the standard widgets."""
    return f"""
    QMainWindow, QScrollArea, QStackedWidget, HelpList {{ background: {p.panel}; }}
    QToolTip {{ background: {p.panel}; color: {p.ink}; border: 1px solid {p.line}; padding: 4px; }}
    QMenu {{ background: {p.panel}; color: {p.ink}; border: 1px solid {p.line}; padding: 4px; }}
    QMenu::item {{ padding: 6px 22px 6px 22px; }}
    QMenu::item:selected {{ background: {p.hover}; }}
    QMenu::item:disabled {{ color: {p.ink2}; }}
    QMenu::separator {{ height: 1px; background: {p.line}; margin: 4px 8px; }}
    QPushButton, QToolButton {{ background: transparent; border: 1px solid transparent;
        border-radius: 4px; padding: 4px 8px; }}
    QPushButton:hover, QToolButton:hover {{ background: {p.hover}; }}
    QPushButton:focus, QToolButton:focus, QListWidget:focus {{ border: 2px solid {p.accent}; }}
    QPushButton[kind="first"] {{ background: {p.accent}; color: {p.on_accent}; font-weight: bold;
        padding: 8px 16px; }}
    QPushButton[kind="second"] {{ border: 1px solid {p.line}; padding: 8px 16px; }}
    QPushButton[kind="word"] {{ color: {p.accent}; font-weight: bold; padding: 2px 6px 2px 0; }}
    QPushButton[kind="turn"] {{ color: {p.ink2}; padding: 4px 2px; margin-right: 14px;
        border: none; border-bottom: 3px solid transparent; border-radius: 0; }}
    QPushButton[kind="turn"]:checked {{ color: {p.ink}; border-bottom: 3px solid {p.accent}; }}
    QPushButton[kind="turn"]:focus:!checked {{ border-bottom: 1px dotted {p.ink2}; }}
    QPushButton:disabled, QToolButton:disabled {{ color: {p.ink2}; }}
    QPushButton[kind="first"]:disabled {{ background: {p.band}; color: {p.ink2}; }}
    QCheckBox {{ spacing: 7px; padding: 2px 4px; }}
    QCheckBox:focus {{ background: {p.hover}; }}
    QCheckBox::indicator {{ width: 15px; height: 15px; border: 1px solid {p.ink2};
        border-radius: 3px; background: {p.paper}; }}
    QCalendarWidget QWidget#qt_calendar_navigationbar {{ background: {p.panel}; }}
    QCalendarWidget QToolButton {{ color: {p.ink}; background: {p.panel}; }}
    QCheckBox::indicator:checked {{ background: {p.accent}; border: 1px solid {p.accent}; }}
    QLineEdit, QSpinBox, QDateEdit, QComboBox {{
        background: {p.paper}; color: {p.ink}; min-height: 22px;
        border: 1px solid {p.line}; border-radius: 4px; padding: 2px 6px; }}
    QLineEdit:focus, QSpinBox:focus, QComboBox:focus {{ border: 2px solid {p.accent};
        padding: 1px 5px; }}
    QComboBox::drop-down {{ border: none; width: 22px; }}
    QComboBox::down-arrow {{ width: 0; height: 0; border-left: 4px solid {p.paper};
        border-right: 4px solid {p.paper}; border-top: 5px solid {p.ink2}; margin-right: 8px; }}
    QSpinBox::up-button, QSpinBox::down-button {{ border: none; width: 18px; }}
    QSpinBox::up-arrow {{ width: 0; height: 0; border-left: 4px solid {p.paper};
        border-right: 4px solid {p.paper}; border-bottom: 5px solid {p.ink2}; }}
    QSpinBox::down-arrow {{ width: 0; height: 0; border-left: 4px solid {p.paper};
        border-right: 4px solid {p.paper}; border-top: 5px solid {p.ink2}; }}
    QComboBox QAbstractItemView {{ background: {p.panel}; color: {p.ink};
        selection-background-color: {p.band}; selection-color: {p.ink}; }}
    QTableWidget {{ background: {p.panel}; gridline-color: {p.line}; border: none;
        selection-background-color: {p.band}; selection-color: {p.ink}; }}
    QHeaderView::section {{ background: {p.panel}; color: {p.ink2}; border: none;
        border-bottom: 1px solid {p.line}; padding: 5px 3px; }}
    QToolButton::menu-indicator {{ image: none; }}
    QScrollArea, QAbstractScrollArea {{ border: none; }}
    QScrollBar:horizontal {{ background: {p.paper}; height: 10px; }}
    QScrollBar:vertical {{ background: {p.panel}; width: 10px; }}
    QScrollBar::handle {{ background: {p.line}; border-radius: 4px; min-width: 24px;
        min-height: 24px; margin: 1px; }}
    QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page {{
        background: none; width: 0; height: 0; }}
    QListWidget {{ background: {p.panel}; border: 1px solid {p.line}; border-radius: 4px; }}
    QListWidget::item {{ padding: 8px; }}
    QListWidget::item:selected {{ background: {p.band}; color: {p.ink}; }}
    QProgressBar {{ background: {p.band}; border: none; border-radius: 3px; max-height: 6px; }}
    QProgressBar::chunk {{ background: {p.accent}; border-radius: 3px; }}
    """
