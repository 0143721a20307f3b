"""What follows from the brief, on pages; each is made when somebody first turns to it."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeAlias, TypeVar, cast

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QStackedWidget, QWidget

from verve.app.document import Document
from verve.app.tasks import Tasks
from verve.app.views.brief.buy import BuyPage
from verve.app.views.brief.computer import ComputerPage
from verve.app.views.brief.kit import KitPage
from verve.app.views.brief.later import LaterPage
from verve.app.views.brief.microphones import MicrophonePage
from verve.app.views.brief.needs import NeedsPage
from verve.app.views.brief.shop import ShopPage
from verve.app.views.brief.ways import WaysPage
from verve.app.views.brief.worth import WorthPage
from verve.core.datasheet import OwnGear
from verve.core.needs import Answered

Page: TypeAlias = (
    NeedsPage
    | KitPage
    | BuyPage
    | ShopPage
    | WorthPage
    | WaysPage
    | MicrophonePage
    | ComputerPage
    | LaterPage
)
_Page = TypeVar("_Page", bound=Page)
GROUPS = {
    "What is needed": ("Needs", "Ways to record", "Compare microphones"),
    "What I have": ("Kit", "Computer"),
    "What to get": ("Suggested kits", "Shopping list", "Compare purchases", "Plans"),
}
"""The pages by what they are about."""
PAGES = tuple(page for pages in GROUPS.values() for page in pages)


class BriefPages(QStackedWidget):
    """The pages in the order of their names, the one in front filled with the latest answer."""

    connections_wanted = pyqtSignal()

    def __init__(self, document: Document, tasks: Tasks, own_gear: Callable[[], OwnGear]) -> None:
        super().__init__()
        # In the order of their names.
        self._makers: dict[type[QWidget], Callable[[], Page]] = {
            NeedsPage: lambda: NeedsPage(document),
            WaysPage: lambda: WaysPage(document, tasks),
            MicrophonePage: lambda: MicrophonePage(document, tasks),
            KitPage: lambda: KitPage(document, own_gear),
            ComputerPage: lambda: ComputerPage(document),
            BuyPage: lambda: BuyPage(document, tasks),
            ShopPage: lambda: ShopPage(document, tasks),
            WorthPage: lambda: WorthPage(document, tasks, own_gear),
            LaterPage: lambda: LaterPage(document),
        }
        self._made: dict[type[QWidget], Page] = {}

    def of(self, kind: type[_Page]) -> _Page:
        """The page of a kind, made if nobody has asked for it before."""
        return cast("_Page", self._page(kind))

    def _page(self, kind: type[QWidget]) -> Page:
        made = self._made.get(kind)
        if made is None:
            made = self._made[kind] = self._makers[kind]()
            if isinstance(made, NeedsPage):
                made.connections_wanted.connect(self.connections_wanted)
            self.addWidget(made)
        return made

    def turn_to(self, index: int, answered: Answered | None) -> None:
        """Put a page in front and fill it."""
        page = self._page(list(self._makers)[index])
        self.setCurrentWidget(page)
        page.show_answer(answered)

    def show_progress(self, share: float) -> None:
        """How far the answer is that the first page waits for."""
        self.of(NeedsPage).show_progress(share)
