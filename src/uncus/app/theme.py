"""Colours, type and the style sheet: light and dark with the same hues."""

from __future__ import annotations

import re
from importlib.resources import files

import msgspec
from PySide6.QtCore import QSize
from PySide6.QtGui import QFont, QFontDatabase
from PySide6.QtWidgets import QAbstractButton, QApplication, QHeaderView, QWidget


class Theme(msgspec.Struct, frozen=True):
    """Colours by what they mean."""

    paper: str
    bone: str
    ink: str
    slate: str
    rule: str
    rail: str
    rail_ink: str
    go: str
    wash: str
    wrong: str
    look: str
    new: str
    moved: str
    sky: tuple[str, str]
    steel: str
    edge: str


LIGHT = Theme(
    paper="#F5F2EA",
    bone="#FBF9F4",
    ink="#1D2930",
    slate="#5A6B74",
    rule="#CFC8B8",
    rail="#1D2930",
    rail_ink="#DDE3E2",
    go="#2C7A70",
    wash="#EAF4F1",
    wrong="#B83A22",
    look="#8A5E0A",
    new="#3D55A0",
    moved="#8A4678",
    sky=("#E9EDEC", "#F7F4EC"),
    steel="#9FB0BC",
    edge="#51616C",
)
DARK = Theme(
    paper="#20282D",
    bone="#2A3338",
    ink="#EDEAE0",
    slate="#A9B6BC",
    rule="#455158",
    rail="#12191D",
    rail_ink="#DDE3E2",
    go="#57B3A6",
    wash="#253C39",
    wrong="#F08A72",
    look="#E3B45A",
    new="#9DB0EE",
    moved="#D79CC7",
    sky=("#182025", "#2A3338"),
    steel="#8FA2AF",
    edge="#0E1417",
)


def theme_of(widget: QWidget) -> Theme:
    """The look of the window that a widget is in."""
    found = getattr(widget.window(), "theme", None)
    return found if isinstance(found, Theme) else LIGHT


def load_fonts() -> QFont:
    """Register the shipped faces and give the interface's own."""
    folder = files("uncus") / "fonts"
    for name in (
        "IBMPlexSans-Regular",
        "IBMPlexSans-Medium",
        "IBMPlexSans-SemiBold",
        "RoutedGothic",
        "RoutedGothic-Narrow",
    ):
        QFontDatabase.addApplicationFontFromData((folder / f"{name}.ttf").read_bytes())
    font = QFont("IBM Plex Sans")
    font.setPixelSize(_SIZE)
    font.setFeature(QFont.Tag("tnum"), 1)
    return font


_SIZE = 13  # px of the interface's lettering at 100 %
_NARROWEST = 950  # px that shelf, model and facts need beside one another then


def lettering() -> float:
    """How large the program's lettering is beside the usual: known before a widget is shown, too."""
    app = QApplication.instance()
    return float(app.property("lettering") or 1.0) if app is not None else 1.0


def sized(widget: QWidget, wide: int = 0, high: int = 0, icon: int = 0, row: int = 0) -> None:
    """Make a widget so wide and high, its icon so large, a table's rows so high, in pixels at the usual lettering; it
    grows with it."""
    widget.setProperty("sized", (wide, high, icon, row))
    _fit(widget)


def _fit(widget: QWidget) -> None:
    wide, high, icon, row = (round(px * lettering()) for px in widget.property("sized"))
    if wide:
        widget.setFixedWidth(wide)
    if high:
        widget.setFixedHeight(high)
    if icon and isinstance(widget, QAbstractButton):
        widget.setIconSize(QSize(icon, icon))
    if row and isinstance(widget, QHeaderView):
        widget.setDefaultSectionSize(row)


