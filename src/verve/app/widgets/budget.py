"""The phantom current of a supply, drawn to scale."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFont, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import (
    QSizePolicy,
    QWidget,
)

from verve.app import theme
from verve.core.needs import BudgetBar


class BudgetPicture(QWidget):
    """Each phantom supply as a bar: who draws how much, and where the supply ends."""

    asked = pyqtSignal(int)
    _ROW = 78

    def __init__(self) -> None:
        super().__init__()
        self._bars: Sequence[BudgetBar] = ()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        self.setAccessibleName("Phantom current of each supply")
        self.setToolTip("Press a bar to see who draws what, and the voltage that arrives")

    def show_bars(self, bars: Sequence[BudgetBar]) -> None:
        """Draw others."""
        self._bars = bars
        self.setAccessibleDescription(
            "; ".join(f"{bar.name}: {self._words(bar)}" for bar in bars) or "nothing is fed"
        )
        self.setMinimumHeight(self.sizeHint().height())
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(220, max(40, self._ROW * len(self._bars)))

    @staticmethod
    def _words(bar: BudgetBar) -> str:
        supply = "an unknown supply" if bar.supply_ma is None else f"{bar.supply_ma:g} mA"
        socket = f"; from the computer {bar.bus}" if bar.bus else ""
        return f"{bar.total_ma:.1f} mA of {supply}{socket}"

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            row = int(event.position().y() // self._ROW)
            if row < len(self._bars):
                self.asked.emit(row)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        c = theme.colours()
        if not self._bars:
            painter.setPen(QColor(c.muted))
            painter.drawText(
                self.rect(), Qt.AlignmentFlag.AlignLeft, "Nothing needs phantom power."
            )
            return
        for row, bar in enumerate(self._bars):
            top = row * self._ROW
            painter.setPen(QColor(c.ink))
            painter.setFont(theme.words(10.0, weight=QFont.Weight.DemiBold))
            painter.drawText(QRectF(0, top, self.width(), 18), Qt.AlignmentFlag.AlignLeft, bar.name)
            painter.setFont(theme.words(9.5))
            painter.setPen(QColor(c.muted))
            below = QRectF(0, top + 40, self.width(), 36)
            wrapped = Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap
            painter.drawText(below, wrapped, self._words(bar))
            most = max(bar.supply_ma or 0.0, bar.total_ma, 1.0) * 1.1
            x = 0.0
            for number, (_, _, ma) in enumerate(bar.drawn):
                wide = ma / most * (self.width() - 4)
                box = QRectF(x, top + 20, wide, 16)
                painter.fillRect(box, QColor(c.floor if number % 2 else c.floor_edge))
                x += wide
            if bar.supply_ma is not None:
                at = bar.supply_ma / most * (self.width() - 4)
                painter.setPen(QPen(QColor(c.ceiling_edge), 2.0))
                painter.drawLine(int(at), top + 17, int(at), top + 39)
