"""A sign that is read from three metres with both hands on an instrument: a shape, a word, a number, and a level."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QFontMetricsF, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from verve.app import theme

if TYPE_CHECKING:
    from verve.core.gain import Window
    from verve.core.sheets import SignText

_LOWEST_DBFS, _HIGHEST_DBFS = -72.0, 4.0
_WORD_SHARE, _NUMBER_SHARE, _STRIP_SHARE = 0.33, 0.33, 0.09
_MARGIN = 18.0
_FULL_SCALE_DBFS = -0.05


class FarSign(QWidget):
    """Word and number as large as there is space for; below them what to do, and the level against its target."""

    def __init__(self) -> None:
        super().__init__()
        self._sign: SignText | None = None
        self._levels: tuple[float, ...] = ()
        self._held: tuple[float, ...] = ()
        self._target: Window | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(theme.px(190))
        self.setAccessibleName("The check, to be read from far away")
        self.setToolTip(
            "What to do now, or how it was. Below: the level now and the highest so far, between quiet on the left "
            "and the ceiling on the right; the bracket is where the loudest passage belongs."
        )

    def sizeHint(self) -> QSize:
        return QSize(640, 300)

    def show_sign(
        self,
        sign: SignText,
        levels: Sequence[float] = (),
        held: Sequence[float] = (),
        target: Window | None = None,
    ) -> None:
        """Draw another state."""
        self._sign, self._levels, self._held, self._target = (
            sign,
            tuple(levels),
            tuple(held),
            target,
        )
        self.setAccessibleDescription(f"{sign.word} {sign.number}. {sign.says}")
        self.update()

    @property
    def sign(self) -> SignText | None:
        """What it shows."""
        return self._sign

    # ── painting ──────────────────────────────────────────────────────────────────────────────
    def paintEvent(self, event: QPaintEvent | None) -> None:
        sign = self._sign
        if sign is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        width, height = float(self.width()), float(self.height())
        word_height, number_height = height * _WORD_SHARE, height * _NUMBER_SHARE
        strip = height * _STRIP_SHARE
        shape = QRectF(_MARGIN, word_height * 0.16, word_height * 0.72, word_height * 0.72)
        self._paint_shape(painter, shape, sign)
        left = shape.right() + _MARGIN
        right = width - _MARGIN
        painter.setPen(QColor(theme.colours().ink))
        self._fit(painter, sign.word, QRectF(left, 0, right - left, word_height))
        top = word_height
        if sign.number:
            box = QRectF(_MARGIN, top, width - 2.0 * _MARGIN, number_height)
            self._fit(painter, sign.number, box)
        else:
            # Nothing to measure yet: what to do stands where the number will be.
            number_height = 0.0
        has_strip = bool(self._levels) or self._target is not None
        foot = strip + 10.0 if has_strip else 4.0
        says = QRectF(
            _MARGIN, top + number_height, width - 2.0 * _MARGIN, height - top - number_height - foot
        )
        self._paint_says(painter, sign.says, says)
        if has_strip:
            box = QRectF(_MARGIN, height - strip - 4.0, width - 2.0 * _MARGIN, strip)
            self._paint_strip(painter, box)

    @staticmethod
    def _fit(painter: QPainter, words: str, box: QRectF) -> None:
        """Write as large as the box allows."""
        font = theme.words(10.0)
        metrics = QFontMetricsF(font)
        wide = max(1.0, metrics.horizontalAdvance(words))
        scale = min(box.width() / wide, box.height() * 0.92 / max(1.0, metrics.height()))
        font.setPointSizeF(max(8.0, font.pointSizeF() * scale))
        painter.setFont(font)
        painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, words)

    @staticmethod
    def _paint_says(painter: QPainter, words: str, box: QRectF) -> None:
        """The sentence, in the largest of some sizes that fits."""
        flags = int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop) | int(
            Qt.TextFlag.TextWordWrap
        )
        for size_pt in (21.0, 18.0, 15.5, 13.0, 11.0, 9.5):
            font = theme.words(size_pt)
            bounds = QFontMetricsF(font).boundingRect(box, flags, words)
            if bounds.height() <= box.height() or size_pt == 9.5:
                painter.setFont(font)
                painter.drawText(box, flags, words)
                return

    @staticmethod
    def _paint_shape(painter: QPainter, box: QRectF, sign: SignText) -> None:
        c = theme.colours()
        ink = QPen(QColor(c.ink), max(3.0, box.width() / 11.0))
        ink.setCapStyle(Qt.PenCapStyle.RoundCap)
        ink.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
        painter.setPen(ink)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        middle, r = box.center(), box.width() / 2.2
        if sign.shape == "tick":
            knee = QPointF(middle.x() - r * 0.2, middle.y() + r * 0.65)
            painter.drawPolyline(
                QPolygonF(
                    [
                        QPointF(middle.x() - r, middle.y()),
                        knee,
                        QPointF(middle.x() + r, middle.y() - r * 0.8),
                    ]
                )
            )
        elif sign.shape in {"up", "down"}:
            way = -1.0 if sign.shape == "up" else 1.0
            painter.setBrush(QColor(c.ceiling_edge))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawPolygon(
                QPolygonF(
                    [
                        QPointF(middle.x(), middle.y() + way * r),
                        QPointF(middle.x() - r, middle.y() - way * r * 0.7),
                        QPointF(middle.x() + r, middle.y() - way * r * 0.7),
                    ]
                )
            )
        elif sign.shape == "wall":
            painter.fillRect(
                QRectF(middle.x() + r * 0.3, box.top(), r * 0.5, box.height()),
                QColor(c.ceiling_edge),
            )
            painter.drawLine(
                QPointF(box.left(), middle.y()), QPointF(middle.x() + r * 0.15, middle.y())
            )
        elif sign.shape == "ear":
            painter.drawLine(
                QPointF(middle.x() - r, middle.y() + r * 0.7),
                QPointF(middle.x() + r, middle.y() + r * 0.7),
            )
        else:
            painter.drawEllipse(middle, r * 0.85, r * 0.85)

    def _x(self, level_dbfs: float, box: QRectF) -> float:
        share = (level_dbfs - _LOWEST_DBFS) / (_HIGHEST_DBFS - _LOWEST_DBFS)
        return box.left() + min(max(share, 0.0), 1.0) * box.width()

    def _paint_strip(self, painter: QPainter, box: QRectF) -> None:
        """Quiet on the left, the ceiling on the right: the same walls as in every corridor, lying down."""
        c = theme.colours()
        ceiling = self._x(0.0, box)
        painter.fillRect(box, QColor(c.paper))
        painter.fillRect(
            QRectF(ceiling, box.top(), box.right() - ceiling, box.height()), QColor(c.ceiling)
        )
        painter.setPen(QPen(QColor(c.ceiling_edge), 2.0))
        painter.drawLine(QPointF(ceiling, box.top()), QPointF(ceiling, box.bottom()))
        inner = box.adjusted(0.0, box.height() * 0.3, 0.0, -box.height() * 0.12)
        row = inner.height() / max(1, len(self._levels))
        for number, now in enumerate(self._levels):
            top = inner.top() + number * row
            bar = QRectF(box.left(), top, self._x(now, box) - box.left(), max(2.0, row - 2.0))
            painter.fillRect(bar, QColor(c.muted))
            held = self._held[number] if number < len(self._held) else now
            is_full = held >= _FULL_SCALE_DBFS
            x = self._x(_HIGHEST_DBFS / 2.0 if is_full else held, box)
            colour = QColor(c.ceiling_edge if is_full else c.ink)
            painter.fillRect(QRectF(x - 2.5, top, 5.0, max(2.0, row - 2.0)), colour)
        if self._target is not None:
            painter.setPen(QPen(QColor(c.ink), 2.0))
            low, high = (
                self._x(self._target.lowest_dbfs, box),
                self._x(self._target.highest_dbfs, box),
            )
            y = box.top() + 2.0
            painter.drawLine(QPointF(low, y), QPointF(high, y))
            for x in (low, high):
                painter.drawLine(QPointF(x, y), QPointF(x, y + box.height() * 0.2))
