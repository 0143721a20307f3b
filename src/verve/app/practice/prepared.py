"""What all pages of the practice window share: the copy that is practised on, and whom it is played by."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import QWidget

from verve.app.player import Player
from verve.app.practising import Practising
from verve.app.tasks import Tasks
from verve.core.ear import DRILLS
from verve.core.engine import Engine
from verve.core.hunt import Case, cases_of, practice_session
from verve.core.session import Session
from verve.core.words import listed

if TYPE_CHECKING:
    from datetime import datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class Prepared:
    """A copy of a session with everything right in it, and the signals on which faults can be hidden."""

    session: Session
    engine: Engine
    cases: tuple[Case, ...]

    def case(self, line: str) -> Case | None:
        """That of a signal; the first one where that has none."""
        first = next(iter(self.cases), None)
        return next((one for one in self.cases if one.line == line), first)


def prepared(session: Session) -> Prepared:
    """Work it out, beside the window."""
    engine = Engine()
    right = practice_session(session)
    return Prepared(session=right, engine=engine, cases=tuple(cases_of(right, engine)))


@dataclass(frozen=True, slots=True, kw_only=True)
class Needs:
    """What a page needs of the window: slow work, the person's progress, a player, and chance."""

    tasks: Tasks
    practising: Practising
    find_player: Callable[[], Player]
    say: Callable[[str], None]
    seed: Callable[[], int]

    @property
    def now(self) -> datetime:
        """The time, as the progress counts it."""
        return self.practising.now()


def span_short(seconds: float) -> str:
    """A short time as it is told: "45 s", "2 min 5 s"."""
    whole = round(seconds)
    minutes, rest = divmod(whole, 60)
    said = [f"{minutes} min"] * bool(minutes) + [f"{rest} s"] * bool(rest or not minutes)
    return " ".join(said)


def give_keys(page: QWidget, keys: Mapping[str, Callable[[], object]]) -> None:
    """Single keys that do something while a page is in front; in a field they are letters as always."""
    for key, slot in keys.items():
        shortcut = QShortcut(QKeySequence(key), page)
        shortcut.setContext(Qt.ShortcutContext.WindowShortcut)
        shortcut.activated.connect(slot)


def due_text(practising: Practising) -> str:
    """What comes back today, by name; of faults how many, since their names would tell them."""
    from verve.core.learning import due

    keys = due(practising.progress, practising.now())
    faults = sum(key.startswith("fault:") for key in keys)
    named = ["1 fault" if faults == 1 else f"{faults} faults"] * bool(faults)
    for key in keys:
        kind, _, what = key.partition(":")
        if kind == "ear" and what in DRILLS:
            named.append(DRILLS[what].name)
        elif kind == "order":
            named.append(f"the order to {what}")
        elif kind == "hand":
            named.append("a gain by hand")
    return f"Comes back today: {listed(named)}" if named else ""
