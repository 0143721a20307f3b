"""The menus: every action with its keys and what it does."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QMenu

from verve.app.widgets.steps import STEP_NAMES
from verve.core.findings import STEPS

if TYPE_CHECKING:
    from verve.app.window import MainWindow


@dataclass(frozen=True, slots=True, kw_only=True)
class Menus:
    """What of the menus changes while the window is open."""

    undo: QAction
    redo: QAction
    recent: QMenu
    copies: QMenu


def give_letters(actions: Sequence[QAction]) -> None:
    """See that each of these has a letter of its own to press, the wanted one where that is free."""
    taken: set[str] = set()
    # Who has the fewest letters to choose from chooses first.
    for action in sorted(actions, key=lambda a: len(set(a.text().lower()))):
        words = action.text()
        plain = words.replace("&", "")
        at = words.find("&")
        begins = [i for i, c in enumerate(plain) if i == 0 or plain[i - 1] == " "]
        wanted = ([at] if at >= 0 else []) + begins + list(range(len(plain)))
        free = (i for i in wanted if plain[i].isalpha() and plain[i].lower() not in taken)
        if plain and (place := next(free, None)) is not None:
            taken.add(plain[place].lower())
            action.setText(f"{plain[:place]}&{plain[place:]}")


def deed_text(word: str, labels: Sequence[str]) -> str:
    """What undo or redo would do; a name with & in it gives no letter to press."""
    return " ".join([word, *(label.replace("&", "&&") for label in labels[-1:])])


def make_menus(window: MainWindow) -> Menus:
    """Fill the window's menu bar."""

    def put(menu: QMenu, name: str, keys: str, slot: Callable[..., Any], says: str) -> QAction:
        action = QAction(name, window)
        if keys:
            action.setShortcut(QKeySequence(keys))
        action.setToolTip(says)
        action.setStatusTip(says)
        # What stands in a field counts, before anything is done with the session.
        action.triggered.connect(window.commit_typing)
        action.triggered.connect(slot)
        menu.addAction(action)
        # By the name it has now: undo and redo take on the name of what they would do.
        window.beside.listed.append((action, name.replace("&", "").rstrip("…")))
        return action

    bar = window.menuBar()
    assert bar is not None
    file, edit = bar.addMenu("&File"), bar.addMenu("&Edit")
    line, steps, help_menu = bar.addMenu("&Signal"), bar.addMenu("S&teps"), bar.addMenu("&Help")
    assert file is not None
    assert edit is not None
    assert line is not None
    assert steps is not None
    assert help_menu is not None
    put(file, "&New session", "Ctrl+N", window.files.new, "begin with nothing")
    put(file, "&Open…", "Ctrl+O", window.files.open_dialog, "open a session file")
    recent = QMenu("Open &recent", window)
    recent.aboutToShow.connect(lambda: window.files.fill_recent(recent))
    file.addMenu(recent)
    copies = QMenu("&Unsaved copies", window)
    copies.aboutToShow.connect(lambda: window.files.fill_copies(copies))
    file.addMenu(copies)
    put(
        file,
        "&Import sound files…",
        "Ctrl+Shift+O",
        window.import_sounds,
        "measure recordings and a backing track",
    )
    put(file, "Open the &demo", "", window.files.open_demo, "open the demo session")
    file.addSeparator()
    put(file, "&Save", "Ctrl+S", window.files.save, "write the session to its file")
    put(file, "Save &as…", "Ctrl+Shift+S", window.files.save_as, "write it to another file")
    put(
        file,
        "Collect into a &folder…",
        "",
        window.gathering.ask_folder,
        "the session with all its sounds, to be taken elsewhere",
    )
    put(
        file,
        "Compare with a sessio&n…",
        "",
        window.gathering.ask_other,
        "what is different there, in words",
    )
    file.addSeparator()
    put(file, "&Quit", "Ctrl+Q", window.close, "leave Verve")
    undo = put(edit, "&Undo", "Ctrl+Z", window.document.undo, "undo an edit")
    redo = put(edit, "&Redo", "Ctrl+Shift+Z", window.document.redo, "redo an edit")
    edit.addSeparator()
    put(
        edit,
        "Session and &room…",
        "Ctrl+I",
        window.beside.edit_session,
        "title, room and its noise",
    )
    put(line, "&Add a signal…", "Ctrl+L", window.beside.add_line, "put in a whole chain")
    put(
        line,
        "My &gear…",
        "Ctrl+G",
        window.beside.edit_gear,
        "your own gear, from its data sheets",
    )
    line.addSeparator()
    put(line, "&Next signal", "Ctrl+Down", lambda: window.turn_line(1), "select the next signal")
    put(
        line,
        "&Previous signal",
        "Ctrl+Up",
        lambda: window.turn_line(-1),
        "select the signal before",
    )
    line.addSeparator()
    put(
        line,
        "No si&gnal?",
        "F9",
        window.beside.show_trouble,
        "find out where the selected signal is lost",
    )
    for number, step in enumerate(STEPS, 1):
        name = STEP_NAMES[step]
        put(steps, f"&{name}", f"Ctrl+{number}", lambda _, s=step: window.go(s), f"go to {name}")
    steps.addSeparator()
    put(
        steps,
        "&Do the next thing",
        "Ctrl+Return",
        window.next_bar.button.click,
        "press its button",
    )
    put(steps, "&Why the next thing", "F2", window.next_bar.why_button.click, "show the reason")
    put(
        steps,
        "F&ull calculation",
        "Shift+F2",
        window.beside.show_calculation,
        "of the selected signal",
    )
    put(
        steps,
        "Set the &gains…",
        "Ctrl+B",
        window.beside.settle,
        "the best of all signals, proposed",
    )
    put(steps, "Go to the &view", "F6", window.focus_view, "straight to the first control of it")
    put(steps, "Next &picture in Stage", "F3", window.next_picture, "corridor, response, noise")
    put(
        steps, "Recordin&gs", "F7", window.show_recordings, "sound files: measured, heard, assigned"
    )
    put(steps, "T&uner", "F8", window.show_tuner, "the note that sounds, and how far off it is")
    put(
        steps,
        "Pract&ise…",
        "F4",
        lambda: window.offering.open(),
        "find faults, set gains, go through orders and the day, on a copy",
    )
    put(
        steps,
        "Record in the s&ong",
        "Ctrl+T",
        window.record_in_song,
        "takes of layers and sections, with the keys R, A, M, P, K",
    )
    put(steps, "&Record a take", "Ctrl+R", window.record_take, "record the signals chosen in Check")
    stop = put(
        steps, "S&top", "Esc", window.rehearsal.stop, "stop a rehearsal; a take keeps what it has"
    )
    stop.setEnabled(False)
    window.rehearsal.state_changed.connect(
        lambda: stop.setEnabled(window.rehearsal.state != "idle")
    )
    put(help_menu, "&Keys", "F1", window.beside.show_keys, "this page")
    put(help_menu, "&Glossary", "Shift+F1", window.beside.show_glossary, "what the words mean")
    give_letters(bar.actions())
    for menu in (file, edit, line, steps, help_menu):
        give_letters(menu.actions())
    return Menus(undo=undo, redo=redo, recent=recent, copies=copies)
