"""Needs: what a pass takes at once, against what is there; and the ways out where it is not enough."""

from __future__ import annotations

from datetime import datetime

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from verve.app.document import Document
from verve.app.widgets.labels import caption, small_heading, text
from verve.app.widgets.table import Table
from verve.core.connections import NoSuggestion, Suggestion
from verve.core.needs import Answered, Option, leaving


class _OutBox(QFrame):
    """One way out: what it is, what it means, a button that takes it."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self._out: Option | None = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 2, 0, 6)
        layout.setSpacing(2)
        self.button = QPushButton()
        self.button.clicked.connect(self._press)
        self._says = caption(wrap=True)
        layout.addWidget(self.button, 0, Qt.AlignmentFlag.AlignLeft)
        layout.addWidget(self._says)

    def show_out(self, out: Option) -> None:
        """Draw another one."""
        self._out = out
        self.button.setText(out.label)
        self.button.setToolTip(f"{out.says} Computed to be enough; it can be undone.")
        self._says.setText(out.says)

    def _press(self) -> None:
        if self._out is not None:
            self._document.edit(self._out.label, self._out.apply)


class NeedsPage(QWidget):
    """The counts of a pass, each asking where it comes from."""

    connections_wanted = pyqtSignal()

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self._answered: Answered | None = None
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 4, 0, 0)
        row.setSpacing(14)
        self.table = Table(
            ("Needed for this layer", "needed", "available", "missing"),
            "What this layer needs",
            empty="What the parts need is listed here. Add a part first, or a ready-made ensemble.",
            numbers=(1, 2, 3),
        )
        self.table.setToolTip("Press a row to see whom it is for")
        row.addWidget(self.table, 5)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        holder = QWidget()
        self._right = QVBoxLayout(holder)
        self._right.setContentsMargins(0, 0, 4, 0)
        self._verdict = text()
        self._heading = small_heading("Options")
        self._spare = caption(wrap=True)
        self._right.addWidget(self._verdict)
        self._right.addWidget(self._heading)
        self.outs: list[_OutBox] = []
        self._right.addWidget(self._spare)
        self._right.addStretch(1)
        area.setWidget(holder)
        row.addWidget(area, 4)
        self.table.asked.connect(self._ask)

    def show_progress(self, share: float) -> None:
        """How far the working out is."""
        self._verdict.setText(f"Computing all connections: {share:.0%}")

    def show_answer(self, answered: Answered | None) -> None:
        """Draw what was worked out; None while it is not."""
        self._answered = answered
        self.table.show_rows(
            []
            if answered is None
            else [
                (n.label, str(n.needed), str(n.owned), str(n.missing) if n.missing else "")
                for n in answered.needs
            ]
        )
        outs = () if answered is None else answered.outs
        while len(self.outs) < len(outs):
            box = _OutBox(self._document)
            self._right.insertWidget(2 + len(self.outs), box)
            self.outs.append(box)
        for index, box in enumerate(self.outs):
            box.setVisible(index < len(outs))
            if index < len(outs):
                box.show_out(outs[index])
        self._heading.setVisible(bool(outs))
        self._verdict.setText(self._sentence(answered))
        spare = "" if answered is None else answered.spare
        going = " ".join(leaving(self._document.session.kit, datetime.now().astimezone().date()))
        self._spare.setText(
            " ".join(said for said in (going, f"Left over: {spare}." if spare else "") if said)
        )

    def _sentence(self, answered: Answered | None) -> str:
        if answered is None:
            has_parts = bool(self._document.session.brief.parts)
            return "Computing all connections …" if has_parts else "Nothing to work out yet."
        if isinstance(answered.suggestion, NoSuggestion):
            none = answered.suggestion
            return f"There are no connections for {', '.join(none.signals)}: {none.why}."
        assert isinstance(answered.suggestion, Suggestion)
        if not answered.suggestion.missing:
            short = [n.label.lower() for n in answered.needs if n.missing]
            tail = f" Still missing: {', '.join(short)}." if short else ""
            return f"The kit has connections for every signal.{tail}"
        lacks = ", ".join(
            f"{m.count} × {m.item.name}" if m.count > 1 else m.item.name
            for m in answered.suggestion.missing
        )
        return f"The kit is not enough. The least that is missing: {lacks}."

    def _ask(self, row: int) -> None:
        if self._answered is not None and row < len(self._answered.needs):
            need = self._answered.needs[row]
            self._document.ask(need.label, (need.fact(),))
