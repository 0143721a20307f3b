"""No signal? A question at a time, each halving what is left; below, the causes, their tests and remedies."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QDialog,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.dialogs.buttons import foot
from verve.app.dialogs.sizes import open_at
from verve.app.document import Document
from verve.app.tasks import Tasks
from verve.app.widgets.labels import caption, card, heading, text
from verve.app.widgets.likelihood import Likelihood
from verve.core.diagnosis import Cause, Search, delivered_text, search

_KEYS = {Qt.Key.Key_Y: True, Qt.Key.Key_N: False, Qt.Key.Key_Space: None}


class TroubleDialog(QDialog):
    """Asks what can be seen from the stool; ranks the causes by the answers; mends what the session itself can."""

    def __init__(
        self, document: Document, line_id: str, tasks: Tasks, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("No signal?")
        open_at(self, 700, 660)
        self._document, self._line_id, self._tasks = document, line_id, tasks
        self.answers: dict[str, bool | None] = {}
        self._asked: list[tuple[str, str]] = []
        self.found: Search | None = None
        layout = QVBoxLayout(self)
        self._heading = heading()
        self.verdict = text()
        layout.addWidget(self._heading)
        layout.addWidget(self.verdict)
        layout.addWidget(self._make_question())
        self._area = QScrollArea()
        self._area.setWidgetResizable(True)
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        layout.addWidget(self._area, 1)
        layout.addLayout(foot(self))
        self.remedies: list[QPushButton] = []
        document.changed.connect(self._show)
        self._show()
        self.yes.setFocus()

    def _make_question(self) -> QFrame:
        frame, inside = card()
        self.question = text()
        self.question.setFont(theme.words(15.0))
        inside.addWidget(self.question)
        row = QHBoxLayout()
        self.yes, self.no, self.unknown = (
            QPushButton("Yes"), QPushButton("No"), QPushButton("Don’t know"),
        )  # fmt: skip
        self.back = QPushButton("Back")
        for button, answer, key in (
            (self.yes, True, "Y"), (self.no, False, "N"), (self.unknown, None, "Space"),
        ):  # fmt: skip
            button.setToolTip(f"What one sees decides what is asked next. Key: {key}")
            button.setAutoDefault(False)
            button.clicked.connect(lambda _, a=answer: self.answer(a))
            row.addWidget(button)
        self.back.setToolTip("Takes the last answer back")
        self.back.setAutoDefault(False)
        self.back.clicked.connect(self._take_back)
        row.addStretch(1)
        row.addWidget(self.back)
        inside.addLayout(row)
        self.trail = caption(wrap=True)
        inside.addWidget(self.trail)
        return frame

    def _show(self) -> None:
        item = self._document.assessment.line(self._line_id)
        if item is None:
            self.reject()
            return
        self._heading.setText(f"No signal on {item.line.name}, or a wrong one?")
        self._listen()
        self._show_search()

    def _show_search(self) -> None:
        found = self.found = search(self._document.assessment, self._line_id, self.answers)
        question = found.question
        first = found.ranked[0][0].title if found.ranked else ""
        if found.is_found or question is None:
            self.question.setText(
                f"Look here first: {first}." if first else "Nothing is known of it."
            )
        else:
            self.question.setText(question.text)
        is_asked = question is not None and not found.is_found
        for button in (self.yes, self.no, self.unknown):
            button.setVisible(is_asked)
        self.back.setVisible(bool(self._asked))
        self.trail.setText("\n".join(f"{q} {a}" for q, a in self._asked))
        self.trail.setVisible(bool(self._asked))
        holder = QWidget()
        inside = QVBoxLayout(holder)
        self.remedies = []
        for cause, share in found.ranked:
            inside.addWidget(self._box(cause, share))
        inside.addStretch(1)
        self._area.setWidget(holder)

    def answer(self, answer: bool | None) -> None:
        """What one sees; the next question follows from it."""
        if self.found is None or self.found.question is None or self.found.is_found:
            return
        question = self.found.question
        self.answers[question.key] = answer
        said = {True: "Yes.", False: "No.", None: "Nobody knows."}[answer]
        self._asked.append((question.text, said))
        self._show_search()

    def _take_back(self) -> None:
        if self._asked:
            self._asked.pop()
            self.answers.popitem()
            self._show_search()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Y and N answer, Space does not know."""
        if event is not None and event.key() in _KEYS and self.yes.isVisible():
            self.answer(_KEYS[Qt.Key(event.key())])
            return
        focused = self.focusWidget()
        is_enter = event is not None and event.key() in {Qt.Key.Key_Return, Qt.Key.Key_Enter}
        if is_enter and isinstance(focused, QPushButton):
            # Enter presses the one that has the focus, and closes nothing unasked.
            focused.click()
            return
        super().keyPressEvent(event)

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

    def _box(self, cause: Cause, share: float) -> QFrame:
        frame = QFrame()
        layout = QGridLayout(frame)
        layout.setContentsMargins(0, 0, 0, 8)
        layout.setHorizontalSpacing(12)
        layout.setVerticalSpacing(2)
        layout.setColumnStretch(1, 1)
        layout.addWidget(Likelihood(share), 0, 0, Qt.AlignmentFlag.AlignTop)
        title = text(cause.title)
        font = title.font()
        font.setWeight(600)
        title.setFont(font)
        layout.addWidget(title, 0, 1)
        layout.addWidget(caption(cause.why, wrap=True), 1, 1)
        layout.addWidget(text(f"Test: {cause.test}"), 2, 1)
        if cause.remedy is not None:
            button = QPushButton(cause.remedy.label)
            button.setAutoDefault(False)
            remedy = cause.remedy
            button.clicked.connect(lambda: self._document.apply_remedy(remedy))
            layout.addWidget(button, 3, 1, Qt.AlignmentFlag.AlignLeft)
            self.remedies.append(button)
        return frame
