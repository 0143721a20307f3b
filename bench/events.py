"""Goes through the window as a user does: the longest event, at first and the lowest of three rounds; then how
long it takes until a file with many takes is on the screen, the lower middle of some rounds."""

from __future__ import annotations

import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).parents[1]))

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication
from tests.app.watch import WatchedApplication
from tests.big_session import big_session, with_takes

from verve.app._run import make_application
from verve.app.settings import Settings
from verve.app.warming import warm_up
from verve.app.window import MainWindow
from verve.core.demo import demo_session
from verve.core.findings import STEPS
from verve.core.session import save

_ROUNDS = 3
_LINES, _TAKES = 40, 100
_OPENINGS, _MANY_TAKES = 9, 300


def _while_open(act: Callable[[], None]) -> None:
    """Close what opens next, once it has been worked out."""

    def close() -> None:
        dialog = QApplication.activeModalWidget()
        if dialog is None:
            return
        if not getattr(dialog, "is_ready", True):
            QTimer.singleShot(20, close)
            return
        dialog.close()

    QTimer.singleShot(20, close)
    act()


def _choose(window: MainWindow) -> None:
    """The newest take of the first signal, by the sheet."""
    sheet = window.takes.sheet
    window.takes.turn_to("Take sheet")
    sheet._choose(0, 0)


def _recall(window: MainWindow) -> None:
    """Everything that was set for the newest take, ticked where it is so now."""
    window.takes.turn_to("Log")
    _while_open(window.takes.log.recall.click)


def _practised(window: MainWindow) -> list[tuple[str, Callable[[], object]]]:
    """The practice window: every page of it, a hunt, an order, an exercise."""

    def page(name: str) -> Any:
        practice = window.offering.window
        assert practice is not None
        practice.pages.turn_to(name)
        return practice.pages.page(name)

    return [
        ("practise", window.offering.open),
        ("hide a fault", lambda: page("Find the fault").hide_one()),
        ("look", lambda: page("Find the fault")._do(1)),
        ("be told", lambda: page("Find the fault").end()),
        ("set by hand", lambda: page("Set it by hand").start()),
        ("play the song", lambda: page("Set it by hand").record()),
        ("safe order", lambda: page("Safe order").show_hint()),
        ("take a card", lambda: page("Safe order")._take(0)),
        ("hear it", lambda: page("Hear it").start()),
        ("the day", lambda: page("The day").play_through()),
        ("go on in the day", lambda: page("The day").go_on()),
        ("advice", lambda: page("Somebody said").try_it("half past three")),
        ("end of practice", window.offering.close),
    ]


def actions(window: MainWindow, file: Path) -> list[tuple[str, Callable[[], object]]]:
    """What a user does, each as one event."""
    found: list[tuple[str, Callable[[], object]]] = [
        (f"open {_LINES} signals, {_TAKES} takes", lambda: window.files.open_file(file))
    ]
    found += [(f"go to {step}", lambda step=step: window.go(step)) for step in STEPS]  # type: ignore[misc]
    found.append(("go to takes", lambda: window.go("takes")))
    found += [
        (f"takes: {page}", lambda page=page: window.takes.turn_to(page))  # type: ignore[misc]
        for page in window.takes.names
        if page != "Record"
    ]
    found += [
        ("choose a take", lambda: _choose(window)),
        ("recall a take", lambda: _recall(window)),
        ("double", lambda: window.takes.day.add_double(is_harmony=False)),
        ("undo the double", window.document.undo),
        ("undo the choice", window.document.undo),
    ]
    found += [
        ("next thing", lambda: window._do_next(window.document.assessment.next)),
        ("undo", window.document.undo),
        ("save", window.files.save),
        ("set all gains", lambda: _while_open(window.beside.settle)),
        ("another input", lambda: _while_open(window.beside.move_line)),
        ("replace", lambda: _while_open(lambda: window.beside.replace("interface_0"))),
        ("calculation", lambda: _while_open(window.beside.show_calculation)),
        ("patch on paper", lambda: window.patch.page.put_on_paper(file.with_suffix(".pdf"))),
        ("run sheet on paper", lambda: window.power.put_on_paper(file.with_suffix(".pdf"))),
    ]
    found += _practised(window)
    return found


def opened_ms(application: WatchedApplication, window: MainWindow, file: Path) -> float:
    """From File, Open until another session has been painted; clock time, waiting between events as Qt does."""
    found = []
    for _ in range(_OPENINGS):
        window.document.replace(window.document.session, None, is_saved=True)
        _wait(0.4)
        opened: list[float] = []

        def note(into: list[float] = opened) -> None:
            into.append(time.perf_counter())

        connection = window.files.opened.connect(note)
        began = time.perf_counter()
        window.files.open_file(file)
        while not opened or application.painted_at < opened[0]:
            application.processEvents()
            time.sleep(0.001)
        window.files.opened.disconnect(connection)
        found.append((application.painted_at - began) * 1000.0)
    return sorted(found)[_OPENINGS // 3]


def _wait(seconds: float) -> None:
    until = time.perf_counter() + seconds
    while time.perf_counter() < until:
        QApplication.processEvents()
        time.sleep(0.002)


def main() -> None:
    """Print the longest event with what caused it."""
    application = WatchedApplication(sys.argv[:1])
    make_application()
    first: dict[str, float] = {}
    longest: dict[str, float] = {}
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "big.verve.json"
        save(with_takes(big_session(_LINES), _TAKES), file)
        window = MainWindow(Settings(Path(folder)), is_paced=False)
        window.resize(1280, 800)
        window.show_demo()
        window.show()
        application.processEvents()
        warm_up(window)
        window.tasks.wait()
        for _ in STEPS:
            application.processEvents()
        for round_number in range(_ROUNDS + 1):
            for name, act in actions(window, file):
                application.longest_ms = 0.0
                QTimer.singleShot(0, act)
                for _ in range(20):
                    application.processEvents()
                window.tasks.wait()
                application.processEvents()
                if round_number:
                    # A slow moment of the machine is none of a round's.
                    longest[name] = min(longest.get(name, 1e9), application.longest_ms)
                else:
                    first[name] = application.longest_ms
        # The same session with its last two takes: what is set, and what there is to say of it, are the same.
        session = with_takes(demo_session(), 200, owner="interface")
        two_hundred = Path(folder) / "200.verve.json"
        save(session, two_hundred)
        few = Path(folder) / "few.verve.json"
        save(session.model_copy(update={"takes": session.takes[-2:]}), few)
        until_few = opened_ms(application, window, few)
        ratio = opened_ms(application, window, two_hundred) / until_few
        many = Path(folder) / "many.verve.json"
        save(with_takes(demo_session(), _MANY_TAKES, owner="interface"), many)
        until_painted = opened_ms(application, window, many)
        window.document.replace(window.document.session, None, is_saved=True)
        window.close()
    if "-v" in sys.argv:
        for key, ms in longest.items():
            print(f"{key}: {ms:.1f}, at first {first[key]:.1f}", file=sys.stderr)
    for found in (longest, first):
        name = max(found, key=found.__getitem__)
        print(f"{name}|{found[name]:.2f}")
    print(f"{_MANY_TAKES} takes, file to screen|{until_painted:.2f}")
    print(f"200 takes ÷ 2 takes, file to screen|{ratio:.2f}")


if __name__ == "__main__":
    main()
