"""The tuner's display: the note and its distance in figures to be read from across a room, and a beam with a step.

The left half of the beam is the note, the right half what sounds: above it is sharp, below it flat; in tune it is one
beam. While a pitch is not settled the right half is hollow.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from verve.app import theme
from verve.core.sheets import Tuned

_WIDEST_CENTS = 50.0
_MARGIN = 20.0


class TuningDisplay(QWidget):
    """What is heard, large."""

    def __init__(self) -> None:
        super().__init__()
        self._tuned: Tuned | None = None
        self._is_now = False
        self._strings: Sequence[tuple[str, str, bool]] = ()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(theme.px(240))
        self.setAccessibleName("Tuner")
        self.setToolTip(
            "The left half of the beam is the note, the right half what sounds: higher is sharp, lower is flat, one "
            "straight beam is in tune"
        )

    def sizeHint(self) -> QSize:
        return QSize(800, 420)

    def show_tuned(
        self, tuned: Tuned | None, *, is_now: bool, strings: Sequence[tuple[str, str, bool]] = ()
    ) -> None:
        """Draw what is heard now, or was heard last; below it each string, its last figure, whether it is meant."""
        self._tuned, self._is_now, self._strings = tuned, is_now, strings
        said = "nothing heard yet" if tuned is None else f"{tuned.note}, {tuned.says}"
        self.setAccessibleDescription(said if is_now or tuned is None else f"last heard: {said}")
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        c = theme.colours()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = QRectF(self.rect()).adjusted(_MARGIN, 8.0, -_MARGIN, -8.0)
        strings_height = self._paint_strings(painter, area) if self._strings else 0.0
        area.setBottom(area.bottom() - strings_height)
        if self._tuned is None:
            painter.setPen(QColor(c.muted))
            painter.setFont(theme.words(20.0))
            flags = int(Qt.AlignmentFlag.AlignCenter) | int(Qt.TextFlag.TextWordWrap)
            painter.drawText(area, flags, "Play one note.")
            return
        ink = QColor(c.ink if self._is_now else c.muted)
        top = QRectF(area.left(), area.top(), area.width(), area.height() * 0.52)
        beam = QRectF(area.left(), top.bottom(), area.width(), area.height() - top.height())
        self._paint_words(painter, top, self._tuned, ink)
        self._paint_beam(painter, beam, self._tuned, ink)

    def _paint_words(self, painter: QPainter, area: QRectF, tuned: Tuned, ink: QColor) -> None:
        painter.setPen(ink)
        large = _font(theme.words(40.0, QFont.Weight.DemiBold), area.height() * 0.86)
        painter.setFont(large)
        left = QRectF(area.left(), area.top(), area.width() * 0.38, area.height())
        painter.drawText(
            left, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, tuned.letter
        )
        after = left.left() + QFontMetricsF(large).horizontalAdvance(tuned.letter) + 8.0
        painter.setFont(_font(theme.numbers(20.0), area.height() * 0.3))
        foot = QRectF(after, area.top(), 120.0, area.height() * 0.86)
        painter.drawText(foot, Qt.AlignmentFlag.AlignBottom, tuned.octave)
        right = QRectF(left.right(), area.top(), area.right() - left.right(), area.height())
        figure = QRectF(right.left(), right.top(), right.width(), right.height() * 0.56)
        painter.setFont(_fitting(theme.words(40.0), tuned.figure, figure))
        flags = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(figure, flags, tuned.figure)
        words = QRectF(right.left(), figure.bottom(), right.width(), right.height() * 0.26)
        painter.setFont(_fitting(theme.words(20.0), tuned.says, words))
        painter.drawText(words, flags, tuned.says)
        small = QRectF(right.left(), words.bottom(), right.width(), right.height() * 0.15)
        painter.setFont(_fitting(theme.numbers(12.0), tuned.frequency, small))
        painter.drawText(small, flags, tuned.frequency)

    def _paint_beam(self, painter: QPainter, area: QRectF, tuned: Tuned, ink: QColor) -> None:
        thick = max(10.0, area.height() * 0.13)
        middle, centre = area.center().y(), area.center().x()
        reach = (area.height() - thick) / 2.0 - 4.0
        # The root: a few cents are seen as well as many.
        share = math.sqrt(min(abs(tuned.cents), _WIDEST_CENTS) / _WIDEST_CENTS)
        step = 0.0 if tuned.is_in_tune else math.copysign(share, tuned.cents) * reach
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(ink)
        painter.drawRect(QRectF(area.left(), middle - thick / 2.0, area.width() / 2.0, thick))
        right = QRectF(centre, middle - step - thick / 2.0, area.width() / 2.0, thick)
        if tuned.is_settled:
            painter.drawRect(right)
        else:
            painter.setPen(QPen(ink, 3.0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(right.adjusted(1.5, 1.5, -1.5, -1.5))
        painter.setPen(QPen(ink, 1.4, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(centre, middle), QPointF(area.right(), middle))

    def _paint_strings(self, painter: QPainter, area: QRectF) -> float:
        """Each open string with what it was last; the one that is meant is underlined."""
        c = theme.colours()
        height = max(theme.px(58), area.height() * 0.17)
        row = QRectF(area.left(), area.bottom() - height, area.width(), height)
        width = row.width() / len(self._strings)
        for index, (note, figure, is_meant) in enumerate(self._strings):
            cell = QRectF(row.left() + index * width, row.top(), width, height)
            painter.setPen(QColor(c.ink if is_meant else c.muted))
            weight = QFont.Weight.DemiBold if is_meant else QFont.Weight.Normal
            upper = QRectF(cell.left(), cell.top(), width, height * 0.55)
            painter.setFont(_font(theme.words(14.0, weight), upper.height() * 0.85))
            painter.drawText(upper, Qt.AlignmentFlag.AlignCenter, note)
            lower = QRectF(cell.left(), upper.bottom(), width, height * 0.36)
            painter.setFont(_fitting(theme.numbers(11.0), figure, lower))
            painter.drawText(lower, Qt.AlignmentFlag.AlignCenter, figure)
            if is_meant:
                line = QRectF(cell.left() + width * 0.2, cell.bottom() - 4.0, width * 0.6, 3.0)
                painter.fillRect(line, QColor(c.ink))
        return height


def _font(font: QFont, height_px: float) -> QFont:
    """A font whose letters take so much height, with their space."""
    font.setPixelSize(max(8, round(height_px / 1.25)))
    return font


def _fitting(font: QFont, words: str, box: QRectF) -> QFont:
    """As large as the box lets the words be."""
    size = max(8, round(box.height() / 1.25))
    font.setPixelSize(size)
    width = QFontMetricsF(font).horizontalAdvance(words)
    if width > box.width() > 0.0:
        font.setPixelSize(max(8, int(size * box.width() / width)))
    return font
