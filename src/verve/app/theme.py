"""Ink on warm paper by day, its quiet inversion by night: colours, fonts, one style sheet."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Final

from PyQt6.QtCore import QDir, Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QGuiApplication, QPalette
from PyQt6.QtWidgets import QApplication

WORDS_FAMILY: Final = "Atkinson Hyperlegible Next"
NUMBERS_FAMILY: Final = "Atkinson Hyperlegible Mono"
SIGNS_FAMILY: Final = "Verve Signs"
"""What the other two lack: arrows, boxes to tick, subscripts, Greek, Cyrillic."""
DATA: Final = Path(__file__).resolve().parent.parent / "data"
_FONT_FILES: Final = (
    "AtkinsonHyperlegibleNext_400Regular.ttf",
    "AtkinsonHyperlegibleNext_600SemiBold.ttf",
    "AtkinsonHyperlegibleMono_400Regular.ttf",
    "VerveSigns.ttf",
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Colours:
    """One set of colours. Text on `paper` or `card` has a contrast of at least 4.5 : 1."""

    paper: str
    card: str
    raised: str
    ink: str
    muted: str
    rule: str
    ceiling: str
    ceiling_edge: str
    floor: str
    floor_edge: str
    lines: tuple[str, ...]

    def line(self, index: int) -> QColor:
        """The colour that tells a line apart."""
        return QColor(self.lines[index % len(self.lines)])


DAY: Final = Colours(
    paper="#f3ede0",
    card="#fcf9f1",
    raised="#e9e1cf",
    ink="#1f232b",
    muted="#625b4f",
    rule="#d8cfbb",
    ceiling="#ecd0bd",
    ceiling_edge="#8c4526",
    floor="#d2dad8",
    floor_edge="#43565c",
    lines=(
        "#2d5aa8",
        "#1c7a62",
        "#a9571f",
        "#7a4b94",
        "#1f7488",
        "#86690c",
        "#a83a63",
        "#525c6b",
    ),
)
NIGHT: Final = Colours(
    paper="#17181b",
    card="#1f2125",
    raised="#2c2f35",
    ink="#ece6d9",
    muted="#aaa396",
    rule="#3b3e44",
    ceiling="#4c3227",
    ceiling_edge="#dd9673",
    floor="#2d373b",
    floor_edge="#9db1b7",
    lines=(
        "#8fb2f0",
        "#6cc7ac",
        "#e59d66",
        "#c79be0",
        "#73c3d6",
        "#d3b455",
        "#ea8fb0",
        "#aab5c4",
    ),
)


def is_night() -> bool:
    """Whether the desktop asks for dark colours."""
    hints = QGuiApplication.styleHints()
    return hints is not None and hints.colorScheme() == Qt.ColorScheme.Dark


_current = DAY


def colours() -> Colours:
    """The colours in use."""
    return _current


def words(size_pt: float = 10.5, weight: QFont.Weight = QFont.Weight.Normal) -> QFont:
    """The typeface for words, in the desktop's letter size."""
    font = QFont([WORDS_FAMILY, SIGNS_FAMILY])
    font.setPointSizeF(size_pt * _scale)
    font.setWeight(weight)
    return font


def numbers(size_pt: float = 10.0, weight: QFont.Weight = QFont.Weight.Normal) -> QFont:
    """The typeface for numbers: tabular, so that they align on the decimal point."""
    font = QFont([NUMBERS_FAMILY, SIGNS_FAMILY])
    font.setPointSizeF(size_pt * _scale)
    font.setWeight(weight)
    return font


def load_fonts() -> None:
    """Make the shipped typefaces known; they are read once."""
    folder = DATA / "fonts"
    if WORDS_FAMILY in QFontDatabase.families():
        return
    for name in _FONT_FILES:
        QFontDatabase.addApplicationFontFromData((folder / name).read_bytes())


_USUAL_PT = 11.0
"""The letters of a desktop nobody has changed (typical); what is larger there is larger here too."""
_LARGEST_SCALE = 2.0
_scale = 1.0


def desktop_scale() -> float:
    """How much larger than usual the letters of this desktop are."""
    size_pt = QFontDatabase.systemFont(QFontDatabase.SystemFont.GeneralFont).pointSizeF()
    return min(_LARGEST_SCALE, max(1.0, size_pt / _USUAL_PT))


def scale() -> float:
    """How much larger than usual letters are now."""
    return _scale


def px(usual: int) -> int:
    """So many pixels with letters of the usual size, as many more with larger ones."""
    return round(usual * _scale)


