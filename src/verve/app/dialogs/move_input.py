"""Another socket for a line: the free ones, each with what it would do."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from verve.app.dialogs.buttons import foot
from verve.app.dialogs.sizes import open_at
from verve.app.tasks import Tasks
from verve.app.widgets.corridor import Corridor
from verve.app.widgets.corridor_shape import shared_scale
from verve.app.widgets.labels import caption, heading, text
from verve.app.widgets.pictures import ResponsePicture
from verve.app.widgets.table import Table
from verve.core.assess import Assessment, assess
from verve.core.connections import recabled
from verve.core.errors import EditError
from verve.core.gain import settled
from verve.core.sensitivity import (
    InputOption,
    input_options,
)
from verve.core.session import Session, move_input

_REPLACE, _INPUTS, _INPUT = "replace", "inputs", "input"


class MoveInputDialog(QDialog):
    """Free sockets for a line, each with what it would do, as corridor and response, before it is taken."""

    def __init__(
        self,
        session: Session,
        line_id: str,
        name: str,
        parent: QWidget | None = None,
        tasks: Tasks | None = None,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Move to another input")
        open_at(self, 900, 680)
        self._session, self._line_id = session, line_id
        self._tasks = tasks or Tasks(self, is_inline=True)
        self._options: Sequence[InputOption] = ()
        layout = QVBoxLayout(self)
        layout.addWidget(heading(f"Move {name} to another input"))
        layout.addWidget(
            caption(
                "Free ones only; what could harm something is not offered. The gain is set anew, and a "
                "cable that fits is taken from the kit.",
                wrap=True,
            )
        )
        self.table = Table(
            ("Where", "what it would do"),
            "Free inputs",
            stretched=(1,),
            wraps=True,
            empty="Inputs that are free are listed here.",
        )
        layout.addWidget(self.table, 2)
        self.told = text("Every free input is tried …")
        layout.addWidget(self.told)
        pictures = QHBoxLayout()
        self.corridor, self.response = Corridor(), ResponsePicture()
        # Only to be looked at: nothing is set before the socket is taken.
        self.corridor.setEnabled(False)
        self.corridor.empty_words = self.response.empty_words = "…"
        pictures.addWidget(self.corridor, 1)
        pictures.addWidget(self.response, 1)
        layout.addLayout(pictures, 3)
        self.take = QPushButton("Move")
        self.take.setEnabled(False)
        layout.addLayout(foot(self, self.take))
        self.take.clicked.connect(self.accept)
        self._tasks.run(
            _INPUTS,
            lambda *_: input_options(session, line_id),
            self._show_options,
            failed=self.told.setText,
        )

    @property
    def is_ready(self) -> bool:
        """Whether everything that was asked for has been found."""
        return not (self._tasks.is_busy(_INPUTS) or self._tasks.is_busy(_INPUT))

    def done(self, result: int) -> None:
        for name in (_INPUTS, _INPUT):
            self._tasks.cancel(name)
        super().done(result)

    def _show_options(self, options: Sequence[InputOption]) -> None:
        self._options = options
        self.told.setText("" if options else "No other input that this signal could use is free.")
        self.told.setVisible(not options)
        self.table.show_rows(
            [
                (option.words, option.consequence if option.is_sound else f"⚠ {option.consequence}")
                for option in options
            ]
        )
        self.take.setEnabled(bool(options))
        if options:
            self.table.setCurrentCell(0, 0)
        self.table.currentCellChanged.connect(lambda *_: self._show())
        self._show()

    def chosen(self) -> InputOption | None:
        """The chosen socket."""
        row = self.table.currentRow()
        return self._options[row] if 0 <= row < len(self._options) else None

    def apply(self, session: Session) -> Session:
        """The session with the line in the chosen socket, its gain set anew.

        raises: EditError if it cannot be
        """
        option = self.chosen()
        if option is None:
            raise EditError("Nothing is chosen")
        return self._moved(session, option)

    def _moved(self, session: Session, option: InputOption) -> Session:
        moved = move_input(session, self._line_id, option.port, option.mode)
        return settled(recabled(moved, self._line_id), (self._line_id,))

    def _show(self) -> None:
        option = self.chosen()
        if option is None:
            self._tasks.cancel(_INPUT)
            self.corridor.show_line(None, (-140.0, 30.0))
            self.response.show_line(None)
            return
        session = self._session
        self._tasks.run(
            _INPUT,
            lambda *_: assess(self._moved(session, option)),
            self._show_moved,
            failed=self.told.setText,
        )

    def _show_moved(self, assessment: Assessment) -> None:
        item = assessment.line(self._line_id)
        self.corridor.show_line(item, shared_scale(assessment))
        self.response.show_line(item)
