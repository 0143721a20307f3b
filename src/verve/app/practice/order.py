"""The safe order: cards in no order, taken one by one; what would harm or bang stops, at no cost this time."""

from __future__ import annotations

from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from verve.app import theme
from verve.app.practice.prepared import Needs, Prepared, give_keys
from verve.app.widgets.buttons import push
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import caption, card, text
from verve.app.widgets.table import Table
from verve.core.order import Cards, Sheet, cards_of, lines_together

_SHEETS: tuple[tuple[str, Sheet], ...] = (
    ("Set up", "set up"), ("Change one signal", "change"), ("Tear down", "tear down"),
)  # fmt: skip
_FIRST = "Which step comes first? Choose it, and press Return."
_NONE = "Nothing of this session is connected to a recorder yet."


class OrderPage(QWidget):
    """The cards on the left, what has been done on the right."""

    def __init__(self, needs: Needs) -> None:
        super().__init__()
        self._needs = needs
        self._prepared: Prepared | None = None
        self._line = ""
        self.cards: Cards | None = None
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(8)
        top = QHBoxLayout()
        self.sheet = Choice()
        self.sheet.show_entries([(name, key) for name, key in _SHEETS])
        self.sheet.setAccessibleName("Which order")
        self.sheet.setToolTip(
            "Setting up from nothing, exchanging one microphone or instrument, taking it all down"
        )
        self.sheet.activated.connect(lambda _: self.start())
        self.begin = push(
            "From the beginning", "Shuffles the cards again. Key: N", self.start, strong=True
        )
        self.hint = push(
            "Show a safe one",
            "Selects a card that is safe now; it counts as not known. Key: H",
            self.show_hint,
        )
        for widget in (self.sheet, self.begin, self.hint):
            top.addWidget(widget)
        top.addStretch(1)
        self.count = caption()
        top.addWidget(self.count)
        outer.addLayout(top)
        frame, inside = card()
        self.sign = text(_FIRST)
        self.sign.setFont(theme.words(15.0))
        inside.addWidget(self.sign)
        outer.addWidget(frame)
        row = QHBoxLayout()
        row.setSpacing(12)
        self.left = Table(
            ("Steps, in no order",), "Steps, in no order", empty="All cards are taken.", wraps=True
        )
        self.left.setToolTip("Return does this step next")
        self.done = Table(
            ("", "Done, in your order"), "Done, in your order", empty="Nothing is done yet.", numbers=(0,),
            stretched=(1,), wraps=True,
        )  # fmt: skip
        row.addWidget(self.left, 1)
        row.addWidget(self.done, 1)
        outer.addLayout(row, 1)
        self._hints = 0
        self._choose_due()
        self.left.asked.connect(self._take)
        give_keys(self, {"N": self.start, "H": self.show_hint})

    def _choose_due(self) -> None:
        """The order that has waited longest to come back; setting up where none has."""
        from verve.core.learning import due

        keys = {f"order:{key}": name for name, key in _SHEETS}
        waiting = due(self._needs.practising.progress, self._needs.now, keys)
        if waiting:
            self.sheet.setCurrentIndex(self.sheet.findText(keys[waiting[0]]))

    def show_prepared(self, found: Prepared | None, line: str) -> None:
        """Another copy, or another signal."""
        self._prepared, self._line = found, line
        self.start()

    def refresh(self) -> None:
        """Draw it as it is now."""
        self._draw()

    def focus_first(self) -> None:
        """To the cards."""
        self.left.setFocus()
        if self.left.rowCount() and self.left.currentRow() < 0:
            self.left.setCurrentCell(0, 0)

    def start(self) -> None:
        """Cards in another order."""
        self.cards, self._hints = None, 0
        if self._prepared is not None:
            session = self._prepared.session
            lines = lines_together(session, self._line)
            sheet: Sheet = self.sheet.currentData() or "set up"
            self.cards = cards_of(session, sheet, lines, self._needs.seed())
        self._draw()

    def _take(self, row: int) -> None:
        cards = self.cards
        if cards is None or cards.is_over:
            return
        self.cards = cards.take(cards.left[row].key)
        if self.cards.is_over:
            grade = self.cards.grade(self._hints)
            self._needs.practising.reviewed(f"order:{self.sheet.currentData()}", grade)
        self._draw()
        if self.left.rowCount() and self.left.currentRow() < 0:
            self.left.setCurrentCell(min(row, self.left.rowCount() - 1), 0)

    def show_hint(self) -> None:
        """Select a card that is safe now."""
        cards = self.cards
        if cards is None or cards.is_over:
            return
        self._hints += 1
        keys = [step.key for step in cards.left]
        self.left.setCurrentCell(keys.index(cards.hint().key), 0)
        self.left.setFocus()

    def _draw(self) -> None:
        cards = self.cards
        self.hint.setEnabled(cards is not None and not cards.is_over)
        if cards is None:
            self.sign.setText(_NONE if self._prepared is not None else "")
            self.left.show_rows(())
            self.done.show_rows(())
            self.count.setText("")
            return
        self.sign.setText(cards.says() or _FIRST)
        self.left.show_rows([(step.words,) for step in cards.left])
        self.done.show_rows([(str(n), step.words) for n, step in enumerate(cards.done, 1)])
        self.done.scrollToBottom()
        self.count.setText(f"{len(cards.done)} of {len(cards.sheet)}")