def wear(app: QApplication, theme: Theme, percent: int) -> None:
    """Give the program a look and a size of lettering, as far as the screen has room."""
    percent = min(percent, max(100, app.primaryScreen().availableSize().width() * 100 // _NARROWEST))
    wanted = style(theme, percent)
    if app.styleSheet() == wanted:  # setting it polishes every widget anew
        return
    app.setProperty("lettering", percent / 100)
    app.setStyleSheet(wanted)
    for widget in app.allWidgets():
        if widget.property("sized"):
            _fit(widget)


def style(t: Theme, percent: int = 100) -> str:
    """The Qt style sheet of a theme, its lettering and the room round it so large; lines stay thin."""
    grown = re.sub(r"\b(\d+)px", lambda m: m[0] if m[1] == "1" else f"{round(int(m[1]) * percent / 100)}px", _style(t))
    return f"* {{ font-size: {round(_SIZE * percent / 100)}px; }}\n{grown}"


def _style(t: Theme) -> str:
    arrow = str(files("uncus") / "app" / "icons" / "down.svg").replace("\\", "/")
    return f"""
    * {{ color: {t.ink}; font-family: "IBM Plex Sans"; }}
    QMainWindow, QWidget#body, QDialog {{ background: {t.paper}; }}
    QWidget#rail {{ background: {t.rail}; }}
    QWidget#top, QWidget#foot {{ background: {t.paper}; }}
    QWidget#top {{ border-bottom: 1px solid {t.rule}; }}
    QWidget#foot {{ border-top: 1px solid {t.rule}; }}
    QWidget#shelf, QWidget#facts, QWidget#panel {{ background: {t.bone}; }}
    QScrollArea, QScrollArea > QWidget > QWidget {{ background: {t.bone}; border: none; }}
    QLabel {{ background: transparent; }}
    QLabel[quiet="true"] {{ color: {t.slate}; }}
    QLabel[heading="true"] {{ color: {t.slate}; font-size: 11px; font-weight: 600; letter-spacing: 1px; }}
    QLabel[name="true"] {{ font-size: 30px; font-weight: 600; }}
    QLabel[group="true"] {{ font-size: 11px; font-weight: 600; }}
    QLabel[title="true"] {{ font-size: 15px; font-weight: 600; }}
    QLabel[error="true"] {{ color: {t.wrong}; font-weight: 600; }}
    QLabel[chip="true"], QPushButton[chip="true"] {{ background: {t.bone}; border: 1px solid {t.rule};
        border-radius: 11px; padding: 2px 10px; }}
    QPushButton[chip="true"]:hover {{ background: {t.wash}; }}
    QLabel[kept="true"] {{ color: {t.go}; }}
    QLineEdit, QComboBox {{ background: {t.bone}; border: 1px solid {t.rule}; border-radius: 4px; padding: 3px 7px;
        selection-background-color: {t.go}; selection-color: {t.bone}; min-height: 18px; }}
    QLineEdit:focus, QComboBox:focus {{ border: 1px solid {t.go}; }}
    QLineEdit[bad="true"] {{ border: 1px solid {t.wrong}; }}
    QComboBox::drop-down {{ border: none; width: 18px; }}
    QComboBox::down-arrow {{ image: url("{arrow}"); width: 11px; height: 11px; }}
    QComboBox QAbstractItemView, QListView, QMenu {{ background: {t.bone}; border: 1px solid {t.rule};
        selection-background-color: {t.wash};
        selection-color: {t.ink}; outline: none; }}
    QPushButton {{ background: {t.bone}; border: 1px solid {t.rule}; border-radius: 5px; padding: 5px 13px; }}
    QPushButton:hover {{ background: {t.wash}; }}
    QPushButton:checked {{ background: {t.wash}; border: 1px solid {t.go}; }}
    QPushButton:focus {{ border: 1px solid {t.go}; }}
    QPushButton:disabled {{ color: {t.slate}; }}
    QPushButton[small="true"] {{ padding: 3px 2px; }}
    QDialogButtonBox {{ dialogbuttonbox-buttons-have-icons: 0; }}
    QDialog {{ border: 1px solid {t.rule}; }}
    QPushButton[main="true"] {{ background: {t.go}; color: {t.bone}; border: 1px solid {t.go}; font-weight: 600; }}
    QPushButton[main="true"]:disabled {{ background: {t.rule}; border: 1px solid {t.rule}; color: {t.slate}; }}
    QPushButton[tool="true"] {{ background: transparent; border: none; border-radius: 0; text-align: left;
        padding: 3px 12px; }}
    QPushButton[tool="true"]:hover {{ background: {t.wash}; }}
    QPushButton[tool="true"]:checked {{ background: {t.wash}; color: {t.go}; font-weight: 600; }}
    QTableView {{ background: {t.bone}; border: none; gridline-color: {t.rule}; selection-background-color: {t.wash};
        selection-color: {t.ink}; alternate-background-color: {t.paper}; }}
    QHeaderView::section {{ background: {t.bone}; color: {t.slate}; border: none; border-bottom: 1px solid {t.rule};
        padding: 5px 8px;
        font-weight: 600; font-size: 12px; }}
    QMenu::item {{ padding: 5px 22px; }} QMenu::separator {{ height: 1px; background: {t.rule}; margin: 4px 8px; }}
    QWidget#strip {{ background: {t.paper}; border-bottom: 1px solid {t.rule}; }}
    QPushButton[strip="true"] {{ padding: 2px 9px; border-radius: 10px; }}
    QPushButton[strip="true"]:checked {{ background: {t.wash}; border: 1px solid {t.go}; color: {t.go};
        font-weight: 600; }}
    QTableWidget {{ background: {t.bone}; gridline-color: {t.rule}; }}
    QTextBrowser, QPlainTextEdit {{ background: {t.bone}; border: 1px solid {t.rule}; }}
    QListWidget, QTreeWidget {{ background: {t.bone}; border: 1px solid {t.rule};
        selection-background-color: {t.wash}; selection-color: {t.ink}; }}
    QSplitter::handle {{ background: {t.rule}; }}
    QToolTip {{ background: {t.rail}; color: {t.rail_ink}; border: none; padding: 5px; }}
    QProgressBar {{ background: {t.bone}; border: 1px solid {t.rule}; border-radius: 5px; text-align: center;
        min-height: 20px; }}
    QProgressBar::chunk {{ background: {t.go}; border-radius: 4px; }}
    QScrollBar:vertical {{ background: transparent; width: 8px; margin: 0; }}
    QScrollBar:horizontal {{ background: transparent; height: 8px; margin: 0; }}
    QScrollBar::handle {{ background: {t.rule}; border-radius: 2px; min-height: 24px; min-width: 24px; margin: 2px; }}
    QScrollBar::handle:hover {{ background: {t.slate}; }}
    QScrollBar::add-page, QScrollBar::sub-page {{ background: none; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QCheckBox {{ spacing: 7px; }}
    QTabWidget::pane {{ border: none; border-top: 1px solid {t.rule}; }}
    QTabBar::tab {{ background: {t.paper}; color: {t.slate}; border: 1px solid {t.rule}; border-bottom: none;
        padding: 5px 13px; margin-right: 2px; }}
    QTabBar::tab:selected {{ background: {t.bone}; color: {t.ink}; font-weight: 600; }}
    QTabBar::tab:hover {{ background: {t.wash}; }}
    """
