"""The practice window fits small screens and large letters, and a screen reader is told everything in it."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from tests.app.conftest import finished
from tests.app.fitting import unfit
from tests.app.test_accessible import unsaid
from verve.app import theme
from verve.app.practice import PAGES, PracticeWindow
from verve.app.practice.advice import AdvicePage
from verve.app.practice.day import DayPage
from verve.app.practice.ear import EarPage
from verve.app.practice.hand import HandPage
from verve.app.practice.hunt import HuntPage
from verve.app.settings import Settings
from verve.app.window import MainWindow


@pytest.fixture(params=[(1.0, 900, 620), (1.5, 1180, 740)], ids=["small", "large letters"])
def opened(
    dressed: QApplication, qtbot: QtBot, request: pytest.FixtureRequest, tmp_path: Path
) -> Iterator[PracticeWindow]:
    """The window on the demo, small or with large letters."""
    scale, width, height = request.param
    theme.apply(dressed, night=False, scale=scale)
    window = MainWindow(Settings(tmp_path / "settings"), is_paced=False)
    qtbot.addWidget(window)
    window.show_demo()
    window.show()
    window.offering.open()
    finished(window)
    made = window.offering.window
    assert made is not None
    finished(window)
    qtbot.waitUntil(lambda: made.prepared is not None)
    object.__setattr__(made._needs, "seed", lambda: 6)
    made.resize(width, height)
    yield made
    window.offering.close()
    finished(window)
    window.document.replace(window.document.session, None, is_saved=True)
    theme.apply(dressed, night=False, scale=1.0)


def begin(page: object) -> None:
    """As full as it gets."""
    match page:
        case HuntPage():
            page.hide_one()
            page._needs.tasks.wait()
            QApplication.processEvents()
            assert page.hunt is not None
            for action in page.hunt.actions[:6]:
                page.hunt = page.hunt.do(action.key)
            page.refresh()
        case HandPage():
            page.whom.setCurrentIndex(1)
            page.start()
            page.play_test()
            page.record()
        case EarPage():
            page.start()
            page.in_words.setChecked(True)
        case DayPage():
            page.play_through()
            page.go_on()
        case AdvicePage():
            page.try_it("just touching the yellow lamp")


def test_every_page_fits_and_is_told(qtbot: QtBot, opened: PracticeWindow) -> None:
    wrong: dict[str, list[str]] = {}
    for name in PAGES.values():
        opened.pages.turn_to(name)
        page = opened.pages.page(name)
        for is_begun in (False, True):
            if is_begun:
                begin(page)
            for _ in range(30):
                qtbot.wait(20)
                opened._tasks.wait()
                found = [*unfit(opened), *unsaid(opened)]
                if not found:
                    break
            if found:
                wrong[f"{name}, {'begun' if is_begun else 'at first'}"] = found
    hunt = opened.pages.page(PAGES["hunt"])
    assert isinstance(hunt, HuntPage)
    opened.pages.turn_to(PAGES["hunt"])
    hunt.end()
    for _ in range(30):
        qtbot.wait(20)
        opened._tasks.wait()
        if hunt.told is not None and not (found := [*unfit(opened), *unsaid(opened)]):
            break
    assert hunt.told is not None
    if found:
        wrong["the end of a hunt"] = found
    assert wrong == {}
