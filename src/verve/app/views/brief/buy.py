"""What to buy: complete kits under a budget, side by side with what each would bring."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from verve.app import theme
from verve.app.document import Document
from verve.app.tasks import Tasks
from verve.app.widgets.labels import Elided, caption, caption_of
from verve.app.widgets.number import NumberField
from verve.app.widgets.table import Table
from verve.core.kits import Kits, Offer, kits_of, wishes_of
from verve.core.needs import Answered
from verve.core.session import Session, add_wish
from verve.core.sheets import item_rows, offer_rows, offer_says
from verve.core.shop import PACKAGES

_LANE = "what to buy"
_LEAST_HEIGHT = 100
"""The parts above keep their room where the window is low."""


class BuyPage(QWidget):
    """The answers on the left, what the chosen one has and brings on the right."""

    def __init__(self, document: Document, tasks: Tasks) -> None:
        super().__init__()
        self._document, self._tasks = document, tasks
        self._found: Kits | None = None
        self._for: object = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 4, 0, 0)
        top = QHBoxLayout()
        self.budget = NumberField("Budget", "", low=1.0, high=1e6, is_needed=False)
        self.budget.setPlaceholderText("any sum")
        self.budget.setFixedWidth(theme.px(96))
        self.budget.setToolTip("The most that may be spent; empty for no limit")
        top.addWidget(caption_of(self.budget, "Spend at most"))
        top.addWidget(self.budget)
        self._currency = caption("")
        top.addWidget(self._currency)
        self.also = {"monitors": QCheckBox("with monitors"), "software": QCheckBox("with software")}
        self.also["monitors"].setToolTip("Two small powered monitors with their cables as well")
        self.also["software"].setToolTip("Recording software as well; some costs nothing")
        for box in self.also.values():
            box.setAccessibleName(box.text())
            top.addWidget(box)
        self.says = caption(wrap=True)
        top.addWidget(self.says, 1)
        self.put = QPushButton("Add to the list")
        self.put.setToolTip("Everything of the chosen kit goes on the shopping list, as planned")
        top.addWidget(self.put)
        layout.addLayout(top)
        self.why = Elided()
        layout.addWidget(self.why)
        row = QHBoxLayout()
        self.offers = Table(
            ("Complete kit", "about", "from", "to"),
            "Kits that could be bought",
            numbers=(1, 2, 3),
            empty="Kits that could record these parts are listed here, once there are parts.",
        )
        self.offers.setMinimumHeight(_LEAST_HEIGHT)
        row.addWidget(self.offers, 5)
        self.items = Table(
            ("", "To buy, and for whom", "price"),
            "What the chosen kit has",
            empty="What the chosen kit has is listed here.",
            numbers=(0, 2),
            stretched=(1,),
            wraps=True,
        )
        self.items.setMinimumHeight(_LEAST_HEIGHT)
        row.addWidget(self.items, 6)
        layout.addLayout(row, 1)
        # ── connections ──
        self.budget.editingFinished.connect(self._work)
        for box in self.also.values():
            box.toggled.connect(lambda _: self._work())
        self.offers.currentCellChanged.connect(lambda *_: self._show_chosen())
        self.put.clicked.connect(self._put_on_list)

    def show_answer(self, _: Answered | None) -> None:
        """Draw what is known, and work it out where the brief or the kit is another one."""
        self._currency.setText(self._document.session.shopping.currency)
        self._work()
        self._show()

    def _work(self) -> None:
        if self.budget.is_wrong():
            # It stays as it was typed, framed, with the rule as its tooltip.
            return
        session, budget = self._document.session, self.budget.number()
        also = tuple(name for name, box in self.also.items() if box.isChecked())
        key = (
            session.brief,
            session.later,
            session.kit,
            session.computer,
            session.setup.room,
            budget,
            also,
        )
        if self._for == key or not self.isVisible():
            return
        self._for, self._found = key, None

        def work(_: object, stop: Callable[[], bool]) -> Kits:
            return kits_of(session, budget, also=also, is_cancelled=stop)

        def done(found: Kits) -> None:
            self._found = found
            self._show()

        self._tasks.run(_LANE, work, done, failed=self._document.refused.emit)
        self._show()

    def _show(self) -> None:
        found = self._found
        if found is None:
            self.says.setText("Every kit is being compared …")
        else:
            self.says.setText(
                found.said or "Prices are typical for new gear; yours on the list win."
            )
        self.offers.show_rows(offer_rows(found))
        if found is not None and found.offers and self.offers.currentRow() < 0:
            self.offers.setCurrentCell(0, 0)
        self._show_chosen()

    def chosen(self) -> Offer | None:
        """The answer that is looked at."""
        row = self.offers.currentRow()
        offers = () if self._found is None else self._found.offers
        return offers[row] if 0 <= row < len(offers) else None

    def _show_chosen(self) -> None:
        offer = self.chosen()
        self.put.setEnabled(offer is not None and bool(offer.kit.bought))
        self.why.show_text("" if offer is None else offer_says(offer))
        self.items.show_rows(() if offer is None else item_rows(offer))

    def _put_on_list(self) -> None:
        offer = self.chosen()
        if offer is None:
            return
        package = next(iter(PACKAGES)) if self.offers.currentRow() == 0 else "lasting"

        def change(session: Session) -> Session:
            for wish in wishes_of(session, offer.kit, package):
                session, _ = add_wish(session, wish)
            return session

        self._document.edit("a complete kit on the list", change)
