"""One way of hearing oneself as a strip to scale: each part as long as it takes."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QFontMetricsF, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from verve.app import theme
from verve.core.monitor import Ledger
from verve.core.words import number

_HIGH = 34
_BAR = 18


class LedgerStrip(QWidget):
    """The parts of a way one after the other; the scale is that of all strips beside it."""

    def __init__(self) -> None:
        super().__init__()
        self._ledger: Ledger | None = None
        self._most_ms = 1.0
        self._colour = 0
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(theme.px(_HIGH))
        self.setToolTip(
            "From the sound to the ear: each part as long as it takes, all strips to one scale"
        )

    def sizeHint(self) -> QSize:
        return QSize(200, theme.px(_HIGH))

    def show_ledger(self, ledger: Ledger, most_ms: float, colour: int, said: str) -> None:
        """Draw one, the longest of all being `most_ms`."""
        self._ledger, self._most_ms, self._colour = ledger, max(most_ms, 0.1), colour
        parts = ", ".join(f"{one.name} {number(one.ms, 1)} ms" for one in ledger.delays)
        self.setAccessibleName("Delays in turn")
        self.setAccessibleDescription(f"{parts}. {said}")
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self._ledger is None:
            return
        c = theme.colours()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(theme.words(9.0))
        metrics = QFontMetricsF(painter.font())
        bar = QRectF(0.0, 0.0, float(self.width()), float(theme.px(_BAR)))
        painter.fillRect(bar, QColor(c.paper))
        total = f"{number(self._ledger.total_ms, 1)} ms"
        room = metrics.horizontalAdvance(total) + 10.0
        scale = max(1.0, bar.width() - room) / self._most_ms
        colour = c.line(self._colour)
        x = 0.0
        spaces: Sequence[float] = []
        for place, one in enumerate(self._ledger.delays):
            wide = one.ms * scale
            shade = QColor(colour)
            # Neighbours are told apart by their depth; what is only typical is hatched.
            shade.setAlpha(190 if place % 2 == 0 else 120)
            box = QRectF(x, 0.0, max(1.0, wide), bar.height())
            painter.fillRect(box, shade)
            if one.origin == "typical":
                painter.setPen(QPen(QColor(c.card), 1.0))
                at = box.left() - bar.height()
                painter.save()
                painter.setClipRect(box)
                while at < box.right():
                    painter.drawLine(
                        QPointF(at, box.bottom()), QPointF(at + bar.height(), box.top())
                    )
                    at += 6.0
                painter.restore()
            if metrics.horizontalAdvance(one.name) + 6.0 < wide:
                painter.setPen(QColor(c.muted))
                below = QRectF(x, bar.bottom(), wide, float(self.height()) - bar.height())
                painter.drawText(
                    below, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, one.name
                )
            x += wide
            spaces = (*spaces, wide)
        painter.setPen(QColor(c.ink))
        painter.setFont(theme.numbers(9.0))
        painter.drawText(
            QRectF(x + 6.0, 0.0, room + 40.0, bar.height()),
            Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
            total,
        )
