"""A sign over the whole window: for the one thing that must be seen during a take, that recording has stopped."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from verve.app.widgets.far_sign import FarSign
from verve.core.sheets import SignText


class WholeWindow(QWidget):
    """Covers its parent until somebody has seen it."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setAutoFillBackground(True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(24, 24, 24, 24)
        self.sign = FarSign()
        layout.addWidget(self.sign, 1)
        self.button = QPushButton("I have seen it")
        self.button.setProperty("strong", "true")
        self.button.setToolTip("Takes this sign away. Shortcut: Esc")
        self.button.clicked.connect(self.hide)
        layout.addWidget(self.button, 0, Qt.AlignmentFlag.AlignLeft)
        parent.installEventFilter(self)
        self.hide()

    def show_sign(self, sign: SignText) -> None:
        """Cover everything with it."""
        parent = self.parentWidget()
        assert parent is not None
        self.setGeometry(parent.rect())
        self.sign.show_sign(sign)
        self.raise_()
        self.show()
        self.button.setFocus()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        parent = self.parentWidget()
        if event is not None and event.type() == QEvent.Type.Resize and parent is not None:
            self.setGeometry(parent.rect())
        return super().eventFilter(watched, event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.hide()
            return
        super().keyPressEvent(event)
