"""The whole patch as rows, sockets, tracks and paper."""

from __future__ import annotations

import csv
import io

import pytest

from verve.core.assess import assess
from verve.core.catalogue import add_chain, catalogue
from verve.core.needs import budget_bars
from verve.core.power import hum_risks, set_up_sheet
from verve.core.session import Session, rename_line, replace_device
from verve.core.sheets import (
    TRACK_HEAD,
    box_uses,
    patch_csv,
    patch_html,
    patch_rows,
    run_sheet_html,
    shopping_html,
    track_rows,
    tracks_csv,
)


def test_every_line_is_one_row_in_the_order_of_the_inputs(mended: Session) -> None:
    rows = patch_rows(assess(mended))
    assert len(rows) == len(mended.setup.lines)
    numbers = [int(row.number) for row in rows]
    assert numbers == sorted(numbers)
    voice = next(row for row in rows if row.line == "voice")
    assert voice.legs[0].cable == "", "through the air"
    assert voice.legs[-1].end.startswith("Interface, input")
    assert "o’clock" in voice.settings or "half past" in voice.settings
    organ = next(row for row in rows if row.line == "organ_l")
    assert organ.legs[-1].start == "Small mixer, main left"


def test_every_socket_is_there_once_used_or_free(mended: Session) -> None:
    boxes = {box.name: box for box in box_uses(assess(mended))}
    assert set(boxes) == {"Interface", "Small mixer"}
    sockets = boxes["Interface"].sockets
    assert [s.name for s in sockets] == [str(n) for n in range(1, 9)]
    used = [s.used_by for s in sockets if s.used_by]
    assert len(used) == len(mended.setup.lines)
    assert any(not s.used_by for s in boxes["Small mixer"].sockets)


def test_the_patch_as_a_table_has_a_row_for_each_connection(mended: Session) -> None:
    rows = list(csv.reader(io.StringIO(patch_csv(assess(mended)))))
    assert rows[0][0] == "done"
    assert len(rows) - 1 == sum(len(row.legs) for row in patch_rows(assess(mended)))


def test_a_pair_on_neighbouring_inputs_is_one_stereo_track(mended: Session) -> None:
    rows = track_rows(assess(mended))
    kinds = {row[1]: row[5] for row in rows}
    assert kinds["Voice"] == "mono"
    assert kinds["Harp"] == "stereo"
    assert all(len(row) == len(TRACK_HEAD) for row in rows)
    assert tracks_csv(assess(mended)).count("\n") == len(rows) + 1


def test_the_page_is_whole_and_names_cannot_break_it(mended: Session) -> None:
    session = rename_line(mended, "voice", "Voice <script> & 声")
    page = patch_html(assess(session))
    assert page.count("☐") >= len(session.setup.lines)
    assert "<script>" not in page
    assert "Voice &lt;script&gt; &amp; 声" in page
    assert page.endswith("</html>")


def test_every_socket_says_what_fits_and_for_which_level(mended: Session) -> None:
    boxes = {box.name: box for box in box_uses(assess(mended))}
    first, last = boxes["Interface"].sockets[4], boxes["Interface"].sockets[7]
    assert first.fits == "XLR or 6.3 mm jack, balanced; microphone, line, instrument level"
    assert last.fits == "6.3 mm jack, balanced; line level"
    for entry in catalogue().devices.values():
        ports = entry.figures.ports()
        assert ports, "gear without a socket cannot be patched"
        assert all(port.plugs and port.levels for port in ports)


def test_what_may_hum_is_named(mended: Session) -> None:
    assert hum_risks(mended.setup) == ("Reed organ, left output", "Reed organ, right output")


def test_the_lamps_are_told_in_words(demo: Session, mended: Session) -> None:
    def lamps(session: Session, line_id: str) -> str:
        item = assess(session).line(line_id)
        assert item is not None
        return next(f.text for f in item.why() if f.label == "Lamps of the interface")

    assert lamps(mended, "voice") == "signal lit, clip dark"
    assert lamps(demo, "voice") == "both lit"


def test_a_bus_powered_interface_tells_what_it_asks_of_the_computer(mended: Session) -> None:
    (bar,) = budget_bars(mended.setup)
    assert bar.bus == "", "it has a supply of its own"
    assert bar.total_ma == pytest.approx(sum(ma for _, _, ma in bar.drawn))
    session, _ = add_chain(Session(), catalogue(), catalogue().chain("voice_condenser"))
    interface = next(d for d in session.setup.devices if d.figures.kind == "interface")
    two = catalogue().devices["interface_two"].figures
    bussed = replace_device(session, interface.id, two, "Two")
    (bar,) = budget_bars(bussed.setup)
    # 1.5 W for itself and 48 V times the current, through a converter of 70 %.
    watts = 1.5 + 48.0 * bar.total_ma / 0.7 / 1000.0
    assert bar.bus == f"{watts:.1f} W of 2.5 W"
    assert all("arrive" in fact.how for fact in bar.facts())


def test_no_paper_has_anything_left_to_fill_in(mended: Session) -> None:
    pages = (
        patch_html(assess(mended)),
        run_sheet_html("Setting up", set_up_sheet(mended.setup)),
        shopping_html(mended),
    )
    for page in pages:
        inside = page.split("</style>", 1)[1]
        assert "{" not in inside
        assert "}" not in inside
        assert inside.count("<table") == inside.count("</table>") > 0
