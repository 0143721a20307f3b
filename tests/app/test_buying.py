"""What to buy: kits under a budget, and everything of one on the list with one press."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from verve.app.views.brief.buy import BuyPage
from verve.app.window import MainWindow


@pytest.fixture
def page(window: MainWindow, qtbot: QtBot) -> BuyPage:
    """The page, with the kits of the demo compared."""
    window.go("brief")
    window.brief.open_page("Suggested kits")
    found = window.brief.pages.of(BuyPage)
    qtbot.waitUntil(lambda: found.chosen() is not None, timeout=30_000)
    return found


def names(page: BuyPage) -> list[str]:
    cells = [page.offers.item(row, 0) for row in range(page.offers.rowCount())]
    return [cell.text() for cell in cells if cell is not None]


def test_answers_stand_side_by_side_with_what_they_have(page: BuyPage) -> None:
    assert names(page)[0] == "The least that does"
    assert "Also for later" in names(page)
    assert page.items.rowCount() >= 3
    assert "above the noise" in page.why.accessibleName()
    page.offers.setCurrentCell(names(page).index("Also for later"), 0)
    assert "what is wanted later" in page.why.accessibleName()


def test_a_budget_too_small_is_said_and_a_wrong_one_stays(page: BuyPage, qtbot: QtBot) -> None:
    page.budget.setText("20")
    page.budget.editingFinished.emit()
    qtbot.waitUntil(lambda: "No complete kit costs so little" in page.says.text(), timeout=30_000)
    page.budget.setText("much")
    page.budget.editingFinished.emit()
    assert page.budget.is_wrong()
    assert page.budget.text() == "much"


def test_all_of_it_goes_on_the_list_with_one_press(
    page: BuyPage, window: MainWindow, qtbot: QtBot
) -> None:
    before = window.document.session
    offer = page.chosen()
    assert offer is not None
    qtbot.mouseClick(page.put, Qt.MouseButton.LeftButton)
    added = window.document.session.shopping.wishes[len(before.shopping.wishes) :]
    assert [w.name for w in added] == [one.thing.name for one in offer.kit.bought]
    assert [w.quantity for w in added] == [one.count for one in offer.kit.bought]
    assert all(w.item is not None for w in added)
    assert window.document.session.kit == before.kit, "planned is not there yet"
    assert len(window.document.history.done) == 1
    window.document.undo()
    assert window.document.session == before
