"""A line's level as it comes: every moment leaves a grain of ink between floor and ceiling.

Where the playing often is, the ink gets dark; what was computed for it stands below as a bracket.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from verve.app import theme

if TYPE_CHECKING:
    from verve.core.assess import LineAssessment


LOWEST_DBFS = -110.0
BEYOND_DB = 6.0
"""Room behind the ceiling, for what clips."""
_FULL_SCALE_PEAK_DBFS = -0.05
_LONGEST = 900
_NUMBERS_WIDTH = 92
_TICKS_DBFS = (-100.0, -80.0, -60.0, -40.0, -20.0, 0.0)


def _x(level_dbfs: float, width: float) -> float:
    share = (level_dbfs - LOWEST_DBFS) / (BEYOND_DB - LOWEST_DBFS)
    return min(max(share, 0.0), 1.0) * width


class GrainScale(QWidget):
    """The scale over all grains, in dBFS."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(18)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setPen(QColor(theme.colours().muted))
        painter.setFont(theme.numbers(9.0))
        width = self.width() - _NUMBERS_WIDTH
        for level_dbfs in _TICKS_DBFS:
            text = f"{level_dbfs:.0f}".replace("-", "−")
            box = QRectF(_x(level_dbfs, width) - 24, 0, 48, self.height())
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
        painter.setFont(theme.words(9.0))
        right = QRectF(width, 0, _NUMBERS_WIDTH - 2, self.height())
        words = "highest, dBFS"
        painter.drawText(right, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)


class Grain(QWidget):
    """The peaks of one line, on the level scale. What clips falls into the wall on the right."""

    def __init__(self) -> None:
        super().__init__()
        self._peaks: list[float | None] = []
        self._highest: float | None = None
        self._item: LineAssessment | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(theme.px(25))
        self.setMaximumHeight(110)
        self.setToolTip(
            "Quiet on the left, loud on the right; the wall on the left is the signal's noise, the one on "
            "the right is where it clips. Each moment leaves a grain. The bracket below is what was "
            "computed, the notch above is the target for the loudest passage."
        )

    def sizeHint(self) -> QSize:
        return QSize(320, 38)

    def show_line(self, item: LineAssessment) -> None:
        """What the level is held against."""
        self._item = item
        self.setAccessibleName(f"Level of {item.line.name}")
        self.update()

    def clear(self) -> None:
        """Begin anew."""
        self._peaks, self._highest = [], None
        self.update()

    def add(self, peak_dbfs: float | None) -> None:
        """One more moment."""
        self._peaks.append(peak_dbfs)
        del self._peaks[:-_LONGEST]
        if peak_dbfs is not None and (self._highest is None or peak_dbfs > self._highest):
            self._highest = peak_dbfs
        said = "no level yet" if self._highest is None else f"highest peak {self._highest:.1f} dBFS"
        self.setAccessibleDescription(said)
        self.update()

    @property
    def highest_dbfs(self) -> float | None:
        """Highest peak since it began."""
        return self._highest

    def paintEvent(self, event: QPaintEvent | None) -> None:
        item = self._item
        if item is None:
            return
        c = theme.colours()
        painter = QPainter(self)
        width, height = float(self.width() - _NUMBERS_WIDTH), float(self.height())
        ceiling = _x(0.0, width)
        painter.fillRect(QRectF(0, 4, width, height - 8), QColor(c.paper))
        painter.fillRect(QRectF(ceiling, 4, width - ceiling, height - 8), QColor(c.ceiling))
        if item.noise_dbfs_a is not None:
            floor = _x(item.noise_dbfs_a, width)
            painter.fillRect(QRectF(0, 4, floor, height - 8), QColor(c.floor))
            painter.setPen(QPen(QColor(c.floor_edge), 1.0))
            painter.drawLine(QPointF(floor, 4), QPointF(floor, height - 4))
        self._paint_grains(painter, width, height)
        painter.setPen(QPen(QColor(c.ceiling_edge), 1.0))
        painter.drawLine(QPointF(ceiling, 4), QPointF(ceiling, height - 4))
        self._paint_expected(painter, item, width, height)
        painter.setPen(QColor(c.ink if self._highest is not None else c.muted))
        painter.setFont(theme.numbers(11.0))
        text = "—" if self._highest is None else f"{self._highest:.1f}".replace("-", "−")
        right = QRectF(width + 8, 0, _NUMBERS_WIDTH - 10, height)
        painter.drawText(right, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, text)

    def _paint_grains(self, painter: QPainter, width: float, height: float) -> None:
        assert self._item is not None
        colour = theme.colours().line(self._item.line.colour)
        grain = QColor(colour)
        grain.setAlpha(72)
        for peak in self._peaks:
            if peak is None:
                continue
            x = _x(BEYOND_DB / 2 if peak >= _FULL_SCALE_PEAK_DBFS else peak, width)
            painter.fillRect(QRectF(x - 1.5, 6, 3.0, height - 12), grain)
        if self._highest is not None:
            painter.fillRect(QRectF(_x(self._highest, width) - 1.0, 4, 2.0, height - 8), colour)
        now = self._peaks[-1] if self._peaks else None
        if now is not None:
            x = _x(now, width)
            painter.setBrush(QColor(theme.colours().ink))
            painter.setPen(Qt.PenStyle.NoPen)
            points = [QPointF(x - 4, 0), QPointF(x + 4, 0), QPointF(x, 6)]
            painter.drawPolygon(QPolygonF(points))

    def _paint_expected(
        self, painter: QPainter, item: LineAssessment, width: float, height: float
    ) -> None:
        ink = QPen(QColor(theme.colours().ink), 1.0)
        painter.setPen(ink)
        softest = item.predicted_peak_dbfs("softest")
        hardest = item.predicted_peak_dbfs("hardest")
        if softest is not None and hardest is not None:
            left, right = _x(softest, width), _x(hardest, width)
            y = height - 2.0
            painter.drawLine(QPointF(left, y), QPointF(right, y))
            painter.drawLine(QPointF(left, y), QPointF(left, y - 5))
            painter.drawLine(QPointF(right, y), QPointF(right, y - 5))
        low, high = _x(item.target.lowest_dbfs, width), _x(item.target.highest_dbfs, width)
        painter.drawLine(QPointF(low, 2), QPointF(high, 2))
        painter.drawLine(QPointF(low, 2), QPointF(low, 7))
        painter.drawLine(QPointF(high, 2), QPointF(high, 7))
