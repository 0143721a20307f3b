"""Brief: from nothing to a complete patch, with keyboard and mouse; kit, list, comparisons."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, Qt, QTimer
from PyQt6.QtWidgets import QApplication, QComboBox, QDialog, QPushButton, QTableWidget
from pytestqt.qtbot import QtBot

from tests.app.conftest import finished
from verve.app.dialogs.kit import KitDialog
from verve.app.dialogs.part import PartDialog
from verve.app.views.brief import BriefView
from verve.app.views.brief.computer import ComputerPage
from verve.app.views.brief.kit import KitPage
from verve.app.views.brief.later import LaterPage
from verve.app.views.brief.microphones import MicrophonePage
from verve.app.views.brief.needs import NeedsPage
from verve.app.views.brief.shop import ShopPage
from verve.app.views.brief.ways import WaysPage
from verve.app.views.brief.worth import WorthPage
from verve.app.widgets.beside import Beside, group
from verve.app.window import MainWindow
from verve.core.catalogue import catalogue, part_of
from verve.core.connections import Suggestion
from verve.core.session import Session, set_kit

LONG_MS = 30_000


def text_at(table: QTableWidget, row: int, column: int) -> str:
    item = table.item(row, column)
    assert item is not None
    return item.text()


def turn(window: MainWindow, page: str) -> None:
    window.brief.open_page(page)


def wait_answer(qtbot: QtBot, window: MainWindow) -> None:
    qtbot.waitUntil(lambda: window.brief.answered is not None, timeout=LONG_MS)


def in_dialog(kind: type[QDialog], do: Callable[[QDialog], None]) -> list[str]:
    """Do something in the next dialog that opens; what went wrong in it comes back."""
    wrong: list[str] = []

    def act() -> None:
        dialog = QApplication.activeModalWidget()
        if not isinstance(dialog, kind):
            wrong.append(f"{dialog} is no {kind.__name__}")
            return
        try:
            do(dialog)
        except AssertionError as error:
            wrong.append(str(error))
            dialog.reject()

    QTimer.singleShot(0, act)
    return wrong


@pytest.fixture
def empty(window: MainWindow) -> MainWindow:
    """A new session, at Brief."""
    window.document.replace(Session(), None, is_saved=True)
    window.go("brief")
    return window


@pytest.fixture
def brief(window: MainWindow) -> MainWindow:
    """The demo at Brief."""
    window.go("brief")
    return window


def add_part(
    qtbot: QtBot, window: MainWindow, letters: str, who: str, take: str = "", name: str = ""
) -> None:
    def fill(found: QDialog) -> None:
        assert isinstance(found, PartDialog)
        qtbot.keyClicks(found.search, letters)
        if take:
            index = found.take.findText(take)
            assert index >= 0, (
                letters,
                [found.take.itemText(i) for i in range(found.take.count())],
            )
            found.take.setCurrentIndex(index)
        qtbot.keyClicks(found.performer, who)
        if name:
            found.name.selectAll()
            qtbot.keyClicks(found.name, name)
        qtbot.keyClick(found.name, Qt.Key.Key_Return)

    wrong = in_dialog(PartDialog, fill)
    qtbot.mouseClick(window.brief.add, Qt.MouseButton.LeftButton)
    assert wrong == []


def put_in_kit(qtbot: QtBot, window: MainWindow, things: dict[str, int]) -> None:
    def fill(found: QDialog) -> None:
        assert isinstance(found, KitDialog)
        for letters, count in things.items():
            found.search.clear()
            qtbot.keyClicks(found.search, letters)
            for _ in range(count):
                qtbot.keyClick(found.search, Qt.Key.Key_Return)
        found.put_in.click()

    wrong = in_dialog(KitDialog, fill)
    turn(window, "Kit")
    qtbot.mouseClick(window.brief.pages.of(KitPage).add, Qt.MouseButton.LeftButton)
    assert wrong == []


def test_five_lines_from_nothing_to_a_complete_patch(qtbot: QtBot, empty: MainWindow) -> None:
    started = time.monotonic()
    window = empty
    assert window.brief._empty.isVisible()
    add_part(qtbot, window, "clarinet", "Ada")
    add_part(qtbot, window, "accordion", "Bo", take="one microphone")
    add_part(qtbot, window, "double-coil bass", "Cy")
    add_part(qtbot, window, "drum machine", "Dee", take="direct (DI or instrument input)")
    add_part(qtbot, window, "whispered", "Ada", name="Story")
    assert [row.part.name for row in window.brief.rows if row.part] == [
        "Clarinet",
        "Accordion",
        "Double-coil bass pickup",
        "Drum machine",
        "Story",
    ]
    put_in_kit(
        qtbot,
        window,
        {
            "small condenser": 2,
            "large condenser": 1,
            "eight-input": 1,
            "active di box": 1,
            "balanced cable, 5": 4,
            "instrument cable, 3": 2,
            "boom stand": 3,
        },
    )
    assert sum(item.quantity for item in window.document.session.kit) >= 14
    turn(window, "Needs")
    wait_answer(qtbot, window)
    answered = window.brief.answered
    assert answered is not None
    assert isinstance(answered.suggestion, Suggestion)
    assert answered.suggestion.missing == ()
    needed = {n.key: n.needed for n in answered.needs}
    assert needed["inputs"] == 5
    assert needed["feeds"] == 4
    assert window.next_bar.button.text() == "Suggest connections"
    qtbot.mouseClick(window.next_bar.button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: len(window.document.assessment.lines) == 5, timeout=LONG_MS)
    assert window.step == "patch"
    assessment = window.document.assessment
    assert [f.title for f in assessment.findings if f.severity != "know"] == []
    assert all(item.route.is_complete for item in assessment.lines)
    assert "Record a test take of all 5 signals" in assessment.next.sentence
    assert time.monotonic() - started < 180.0, "a newcomer has three minutes; this is a machine"
    while window.document.history.done:
        window.document.undo()
    assert window.document.session == Session()


def test_an_ensemble_with_one_press_and_every_part_can_be_changed(
    qtbot: QtBot, empty: MainWindow
) -> None:
    view: BriefView = empty.brief
    menu = view.ensembles.menu()
    assert menu is not None
    menu.actions()[0].trigger()
    rows = [row for row in view.rows if row.part is not None]
    assert len(rows) == 3
    rows[0].performer.setText("Ina")
    rows[0].performer.setModified(True)
    rows[0].performer.editingFinished.emit()
    part = empty.document.session.brief.parts[0]
    assert part.performer == "Ina"
    assert empty.undo_action.text() == f"&Undo part {part.name}"
    rows[0].take.setCurrentIndex(rows[0].take.findText("two microphones, stereo"))
    rows[0].take.activated.emit(rows[0].take.currentIndex())
    assert empty.document.session.brief.parts[0].capture == "pair"
    rows[0].principle.setCurrentIndex(1)
    rows[0].principle.activated.emit(1)
    assert empty.document.session.brief.parts[0].principle == "moving_coil"
    qtbot.mouseClick(rows[2].remove, Qt.MouseButton.LeftButton)
    assert len(empty.document.session.brief.parts) == 2
    empty.document.undo()
    assert len(empty.document.session.brief.parts) == 3


def test_passes_are_added_played_over_and_removed(qtbot: QtBot, brief: MainWindow) -> None:
    view = brief.brief
    qtbot.mouseClick(view.new_pass, Qt.MouseButton.LeftButton)
    assert view.current is not None
    assert view.current.parts == ()
    view.over.setCurrentIndex(view.over.findText("The songs"))
    view.over.activated.emit(view.over.currentIndex())
    assert view.current.over == ("evening",)
    qtbot.mouseClick(view.drop_pass, Qt.MouseButton.LeftButton)
    assert [p.id for p in brief.document.session.brief.passes] == ["evening", "finale"]


def test_a_pass_gets_another_name(brief: MainWindow) -> None:
    wait_for = brief.brief
    before = brief.document.session
    wait_for.call_pass("  First   evening ")
    assert brief.document.session.brief.passes[0].name == "First evening"
    assert brief.brief.passes.itemText(0).startswith("First evening")
    brief.document.undo()
    assert brief.document.session == before


def test_an_answer_to_what_was_asked_before_is_not_shown(qtbot: QtBot, brief: MainWindow) -> None:
    """The kit changes while the way in for the old one is being worked out."""
    wait_answer(qtbot, brief)
    view, document = brief.brief, brief.document
    document.edit("one less", lambda s: set_kit(s, s.kit[:-1]))
    view._timer.stop()
    view._work()
    document.edit("two less", lambda s: set_kit(s, s.kit[:-1]))
    view._timer.stop()
    brief.tasks.wait()
    QApplication.processEvents()
    assert view.answered is None, "the answer for one less says nothing of two less"
    view._work()
    wait_answer(qtbot, brief)
    assert view.answered is not None


def choose_finale(qtbot: QtBot, window: MainWindow) -> None:
    view = window.brief
    view.passes.setCurrentIndex(view.passes.findData("finale"))
    view.passes.activated.emit(view.passes.currentIndex())
    wait_answer(qtbot, window)


def test_the_biggest_pass_of_the_demo_lacks_one_thing_with_two_ways_around_it(
    qtbot: QtBot, brief: MainWindow
) -> None:
    wait_answer(qtbot, brief)
    answered = brief.brief.answered
    assert answered is not None
    assert isinstance(answered.suggestion, Suggestion)
    assert answered.suggestion.missing == ()
    choose_finale(qtbot, brief)
    answered = brief.brief.answered
    assert answered is not None
    assert isinstance(answered.suggestion, Suggestion)
    (missing,) = answered.suggestion.missing
    assert missing.count == 1
    assert missing.item.name in brief.brief.pages.of(NeedsPage)._verdict.text()
    shown = [box for box in brief.brief.pages.of(NeedsPage).outs if box.isVisible()]
    assert len(shown) >= 2
    before = brief.document.session
    for index in range(len(shown)):
        box = brief.brief.pages.of(NeedsPage).outs[index]
        kind = answered.outs[index].kind
        box.button.click()
        assert brief.document.session != before
        brief.brief.passes.setCurrentIndex(brief.brief.passes.findData("finale"))
        wait_answer(qtbot, brief)
        now = brief.brief.answered
        assert now is not None
        assert isinstance(now.suggestion, Suggestion)
        assert bool(now.suggestion.missing) == (kind == "buy"), "what is planned is not there yet"
        brief.document.undo()
        assert brief.document.session == before
        wait_answer(qtbot, brief)


def test_a_need_says_whom_it_is_for(qtbot: QtBot, brief: MainWindow) -> None:
    wait_answer(qtbot, brief)
    table = brief.brief.pages.of(NeedsPage).table
    table.asked.emit(0)
    rows = [row for row in brief.reason._asked._rows if not row.isHidden()]
    assert "Voice" in rows[0].accessibleDescription()


# ── kit ───────────────────────────────────────────────────────────────────────────────────────
def test_quantities_are_written_into_the_kit(qtbot: QtBot, brief: MainWindow) -> None:
    turn(brief, "Kit")
    table = brief.brief.pages.of(KitPage).table
    item = table.item(1, 1)
    assert item is not None
    item.setText("4")
    assert brief.document.session.kit[1].quantity == 4
    for wrong in ("-1", "many", "1.5"):
        item = table.item(1, 1)
        assert item is not None
        item.setText(wrong)
        assert brief.document.session.kit[1].quantity == 4
        assert brief.message(), wrong
        kept = table.item(1, 1)
        assert kept is not None
        assert kept.text() == "4"
    table.setCurrentCell(1, 0)
    before = len(brief.document.session.kit)
    brief.brief.pages.of(KitPage).remove.click()
    assert len(brief.document.session.kit) == before - 1


def test_a_kit_goes_out_and_in_and_a_wrong_file_changes_nothing(
    brief: MainWindow, tmp_path: Path
) -> None:
    kit = brief.document.session.kit
    page = brief.brief.pages.of(KitPage)
    page.carry_out(tmp_path / "kit.json")
    brief.document.replace(Session(), None, is_saved=True)
    page.bring_in(tmp_path / "kit.json")
    assert [(x.name, x.quantity) for x in brief.document.session.kit] == [
        (x.name, x.quantity) for x in kit
    ]
    before = brief.document.session
    for text in ("{", "[]", '{"format": "verve-kit", "version": 9}', '{"format": "verve-kit"}'):
        (tmp_path / "x.json").write_text(text, encoding="utf-8")
        page.bring_in(tmp_path / "x.json")
        assert brief.document.session == before
        assert "x.json" in brief.message()
    page.bring_in(tmp_path / "nothing.json")
    assert "cannot be read" in brief.message()


# ── the list ──────────────────────────────────────────────────────────────────────────────────
def test_prices_are_typed_and_both_packages_add_up(brief: MainWindow, tmp_path: Path) -> None:
    turn(brief, "Shopping list")
    page = brief.brief.pages.of(ShopPage)
    assert "Enough for now" in page.totals.text()
    price = page.table.item(0, 3)
    assert price is not None
    price.setText("12,50")
    assert brief.document.session.shopping.wishes[0].price == 12.5
    price = page.table.item(0, 3)
    assert price is not None
    price.setText("cheap")
    assert brief.document.session.shopping.wishes[0].price == 12.5
    assert "Price" in brief.message()
    page.table.setCurrentCell(0, 0)
    page._turn_per()
    assert brief.document.session.shopping.wishes[0].per_pair
    page._turn_package()
    assert brief.document.session.shopping.wishes[0].package == "enough"
    page.tax.setText("20")
    page.tax.editingFinished.emit()
    assert brief.document.session.shopping.tax_percent == 20.0
    count = page.table.item(0, 1)
    assert count is not None
    count.setText("-3")
    assert brief.document.session.shopping.wishes[0].quantity == 1
    page.add_wish("Gaffer  tape")
    assert brief.document.session.shopping.wishes[-1].name == "Gaffer tape"
    page.table.setCurrentCell(len(brief.document.session.shopping.wishes) - 1, 0)
    page._remove()
    assert all(w.name != "Gaffer tape" for w in brief.document.session.shopping.wishes)
    for name in ("list.csv", "list.html", "list.pdf"):
        page.put_on_paper(tmp_path / name)
        finished(brief)
        assert (tmp_path / name).stat().st_size > 100
    assert (tmp_path / "list.pdf").read_bytes().startswith(b"%PDF")
    page.table.asked.emit(0)


# ── comparisons ───────────────────────────────────────────────────────────────────────────────
def test_worth_is_computed_for_the_list_and_for_the_whole_catalogue(
    qtbot: QtBot, brief: MainWindow
) -> None:
    turn(brief, "Compare purchases")
    page = brief.brief.pages.of(WorthPage)
    qtbot.waitUntil(lambda: page.table.rowCount() > 0, timeout=LONG_MS)
    few = page.table.rowCount()
    page.scope.setCurrentIndex(1)
    page.scope.activated.emit(1)
    qtbot.waitUntil(lambda: page.table.rowCount() > few + 10, timeout=LONG_MS)


def test_every_microphone_is_compared_for_a_part(qtbot: QtBot, brief: MainWindow) -> None:
    turn(brief, "Compare microphones")
    page = brief.brief.pages.of(MicrophonePage)
    qtbot.waitUntil(lambda: page.table.rowCount() > 5, timeout=LONG_MS)
    first = page.table.rowCount()
    page.table.setCurrentCell(2, 0)
    assert page.picture.chosen == 2
    page.picture.grab()
    page.part.box.setCurrentIndex(page.part.box.findText("Harp"))
    page.part.box.activated.emit(page.part.box.currentIndex())
    qtbot.waitUntil(
        lambda: page.table.rowCount() == first and "30 cm" in page.part.says.text(), timeout=LONG_MS
    )


def test_the_computer_is_asked_and_judged(qtbot: QtBot, brief: MainWindow) -> None:
    turn(brief, "Computer")
    page = brief.brief.pages.of(ComputerPage)
    wait_answer(qtbot, brief)
    page.fields["memory_gb"].setText("4")
    page.fields["memory_gb"].editingFinished.emit()
    assert brief.document.session.computer.memory_gb == 4.0
    wait_answer(qtbot, brief)
    rows = {
        page.table.item(r, 0).text(): page.table.item(r, 2).text()  # type: ignore[union-attr]
        for r in range(page.table.rowCount())
    }
    assert rows["Memory"] == "no"
    for typed, value in (("15.625", 15.625), ("15,625", 15.625), ("1,024.5", 1024.5), ("4", 4.0)):
        page.fields["memory_gb"].setText(typed)
        page.fields["memory_gb"].editingFinished.emit()
        assert brief.document.session.computer.memory_gb == value
    page.fields["memory_gb"].setText("lots")
    page.fields["memory_gb"].editingFinished.emit()
    assert brief.document.session.computer.memory_gb == 4.0
    page.usb_c.click()
    assert "usb_c" not in brief.document.session.computer.sockets


def test_now_and_later_stand_side_by_side(qtbot: QtBot, brief: MainWindow) -> None:
    turn(brief, "Plans")
    wait_answer(qtbot, brief)
    page = brief.brief.pages.of(LaterPage)
    labels = [text_at(page.table, r, 0) for r in range(page.table.rowCount())]
    assert "Inputs at once" in labels
    before = brief.document.session
    page.drop.click()
    assert brief.document.session.later is None
    page.copy.click()
    assert brief.document.session.later == before.brief
    page.add_part(part_of(catalogue(), "trumpet", "microphone", name="Horn"))
    later = brief.document.session.later
    assert later is not None
    assert [p.name for p in later.parts] == [*(p.name for p in before.brief.parts), "Horn"]
    assert brief.document.session.brief == before.brief, "what is recorded now stays"
    wait_answer(qtbot, brief)
    rows = {text_at(page.table, r, 0): r for r in range(page.table.rowCount())}
    now, then = (int(text_at(page.table, rows["Inputs at once"], c)) for c in (1, 2))
    assert then > now
    page.parts.setCurrentCell(0, 0)
    page.remove.click()
    assert len(brief.document.session.later.parts) == len(later.parts) - 1
    page.use.click()
    assert brief.document.session.brief == brief.document.session.later


def test_later_can_be_written_from_nothing(empty: MainWindow) -> None:
    turn(empty, "Plans")
    page = empty.brief.pages.of(LaterPage)
    page.add_part(part_of(catalogue(), "harp", "pair"))
    later = empty.document.session.later
    assert later is not None
    assert [p.name for p in later.parts] == ["Harp"]
    assert empty.document.session.brief.parts == ()


def test_names_in_any_script_and_two_of_one_name(qtbot: QtBot, empty: MainWindow) -> None:
    for name in ("声", "声", "Голос", "صوت"):
        part = empty.brief

        one = part_of(catalogue(), "voice_singing", "microphone", name=name)
        part.add_parts((one,), name)
    names = [p.name for p in empty.document.session.brief.parts]
    assert names == ["声", "声 2", "Голос", "صوت"]
    assert len({p.id for p in empty.document.session.brief.parts}) == 4


def test_five_hundred_parts_and_no_more(empty: MainWindow) -> None:
    from verve.core.errors import EditError
    from verve.core.session import add_part, add_pass

    session, key = add_pass(Session(), "Many")
    one = part_of(catalogue(), "violin", "microphone")
    session, _ = add_part(session, key, one)
    many = tuple(one.model_copy(update={"id": f"p{n}", "name": f"P{n}"}) for n in range(500))
    brief = session.brief.model_copy(
        update={
            "parts": many,
            "passes": (
                session.brief.passes[0].model_copy(update={"parts": tuple(p.id for p in many)}),
            ),
        }
    )
    full = session.model_copy(update={"brief": brief})
    with pytest.raises(EditError, match="at most 500"):
        add_part(full, key, one)
    empty.document.replace(full, None, is_saved=True)
    empty.go("brief")
    assert sum(row.part is not None for row in empty.brief.rows) == 500


def test_the_combos_offer_only_what_a_source_can_be_taken_by(brief: MainWindow) -> None:
    takes: dict[str, list[str]] = {}
    for row in brief.brief.rows:
        if row.part is not None:
            combo: QComboBox = row.take
            takes[row.part.name] = [combo.itemText(i) for i in range(combo.count())]
    assert takes["Baritone guitar"] == [
        "direct (DI or instrument input)",
        "its amplifier, with a microphone",
        "direct, and its amplifier",
    ]
    assert "one microphone" in takes["Voice"]


def test_all_ways_of_a_part_are_compared_and_one_is_taken(qtbot: QtBot, brief: MainWindow) -> None:
    turn(brief, "Ways to record")
    page = brief.brief.pages.of(WaysPage)
    page.part.box.setCurrentIndex(page.part.box.findText("Harp"))
    page.part.box.activated.emit(page.part.box.currentIndex())
    qtbot.waitUntil(lambda: page.table.rowCount() == 5, timeout=LONG_MS)
    chosen = page.chosen()
    assert chosen is not None
    assert page.why.text().startswith("For it: ")
    page.table.setCurrentCell(3, 0)
    page.take.click()
    harp = next(p for p in brief.document.session.brief.parts if p.name == "Harp")
    assert harp.capture == "plug"
    brief.document.undo()
    harp = next(p for p in brief.document.session.brief.parts if p.name == "Harp")
    assert harp.capture == "pair"


def test_an_instrument_in_the_computer_is_a_part_without_an_input(
    qtbot: QtBot, empty: MainWindow
) -> None:
    dialog = PartDialog(catalogue(), empty)
    qtbot.addWidget(dialog)
    dialog.search.setText("keyboard controller")
    assert dialog.key() == "keyboard_controller"
    empty.brief.add_parts((dialog.part(),), "keys")
    assert empty.brief.rows[0].take.currentText() == "nothing: it sounds in the computer"
    wait_answer(qtbot, empty)
    empty.brief.find_button.click()
    qtbot.waitUntil(lambda: "takes an input" in empty.message(), timeout=LONG_MS)


def test_a_set_has_one_price_and_a_thing_is_bought_for_somebody(brief: MainWindow) -> None:
    turn(brief, "Shopping list")
    page = brief.brief.pages.of(ShopPage)
    page.add_wish("Large microphone")
    page.add_wish("Shield of the set")
    first, second = brief.document.session.shopping.wishes[-2:]
    page.put_in_set(second, first.id)
    row = page.table.rowCount() - 1
    assert text_at(page.table, row, 0) == "Shield of the set, in the set of Large microphone"
    assert text_at(page.table, row, 3) == "in the set"
    page.put_for(first, "voice")
    assert brief.document.session.shopping.wishes[-2].parts == ("voice",)
    page.table.setCurrentCell(row - 1, 0)
    page.buttons["Remove"].click()
    assert brief.document.session.shopping.wishes[-1].within is None, "it stands by itself again"


def test_controls_stand_one_above_the_other_where_both_do_not_fit(qtbot: QtBot) -> None:
    first, second = QPushButton("one of them"), QPushButton("the other one")
    pair = Beside(group(first), group(second))
    qtbot.addWidget(pair)
    pair.resize(600, 80)
    pair.show()
    qtbot.waitUntil(lambda: second.mapTo(pair, QPoint()).y() == first.mapTo(pair, QPoint()).y())
    pair.resize(pair.minimumSizeHint().width(), 80)
    qtbot.waitUntil(lambda: second.mapTo(pair, QPoint()).y() > first.mapTo(pair, QPoint()).y())
