"""No signal? The causes in this session, most likely first, each with its quickest test."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QDialog,
    QFrame,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from verve.app.dialogs.buttons import foot
from verve.app.dialogs.sizes import open_at
from verve.app.document import Document
from verve.app.tasks import Tasks
from verve.app.widgets.labels import caption, heading, small_heading, text
from verve.core.diagnosis import WEIGHT_WORDS, Cause, causes_of, delivered_text


class TroubleDialog(QDialog):
    """A list to go through from the top; what the session can mend itself has a button."""

    def __init__(
        self, document: Document, line_id: str, tasks: Tasks, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("No signal?")
        open_at(self, 640, 620)
        self._document, self._line_id, self._tasks = document, line_id, tasks
        layout = QVBoxLayout(self)
        self._heading = heading()
        self.verdict = text()
        layout.addWidget(self._heading)
        layout.addWidget(self.verdict)
        self._area = QScrollArea()
        self._area.setWidgetResizable(True)
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        layout.addWidget(self._area, 1)
        layout.addLayout(foot(self))
        self.remedies: list[QPushButton] = []
        document.changed.connect(self._show)
        self._show()

    def _show(self) -> None:
        item = self._document.assessment.line(self._line_id)
        if item is None:
            self.reject()
            return
        self._heading.setText(f"No signal on {item.line.name}, or a wrong one?")
        self._listen()
        holder = QWidget()
        inside = QVBoxLayout(holder)
        self.remedies = []
        weight = None
        for cause in causes_of(self._document.assessment, self._line_id):
            if cause.weight != weight:
                weight = cause.weight
                said = WEIGHT_WORDS[weight]
                inside.addWidget(small_heading(f"{said[:1].upper()}{said[1:]}"))
            inside.addWidget(self._box(cause))
        inside.addStretch(1)
        self._area.setWidget(holder)

    def _listen(self) -> None:
        """What the simulated interface delivers decides in the rehearsal: it plays two seconds."""
        session, line_id = self._document.session, self._line_id
        self.verdict.setText("The simulated interface plays two seconds of it …")

        def work(_: object, __: object) -> object:
            from verve.devices import delivered_peak_dbfs

            return (delivered_peak_dbfs(session, line_id),)

        def done(found: object) -> None:
            item = self._document.assessment.line(line_id)
            if isinstance(found, tuple) and item is not None:
                self.verdict.setText(delivered_text(item, found[0]))

        self._tasks.run("deliver", work, done)

    def done(self, result: int) -> None:
        self._tasks.cancel("deliver")
        self._document.changed.disconnect(self._show)
        super().done(result)

    def _box(self, cause: Cause) -> QFrame:
        frame = QFrame()
        layout = QVBoxLayout(frame)
        layout.setContentsMargins(0, 0, 0, 8)
        layout.setSpacing(2)
        title = text(cause.title)
        font = title.font()
        font.setWeight(600)
        title.setFont(font)
        layout.addWidget(title)
        layout.addWidget(caption(cause.why, wrap=True))
        layout.addWidget(text(f"Test: {cause.test}"))
        if cause.remedy is not None:
            button = QPushButton(cause.remedy.label)
            remedy = cause.remedy
            button.clicked.connect(lambda: self._document.apply_remedy(remedy))
            layout.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)
            self.remedies.append(button)
        return frame
