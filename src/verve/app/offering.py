"""Opens the practice window, and offers a minute of it once, at the step where it is needed."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from verve.app.practising import Practising
from verve.app.settings import Settings
from verve.app.widgets.buttons import push
from verve.app.widgets.labels import text

if TYPE_CHECKING:
    from verve.app.practice import PracticeWindow
    from verve.app.window import MainWindow
    from verve.core.findings import Step
    from verve.core.learning import Offer

_STEPS = frozenset({"power", "stage", "takes"})


class OfferBar(QWidget):
    """One sentence and two buttons below the step; it takes no focus and goes with the next step."""

    def __init__(self) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        self.says = text()
        self.practise = push(
            "Practise it", "Opens the practice window; nothing of the session is changed"
        )
        self.decline = push(
            "Not now",
            "It is not offered again; the practice window is in the menu Steps",
            self.hide,
        )
        row.addWidget(self.says, 1)
        row.addWidget(self.practise)
        row.addWidget(self.decline)
        self.hide()


class Offering:
    """What the main window knows of practice: the menu's window, and one offer at a time."""

    def __init__(self, window: MainWindow, settings: Settings) -> None:
        self._window, self._document, self._tasks = window, window.document, window.tasks
        self.practising = Practising(settings.practice_file)
        self.bar = OfferBar()
        self.practising.told.connect(window.say)
        self.bar.practise.clicked.connect(lambda _: self._accept())
        self._offer: Offer | None = None
        self.window: PracticeWindow | None = None

    def open(self, page: str = "", line: str = "", drill: str = "") -> None:
        """The window, on a copy of the session as it is now; one that is open comes to the front."""
        if self.window is not None:
            self._show(self.window, page, line, drill)
            return
        item = self._document.line
        session, selected = self._document.session, line or ("" if item is None else item.line.id)

        def load(_: object, __: object) -> type[PracticeWindow]:
            # Sound and hunts take a moment to load: beside the window.
            from verve.app.practice import PracticeWindow

            return PracticeWindow

        def done(kind: type[PracticeWindow]) -> None:
            made = kind(
                session, selected, self._tasks, self.practising, lambda: self._window.player, self._window
            )  # fmt: skip
            made.closed.connect(self._forget)
            self.window = made
            # Making it and showing it are two events: neither is long.
            QTimer.singleShot(0, lambda: self._show(made, page, line, drill))

        self._tasks.run("practice window", load, done)

    def _show(self, window: PracticeWindow, page: str, line: str, drill: str) -> None:
        if window is not self.window:
            return
        if page:
            window.turn_to(page, line, drill)
        window.show()
        window.raise_()
        window.activateWindow()

    def close(self) -> None:
        """With the main window it goes as well."""
        if self.window is not None:
            self.window.close()

    def _forget(self) -> None:
        if self.window is not None:
            self.window.deleteLater()
            self.window = None

    def at(self, step: Step) -> None:
        """Somebody comes to a step: what is offered there, if anything, once."""
        self.bar.hide()
        if step not in _STEPS or not self._document.session.setup.lines:
            return
        assessment, practising = self._document.assessment, self.practising

        def done(found: Offer | None) -> None:
            self._offer = found
            if found is not None:
                practising.offered(found.key)
                self.bar.says.setText(found.says)
                self.bar.show()

        # What is needed for it is loaded beside the window: nobody waits for a step because of it.
        self._tasks.run("offer", lambda _, __: practising.offer_at(assessment, step), done)

    def _accept(self) -> None:
        self.bar.hide()
        offer = self._offer
        if offer is not None:
            self.open(offer.page, offer.line, offer.drill)
