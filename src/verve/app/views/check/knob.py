"""Where the gain knob of the selected signal stands, as somebody tells it, and what takes teach of its curve."""

from __future__ import annotations

from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from verve.app.document import Document
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import caption_of
from verve.core.check import dial_from, knob_points, with_learnt_dial
from verve.core.gain import hour_words
from verve.core.kind import Control
from verve.core.session import set_hour

_HOURS = tuple(7.0 + half / 2.0 for half in range(21))


class KnobRow(QWidget):
    """A choice of hours, and a button once takes at two of them tell how the knob is bent."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        self.learn_button = QPushButton("Learn the knob")
        self.learn_button.setToolTip(
            "Takes at two positions that you have told teach how this knob is bent: then its hours are measured"
        )
        self.hour = Choice()
        self.hour.setAccessibleName("Gain knob stands at")
        self.hour.setToolTip(
            "Where the gain knob of the selected signal really stands: takes at two positions teach its curve"
        )
        self.hour.show_entries([("not told", ""), *((hour_words(h), str(h)) for h in _HOURS)])
        row.addWidget(self.learn_button)
        row.addWidget(caption_of(self.hour, "gain knob at"))
        row.addWidget(self.hour)
        # ── connections ──
        self.hour.activated.connect(lambda _: self.tell_hour())
        self.learn_button.clicked.connect(self._learn)

    def knob(self) -> Control | None:
        """The gain knob of the selected signal; None for one without."""
        item = self._document.line
        control = None if item is None else item.state.level_control()
        return control if control is not None and control.is_dial else None

    def refresh(self) -> None:
        """Draw the document as it is now."""
        knob, item = self.knob(), self._document.line
        self.hour.setEnabled(knob is not None)
        told = "" if knob is None or knob.hour is None else str(knob.hour)
        self.hour.setCurrentIndex(max(0, self.hour.findData(told)))
        points = (
            ()
            if knob is None or item is None
            else knob_points(self._document.session, item.line.id, knob.owner, knob.channel)
        )
        self.learn_button.setVisible(knob is not None and dial_from(knob, points) is not None)

    def tell_hour(self) -> None:
        """It stands there now."""
        knob, told = self.knob(), self.hour.currentData()
        hour = float(told) if told else None
        if knob is not None:
            self._document.edit(
                f"position of {knob.said}",
                lambda session: set_hour(session, knob.owner, knob.channel, hour),
            )

    def _learn(self) -> None:
        knob, item = self.knob(), self._document.line
        if knob is not None and item is not None:
            line = item.line.id
            self._document.edit(
                f"curve of {knob.said}",
                lambda session: with_learnt_dial(session, line, knob.owner, knob.channel),
            )
