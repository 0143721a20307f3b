"""A monkey in the window: it presses, types, drags and opens whatever is there; undo leads all the way back."""

from __future__ import annotations

import random
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from types import TracebackType
from typing import Any

from PyQt6.QtCore import QEvent, QPoint, Qt, QTimer
from PyQt6.QtGui import QAction
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractSlider,
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QInputDialog,
    QLineEdit,
    QListWidget,
    QMenu,
    QPlainTextEdit,
    QTabBar,
    QTableWidget,
    QWidget,
)

from prove.report import Tally
from verve.app.settings import Settings
from verve.app.window import MainWindow
from verve.core.demo import demo_session
from verve.core.findings import STEPS
from verve.core.session import from_json, save, to_json

_HAND: Any = QTest
"""Its type hints take its functions for methods."""
_STEPS = 120
_LONGEST_S = 5.0
_DEEPEST = 2
_TEXTS = ("", "Harp", "12", "0,4", "-3 dB", "x" * 200, "½ \n zwei", "日本", "1e999", "'); --", "@@")
_LEAVES = ("quit", "new session", "open…", "open the demo", "undo", "redo")
"""What leads out of the session, or out of what is being tried."""


class _Monkey:
    """One window and one row of chance."""

    def __init__(self, window: MainWindow, rng: random.Random, folder: Path) -> None:
        self._window, self._rng, self._folder = window, rng, folder
        self.deeds: list[str] = []

    def _visible(self, kind: type[QWidget]) -> list[QWidget]:
        top = QApplication.activeModalWidget() or self._window
        return [w for w in top.findChildren(kind) if w.isVisible() and w.isEnabled()]

    def act(self) -> None:
        """Do something."""
        deeds: tuple[tuple[Callable[[], object], int], ...] = (
            (self._press, 6),
            (self._click_anywhere, 3),
            (self._type, 4),
            (self._choose, 3),
            (self._key, 3),
            (self._slide, 2),
            (self._go, 3),
            (self._menu, 2),
            (self._cell, 2),
            (self._save_and_open, 1),
            (self._undo, 2),
        )
        deed = self._rng.choices([d for d, _ in deeds], [w for _, w in deeds])[0]
        self.deeds.append(deed.__name__)
        deed()

    def _press(self) -> None:
        found = self._visible(QAbstractButton)
        if found:
            button = self._rng.choice(found)
            assert isinstance(button, QAbstractButton)
            self.deeds.append(button.text() or button.accessibleName())
            button.click()

    def _click_anywhere(self) -> None:
        found = self._visible(QWidget)
        if found:
            widget = self._rng.choice(found)
            at = QPoint(
                self._rng.randrange(max(1, widget.width())),
                self._rng.randrange(max(1, widget.height())),
            )
            _HAND.mousePress(widget, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)
            _HAND.mouseMove(
                widget, at + QPoint(self._rng.randint(-40, 40), self._rng.randint(-40, 40))
            )
            _HAND.mouseRelease(
                widget, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at
            )

    def _type(self) -> None:
        found = [*self._visible(QLineEdit), *self._visible(QPlainTextEdit)]
        if found:
            field = self._rng.choice(found)
            field.setFocus()
            words = self._rng.choice(_TEXTS)
            if isinstance(field, QLineEdit):
                field.selectAll()
                field.insert(words)
                _HAND.keyClicks(field, " a")
                _HAND.keyClick(
                    field, self._rng.choice([Qt.Key.Key_Return, Qt.Key.Key_Tab, Qt.Key.Key_Escape])
                )
            elif isinstance(field, QPlainTextEdit):
                field.insertPlainText(words)
                field.clearFocus()

    def _choose(self) -> None:
        found = [*self._visible(QComboBox), *self._visible(QListWidget), *self._visible(QTabBar)]
        if not found:
            return
        widget = self._rng.choice(found)
        if isinstance(widget, QComboBox) and widget.count():
            index = self._rng.randrange(widget.count())
            widget.setCurrentIndex(index)
            widget.activated.emit(index)
        elif isinstance(widget, QListWidget) and widget.count():
            widget.setCurrentRow(self._rng.randrange(widget.count()))
        elif isinstance(widget, QTabBar) and widget.count():
            widget.setCurrentIndex(self._rng.randrange(widget.count()))

    def _key(self) -> None:
        target = QApplication.focusWidget() or self._window
        names = [
            "Up",
            "Down",
            "PageDown",
            "Home",
            "End",
            "Tab",
            "Return",
            "Space",
            "Delete",
            "F2",
            "F3",
        ]
        _HAND.keyClick(target, getattr(Qt.Key, f"Key_{self._rng.choice(names)}"))

    def _slide(self) -> None:
        found = self._visible(QAbstractSlider)
        if found:
            slider = self._rng.choice(found)
            assert isinstance(slider, QAbstractSlider)
            slider.setValue(self._rng.randint(slider.minimum(), slider.maximum()))

    def _go(self) -> None:
        if QApplication.activeModalWidget() is None:
            self._window.go(self._rng.choice(STEPS))

    def _menu(self) -> None:
        if QApplication.activeModalWidget() is None:
            actions = [a for a in self._window.findChildren(QAction) if a.isEnabled() and a.text()]
            named = [a for a in actions if not self._leads_out(a) and not a.menu()]
            action = self._rng.choice(named)
            self.deeds.append(action.text())
            action.trigger()

    @staticmethod
    def _leads_out(action: QAction) -> bool:
        name = action.text().replace("&", "").lower()
        return name.startswith(_LEAVES) or isinstance(action.parent(), QMenu)

    def _cell(self) -> None:
        found = self._visible(QTableWidget)
        if found:
            table = self._rng.choice(found)
            assert isinstance(table, QTableWidget)
            if table.rowCount() and table.columnCount():
                row, column = (
                    self._rng.randrange(table.rowCount()),
                    self._rng.randrange(table.columnCount()),
                )
                table.setCurrentCell(row, column)
                item = table.item(row, column)
                if item is not None and item.flags() & Qt.ItemFlag.ItemIsEditable:
                    item.setText(self._rng.choice(_TEXTS))
                else:
                    table.cellClicked.emit(row, column)

    def _save_and_open(self) -> None:
        """What is saved is what was there."""
        if QApplication.activeModalWidget() is None and self._window.rehearsal.state == "idle":
            path = self._folder / "monkey.verve.json"
            save(self._window.document.session, path)
            text = path.read_text(encoding="utf-8")
            assert from_json(text, "saved") == self._window.document.session
            assert to_json(self._window.document.session) == text

    def _undo(self) -> None:
        if QApplication.activeModalWidget() is None:
            self._rng.choice([self._window.document.undo, self._window.document.redo])()


