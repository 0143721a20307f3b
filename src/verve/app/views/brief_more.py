"""The other pages of Brief: what gear would change, which microphone, the computer, what comes later."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from verve.app import theme
from verve.app.document import Document
from verve.app.tasks import Tasks
from verve.app.widgets.labels import caption, text
from verve.app.widgets.table import Table
from verve.core.catalogue import catalogue
from verve.core.datasheet import OwnGear
from verve.core.errors import InputError
from verve.core.kind import DeviceFigures, is_device_figures
from verve.core.needs import Answered, MicrophoneRow, microphone_rows
from verve.core.quantities import amount
from verve.core.sensitivity import Worth, by_money, worth_of
from verve.core.session import Computer, set_computer, set_later


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
        self.scope = QComboBox()
        self.scope.setAccessibleName("What is looked at")
        self.scope.addItems(["what is on the list", "the whole catalogue"])
        self.order = QComboBox()
        self.order.setAccessibleName("Ranked by")
        self.order.addItems(["by what it changes", "by what it changes for its price"])
        self.order.setToolTip("Most first; what has no price comes last when money counts")
        row.addWidget(self._says, 1)
        row.addWidget(self.scope)
        row.addWidget(self.order)
        layout.addLayout(row)
        self.table = Table(
            ("Thing", "dB", "dB per 100", "what it would change here"),
            "What gear would change",
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
                "Find a way in first: what gear would change is computed in a patch."
            )
        elif self._tasks.is_busy("worth"):
            self._says.setText("Computing what each would change …")
        else:
            self._says.setText(
                "By how much the line that gains most would stand further above the noise, with its "
                "gain set anew."
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

    def _things(self) -> list[tuple[str, DeviceFigures, float | None]]:
        found: list[tuple[str, DeviceFigures, float | None]] = []
        for wish in self._document.session.shopping.wishes:
            if wish.item is not None and wish.item.device is not None:
                found.append((wish.name, wish.item.device, wish.price))
        if self.scope.currentIndex() == 1:
            for entry in self._own().entries:
                if is_device_figures(entry.figures):
                    found.append((entry.name, entry.figures, None))
            found += [(e.name, e.figures, None) for e in catalogue().devices.values()]
        return found

    def _work(self, *, anew: bool) -> None:
        session = self._document.session
        key = (session.setup, session.shopping, self.scope.currentIndex())
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
            self._tasks.run("worth", lambda _, stop: worth_of(session, things, stop), done)


class _Trade(QWidget):
    """Each microphone as a mark: to the right further above the noise, upwards more room to its ceiling."""

    def __init__(self) -> None:
        super().__init__()
        self._rows: Sequence[MicrophoneRow] = ()
        self.chosen = -1
        self.setMinimumWidth(240)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Microphones: distance from noise against room to the ceiling")
        self.setToolTip("Filled: yours. To the right: further above the noise. Up: more room.")

    def show_rows(self, rows: Sequence[MicrophoneRow], chosen: int) -> None:
        """Draw others."""
        self._rows, self.chosen = rows, chosen
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        c = theme.colours()
        area = QRectF(44, 24, max(40, self.width() - 56), max(40, self.height() - 60))
        painter.setPen(QPen(QColor(c.rule), 1.0))
        painter.drawRect(area)
        painter.setFont(theme.words(9.0))
        painter.setPen(QColor(c.muted))
        below = QRectF(area.left(), area.bottom() + 18, area.width(), 16)
        painter.drawText(below, Qt.AlignmentFlag.AlignRight, "dB above the noise")
        above = QRectF(area.left(), 2, area.width(), 18)
        painter.drawText(above, Qt.AlignmentFlag.AlignLeft, "dB of room to the nearest ceiling")
        if not self._rows:
            return
        snrs = [row.snr_db for row in self._rows]
        low, high = min(snrs) - 2.0, max(snrs) + 2.0
        top = max(10.0, *(row.headroom_db for row in self._rows)) + 1.0
        painter.setFont(theme.numbers(9.0))
        for share in (0.0, 0.5, 1.0):
            x = area.left() + share * area.width()
            value = f"{low + share * (high - low):.0f}"
            box = QRectF(x - 20, area.bottom() + 3, 40, 14)
            painter.drawText(box, Qt.AlignmentFlag.AlignHCenter, value)
            y = area.bottom() - share * area.height()
            painter.drawText(
                QRectF(0, y - 8, 38, 16), Qt.AlignmentFlag.AlignRight, f"{share * top:.0f}"
            )
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for index, row in enumerate(self._rows):
            at = QPointF(
                area.left() + (row.snr_db - low) / (high - low) * area.width(),
                area.bottom() - row.headroom_db / top * area.height(),
            )
            painter.setPen(QPen(QColor(c.ink), 1.5))
            painter.setBrush(QColor(c.ink) if row.is_owned else QColor(c.card))
            size = 7.0 if index == self.chosen else 4.5
            painter.drawEllipse(at, size, size)
            if index == self.chosen:
                painter.setFont(theme.words(9.5))
                wide = painter.fontMetrics().horizontalAdvance(row.name) + 2
                left = min(max(at.x() - wide / 2, area.left() + 4), area.right() - wide - 4)
                box = QRectF(left, at.y() + 10, wide, 18)
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, row.name)


class MicrophonePage(QWidget):
    """Every microphone for one part, as a table and as a picture; the choice by taste is left open."""

    def __init__(self, document: Document, tasks: Tasks) -> None:
        super().__init__()
        self._document, self._tasks = document, tasks
        self._found: tuple[MicrophoneRow, ...] = ()
        self._for: object = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 4, 0, 0)
        top = QHBoxLayout()
        top.addWidget(caption("for"))
        self.part = QComboBox()
        self.part.setAccessibleName("For which part")
        top.addWidget(self.part)
        self._says = caption(wrap=True)
        top.addWidget(self._says, 1)
        layout.addLayout(top)
        row = QHBoxLayout()
        self.table = Table(
            ("Microphone", "S/N, dB", "room, dB", "needs", "flaws"),
            "Microphones for this part",
            numbers=(1, 2),
            stretched=(0, 3),
            # Names that begin alike are told apart only in whole.
            wraps=True,
        )
        row.addWidget(self.table, 7)
        self.picture = _Trade()
        row.addWidget(self.picture, 3)
        layout.addLayout(row, 1)
        self.part.activated.connect(lambda _: self.show_answer(None))
        self.table.currentCellChanged.connect(
            lambda row, *_: self.picture.show_rows(self._found, row)
        )

    def show_answer(self, _: Answered | None) -> None:
        """Draw it, and work it out where the part or the room is another one."""
        parts = [p for p in self._document.session.brief.parts if p.sound is not None]
        chosen = self.part.currentData()
        self.part.clear()
        for part in parts:
            self.part.addItem(part.name, part.id)
        self.part.setCurrentIndex(max(0, self.part.findData(chosen)))
        self._work()
        found = self._found
        if not parts:
            self._says.setText("No part sounds in the air.")
        elif not found:
            self._says.setText("Computing every microphone …")
        else:
            distance = f"{found[0].distance_m * 100:.0f} cm"
            self._says.setText(f"at {distance}, gain set for the aim, in this room")
        self.table.show_rows(
            [
                (
                    f"{row.name}  ·  yours" if row.is_owned else row.name,
                    f"{row.snr_db:.1f}",
                    f"{row.headroom_db:.1f}",
                    row.needs,
                    row.flaws,
                )
                for row in found
            ]
        )
        self.picture.show_rows(found, self.table.currentRow())

    def _work(self) -> None:
        session = self._document.session
        part = next((p for p in session.brief.parts if p.id == self.part.currentData()), None)
        setup = session.setup
        key = (part, session.kit, setup.room, setup.audio, setup.school)
        if self._for == key or not self.isVisible():
            return
        self._for = key
        self._found = ()
        if part is None:
            return

        def done(found: object) -> None:
            assert isinstance(found, tuple)
            self._found = found
            self.show_answer(None)

        self._tasks.run("microphones", lambda _, stop: microphone_rows(session, part, stop), done)


class ComputerPage(QWidget):
    """What the computer has, and whether it keeps up."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 4, 0, 0)
        row = QHBoxLayout()
        self.usb_a, self.usb_c = QCheckBox("USB A socket"), QCheckBox("USB C socket")
        row.addWidget(self.usb_a)
        row.addWidget(self.usb_c)
        self.fields: dict[str, QLineEdit] = {}
        for key, label in (
            ("memory_gb", "memory GB"),
            ("free_disk_gb", "free disk GB"),
            ("write_mb_per_s", "disk MB/s"),
        ):
            field = QLineEdit()
            field.setFixedWidth(70)
            field.setPlaceholderText("?")
            field.setAccessibleName(label)
            field.editingFinished.connect(self._keep)
            row.addWidget(caption(label))
            row.addWidget(field)
            self.fields[key] = field
        row.addStretch(1)
        layout.addLayout(row)
        self.table = Table(
            ("Question", "answer", "is it well?", "how"),
            "The computer",
            numbers=(1,),
            stretched=(3,),
            wraps=True,
        )
        layout.addWidget(self.table, 1)
        for box in (self.usb_a, self.usb_c):
            box.clicked.connect(lambda _: self._keep())

    def show_answer(self, answered: Answered | None) -> None:
        """Draw what is known of it."""
        computer = self._document.session.computer
        self.usb_a.setChecked("usb_a" in computer.sockets)
        self.usb_c.setChecked("usb_c" in computer.sockets)
        for key, field in self.fields.items():
            value = getattr(computer, key)
            if not field.hasFocus():
                field.setText("" if value is None else f"{value:g}")
        words = {True: "yes", False: "no", None: "not known"}
        self.table.show_rows(
            []
            if answered is None
            else [(c.label, c.text, words[c.is_well], c.how) for c in answered.checks]
        )

    def _keep(self) -> None:
        values: dict[str, object] = {}
        try:
            for key, field in self.fields.items():
                values[key] = amount(field.accessibleName(), field.text()) or None
        except InputError as error:
            self._document.refused.emit(str(error))
            for key, field in self.fields.items():
                value = getattr(self._document.session.computer, key)
                field.setText("" if value is None else f"{value:g}")
            return
        names = (("usb_a", self.usb_a), ("usb_c", self.usb_c))
        sockets = tuple(key for key, box in names if box.isChecked())
        computer = Computer.model_validate({"sockets": sockets, **values})
        if computer != self._document.session.computer:
            self._document.edit("the computer", lambda session: set_computer(session, computer))


