"""Brief: who plays what in which pass, and what all of it needs."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Sequence

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import (
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QInputDialog,
    QMenu,
    QPushButton,
    QScrollArea,
    QTabBar,
    QVBoxLayout,
    QWidget,
)

from verve.app.document import Document
from verve.app.tasks import Tasks
from verve.app.views.brief.pages import GROUPS, PAGES, BriefPages
from verve.app.views.brief.part_row import PartRow
from verve.app.widgets.beside import Beside, group
from verve.app.widgets.choice import Choice
from verve.app.widgets.labels import caption_of, card, heading, text
from verve.core.catalogue import (
    catalogue,
    ensemble_parts,
)
from verve.core.datasheet import OwnGear
from verve.core.needs import Answered, answer
from verve.core.session import (
    Part,
    Pass,
    Session,
    add_part,
    add_pass,
    change_part,
    change_pass,
    remove_part,
    remove_pass,
)

_SETTLE_MS = 250
"""The way is sought when somebody stops typing, not at every letter."""


class BriefView(QWidget):
    """The parts of a pass above; below, on pages, what follows from them."""

    connections_wanted = pyqtSignal(str)
    """A patch is wanted for a pass: its id."""

    def __init__(self, document: Document, tasks: Tasks, own_gear: Callable[[], OwnGear]) -> None:
        super().__init__()
        self._document, self._tasks = document, tasks
        self._pass_id = ""
        self._asked_for: tuple[object, ...] | None = None
        self.answered: Answered | None = None
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(8)
        frame, layout = card()
        outer.addWidget(frame, 5)
        layout.addWidget(self._make_top())
        self._empty = text(
            "Start with the music: who plays or sings what, all of it or one by one. From that Verve "
            "works out inputs, microphones, cables, stands and headphones, and what of it is missing. "
            "Add a part, or a usual ensemble."
        )
        layout.addWidget(self._empty)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        holder = QWidget()
        column = QVBoxLayout(holder)
        column.setContentsMargins(0, 0, 6, 0)
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(4)
        # What there is too little of is too little for all, and not for names alone.
        for index, share in enumerate((4, 4, 3, 3)):
            self._grid.setColumnStretch(index, share)
        self._rows_layout = column
        column.addLayout(self._grid)
        column.addStretch(1)
        area.setWidget(holder)
        layout.addWidget(area, 1)
        self.rows: list[PartRow] = []
        self._answers: deque[tuple[object, Answered]] = deque(maxlen=6)
        layout.addLayout(self._make_buttons())
        lower, inside = card()
        outer.addWidget(lower, 6)
        self.groups, self.tabs = QTabBar(), QTabBar()
        self.groups.setAccessibleName("What follows from the brief")
        self.groups.setToolTip("What is needed, what is available, and what to buy")
        self.tabs.setAccessibleName("Pages")
        self.tabs.setToolTip("Counts, kit, list, comparisons: all computed from the brief above")
        self.tabs.setProperty("small", "true")
        for bar in (self.groups, self.tabs):
            bar.setExpanding(False)
            bar.setDrawBase(False)
            inside.addWidget(bar)
        for name in GROUPS:
            self.groups.addTab(name)
        self._page_of_group = dict.fromkeys(GROUPS, 0)
        self._fill_tabs(0)
        self.pages = BriefPages(document, tasks, own_gear)
        inside.addWidget(self.pages, 1)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(_SETTLE_MS)
        # ── connections ──
        self.groups.currentChanged.connect(self._turn_group)
        self.tabs.currentChanged.connect(self._turn_page)
        self._timer.timeout.connect(self._work)
        self.pages.connections_wanted.connect(lambda: self.connections_wanted.emit(self._pass_id))
        tasks.progressed.connect(self._on_progress)

    def _make_top(self) -> QWidget:
        title = heading("Who plays what")
        title.setWordWrap(False)
        self.passes, self.over = Choice(), Choice()
        self.passes.setAccessibleName("Layer")
        self.passes.setToolTip(
            "What is recorded together is one layer; overdubs are layers of their own"
        )
        self.over.setAccessibleName("Played over")
        self.over.setToolTip("The layer that is heard in the headphones while this one is played")
        self.new_pass = QPushButton("New layer")
        self.new_pass.setToolTip("Another time of recording, together or over what is there")
        self.name_pass = QPushButton("Rename")
        self.name_pass.setToolTip("What this layer is called, here and on every sheet")
        self.drop_pass = QPushButton("Remove")
        self.drop_pass.setAccessibleName("Remove this layer")
        self.drop_pass.setToolTip("Removes this layer, with the parts that are in no other")
        self._over_label = caption_of(self.over, "over")
        self.name_pass.clicked.connect(self._rename_pass)
        self.passes.activated.connect(self._choose_pass)
        self.over.activated.connect(self._choose_over)
        self.new_pass.clicked.connect(self._add_pass)
        self.drop_pass.clicked.connect(self._remove_pass)
        return Beside(
            group(title, self.passes, self._over_label, self.over),
            group(self.new_pass, self.name_pass, self.drop_pass),
        )

    def _make_buttons(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.add = QPushButton("Add a part…")
        self.add.setProperty("strong", "true")
        self.add.setToolTip("Who plays what, from the catalogue. Shortcut: Ctrl+P")
        self.add.setShortcut("Ctrl+P")
        self.ensembles = QPushButton("Add an ensemble")
        self.ensembles.setToolTip("A usual ensemble with one press; everything can be changed")
        menu = QMenu(self)
        for ensemble in catalogue().ensembles:
            action = menu.addAction(f"{ensemble.name}: {ensemble.says}")
            assert action is not None
            action.triggered.connect(lambda _, key=ensemble.id: self.add_ensemble(key))
        self.ensembles.setMenu(menu)
        self.find_button = QPushButton("Suggest connections")
        self.find_button.setToolTip("Connects this layer in the best way the kit allows, gains set")
        self.add.clicked.connect(self.ask_part)
        self.find_button.clicked.connect(lambda: self.connections_wanted.emit(self._pass_id))
        row.addWidget(self.add)
        row.addWidget(self.ensembles)
        row.addStretch(1)
        row.addWidget(self.find_button)
        return row

    # ── what is ───────────────────────────────────────────────────────────────────────────────
    @property
    def current(self) -> Pass | None:
        """The pass that is shown."""
        passes = self._document.session.brief.passes
        found = next((item for item in passes if item.id == self._pass_id), None)
        return found or (passes[0] if passes else None)

    def refresh(self) -> None:
        """Draw the document as it is now, and see to it that what follows is worked out."""
        session = self._document.session
        item = self.current
        self._pass_id = "" if item is None else item.id
        self.passes.clear()
        for one in session.brief.passes:
            self.passes.addItem(f"{one.name} ({len(one.parts)})", one.id)
        self.passes.setCurrentIndex(max(0, self.passes.findData(self._pass_id)))
        several = len(session.brief.passes) > 1
        self.passes.setVisible(bool(session.brief.passes))
        self.drop_pass.setVisible(several)
        self.name_pass.setVisible(item is not None)
        self._show_over(session.brief.passes, item)
        parts: Sequence[Part] = () if item is None else session.brief.parts_of(item)
        # Laid out once, when all rows are there, and not again after each field of each.
        self._rows_layout.setEnabled(False)
        while len(self.rows) < len(parts):
            self.rows.append(PartRow(self, self._grid, len(self.rows)))
        for index, row in enumerate(self.rows):
            row.show_part(parts[index] if index < len(parts) else None)
        self._rows_layout.setEnabled(True)
        self._rows_layout.activate()
        self._empty.setVisible(not parts)
        self.find_button.setEnabled(bool(parts))
        self._ask_for(session)
        self._turn_page(self.tabs.currentIndex())

    def _show_over(self, passes: Sequence[Pass], item: Pass | None) -> None:
        others = [one for one in passes if item is not None and one.id != item.id]
        self.over.clear()
        self.over.addItem("nothing", "")
        for one in others:
            self.over.addItem(one.name, one.id)
        chosen = item.over[0] if item is not None and item.over else ""
        self.over.setCurrentIndex(max(0, self.over.findData(chosen)))
        for widget in (self.over, self._over_label):
            widget.setVisible(bool(others))

    def open_page(self, name: str) -> None:
        """Put a page in front, by its name."""
        for index, pages in enumerate(GROUPS.values()):
            if name in pages:
                self.groups.setCurrentIndex(index)
                self.tabs.setCurrentIndex(pages.index(name))

    def _fill_tabs(self, group: int) -> None:
        name = self.groups.tabText(group)
        self.tabs.blockSignals(True)
        while self.tabs.count():
            self.tabs.removeTab(0)
        for page in GROUPS[name]:
            self.tabs.addTab(page)
        self.tabs.setCurrentIndex(self._page_of_group[name])
        self.tabs.blockSignals(False)

    def _turn_group(self, group: int) -> None:
        self._fill_tabs(group)
        self._turn_page(self.tabs.currentIndex())

    def _turn_page(self, index: int) -> None:
        group = self.groups.tabText(self.groups.currentIndex())
        self._page_of_group[group] = max(0, index)
        page = GROUPS[group][max(0, index)]
        self.pages.turn_to(PAGES.index(page), self.answered)

    # ── working it out ────────────────────────────────────────────────────────────────────────
    def _ask_for(self, session: Session) -> None:
        setup = session.setup
        wanted = (
            session.brief,
            session.later,
            session.kit,
            session.computer,
            setup.room,
            setup.audio,
            setup.level_target,
            tuple(line for line in setup.lines if line.is_fixed),
            self._pass_id,
        )
        if wanted != self._asked_for:
            self._asked_for = wanted
            # Undo, and another pass and back, ask what was answered a moment ago.
            known = (answered for asked, answered in self._answers if asked == wanted)
            self.answered = next(known, None)
            if self.answered is None:
                self._timer.start()
            else:
                self._timer.stop()
                self._tasks.cancel("brief")

    def _work(self) -> None:
        session, pass_id, wanted = self._document.session, self._pass_id, self._asked_for
        if not pass_id or not session.brief.parts:
            self._tasks.cancel("brief")
            self._turn_page(self.tabs.currentIndex())
            return

        def done(found: object) -> None:
            if not isinstance(found, Answered):
                return
            self._answers.append((wanted, found))
            # Another brief or kit may be there by now, whose own answer begins in a moment.
            if wanted == self._asked_for:
                self.answered = found
                self._turn_page(self.tabs.currentIndex())

        self._tasks.run(
            "brief", lambda report, stopped: answer(session, pass_id, report, stopped), done
        )

    def _on_progress(self, name: str, share: float) -> None:
        if name == "brief" and self.answered is None:
            self.pages.show_progress(share)

    # ── doing ─────────────────────────────────────────────────────────────────────────────────
    def ask_part(self) -> None:
        """Ask who plays what, and add it."""
        from verve.app.dialogs.part import PartDialog

        dialog = PartDialog(catalogue(), self)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            self.add_parts((dialog.part(),), f"part {dialog.part().name}")
        dialog.deleteLater()

    def add_ensemble(self, key: str) -> None:
        """Add all parts of a usual ensemble."""
        entries = catalogue()
        ensemble = next(item for item in entries.ensembles if item.id == key)
        self.add_parts(ensemble_parts(entries, ensemble), ensemble.name)

    def add_parts(self, parts: Sequence[Part], label: str) -> None:
        """Add parts to the pass that is shown, or to a first one."""
        item = self.current

        def change(session: Session) -> Session:
            key = item.id if item is not None else ""
            if not key:
                session, key = add_pass(session, "All together")
            for part in parts:
                session, _ = add_part(session, key, part)
            return session

        self._document.edit(label, change)

    def change_part(self, part: Part) -> None:
        """Change one part."""
        self._document.edit(f"part {part.name}", lambda session: change_part(session, part))

    def remove_part(self, part: Part) -> None:
        """Take one part out."""
        self._document.edit(
            f"removal of {part.name}", lambda session: remove_part(session, part.id)
        )

    def _choose_pass(self, index: int) -> None:
        self._pass_id = self.passes.itemData(index)
        self.refresh()

    def _choose_over(self, index: int) -> None:
        item, over = self.current, self.over.itemData(index)
        if item is not None:
            changed = item.model_copy(update={"over": (over,) if over else ()})
            self._document.edit(
                f"what {item.name} is played over", lambda session: change_pass(session, changed)
            )

    def _add_pass(self) -> None:
        made: list[str] = []

        def change(session: Session) -> Session:
            session, key = add_pass(session, f"Layer {len(session.brief.passes) + 1}")
            made.append(key)
            return session

        if self._document.edit("new layer", change):
            self._pass_id = made[-1]
            self.refresh()

    def _rename_pass(self) -> None:
        item = self.current
        if item is None:
            return
        name, is_given = QInputDialog.getText(
            self, "Rename", "This layer is called", text=item.name
        )
        if is_given and name.strip() and name.strip() != item.name:
            self.call_pass(name)

    def call_pass(self, name: str) -> None:
        """Give the pass that is shown another name."""
        item = self.current
        if item is not None:
            changed = item.model_copy(update={"name": " ".join(name.split())[:80]})
            self._document.edit(f"name of {item.name}", lambda s: change_pass(s, changed))

    def _remove_pass(self) -> None:
        item = self.current
        if item is not None:
            self._document.edit(
                f"removal of {item.name}", lambda session: remove_pass(session, item.id)
            )
