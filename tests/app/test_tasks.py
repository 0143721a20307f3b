"""One road for slow work: whatever happens on it, the window goes on and the feature can be used again."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable

import pytest
from PyQt6.QtCore import QThread
from pytestqt.qtbot import QtBot

from tests.app.conftest import finished
from verve.app.tasks import Tasks
from verve.app.window import MainWindow
from verve.core.errors import CancelledError, EditError

ERRORS: list[Callable[[], BaseException]] = [
    lambda: EditError("Nothing is chosen"),
    lambda: ValueError("unlucky"),
    lambda: ZeroDivisionError(),
    lambda: MemoryError(),
    lambda: KeyError("x"),
    lambda: RecursionError("deep"),
    lambda: AssertionError(),
    lambda: OSError(28, "No space left on device"),
    lambda: StopIteration(),
]


@pytest.mark.parametrize("is_inline", [False, True])
@pytest.mark.parametrize("make", ERRORS)
def test_any_error_ends_as_a_told_failure_and_the_lane_is_free(
    qtbot: QtBot, make: Callable[[], BaseException], is_inline: bool
) -> None:
    tasks = Tasks(is_inline=is_inline)
    told: list[str] = []

    def work(_: object, __: object) -> object:
        raise make()

    tasks.run("x", work, lambda _: told.append("done"), failed=told.append)
    qtbot.waitUntil(lambda: bool(told), timeout=5000)
    assert told[0]
    assert told != ["done"]
    assert not tasks.is_busy("x")
    got: list[object] = []
    tasks.run("x", lambda *_: 3, got.append)
    qtbot.waitUntil(lambda: got == [3], timeout=5000)


def test_a_failure_that_nobody_takes_is_told_by_the_window(
    qtbot: QtBot, window: MainWindow
) -> None:
    def work(_: object, __: object) -> object:
        raise RuntimeError("out of the blue")

    window.tasks.run("anything", work, lambda _: None)
    qtbot.waitUntil(lambda: "out of the blue" in window.message(), timeout=5000)
    assert "Nothing has changed" in window.message()


def test_a_newer_request_calls_the_older_off_and_its_answer_is_dropped(qtbot: QtBot) -> None:
    tasks = Tasks()
    got: list[object] = []
    go = threading.Event()

    def slow(_: object, __: object) -> object:
        go.wait(5.0)
        return "old"

    first = tasks.run("x", slow, got.append)
    second = tasks.run("x", lambda *_: "new", got.append)
    assert second > first
    assert tasks.current("x") == second
    go.set()
    qtbot.waitUntil(lambda: got == ["new"], timeout=5000)
    tasks.wait()
    qtbot.wait(50)
    assert got == ["new"]


def test_calling_off_waits_for_nobody_and_two_of_a_kind_never_work_at_once(qtbot: QtBot) -> None:
    tasks = Tasks()
    running: list[int] = []
    most: list[int] = []

    def work(_: object, stopped: Callable[[], bool]) -> object:
        running.append(1)
        most.append(len(running))
        for _n in range(20):
            time.sleep(0.005)
            if stopped():
                break
        running.pop()
        raise CancelledError("called off")

    begun = time.monotonic()
    for _n in range(5):
        tasks.run("x", work, lambda _: None)
    tasks.cancel("x")
    assert time.monotonic() - begun < 0.1, "nobody waited"
    assert not tasks.is_busy("x")
    tasks.wait()
    qtbot.wait(20)
    assert max(most, default=1) == 1


def test_kinds_do_not_wait_for_each_other(qtbot: QtBot) -> None:
    tasks = Tasks()
    go = threading.Event()
    got: list[object] = []
    tasks.run("slow", lambda *_: go.wait(5.0), got.append)
    tasks.run("quick", lambda *_: "quick", got.append)
    qtbot.waitUntil(lambda: got == ["quick"], timeout=5000)
    go.set()
    qtbot.waitUntil(lambda: len(got) == 2, timeout=5000)


def test_progress_and_answers_come_in_the_windows_thread(qtbot: QtBot) -> None:
    tasks = Tasks()
    seen: list[tuple[str, object]] = []
    here = QThread.currentThread()

    def work(report: Callable[[object], None], _: object) -> object:
        assert QThread.currentThread() is not here
        report(0.25)
        report(0.75)
        return "all"

    def note(what: object) -> None:
        assert QThread.currentThread() is here
        seen.append(("got", what))

    tasks.progressed.connect(lambda name, what: seen.append((name, what)))
    tasks.run("x", work, note, reported=note)
    qtbot.waitUntil(lambda: ("got", "all") in seen, timeout=5000)
    assert seen == [
        ("got", 0.25),
        ("x", 0.25),
        ("got", 0.75),
        ("x", 0.75),
        ("got", "all"),
    ]


@pytest.mark.parametrize("step", ["inputs", "gains", "influences"])
def test_a_feature_whose_work_breaks_can_be_used_again(
    qtbot: QtBot, window: MainWindow, step: str
) -> None:
    tasks = window.tasks

    def broken(_: object, __: object) -> object:
        raise RuntimeError("broken")

    told: list[str] = []
    tasks.run(step, broken, lambda _: None, failed=told.append)
    qtbot.waitUntil(lambda: bool(told), timeout=5000)
    assert not tasks.is_busy(step)
    window.go("stage")
    window.document.select_line("harp_left")
    finished(window)
    assert window.document.assessment.line("harp_left") is not None