def _answer_dialogs(monkey: _Monkey, rng: random.Random, folder: Path) -> None:
    """No question waits for anybody: what opens is used a little and closed."""
    depth = 0

    def exec_(dialog: QDialog) -> int:
        nonlocal depth
        dialog.setModal(True)
        dialog.show()
        QApplication.processEvents()
        depth += 1
        try:
            for _ in range(rng.randint(0, 6) if depth <= _DEEPEST else 0):
                if dialog.isVisible():
                    monkey.act()
                    QApplication.processEvents()
        finally:
            depth -= 1
        if dialog.isVisible():
            rng.choice([dialog.accept, dialog.reject])()
        # One that has something to be put right stays open.
        if dialog.isVisible():
            dialog.reject()
        return dialog.result()

    QDialog.exec = exec_  # type: ignore[method-assign,assignment]
    QMenu.exec = lambda *_: None  # type: ignore[method-assign]
    names = iter(range(10**9))

    def place(*_: object) -> tuple[str, str]:
        chosen = rng.choice(["", f"written {next(names)}.pdf", "written.csv", "no folder/x.json"])
        return (str(folder / chosen) if chosen else "", "")

    QFileDialog.getSaveFileName = staticmethod(place)  # type: ignore[method-assign,assignment]
    QFileDialog.getOpenFileName = staticmethod(place)  # type: ignore[method-assign,assignment]
    QFileDialog.getOpenFileNames = staticmethod(lambda *_: ([], ""))  # type: ignore[method-assign,assignment]
    into = str(folder / "collected")
    QFileDialog.getExistingDirectory = staticmethod(lambda *_: into)  # type: ignore[method-assign,assignment]


def _close_popup() -> None:
    popup = QApplication.activePopupWidget()
    if popup is not None:
        popup.close()
    asked = QApplication.activeModalWidget()
    if isinstance(asked, QInputDialog):
        asked.accept()


def _round(number: int, seed: int, folder: Path) -> tuple[str, int]:
    """One window from the demo and back; what went wrong, empty for nothing, and how many edits it made."""
    rng, caught = random.Random(f"monkey {seed} {number}"), []

    def take(
        kind: type[BaseException], error: BaseException | None, trace: TracebackType | None
    ) -> None:
        import traceback

        frame = traceback.extract_tb(trace)[-1] if trace else None
        where = f" ({Path(frame.filename).name}, line {frame.lineno})" if frame else ""
        caught.append(f"{kind.__name__}: {error}{where}"[:300])

    before, sys.excepthook = sys.excepthook, take
    window = MainWindow(Settings(folder / f"settings {number}"), is_paced=False)
    window.resize(1280, 800)
    window.show_demo()
    window.show()
    QApplication.processEvents()
    # A menu that drops down from a button waits for a choice: nobody makes one.
    closing = QTimer(window)
    closing.timeout.connect(_close_popup)
    closing.start(50)
    monkey, fault, edits = _Monkey(window, rng, folder), "", 0
    _answer_dialogs(monkey, rng, folder)
    try:
        for _ in range(_STEPS):
            began = time.monotonic()
            QTimer.singleShot(0, monkey.act)
            QApplication.processEvents()
            QApplication.processEvents()
            if time.monotonic() - began > _LONGEST_S:
                fault = f"an event of {time.monotonic() - began:.1f} s"
            if fault or caught:
                break
        window.rehearsal.stop()
        window.standby.leave()
        window.tasks.wait()
        QApplication.processEvents()
        QApplication.sendEvent(window, QEvent(QEvent.Type.WindowDeactivate))
        window.commit_typing()
        edits = len(window.document.history.done) + len(window.document.history.undone)
        while window.document.history.done:
            window.document.undo()
        if not fault and not caught and window.document.session != demo_session():
            fault = f"undo of {edits} steps does not lead back"
    finally:
        window.document.replace(window.document.session, None, is_saved=True)
        window.rehearsal.cancel()
        window.standby.leave()
        window.tasks.cancel_all()
        window.close()
        window.deleteLater()
        QApplication.sendPostedEvents(window, QEvent.Type.DeferredDelete.value)
        sys.excepthook = before
    problem = fault or (caught[0] if caught else "")
    said = f"{problem}; last: {', '.join(monkey.deeds[-4:])}" if problem else ""
    return said, edits


def in_the_window(rounds: int, seed: int) -> Tally:
    """So many windows, each with its own row of chance; there is an application already."""
    tally = Tally(f"a monkey in the window, {_STEPS} deeds each")
    with tempfile.TemporaryDirectory() as name:
        for number in range(rounds):
            fault, edits = _round(number, seed, Path(name))
            tally.outcomes["edits undone"] += edits
            if fault:
                tally.fault(f"seed {seed}, window {number}: {fault}")
            else:
                tally.note("back where it began")
    return tally
