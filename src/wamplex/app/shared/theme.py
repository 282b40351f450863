"""The looks: colours, fonts, spacings. No widget holds a colour or a style of its own."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication

from wamplex.core.base.resources import FONTS_DIR, ICONS_DIR

# Tokens as on paper; `apply_theme` takes those of `DIMMED` instead for dark rooms.
PANEL, CARD, BAR, FIELD = "#F6F3EC", "#FBF9F4", "#ECE7DC", "#FFFFFF"
# The darkest grey of Munsell N5, on which white can just be read (WCAG 2.1: 4.5 to 1).
BENCH, INK, SOFT, RULE = "#767676", "#23211D", "#6B665C", "#CFC8B8"
MOSS, MOSS_TINT, AMBER, AMBER_TINT = "#2F5D46", "#DDE8DF", "#B7791F", "#F6E7C8"
AMBER_INK, CONTROL_EDGE, BAR_INK = "#7A4F10", "#9A927F", "#8E9C91"
# Words on moss and on ink, and moss under the pointer.
ON_INK, MOSS_DEEP = "#FFFFFF", "#264D3A"
# The same in any light: on the bench, and for lines over pictures, dark beside light.
WHITE, OUTLINE = "#FFFFFF", "#23211D"
DIMMED = {
    "PANEL": "#33312D",
    "CARD": "#3C3A35",
    "BAR": "#292724",
    "FIELD": "#24221F",
    "BENCH": "#4A4A4A",
    "INK": "#EDE9E0",
    "SOFT": "#BEB8AC",
    "RULE": "#55514A",
    "MOSS": "#9CCBB0",
    "MOSS_TINT": "#34483D",
    "MOSS_DEEP": "#B4DCC5",
    "AMBER": "#D9A44A",
    "AMBER_TINT": "#4D3D1F",
    "AMBER_INK": "#EBBF6E",
    "CONTROL_EDGE": "#8F897D",
    "BAR_INK": "#7F8D84",
    "ON_INK": "#1E211E",
}
_PAPER = {name: globals()[name] for name in DIMMED}

SPACE, GAP = 14, 8
TRAY_WIDTH, PANEL_WIDTH, TOP_HEIGHT, BAR_HEIGHT, STATUS_HEIGHT = 164, 292, 46, 38, 28
BODY_FAMILY, BOLD_FAMILY, HEADING_FAMILY = "Public Sans", "Public Sans SemiBold", "Source Serif 4 SemiBold"


def font(size_px: int = 13, *, bold: bool = False, heading: bool = False) -> QFont:
    """A font of the application, sized in pixels."""
    qfont = QFont(HEADING_FAMILY if heading else BOLD_FAMILY if bold else BODY_FAMILY)
    qfont.setPixelSize(size_px)
    return qfont


def colour(token: str) -> QColor:
    """A colour token for painting."""
    return QColor(token)


def apply_theme(app: QApplication, *, dimmed: bool = False) -> None:
    """Load the fonts and style every widget; it may be done again, for another light."""
    # Whoever paints asks this module for a token each time.
    globals().update(DIMMED if dimmed else _PAPER)
    for path in sorted(FONTS_DIR.glob("*.ttf")):
        QFontDatabase.addApplicationFont(str(path))
    app.setStyle("Fusion")
    app.setFont(font())
    palette = QPalette()
    for role, token in (
        (QPalette.ColorRole.Window, PANEL),
        (QPalette.ColorRole.Base, FIELD),
        (QPalette.ColorRole.AlternateBase, CARD),
        (QPalette.ColorRole.Button, CARD),
        (QPalette.ColorRole.WindowText, INK),
        (QPalette.ColorRole.Text, INK),
        (QPalette.ColorRole.ButtonText, INK),
        (QPalette.ColorRole.ToolTipBase, CARD),
        (QPalette.ColorRole.ToolTipText, INK),
        (QPalette.ColorRole.Highlight, MOSS),
        (QPalette.ColorRole.HighlightedText, ON_INK),
        (QPalette.ColorRole.Link, MOSS),
    ):
        palette.setColor(role, QColor(token))
    app.setPalette(palette)
    app.setStyleSheet(_sheet())


@contextmanager
def deferred_stylesheet(app: QApplication) -> Iterator[None]:
    """Apply the style sheet after the widgets created in this block have their parents.

    Qt restyles the subtree whenever a widget is reparented: two thirds of the time in which the window is
    created.
    """
    sheet = app.styleSheet()
    app.setStyleSheet("")
    try:
        yield
    finally:
        app.setStyleSheet(sheet)


def _sheet() -> str:
    """The style sheet in the tokens that hold."""
    lit = "" if _PAPER["INK"] == INK else "-light"
    arrow, check = ((ICONS_DIR / f"{name}{lit}.svg").as_posix() for name in ("arrow-down", "check"))
    return f"""