def apply(application: QApplication, *, night: bool, scale: float | None = None) -> None:
    """Dress the application; `scale` is how large its letters are, the desktop's where none is said."""
    global _current, _scale
    _current = NIGHT if night else DAY
    _scale = desktop_scale() if scale is None else scale
    c = _current
    application.setStyle("Fusion")
    application.setFont(words())
    palette = QPalette()
    roles = {
        QPalette.ColorRole.Window: c.paper,
        QPalette.ColorRole.WindowText: c.ink,
        QPalette.ColorRole.Base: c.card,
        QPalette.ColorRole.AlternateBase: c.paper,
        QPalette.ColorRole.Text: c.ink,
        QPalette.ColorRole.Button: c.card,
        QPalette.ColorRole.ButtonText: c.ink,
        QPalette.ColorRole.Highlight: c.ink,
        QPalette.ColorRole.HighlightedText: c.card,
        QPalette.ColorRole.ToolTipBase: c.raised,
        QPalette.ColorRole.ToolTipText: c.ink,
        QPalette.ColorRole.PlaceholderText: c.muted,
        QPalette.ColorRole.Accent: c.ink,
    }
    for role, colour in roles.items():
        palette.setColor(role, QColor(colour))
    disabled = QPalette.ColorGroup.Disabled
    for role in (
        QPalette.ColorRole.Text,
        QPalette.ColorRole.ButtonText,
        QPalette.ColorRole.WindowText,
    ):
        palette.setColor(disabled, role, QColor(c.muted))
    application.setPalette(palette)
    application.setStyleSheet(_style_sheet(c))


