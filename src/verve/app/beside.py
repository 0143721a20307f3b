"""What opens beside the window: adding a line, exchanging gear, the session and its room, the keys."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject
from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QDialog, QWidget

from verve.app.document import Document
from verve.app.settings import Settings
from verve.app.tasks import Tasks
from verve.core.errors import VerveError
from verve.core.kind import is_device_figures
from verve.core.session import Device, Session, Source

if TYPE_CHECKING:
    from verve.core.catalogue import StandIn
    from verve.core.datasheet import OwnGear

CORRIDOR_KEYS = (
    ("Tab", "go to the next field; Shift+Tab back"),
    ("Left, Right", "in the corridor: choose the stage to move"),
    ("Up, Down", "in the corridor or a field: move by 1 dB or one step"),
    ("Shift+Up, Shift+Down", "the same by 0.1 dB or a tenth of a step"),
    ("Esc", "give back a field as it was; stop a rehearsal"),
)

PRACTICE_KEYS = (
    (
        "N",
        "something new: a fault, an exercise, the cards shuffled, a drill, the day from its beginning",
    ),
    ("G, P, S", "in a hunt: be told, hear the take, sound on or off"),
    ("T, R", "by hand: play the test, record the song"),
    ("H", "in an order: show a card that is safe"),
    ("A, B, 1, 2, W", "in a drill: hear A or B, say that it is A or B, both in words"),
    ("1, 2", "in the day: see to what went wrong, or leave a take out"),
    ("Esc", "end it"),
)


class Beside(QObject):
    """Opens a dialog, and sends what comes of it to the document as one edit."""

    def __init__(
        self, window: QWidget, document: Document, settings: Settings, tasks: Tasks
    ) -> None:
        super().__init__(window)
        self._window, self._document, self._settings = window, document, settings
        self._tasks = tasks
        self.listed: list[tuple[QAction, str]] = []
        """Actions with the names they had first, for the page of keys."""

    def add_line(self) -> None:
        """Ask for a chain and put it in."""
        from verve.app.dialogs.add_line import AddLineDialog
        from verve.core.catalogue import add_chain, catalogue
        from verve.core.gain import with_best_gains

        dialog = AddLineDialog(catalogue(), self._window)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            chain, name = dialog.chain(), dialog.line_name()
            added: list[str] = []

            def change(session: Session) -> Session:
                changed, line_id = add_chain(session, catalogue(), chain, name)
                added.append(line_id)
                # Behind a mixer two gains meet: its trims do the work, the interface stays at its least.
                return changed if chain.mixer is None else with_best_gains(changed, session)

            if self._document.edit(f"signal {name}", change):
                self._document.select_line(added[-1])
        dialog.deleteLater()

    def replace(self, owner: str) -> None:
        """Ask for another piece in the place of a source or device, and put it in."""
        from verve.app.dialogs.replace import ReplaceDialog
        from verve.core.catalogue import between, catalogue, stand_ins

        setup, item = self._document.session.setup, self._document.line
        owners: list[Source | Device] = [*setup.sources, *setup.devices]
        old = next((one for one in owners if one.id == owner), None)
        if item is None:
            return
        own = [(entry.name, entry.figures) for entry in self.own_gear().entries]
        if old is None:
            boxes = [(name, figures) for name, figures in own if is_device_figures(figures)]
            self._put_between(owner, item.line.id, between(catalogue(), boxes))
            return
        dialog = ReplaceDialog(
            self._document.session,
            line_id=item.line.id,
            owner=owner,
            name=old.name,
            fitting=stand_ins(catalogue(), own, old.figures),
            can_go=isinstance(old, Device) and old.figures.is_between,
            parent=self._window,
            tasks=self._tasks,
        )
        if dialog.exec() == QDialog.DialogCode.Accepted:
            word = "removing" if dialog.takes_out else "replacing"
            self._document.edit(f"{word} {old.name}", dialog.apply)
        dialog.deleteLater()

    def _put_between(self, link_id: str, line_id: str, fitting: Sequence[StandIn]) -> None:
        """Ask for a box to stand in the middle of a cable, and put it in."""
        from verve.app.dialogs.replace import ReplaceDialog

        dialog = ReplaceDialog(
            self._document.session,
            line_id=line_id,
            owner=link_id,
            name="the cable",
            fitting=fitting,
            is_cable=True,
            parent=self._window,
            tasks=self._tasks,
        )
        if dialog.exec() == QDialog.DialogCode.Accepted:
            item = dialog.chosen()
            name = "a box" if item is None else item.label
            self._document.edit(f"adding {name}", dialog.apply)
        dialog.deleteLater()

    def show_trouble(self) -> None:
        """What could keep the selected line silent."""
        from verve.app.dialogs.no_signal import TroubleDialog

        item = self._document.line
        if item is None:
            return
        dialog = TroubleDialog(self._document, item.line.id, self._tasks, self._window)
        dialog.exec()
        dialog.deleteLater()

    def explain(self, take_id: str, line_id: str) -> None:
        """What explains the difference between predicted and measured, in a take."""
        from verve.app.dialogs.explain import ExplainDialog

        take = next((one for one in self._document.session.takes if one.id == take_id), None)
        if take is None:
            return
        dialog = ExplainDialog(self._document, take, line_id, self._tasks, self._window)
        dialog.exec()
        dialog.deleteLater()

    def move_line(self) -> None:
        """Ask for another socket for the selected line, with what it would do there."""
        from verve.app.dialogs.move_input import MoveInputDialog

        item = self._document.line
        if item is None:
            return
        dialog = MoveInputDialog(
            self._document.session, item.line.id, item.line.name, self._window, self._tasks
        )
        if dialog.exec() == QDialog.DialogCode.Accepted:
            self._document.edit(f"input of {item.line.name}", dialog.apply)
        dialog.deleteLater()

    def settle(self) -> None:
        """Propose the best gains of all lines, and set those that are taken."""
        from verve.app.dialogs.gains import SettleDialog

        item = self._document.line
        line_id = "" if item is None else item.line.id
        dialog = SettleDialog(self._document.session, line_id, self._window, self._tasks)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            self._document.edit(dialog.label(), dialog.apply)
        dialog.deleteLater()

    def own_gear(self) -> OwnGear:
        """The user's own gear; none where its file cannot be read, which is told."""
        from verve.core.datasheet import OwnGear, read_gear

        try:
            return read_gear(self._settings.gear_file)
        except VerveError as error:
            self._document.refused.emit(str(error))
            return OwnGear()

    def edit_gear(self) -> None:
        """Show the user's own gear and keep what becomes of it."""
        from verve.app.dialogs.own_gear import MyGearDialog
        from verve.core.datasheet import read_gear, write_gear

        try:
            before = read_gear(self._settings.gear_file)
        except VerveError as error:
            # Written over it would be lost: it stays until somebody has looked at it.
            self._document.refused.emit(str(error))
            return
        dialog = MyGearDialog(before, self._window)
        dialog.exec()
        if dialog.gear != before:
            try:
                write_gear(self._settings.gear_file, dialog.gear)
            except VerveError as error:
                self._document.refused.emit(str(error))
        dialog.deleteLater()

    def edit_session(self) -> None:
        """Ask for title and room."""
        from verve.app.dialogs.session import SessionDialog

        dialog = SessionDialog(self._document.session, self._window)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            self._document.edit("session and room", dialog.apply)
        dialog.deleteLater()

    def show_calculation(self) -> None:
        """How every number of the selected line comes about."""
        from verve.app.dialogs.calculation import CalculationDialog
        from verve.core.sheets import derivation_text

        item = self._document.line
        if item is not None:
            dialog = CalculationDialog(item.line.name, derivation_text(item), self._window)
            dialog.exec()
            dialog.deleteLater()

    def show_glossary(self) -> None:
        """Say what the words of the trade mean."""
        from verve.app.dialogs.glossary import GlossaryDialog

        dialog = GlossaryDialog(self._window)
        dialog.exec()
        dialog.deleteLater()

    def show_keys(self) -> None:
        """Every shortcut on one page."""
        from verve.app.dialogs.keys import ShortcutsDialog

        listed = [
            (
                action.shortcut().toString(QKeySequence.SequenceFormat.NativeText),
                f"{name}: {action.toolTip()}",
            )
            for action, name in self.listed
            if not action.shortcut().isEmpty()
        ]
        dialog = ShortcutsDialog(
            (
                ("Anywhere", listed),
                ("Where the focus is", CORRIDOR_KEYS),
                ("In the practice window", PRACTICE_KEYS),
            ),
            self._window,
        )
        dialog.exec()
        dialog.deleteLater()
