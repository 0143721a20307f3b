"""Pages of one step, with a bar to choose from: each is made when somebody first turns to it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QTabBar, QVBoxLayout, QWidget


class Stack(QWidget):
    """Pages of which one is shown: as high as that one needs, not as the highest of all."""

    def __init__(self) -> None:
        super().__init__()
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(0, 0, 0, 0)
        self._current: QWidget | None = None

    def addWidget(self, page: QWidget) -> None:
        """One more page, not shown yet."""
        page.hide()
        self._layout.addWidget(page)

    def currentWidget(self) -> QWidget | None:
        """The page that is shown."""
        return self._current

    def setCurrentWidget(self, page: QWidget) -> None:
        """Show another page."""
        if page is self._current:
            return
        before, self._current = self._current, page
        if before is not None:
            before.hide()
        page.show()


@dataclass(frozen=True, slots=True, kw_only=True)
class Page:
    """A page: its name, what is done there, and what makes it."""

    name: str
    says: str
    make: Callable[[], QWidget]


class Pages(QWidget):
    """The bar with the page in front."""

    turned = pyqtSignal(str)
    """Another page is in front: its name."""

    def __init__(self, called: str, says: str, pages: Sequence[Page], first: str = "") -> None:
        """`first` is the page that is in front at first; the first of them where nothing is said."""
        super().__init__()
        self._pages = tuple(pages)
        self._made: dict[str, QWidget] = {}
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(6)
        self.tabs = QTabBar()
        self.tabs.setAccessibleName(called)
        self.tabs.setToolTip(says)
        self.tabs.setProperty("small", "true")
        self.tabs.setExpanding(False)
        self.tabs.setDrawBase(False)
        for index, page in enumerate(self._pages):
            self.tabs.addTab(page.name)
            self.tabs.setTabToolTip(index, page.says)
        outer.addWidget(self.tabs, 0, Qt.AlignmentFlag.AlignLeft)
        self.stack = Stack()
        outer.addWidget(self.stack, 1)
        begin = first or self._pages[0].name
        self.tabs.setCurrentIndex(self.names.index(begin))
        self.stack.setCurrentWidget(self.page(begin))
        self.tabs.currentChanged.connect(self._turn)

    @property
    def names(self) -> tuple[str, ...]:
        """The pages in their order."""
        return tuple(page.name for page in self._pages)

    @property
    def current(self) -> str:
        """The page in front."""
        return self._pages[self.tabs.currentIndex()].name

    def is_made(self, name: str) -> bool:
        """Whether somebody has turned to a page already."""
        return name in self._made

    def page(self, name: str) -> QWidget:
        """A page by its name, made where it is not there yet."""
        if name not in self._made:
            made = next(page for page in self._pages if page.name == name).make()
            self._made[name] = made
            self.stack.addWidget(made)
        return self._made[name]

    def turn_to(self, name: str) -> None:
        """Put a page in front."""
        self.tabs.setCurrentIndex(self.names.index(name))

    def refresh(self) -> None:
        """Draw the page in front as the document is now."""
        page = self._made[self.current]
        page.refresh()  # type: ignore[attr-defined]

    def _turn(self, index: int) -> None:
        name = self._pages[index].name
        self.stack.setCurrentWidget(self.page(name))
        self.stack.updateGeometry()
        self.turned.emit(name)
        self.refresh()
