"""The sockets of boxes as one stands before them: used ones carry their line, free ones are empty."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from PyQt6.QtCore import QEvent, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QFont, QHelpEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QToolTip, QWidget

from verve.app import theme
from verve.core.sheets import BoxUse, InputUse

_NAME_H, _CELL_H, _GAP = 20, 40, 8
_LEAST_CELL_W = 74


class InputStrip(QWidget):
    """One row of cells a box, as many beside each other as fit."""

    def __init__(self) -> None:
        super().__init__()
        self._boxes: Sequence[BoxUse] = ()
        self._colours: Mapping[str, int] = {}
        self._cells: list[tuple[QRectF, str]] = []
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        self.setAccessibleName("Inputs and outputs, used and free")
        self.setToolTip(
            "Every input and output of interfaces and mixers: what is in it, and which are free"
        )

    def show_boxes(self, boxes: Sequence[BoxUse], colours: Mapping[str, int]) -> None:
        """Draw others; `colours` are those of the lines, by name."""
        self._boxes, self._colours = boxes, colours
        self.setAccessibleDescription(
            "; ".join(
                f"{box.name}: "
                + ", ".join(f"{s.name} {s.used_by or 'free'} ({s.fits})" for s in box.sockets)
                for box in boxes
            )
        )
        self.setMinimumHeight(self.heightForWidth(max(320, self.width())))
        self.update()

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            for cell, words in self._cells:
                if cell.contains(event.pos().toPointF()):
                    QToolTip.showText(event.globalPos(), words, self)
                    return True
        return super().event(event)

    def _columns(self, width: int) -> int:
        return max(1, width // _LEAST_CELL_W)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        columns = self._columns(width)
        rows = [-(-len(box.sockets) // columns) for box in self._boxes]
        return sum(_NAME_H + row * (_CELL_H + 4) + _GAP for row in rows) or _NAME_H

    def sizeHint(self) -> QSize:
        return QSize(480, self.heightForWidth(max(320, self.width())))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        c = theme.colours()
        columns, y = self._columns(self.width()), 0.0
        self._cells = []
        for box in self._boxes:
            wide = min(columns, max(1, len(box.sockets)))
            cell_w = min(150.0, (self.width() - 4) / wide)
            painter.setPen(QColor(c.ink))
            painter.setFont(theme.words(10.0, weight=QFont.Weight.DemiBold))
            free = sum(not s.used_by for s in box.sockets)
            said = f"{box.name}  ·  {free} of {len(box.sockets)} free"
            painter.drawText(QRectF(0, y, self.width(), _NAME_H), Qt.AlignmentFlag.AlignLeft, said)
            self._cells.append((QRectF(0, y, self.width(), _NAME_H), said))
            y += _NAME_H
            for index, socket in enumerate(box.sockets):
                row, column = divmod(index, columns)
                cell = QRectF(
                    column * cell_w + 1, y + row * (_CELL_H + 4) + 1, cell_w - 5, _CELL_H - 2
                )
                self._paint_cell(painter, cell, socket)
                words = f"{socket.name}: {socket.used_by or 'free'}\n{socket.fits}"
                self._cells.append((cell, words))
            y += -(-len(box.sockets) // columns) * (_CELL_H + 4) + _GAP

    def _paint_cell(self, painter: QPainter, cell: QRectF, socket: InputUse) -> None:
        name, used_by = socket.name, socket.used_by
        c = theme.colours()
        free = not used_by
        painter.setPen(QPen(QColor(c.rule if free else c.muted), 1.0))
        painter.setBrush(Qt.BrushStyle.NoBrush if free else QColor(c.raised))
        painter.drawRoundedRect(cell, 4, 4)
        first = socket.lines[0] if socket.lines else ""
        if first in self._colours:
            painter.fillRect(
                QRectF(cell.left() + 1, cell.top() + 4, 3, cell.height() - 8),
                c.line(self._colours[first]),
            )
        painter.setPen(QColor(c.muted if free else c.ink))
        painter.setFont(theme.numbers(9.0))
        inside = cell.adjusted(8, 2, -4, -2)
        painter.drawText(inside, Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft, name)
        painter.setFont(theme.words(9.0))
        words = painter.fontMetrics().elidedText(
            used_by or "free", Qt.TextElideMode.ElideRight, int(inside.width())
        )
        painter.drawText(inside, Qt.AlignmentFlag.AlignBottom | Qt.AlignmentFlag.AlignLeft, words)
