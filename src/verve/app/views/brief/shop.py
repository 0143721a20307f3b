"""To get: the shopping list with the prices somebody typed, two packages side by side."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from PyQt6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QInputDialog,
    QLineEdit,
    QMenu,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.document import Document
from verve.app.paper import put_on_paper
from verve.app.tasks import Tasks
from verve.app.widgets.labels import caption_of, number
from verve.app.widgets.table import Table
from verve.core.errors import InputError
from verve.core.needs import Answered
from verve.core.quantities import amount
from verve.core.session import (
    Session,
    Shopping,
    Wish,
    add_wish,
    put_in_set,
    remove_wish,
    set_shopping,
)
from verve.core.sheets import shopping_csv, shopping_html
from verve.core.shop import (
    PACKAGES,
    ListRow,
    parse_price,
    price_text,
    price_words,
    rows_of,
    said_of,
    totals_of,
)

_THING, _COUNT, _OWNED, _PRICE, _PER, _SHOP, _PACKAGE = range(7)
_PACKAGE_WORDS = {"both": "both", "enough": "now", "lasting": "lasting"}
_FILES = "PDF (*.pdf);;Web page (*.html);;Table (*.csv)"


class ShopPage(QWidget):
    """Rows to write in; what is owned already costs nothing."""

    def __init__(self, document: Document, tasks: Tasks) -> None:
        super().__init__()
        self._document, self._tasks = document, tasks
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 4, 0, 0)
        self.table = Table(
            ("Item", "count", "owned", "price", "per", "shop", "in", "now", "lasting"),
            "The shopping list",
            empty="Nothing to buy yet. Add items here, or choose “Buy” among the options in Needs. Prices and "
            "shops are yours to type; none are shipped.",
            numbers=(_COUNT, _OWNED, _PRICE, 7, 8),
            writable=(_THING, _COUNT, _PRICE, _SHOP),
            stretched=(_THING, _SHOP),
        )
        layout.addWidget(self.table, 1)
        sums = QHBoxLayout()
        self.currency, self.tax = QLineEdit(), QLineEdit()
        self.currency.setFixedWidth(theme.px(52))
        self.tax.setFixedWidth(theme.px(64))
        self.currency.setMaxLength(8)
        self.currency.setAccessibleName("Currency")
        self.tax.setAccessibleName("Tax in percent")
        self.tax.setToolTip("Added to every price; 0 if your prices have it in them")
        sums.addWidget(caption_of(self.currency, "Currency"))
        sums.addWidget(self.currency)
        sums.addWidget(caption_of(self.tax, "tax %"))
        sums.addWidget(self.tax)
        sums.addStretch(1)
        self.totals = number()
        layout.addWidget(self.totals)
        layout.addLayout(sums)
        row = QHBoxLayout()
        self.buttons: dict[str, QPushButton] = {}
        for name, says, slot in (
            ("Add…", "Something to buy, by its name", self._add),
            ("Per pair or piece", "Whether the price is for a pair or one piece", self._turn_per),
            ("Which package", "Enough for now, lasting, or both", self._turn_package),
            ("In a set…", "One price for several items: choose what it comes with", self._ask_set),
            (
                "For…",
                "The part it is bought for; what it would change is told for that",
                self._ask_for,
            ),
            ("Remove", "Takes the chosen row off the list", self._remove),
            ("Print or export…", "PDF, web page or table, with a box to tick", self._paper),
        ):
            button = QPushButton(name)
            button.setToolTip(says)
            button.clicked.connect(slot)
            row.addWidget(button)
            self.buttons[name] = button
        row.addStretch(1)
        layout.addLayout(row)
        # ── connections ──
        self.table.written.connect(self._write)
        self.table.asked.connect(self._ask)
        self.currency.editingFinished.connect(self._money)
        self.tax.editingFinished.connect(self._money)

    def _rows(self) -> tuple[ListRow, ...]:
        return rows_of(self._document.session)

    def show_answer(self, _: Answered | None) -> None:
        """Draw the list."""
        shopping = self._document.session.shopping
        rows = self._rows()
        money = shopping.currency
        self.table.show_rows([self._cells(row, money) for row in rows])
        if not self.currency.hasFocus():
            self.currency.setText(money)
        if not self.tax.hasFocus():
            self.tax.setText(f"{shopping.tax_percent:g}")
        said = []
        for total in totals_of(rows, shopping):
            unknown = f" + {total.unknown} without a price" if total.unknown else ""
            said.append(f"{PACKAGES[total.package]}: {price_text(total.total, money)}{unknown}")
        self.totals.setText("    ".join(said) if rows else "")
        for name in list(self.buttons)[1:]:
            self.buttons[name].setEnabled(bool(rows))

    def _cells(self, row: ListRow, money: str) -> Sequence[str]:
        wish = row.wish
        sides = [
            price_text(row.total_in(package), money) if wish.package in {package, "both"} else ""
            for package in PACKAGES
        ]
        per = "" if wish.within else "pair" if wish.per_pair else "piece"
        return (
            said_of(wish, self._document.session),
            str(wish.quantity),
            str(row.owned),
            price_words(wish),
            per,
            wish.shop,
            _PACKAGE_WORDS[wish.package],
            *sides,
        )

    # ── doing ─────────────────────────────────────────────────────────────────────────────────
    def _chosen(self) -> Wish | None:
        wishes = self._document.session.shopping.wishes
        row = self.table.currentRow()
        return wishes[row] if 0 <= row < len(wishes) else None

    def _edit(self, label: str, **update: object) -> None:
        def change(session: Session) -> Session:
            shopping: Shopping = session.shopping.model_copy(update=update)
            return set_shopping(session, shopping)

        if not self._document.edit(label, change):
            self.show_answer(None)

    def _change(self, wish: Wish, **update: object) -> None:
        changed = wish.model_copy(update=update)
        wishes = self._document.session.shopping.wishes
        fresh = tuple(changed if x.id == wish.id else x for x in wishes)
        self._edit(f"{wish.name} on the list", wishes=fresh)

    def _write(self, row: int, column: int, words: str) -> None:
        wishes = self._document.session.shopping.wishes
        if row >= len(wishes):
            return
        wish = wishes[row]
        try:
            if column == _PRICE:
                self._change(wish, price=parse_price(words))
            elif column == _COUNT:
                self._change(wish, quantity=int(words))
            elif column == _SHOP:
                self._change(wish, shop=words.strip()[:80])
            elif column == _THING and words.strip():
                # What is told beside the name is not written into it.
                beside = said_of(wish, self._document.session).removeprefix(wish.name)
                name = words.strip().removesuffix(beside).strip() or wish.name
                self._change(wish, name=name[:80])
        except InputError as error:
            self._document.refused.emit(str(error))
            self.show_answer(None)
        except ValueError:
            self._document.refused.emit(f"How many: must be a whole number; got {words!r}")
            self.show_answer(None)

    def _add(self) -> None:
        name, is_given = QInputDialog.getText(self, "Shopping list", "What?")
        if is_given and name.strip():
            self.add_wish(name)

    def add_wish(self, name: str) -> None:
        """Put something on the list."""
        wish = Wish(id="wish", name=" ".join(name.split())[:80])
        self._document.edit(f"{wish.name} on the list", lambda s: add_wish(s, wish)[0])

    def _turn_per(self) -> None:
        wish = self._chosen()
        if wish is not None:
            self._change(wish, per_pair=not wish.per_pair)

    def _turn_package(self) -> None:
        wish = self._chosen()
        if wish is not None:
            order = list(_PACKAGE_WORDS)
            self._change(wish, package=order[(order.index(wish.package) + 1) % len(order)])

    def _remove(self) -> None:
        wish = self._chosen()
        if wish is not None:
            self._document.edit(f"{wish.name} on the list", lambda s: remove_wish(s, wish.id))

    def _ask_set(self) -> None:
        wish = self._chosen()
        if wish is None:
            return
        others = [
            x
            for x in self._document.session.shopping.wishes
            if x.id != wish.id and x.within is None
        ]
        choices = [("A price of its own", None), *((f"With {x.name}", x.id) for x in others)]
        self._choose("In a set…", choices, lambda key: self.put_in_set(wish, key))

    def put_in_set(self, wish: Wish, within: str | None) -> None:
        """The price of another thing covers this one too; None for a price of its own."""
        self._document.edit(f"{wish.name} on the list", lambda s: put_in_set(s, wish.id, within))

    def _ask_for(self) -> None:
        wish = self._chosen()
        if wish is None:
            return
        parts = [(part.name, part.id) for part in self._document.session.brief.parts]
        choices = [("Everything", None), *((f"For {name}", key) for name, key in parts)]
        self._choose("For…", choices, lambda key: self.put_for(wish, key))

    def put_for(self, wish: Wish, part: str | None) -> None:
        """The part a thing is bought for; None for all of them."""
        self._change(wish, parts=() if part is None else (part,))

    def _choose(
        self,
        button: str,
        choices: Sequence[tuple[str, str | None]],
        take: Callable[[str | None], None],
    ) -> None:
        menu = QMenu(self)
        for words, key in choices:
            action = menu.addAction(words)
            assert action is not None
            action.triggered.connect(lambda _, key=key: take(key))
        corner = self.buttons[button].rect().bottomLeft()
        menu.popup(self.buttons[button].mapToGlobal(corner))

    def _money(self) -> None:
        shopping = self._document.session.shopping
        currency = self.currency.text().strip() or shopping.currency
        try:
            tax = amount("Tax", self.tax.text()) or 0.0
        except InputError as error:
            self._document.refused.emit(str(error))
            self.show_answer(None)
            return
        if (currency, tax) != (shopping.currency, shopping.tax_percent):
            self._edit("currency and tax", currency=currency, tax_percent=tax)

    def _ask(self, row: int) -> None:
        rows = self._rows()
        if row < len(rows):
            self._document.ask(rows[row].wish.name, (rows[row].fact(),))

    def _paper(self) -> None:
        start = str(Path.home() / "shopping list.pdf")
        name, _ = QFileDialog.getSaveFileName(self, "Print or export the list", start, _FILES)
        if name:
            self.put_on_paper(Path(name))

    def put_on_paper(self, path: Path) -> None:
        """Write the list as PDF, web page or table, by the ending of the name."""
        session = self._document.session
        put_on_paper(
            self._tasks,
            path,
            html=lambda: shopping_html(session),
            csv=lambda: shopping_csv(session),
            failed=self._document.refused.emit,
        )
