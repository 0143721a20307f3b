"""Loading what is needed later beside the window, so that the first look at a step is quick."""

from __future__ import annotations

import gc
from collections.abc import Callable
from importlib import import_module
from typing import TYPE_CHECKING

from PyQt6.QtCore import QTimer

from verve.core.findings import STEPS, Step

if TYPE_CHECKING:
    from verve.app.window import MainWindow


def load_view(step: Step) -> None:
    """Load what a step's view needs, without making one."""
    import_module(f"verve.app.views.{step}")
    if step == "brief":
        from verve.core.catalogue import catalogue

        catalogue()


def _read_one() -> None:
    """What checks a file is made when the first one is read: that takes as long as reading it."""
    from verve.core.demo import demo_session
    from verve.core.session import from_json, to_json

    from_json(to_json(demo_session()), "demo")


def warm_up(window: MainWindow) -> None:
    """Load what all steps need; then make their views, one at a time while nothing else is to be done."""
    timer = QTimer(window)

    def work(_: object, give_up: Callable[[], bool]) -> None:
        for step in STEPS:
            if not give_up():
                load_view(step)
        if not give_up():
            _read_one()

    def done(_: object) -> None:
        # What was loaded stays: collections need not look at it again.
        gc.freeze()
        timer.start(0)

    def make() -> None:
        if not window.make_a_view():
            timer.stop()
            timer.deleteLater()

    timer.timeout.connect(make)
    window.tasks.run("warming up", work, done)