class LaterPage(QWidget):
    """What is wanted later, beside what is wanted now."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 4, 0, 0)
        self._says = text()
        layout.addWidget(self._says)
        row = QHBoxLayout()
        self.keep, self.swap = QPushButton("Keep this brief as later"), QPushButton("Swap the two")
        self.drop = QPushButton("Forget later")
        for button, says, slot in (
            (self.keep, "What stands above becomes what is wanted later", self._keep),
            (self.swap, "To write in the other one", self._swap),
            (self.drop, "Only what is wanted now stays", self._drop),
        ):
            button.setToolTip(says)
            button.clicked.connect(slot)
            row.addWidget(button)
        row.addStretch(1)
        layout.addLayout(row)
        self.table = Table(
            ("Needed", "now", "later", "missing later"), "Now and later", numbers=(1, 2, 3)
        )
        layout.addWidget(self.table, 1)

    def show_answer(self, answered: Answered | None) -> None:
        """Draw both side by side."""
        later = self._document.session.later
        self._says.setText(
            "In a year, perhaps the whole band at once? Write that brief, keep it as later, and go back "
            "by undo or swap: both are counted side by side, so that nothing is bought only for today."
            if later is None
            else f"Later: {', '.join(part.name for part in later.parts) or 'nothing yet'}."
        )
        for button in (self.swap, self.drop):
            button.setEnabled(later is not None)
        self.keep.setEnabled(bool(self._document.session.brief.parts))
        rows = () if answered is None else answered.later
        self.table.show_rows(
            [(label, str(a), str(b), str(m) if m else "") for label, a, b, m in rows]
        )

    def _keep(self) -> None:
        brief = self._document.session.brief
        self._document.edit("what is wanted later", lambda session: set_later(session, brief))

    def _swap(self) -> None:
        later = self._document.session.later
        if later is not None:
            self._document.edit(
                "now and later",
                lambda s: set_later(s.model_copy(update={"brief": later}), s.brief),
            )

    def _drop(self) -> None:
        self._document.edit("what is wanted later", lambda session: set_later(session, None))
