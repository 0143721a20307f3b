"""Loading what is needed later beside the window, so that the first look at a step is quick."""

from __future__ import annotations

import gc
from collections.abc import Callable
from importlib import import_module

from verve.app.tasks import Tasks
from verve.core.findings import STEPS, Step


def load_view(step: Step) -> None:
    """Load what a step's view needs, without making one."""
    import_module(f"verve.app.views.{step}")
    if step == "brief":
        from verve.core.catalogue import catalogue

        catalogue()


def warm_up(tasks: Tasks) -> None:
    """Load what all steps need."""

    def work(_: object, give_up: Callable[[], bool]) -> None:
        for step in STEPS:
            if not give_up():
                load_view(step)

    # What was loaded stays: collections need not look at it again.
    tasks.run("warming up", work, lambda _: gc.freeze())
