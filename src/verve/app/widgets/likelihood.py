"""How likely something is beside the others: a bar of ink, longest for the likeliest."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize
from PyQt6.QtGui import QColor, QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from verve.app import theme


class Likelihood(QWidget):
    """A share from 0 to 1."""

    def __init__(self, share: float) -> None:
        super().__init__()
        self._share = share
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self.setAccessibleName(f"{share:.0%} likely")
        self.setToolTip(f"{share:.0%} likely, of all that is listed here")

    def sizeHint(self) -> QSize:
        return QSize(theme.px(96), theme.px(14))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        c = theme.colours()
        box = QRectF(self.rect()).adjusted(0, 4, 0, -4)
        painter.fillRect(box, QColor(c.raised))
        painter.fillRect(
            QRectF(box.left(), box.top(), max(2.0, box.width() * self._share), box.height()),
            QColor(c.ink),
        )
