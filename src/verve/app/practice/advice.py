"""Somebody else's advice: what it means on this meter, this knob, this voice, and whether it would suit."""

from __future__ import annotations

from functools import partial

from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from verve.app import theme
from verve.app.practice.prepared import Needs, Prepared
from verve.app.widgets.buttons import push
from verve.app.widgets.labels import caption, card, scrolling_rest, small_heading, text
from verve.core.advised import EXAMPLES, Meaning, meanings_of

_SIGNS = {True: "suits", False: "does not suit", None: ""}


class AdvicePage(QWidget):
    """A field for what was said, and what it means below."""

    def __init__(self, needs: Needs) -> None:
        super().__init__()
        self._needs = needs
        self._prepared: Prepared | None = None
        self._line = ""
        self.found: tuple[Meaning, ...] = ()
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(8)
        outer.addWidget(
            text(
                "What did somebody say? A level, an hour of a knob, a distance, a lamp, a buffer size."
            )
        )
        row = QHBoxLayout()
        self.said = QLineEdit()
        self.said.setAccessibleName("What somebody said")
        self.said.setToolTip("Return tells what it means for the signal that is chosen above")
        self.said.setFont(theme.words(15.0))
        self.said.setPlaceholderText("half past three")
        self.said.returnPressed.connect(self.translate)
        row.addWidget(self.said, 1)
        row.addWidget(
            push(
                "What does it mean?",
                "Tells it for the signal that is chosen above",
                self.translate,
                strong=True,
            )
        )
        outer.addLayout(row)
        examples = QHBoxLayout()
        examples.addWidget(caption("For example:"))
        for words in EXAMPLES:
            examples.addWidget(
                push(words, f"Tells what “{words}” means here", partial(self.try_it, words))
            )
        examples.addStretch(1)
        outer.addLayout(examples)
        self._holder = QWidget()
        self._cards = QVBoxLayout(self._holder)
        self._cards.addStretch(1)
        outer.addWidget(scrolling_rest(self._holder), 1)

    def show_prepared(self, found: Prepared | None, line: str) -> None:
        """Another copy, or another signal: the same words mean something else there."""
        self._prepared, self._line = found, line
        if self.said.text():
            self.translate()

    def refresh(self) -> None:
        """Nothing of it changes by itself."""

    def focus_first(self) -> None:
        """To the field."""
        self.said.setFocus()

    def try_it(self, words: str) -> None:
        """As if somebody had said that."""
        self.said.setText(words)
        self.translate()

    def translate(self) -> None:
        """Tell what it means."""
        found = self._prepared
        case = None if found is None else found.case(self._line)
        if found is None or case is None:
            return
        said, line = self.said.text(), case.line

        def done(meanings: tuple[Meaning, ...]) -> None:
            self.found = meanings
            self._draw(case.name)

        self._needs.tasks.run(
            "advice", lambda _, __: meanings_of(found.session, line, said, found.engine), done,
            failed=self._needs.say,
        )  # fmt: skip

    def _draw(self, name: str) -> None:
        while self._cards.count() > 1:
            item = self._cards.takeAt(0)
            widget = None if item is None else item.widget()
            if widget is not None:
                widget.deleteLater()
        for one in self.found:
            frame, inside = card()
            if one.taken:
                head = f"{name}: {_SIGNS[one.suits]}" if one.suits is not None else name
                inside.addWidget(small_heading(head))
                taken = text(f"{one.taken}.")
                taken.setFont(theme.words(13.0))
                inside.addWidget(taken)
            if one.says:
                inside.addWidget(text(" ".join(one.says)))
            verdict = text(one.verdict)
            font = verdict.font()
            font.setWeight(600)
            verdict.setFont(font)
            inside.addWidget(verdict)
            frame.setAccessibleName(" ".join((one.taken, *one.says, one.verdict)))
            self._cards.insertWidget(self._cards.count() - 1, frame)
