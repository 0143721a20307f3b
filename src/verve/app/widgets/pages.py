"""Pages of one step, with a bar to choose from: each is made when somebody first turns to it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtWidgets import QStackedWidget, QTabBar, QVBoxLayout, QWidget


class Stack(QStackedWidget):
    """As high as the page in front needs, not as the highest one."""

    def sizeHint(self) -> QSize:
        page = self.currentWidget()
        return super().sizeHint() if page is None else page.sizeHint()

    def minimumSizeHint(self) -> QSize:
        page = self.currentWidget()
        return super().minimumSizeHint() if page is None else page.minimumSizeHint()

    def hasHeightForWidth(self) -> bool:
        page = self.currentWidget()
        return page is not None and page.hasHeightForWidth()

    def heightForWidth(self, width: int) -> int:
        page = self.currentWidget()
        return super().heightForWidth(width) if page is None else page.heightForWidth(width)


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
