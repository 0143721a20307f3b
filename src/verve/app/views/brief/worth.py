"""What a purchase would give, computed in this session."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import (
    QHBoxLayout,
    QVBoxLayout,
    QWidget,
)

from verve.app.document import Document
from verve.app.tasks import Tasks
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import caption
from verve.app.widgets.table import Table
from verve.core.catalogue import catalogue
from verve.core.datasheet import OwnGear
from verve.core.kind import is_device_figures
from verve.core.kits import purchases_worth
from verve.core.needs import Answered
from verve.core.sensitivity import Purchase, Worth, by_money


class WorthPage(QWidget):
    """What each thing on the list, of one's own or of the catalogue would change in this patch."""

    def __init__(self, document: Document, tasks: Tasks, own: Callable[[], OwnGear]) -> None:
        super().__init__()
        self._document, self._tasks, self._own = document, tasks, own
        self._found: tuple[Worth, ...] = ()
        self._for: object = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 4, 0, 0)
        row = QHBoxLayout()
        self._says = caption(wrap=True)
        self.scope = Choice()
        self.scope.setAccessibleName("What is looked at")
        self.scope.addItems(["what is on the list", "the whole catalogue"])
        self.order = Choice()
        self.order.setAccessibleName("Ranked by")
        self.order.addItems(["by what it changes", "by what it changes for its price"])
        self.order.setToolTip("Most first; what has no price comes last when money counts")
        row.addWidget(self._says, 1)
        row.addWidget(self.scope)
        row.addWidget(self.order)
        layout.addLayout(row)
        self.table = Table(
            ("Item", "dB", "dB per 100", "what it would change here"),
            "What gear would change",
            empty="What each purchase would change is listed here, once signals are connected.",
            numbers=(1, 2),
            stretched=(3,),
            wraps=True,
        )
        layout.addWidget(self.table, 1)
        self.scope.setToolTip("Only what you think of getting, or everything there is")
        self.scope.activated.connect(lambda _: self._work(anew=True))
        self.order.activated.connect(lambda _: self.show_answer(None))

    def show_answer(self, _: Answered | None) -> None:
        """Draw it, and work it out where the patch is another one."""
        session = self._document.session
        if self.isVisible():
            self._work(anew=False)
        if not session.setup.lines:
            self._says.setText(
                "Suggest connections first: what gear would change is computed with them."
            )
        elif self._tasks.is_busy("worth"):
            self._says.setText("Computing what each would change …")
        else:
            self._says.setText(
                "What each would change for whom it is bought, with the gain set anew."
            )
        self.table.show_rows(
            [
                (
                    w.name,
                    f"{w.gain_db:.1f}".replace("-", "−") if w.gain_db >= 0.05 else "0",
                    "" if w.per_money is None else f"{w.per_money:.1f}",
                    w.sentence(),
                )
                for w in (by_money(self._found) if self.order.currentIndex() else self._found)
            ]
        )

    def _things(self) -> list[Purchase]:
        found = [
            Purchase(
                name=wish.name,
                figures=wish.item.device,
                price=None if wish.within else wish.price,
                parts=wish.parts,
            )
            for wish in self._document.session.shopping.wishes
            if wish.item is not None and wish.item.device is not None
        ]
        if self.scope.currentIndex() == 1:
            found += [
                Purchase(name=entry.name, figures=entry.figures)
                for entry in self._own().entries
                if is_device_figures(entry.figures)
            ]
            found += [
                Purchase(name=e.name, figures=e.figures) for e in catalogue().devices.values()
            ]
        return found

    def _work(self, *, anew: bool) -> None:
        session = self._document.session
        key = (
            session.setup,
            session.shopping,
            session.brief,
            session.kit,
            self.scope.currentIndex(),
        )
        if self._for == key and not anew:
            return
        self._for = key
        things = self._things()

        def done(found: object) -> None:
            assert isinstance(found, tuple)
            self._found = found
            self.show_answer(None)

        self._found = ()
        if things and session.setup.lines:
            self._tasks.run("worth", lambda _, stop: purchases_worth(session, things, stop), done)
