"""Labels in the few manners the application has."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QKeyEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QFrame,
    QLabel,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme


def text(words: str = "", *, wrap: bool = True) -> QLabel:
    """Plain text that never is markup: names can hold anything."""
    label = QLabel(words)
    label.setTextFormat(Qt.TextFormat.PlainText)
    label.setWordWrap(wrap)
    return label


class Lines(QLabel):
    """Wrapped text of so many lines, whatever it says: what comes and goes moves nothing."""

    def __init__(self, count: int) -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setWordWrap(True)
        self.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.setFixedHeight(self.fontMetrics().lineSpacing() * count)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)

    def hasHeightForWidth(self) -> bool:
        """Its height is the same for every width: else the page around it would ask for space it does not need."""
        return False


def caption(words: str = "", *, wrap: bool = False) -> QLabel:
    """Text that steps back."""
    label = text(words, wrap=wrap)
    label.setProperty("role", "muted")
    return label


def caption_of(field: QWidget, words: str, *, wrap: bool = False) -> QLabel:
    """The name that stands at a field; whoever does not see where it stands is told that it belongs to it."""
    # With a buddy a label takes & for the sign before its key.
    label = caption(words.replace("&", "&&"), wrap=wrap)
    label.setBuddy(field)
    return label


class Elided(QLabel):
    """One line of text that gives way: what does not fit is in the tooltip."""

    def __init__(self) -> None:
        super().__init__()
        self._whole = ""
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setProperty("role", "muted")
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)

    def show_text(self, words: str) -> None:
        """Say something else."""
        self._whole = words
        self.setAccessibleName(words)
        self._fit()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        shown = self.fontMetrics().elidedText(
            self._whole, Qt.TextElideMode.ElideRight, max(0, self.width() - 4)
        )
        self.setText(shown)
        self.setToolTip(self._whole if shown != self._whole else "")


class PressableBox(QAbstractButton):
    """What can be pressed though it does not look like a button; to the keyboard and a screen reader it is one.

    Its text stands in labels on it: a button's own would take an ampersand in a name for a key.
    """

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        # As high as its words need, like the labels it stands among.
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Preferred)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.hasFocus():
            painter = QPainter(self)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(QColor(theme.colours().ink), 2.0))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 4, 4)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in {Qt.Key.Key_Return, Qt.Key.Key_Enter}:
            self.click()
            return
        super().keyPressEvent(event)


class Pressable(PressableBox):
    """Text with numbers in it: pressed, or Return on it, it asks where they come from."""

    def __init__(self, *, wrap: bool = True) -> None:
        super().__init__()
        self._words = caption(wrap=wrap)
        self._words.setMinimumHeight(theme.px(20))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(4, 2, 4, 2)
        layout.addWidget(self._words)
        self.setToolTip("Press to see where these numbers come from")

    def text(self) -> str:
        """What it says."""
        return self._words.text()

    def setText(self, text: str | None) -> None:
        """Say something else."""
        self._words.setText(text or "")
        self.setAccessibleName(text or "")


def heading(words: str = "") -> QLabel:
    """The name of what is shown."""
    label = text(words)
    label.setProperty("role", "heading")
    return label


def small_heading(words: str = "") -> QLabel:
    """The name of a part of it."""
    label = text(words)
    label.setProperty("role", "small-heading")
    return label


def number(words: str = "") -> QLabel:
    """A number, in tabular figures, to the right."""
    label = text(words, wrap=False)
    label.setFont(theme.numbers(10.0))
    label.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
    return label


def card() -> tuple[QFrame, QVBoxLayout]:
    """A sheet to put things on."""
    frame = QFrame()
    frame.setProperty("card", "true")
    layout = QVBoxLayout(frame)
    layout.setContentsMargins(16, 12, 16, 12)
    layout.setSpacing(6)
    return frame, layout


def scrolling(view: QWidget) -> QScrollArea:
    """A view where everything can be reached, however small the window and large the letters."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    area.setWidget(view)
    return area


def scrolling_rest(holder: QWidget, least: int = 120) -> QScrollArea:
    """What scrolls within a page: it takes the height that is left and asks for little, so that the page does not."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setWidget(holder)
    area.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Ignored)
    area.setMinimumHeight(theme.px(least))
    return area


def restyle(widget: QWidget, name: str, value: str) -> None:
    """Set a property that the style sheet looks at."""
    if widget.property(name) == value:
        return
    widget.setProperty(name, value)
    style = widget.style()
    if style is not None:
        style.unpolish(widget)
        style.polish(widget)
