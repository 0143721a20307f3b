"""The phantom current of a supply, drawn to scale."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QRectF, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from verve.app import theme
from verve.app.widgets.labels import PressableBox, caption, text
from verve.core.needs import BudgetBar


class _Scale(QWidget):
    """Who draws how much, one beside the other, and where the supply ends."""

    def __init__(self) -> None:
        super().__init__()
        self._bar: BudgetBar | None = None
        self.setFixedHeight(theme.px(24))

    def show_bar(self, bar: BudgetBar) -> None:
        """Draw another."""
        self._bar = bar
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        bar = self._bar
        if bar is None:
            return
        c, painter = theme.colours(), QPainter(self)
        most = max(bar.supply_ma or 0.0, bar.total_ma, 1.0) * 1.1
        height = float(self.height())
        x = 0.0
        for number, (_, _, ma) in enumerate(bar.drawn):
            wide = ma / most * (self.width() - 4)
            box = QRectF(x, 4, wide, height - 8)
            painter.fillRect(box, QColor(c.floor if number % 2 else c.floor_edge))
            x += wide
        if bar.supply_ma is not None:
            at = round(bar.supply_ma / most * (self.width() - 4))
            painter.setPen(QPen(QColor(c.ceiling_edge), 2.0))
            painter.drawLine(at, 1, at, int(height) - 1)


class BudgetRow(PressableBox):
    """One supply: its name, the scale, and the same in words."""

    def __init__(self) -> None:
        super().__init__()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(4, 2, 4, 2)
        layout.setSpacing(0)
        self._name, self._scale, self._words = text(), _Scale(), caption(wrap=True)
        for widget in (self._name, self._scale, self._words):
            layout.addWidget(widget)
        self.setToolTip("Press to see who draws what, and the voltage that arrives")

    def show_bar(self, bar: BudgetBar) -> None:
        """Draw another."""
        supply = "an unknown supply" if bar.supply_ma is None else f"{bar.supply_ma:g} mA"
        computer = f"; from the computer {bar.bus}" if bar.bus else ""
        words = f"{bar.total_ma:.1f} mA of {supply}{computer}"
        self._name.setText(bar.name)
        self._words.setText(words)
        self._scale.show_bar(bar)
        self.setAccessibleName(f"{bar.name}: {words}")


class BudgetPicture(QWidget):
    """Each phantom supply as a bar."""

    asked = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[BudgetRow] = []
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(0, 0, 0, 0)
        self._empty = caption("Nothing needs phantom power.", wrap=True)
        self._layout.addWidget(self._empty)
        self.setAccessibleName("Phantom current of each supply")

    def show_bars(self, bars: Sequence[BudgetBar]) -> None:
        """Draw others."""
        self._empty.setVisible(not bars)
        while len(self.rows) < len(bars):
            row, number = BudgetRow(), len(self.rows)
            row.clicked.connect(lambda _, number=number: self.asked.emit(number))
            self.rows.append(row)
            self._layout.addWidget(row)
        for index, row in enumerate(self.rows):
            row.setVisible(index < len(bars))
            if index < len(bars):
                row.show_bar(bars[index])