QWidget {{ color: {INK}; font-family: "{BODY_FAMILY}"; font-size: 13px; }}
QMainWindow, QWidget[role="panel"] {{ background: {PANEL}; }}
QWidget[role="bar"] {{ background: {BAR}; border-bottom: 1px solid {RULE}; }}
QWidget[role="status"] {{ background: {BAR}; border-top: 1px solid {RULE}; }}
QWidget[role="status"] QLabel {{ font-size: 12px; }}
QWidget[role="top"] {{ background: {PANEL}; border-bottom: 1px solid {RULE}; }}
QWidget[role="notice"] {{ background: {MOSS_TINT}; border-bottom: 1px solid {MOSS}; }}
QWidget[role="warning-line"] {{ background: {AMBER_TINT}; border-bottom: 1px solid {AMBER}; }}
QWidget[role="tray"] {{ background: {BAR}; border-right: 1px solid {RULE}; }}
QWidget[role="side"] {{ background: {PANEL}; border-left: 1px solid {RULE}; }}
QWidget[role="footer"] {{ background: {PANEL}; border-top: 1px solid {RULE}; }}
QWidget[role="bench"] {{ background: {BENCH}; }}
QFrame[role="card"] {{ background: {CARD}; border: 1px solid {RULE}; }}
QFrame[role="sheet"] {{ background: {CARD}; border: none; }}
QFrame[role="warning"] {{ background: {AMBER_TINT}; border: 1px solid {AMBER}; }}
QFrame[role="chosen"] {{ background: {CARD}; border: 2px solid {MOSS}; }}
QFrame[role="job"] {{ background: {CARD}; border: none; border-bottom: 1px solid {RULE}; }}
QFrame[role="job-failed"] {{ background: {AMBER_TINT}; border: none; border-bottom: 1px solid {RULE}; }}
QFrame[role="row"] {{ border: none; border-top: 1px solid {RULE}; }}
QFrame[role="row"]:hover {{ background: {PANEL}; }}
QFrame[role="row"]:focus {{ border: 1px solid {MOSS}; }}
QFrame[role="row-present"] {{ background: {MOSS_TINT}; border: none; border-top: 1px solid {RULE}; }}
QFrame[role="row-present"]:focus {{ border: 1px solid {MOSS}; }}
QFrame[role="rule"] {{ background: {RULE}; border: none; max-height: 1px; min-height: 1px; }}
QFrame[role="divider"] {{ background: {RULE}; border: none; max-width: 1px; min-width: 1px; }}
QLabel {{ background: transparent; }}
QLabel[role="name"] {{ font-family: "{HEADING_FAMILY}"; font-size: 20px; }}
QLabel[role="title"] {{ font-family: "{HEADING_FAMILY}"; font-size: 19px; }}
QLabel[role="headline"] {{ font-family: "{HEADING_FAMILY}"; font-size: 17px; }}
QLabel[role="heading"] {{ font-family: "{HEADING_FAMILY}"; font-size: 13px; color: {SOFT}; }}
QLabel[role="trial-name"] {{ font-family: "{HEADING_FAMILY}"; font-size: 14px; }}
QLabel[role="mark"] {{
    background: {INK}; color: {ON_INK}; font-family: "{HEADING_FAMILY}"; font-size: 13px;
}}
QLabel[role="mark-stamped"] {{
    background: {MOSS}; color: {ON_INK}; font-family: "{HEADING_FAMILY}"; font-size: 13px;
}}
QLabel[role="strong"] {{ font-family: "{BOLD_FAMILY}"; }}
QLabel[role="small-strong"] {{ font-family: "{BOLD_FAMILY}"; font-size: 12px; }}
QLabel[role="small"] {{ font-size: 12px; }}
QLabel[role="good"] {{ font-size: 12px; color: {MOSS}; }}
QLabel[role="soft"] {{ color: {SOFT}; font-size: 12px; }}
QLabel[role="on-bench"] {{ color: {WHITE}; font-size: 14px; }}
QLabel[role="spot-name"] {{ color: {WHITE}; font-family: "{HEADING_FAMILY}"; font-size: 14px; }}
QLabel[role="spot-kind"] {{ color: {WHITE}; font-size: 12px; }}
QLabel[role="alert"] {{ color: {AMBER_INK}; font-size: 12px; }}
QPushButton, QToolButton {{
    background: {CARD}; border: 1px solid {RULE}; border-radius: 2px; padding: 3px 9px; min-height: 17px;
}}
QFileDialog QToolButton {{ padding: 2px; }}
QPushButton:hover, QToolButton:hover {{ border-color: {SOFT}; }}
QPushButton:focus, QToolButton:focus {{ border: 1px solid {MOSS}; }}
QPushButton:checked, QToolButton:checked {{ background: {MOSS_TINT}; border: 1px solid {MOSS}; }}
QPushButton:disabled, QToolButton:disabled {{ color: {CONTROL_EDGE}; }}
QPushButton[role="main"] {{
    background: {MOSS}; border: 1px solid {MOSS}; color: {ON_INK}; font-family: "{BOLD_FAMILY}";
}}
QPushButton[role="main"]:hover {{ background: {MOSS_DEEP}; }}
QPushButton[role="main"]:focus {{ border: 1px solid {INK}; }}
QPushButton[role="main"]:disabled {{ background: {RULE}; border-color: {RULE}; color: {SOFT}; }}
QPushButton[role="link"] {{
    background: transparent; border: 1px solid transparent; padding: 0; text-decoration: underline;
    text-align: left; min-height: 14px; font-size: 12px;
}}
QPushButton[role="bench-link"] {{
    background: transparent; border: 1px solid transparent; padding: 0; text-decoration: underline;
    text-align: left; min-height: 14px; font-size: 12px; color: {WHITE};
}}
QPushButton[role="link"]:focus, QPushButton[role="bench-link"]:focus {{ border: 1px dotted {INK}; }}
QPushButton[role="add"] {{ background: transparent; border: 1px dashed {SOFT}; padding: 8px; color: {SOFT}; }}
QPushButton[role="step"] {{
    background: transparent; border: none; border-bottom: 3px solid transparent; border-radius: 0;
    padding: 0 18px; font-family: "{HEADING_FAMILY}"; font-size: 15px; color: {SOFT};
}}
QPushButton[role="step"]:checked {{ color: {INK}; border-bottom: 3px solid {MOSS}; }}
QPushButton[role="step"]:focus:!checked {{ border-bottom: 3px solid {RULE}; }}
QToolButton::menu-indicator, QPushButton::menu-indicator {{ image: none; width: 0; }}
QCheckBox::indicator {{ width: 13px; height: 13px; border: 1px solid {CONTROL_EDGE}; background: {FIELD}; }}
QCheckBox::indicator:checked {{ image: url({check}); }}
QCheckBox::indicator:disabled {{ border: 1px solid {RULE}; }}
QSlider::groove:horizontal {{ height: 4px; background: {RULE}; }}
QSlider::handle:horizontal {{
    width: 12px; margin: -5px 0; border: 1px solid {CONTROL_EDGE}; border-radius: 3px; background: {WHITE};
}}
QSlider::handle:horizontal:focus {{ border: 1px solid {MOSS}; }}
QSlider::handle:horizontal:disabled {{ background: {RULE}; border: 1px solid {RULE}; }}
QCheckBox:disabled, QRadioButton:disabled {{ color: {CONTROL_EDGE}; }}
QLineEdit, QSpinBox, QDoubleSpinBox {{
    background: {FIELD}; border: 1px solid {CONTROL_EDGE}; padding: 2px 4px;
    selection-background-color: {MOSS};
}}
QSpinBox::up-button, QSpinBox::down-button, QDoubleSpinBox::up-button, QDoubleSpinBox::down-button {{
    width: 0; border: none;
}}
QLineEdit:focus, QSpinBox:focus, QDoubleSpinBox:focus {{ border: 1px solid {MOSS}; }}
QComboBox {{ background: {CARD}; border: 1px solid {RULE}; border-radius: 2px; padding: 3px 8px; }}
QComboBox:focus {{ border: 1px solid {MOSS}; }}
QComboBox QAbstractItemView, QMenu {{ background: {CARD}; border: 1px solid {RULE}; }}
QMenu::item {{ padding: 5px 18px; }}
QMenu::item:selected {{ background: {MOSS_TINT}; }}
QProgressBar {{ background: {RULE}; border: none; max-height: 7px; min-height: 7px; }}
QProgressBar::chunk {{ background: {MOSS}; }}
QListWidget {{ background: {CARD}; border: 1px solid {RULE}; outline: 0; }}
QListWidget::item {{ padding: 5px 6px; }}
QListWidget::item:selected {{ background: {MOSS_TINT}; color: {INK}; }}
QTableWidget {{ background: {CARD}; border: 1px solid {RULE}; outline: 0;
    selection-background-color: {MOSS_TINT}; selection-color: {INK}; }}
QTableWidget::item {{ padding: 0 8px; border-bottom: 1px solid {RULE}; }}
QTableWidget::item:selected {{ background: {MOSS_TINT}; border-bottom: 1px solid {RULE}; }}
QHeaderView {{ background: {BAR}; }}
QHeaderView::section {{ background: {BAR}; border: none; border-bottom: 1px solid {RULE}; padding: 4px 8px;
    font-size: 12px; color: {SOFT}; }}
QScrollArea {{ border: none; background: transparent; }}
QListView[objectName="tray-list"] {{ border: none; background: transparent; outline: 0; }}
QWidget[role="clear"] {{ background: transparent; }}
QComboBox::drop-down {{ border: none; width: 18px; }}
QComboBox::down-arrow {{ image: url({arrow}); width: 9px; height: 6px; }}
QScrollBar:vertical {{ background: transparent; width: 8px; }}
QScrollBar::handle:vertical {{ background: {RULE}; min-height: 24px; }}
QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; }}
QToolTip {{ background: {CARD}; color: {INK}; border: 1px solid {RULE}; padding: 4px; }}
"""