def _style_sheet(c: Colours) -> str:
    # By a search path: whatever letters the folder of this clone has, none stand in the style sheet.
    QDir.setSearchPaths("verve", [str(DATA / "icons")])
    hour = "day" if c is DAY else "night"
    tick, down, up = (f"verve:{name}-{hour}.svg" for name in ("tick", "down", "up"))
    return f"""
    QToolTip {{ background: {c.raised}; color: {c.ink}; border: 1px solid {c.rule}; padding: 4px; }}
    QFrame[card="true"][chosen="true"] {{ border: 2px solid {c.ink}; }}
    QFrame[card="true"] {{ background: {c.card}; border: 1px solid {c.rule}; border-radius: 8px; }}
    QLabel[role="muted"] {{ color: {c.muted}; }}
    QLabel[role="heading"] {{ font-size: {13.0 * _scale:g}pt; font-weight: 600; }}
    QLabel[role="small-heading"] {{ color: {c.muted}; font-weight: 600; }}
    QPushButton {{ background: {c.card}; color: {c.ink}; border: 1px solid {c.muted};
        border-radius: 6px; padding: 5px 12px; }}
    QPushButton:hover {{ background: {c.raised}; }}
    QPushButton:disabled {{ color: {c.muted}; border-color: {c.rule}; }}
    QPushButton:focus {{ border: 2px solid {c.ink}; padding: 4px 11px; }}
    QPushButton[strong="true"] {{ background: {c.ink}; color: {c.card}; border-color: {c.ink};
        font-weight: 600; }}
    QPushButton[strong="true"]:focus {{ border: 2px solid {c.ceiling_edge}; }}
    QPushButton[strong="true"]:disabled {{ background: {c.rule}; color: {c.muted}; border-color: {c.rule}; }}
    QPushButton[plain="true"] {{ border: 1px solid transparent; background: transparent;
        text-align: left; padding: 4px 8px; }}
    QPushButton[plain="true"]:hover {{ background: {c.raised}; }}
    QPushButton[plain="true"]:focus {{ border: 2px solid {c.ink}; padding: 3px 7px; }}
    QLineEdit, QPlainTextEdit {{ background: {c.card}; color: {c.ink};
        border: 1px solid {c.muted}; border-radius: 5px; padding: 3px 6px;
        selection-background-color: {c.ink}; selection-color: {c.card}; }}
    QLineEdit:focus, QPlainTextEdit:focus {{
        border: 2px solid {c.ink}; padding: 2px 5px; }}
    QComboBox, QAbstractSpinBox {{ background: {c.card}; color: {c.ink}; border: 1px solid {c.muted};
        border-radius: 5px; padding: 3px 6px; min-height: 18px;
        selection-background-color: {c.ink}; selection-color: {c.card}; }}
    QComboBox:hover {{ background: {c.raised}; }}
    QComboBox:focus, QAbstractSpinBox:focus {{ border: 2px solid {c.ink}; padding: 2px 5px; }}
    QComboBox:disabled, QAbstractSpinBox:disabled {{ color: {c.muted}; border-color: {c.rule}; }}
    QComboBox::drop-down {{ border: none; width: 18px; }}
    QComboBox::down-arrow {{ image: url({down}); width: 10px; height: 10px; }}
    QComboBox QAbstractItemView {{ background: {c.card}; color: {c.ink}; border: 1px solid {c.muted};
        selection-background-color: {c.raised}; selection-color: {c.ink}; }}
    QAbstractSpinBox::up-button, QAbstractSpinBox::down-button {{ border: none; width: 16px; }}
    QAbstractSpinBox::up-arrow {{ image: url({up}); width: 8px; height: 8px; }}
    QAbstractSpinBox::down-arrow {{ image: url({down}); width: 8px; height: 8px; }}
    QPushButton[small="true"] {{ padding: 0 5px; font-size: {8.5 * _scale:g}pt; min-height: 22px; color: {c.muted};
        border-color: {c.rule}; }}
    QPushButton[small="true"]:focus {{ border: 2px solid {c.ink}; padding: 0 4px; }}
    QPushButton[small="true"]:checked {{ background: {c.ink}; color: {c.card}; border-color: {c.ink}; }}
    QLineEdit[wrong="true"] {{ border: 2px dashed {c.ceiling_edge}; padding: 2px 5px; }}
    QCheckBox {{ spacing: 7px; padding: 2px 4px; min-height: 20px; border: 1px solid transparent;
        border-radius: 4px; }}
    QCheckBox:focus {{ border: 2px solid {c.ink}; padding: 1px 3px; }}
    QCheckBox::indicator {{ width: 12px; height: 12px; border: 1px solid {c.ink}; border-radius: 3px;
        background: {c.card}; }}
    QCheckBox::indicator:checked {{ background: {c.ink}; image: url({tick}); }}
    QCheckBox::indicator:disabled {{ border-color: {c.rule}; }}
    QScrollArea {{ border: none; background: transparent; }}
    QAbstractScrollArea::corner {{ background: transparent; border: none; }}
    QScrollArea > QWidget > QWidget {{ background: transparent; }}
    QListWidget {{ background: {c.card}; border: 1px solid {c.rule}; border-radius: 8px; padding: 4px; }}
    QListWidget::item {{ border-radius: 5px; color: {c.ink}; border: 1px solid transparent; }}
    QListWidget::item:selected {{ background: {c.raised}; color: {c.ink}; border: 1px solid {c.ink}; }}
    QListWidget:focus {{ border: 2px solid {c.ink}; }}
    QTableView {{ background: {c.card}; border: 1px solid {c.rule}; border-radius: 8px;
        gridline-color: {c.rule}; }}
    QTableView:focus {{ border: 2px solid {c.ink}; }}
    QTableView::item:selected {{ background: {c.raised}; color: {c.ink};
        border-top: 1px solid {c.ink}; border-bottom: 1px solid {c.ink}; }}
    QDialogButtonBox {{ button-layout: 3; }}
    QTabBar::tab {{ background: transparent; color: {c.muted}; border: none;
        border-bottom: 2px solid transparent; padding: 4px 2px; margin-right: 16px; }}
    QTabBar::tab:selected {{ color: {c.ink}; border-bottom: 2px solid {c.ink}; }}
    QTabBar::tab:hover {{ color: {c.ink}; }}
    QTabBar::tab:focus {{ border: 2px solid {c.ink}; border-radius: 4px; }}
    QHeaderView {{ background: transparent; border: none; }}
    QHeaderView::section:horizontal {{ background: transparent; color: {c.muted}; border: none;
        border-bottom: 1px solid {c.rule}; padding: 5px 6px; font-weight: 600; }}
    QHeaderView::section:vertical {{ background: {c.card}; color: {c.ink}; border: none;
        border-right: 1px solid {c.rule}; padding: 2px 8px; }}
    QTableCornerButton::section {{ background: {c.card}; border: none; }}
    QProgressBar {{ border: 1px solid {c.muted}; border-radius: 5px; background: {c.card};
        text-align: center; color: {c.ink}; height: 16px; }}
    QProgressBar::chunk {{ background: {c.floor}; border-radius: 4px; }}
    QScrollBar {{ background: transparent; border: none; margin: 0; }}
    QScrollBar:vertical {{ width: 10px; }}
    QScrollBar:horizontal {{ height: 10px; }}
    QScrollBar::handle {{ background: {c.muted}; border-radius: 3px; margin: 2px; }}
    QScrollBar::handle:vertical {{ min-height: 28px; }}
    QScrollBar::handle:horizontal {{ min-width: 28px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
    QMenuBar {{ background: {c.paper}; }}
    QMenuBar::item:selected {{ background: {c.raised}; }}
    QMenu {{ background: {c.card}; color: {c.ink}; border: 1px solid {c.muted}; padding: 4px; }}
    QMenu::item {{ padding: 5px 22px 5px 12px; border-radius: 4px; }}
    QMenu::separator {{ height: 1px; background: {c.rule}; margin: 4px 8px; }}
    QMenu::item:selected {{ background: {c.raised}; }}
    QMenu::item:disabled {{ color: {c.muted}; }}
    QStatusBar {{ color: {c.muted}; }}
    """
