"""Paper: no row broken over pages, a margin that holds, a foot on every page, every sign in a shipped typeface."""

from __future__ import annotations

import datetime
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6.QtGui import QColor, QFont, QImage, QPainter, QRawFont
from PyQt6.QtWidgets import QApplication

from verve.app import theme
from verve.app.pager import MARGIN, PAGE_HEIGHT, PAGE_WIDTH, Sheet
from verve.app.paper import write_pdf
from verve.core.assess import assess
from verve.core.demo import demo_session
from verve.core.power import set_up_sheet
from verve.core.sheets import patch_html, run_sheet_html

DAY = datetime.date(2026, 11, 26)
RUN = run_sheet_html("Evening: setting up", set_up_sheet(demo_session().setup))
PATCH = patch_html(assess(demo_session()))
SOURCES = Path(theme.__file__).resolve().parents[1]


def painted(sheet: Sheet, number: int) -> QImage:
    image = QImage(round(PAGE_WIDTH), round(PAGE_HEIGHT), QImage.Format.Format_RGB32)
    image.fill(QColor("white"))
    painter = QPainter(image)
    sheet.paint(painter, number)
    painter.end()
    return image


def is_whole(sheet: Sheet) -> bool:
    """Whether no piece that would fit on a page is cut."""
    room = PAGE_HEIGHT - 2.0 * MARGIN
    return not any(
        top + 0.01 < cut < bottom - 0.01 and bottom - top < room * 0.9
        for top, bottom in sheet.pieces()
        for cut in sheet.cuts[1:-1]
    )


@pytest.mark.parametrize("html", [RUN, PATCH], ids=["run", "patch"])
def test_no_row_is_broken_and_the_margin_holds(dressed: QApplication, html: str) -> None:
    sheet = Sheet(html, DAY)
    assert sheet.pages > 1
    assert is_whole(sheet)
    for number in range(sheet.pages):
        image = painted(sheet, number)
        assert sheet.cuts[number + 1] - sheet.cuts[number] <= PAGE_HEIGHT - 2.0 * MARGIN
        edge = int(MARGIN) - 2
        strip = image.copy(0, 0, edge, image.height())
        above = image.copy(0, 0, image.width(), edge)
        right = image.copy(image.width() - edge, 0, edge, image.height())
        below = image.copy(0, image.height() - edge, image.width(), edge)
        for outside in (strip, above, right, below):
            blank = QImage(outside.size(), outside.format())
            blank.fill(QColor("white"))
            assert outside == blank


@settings(max_examples=25, deadline=None)
@given(rows=st.lists(st.integers(1, 60), min_size=1, max_size=60))
def test_rows_of_any_height_stay_whole(dressed: QApplication, rows: list[int]) -> None:
    cells = "".join(f"<tr><td>{i}</td><td>{'word ' * n}</td></tr>" for i, n in enumerate(rows))
    sheet = Sheet(f"<title>x</title><h1>A head</h1><table width='100%'>{cells}</table>", DAY)
    assert is_whole(sheet)
    assert sheet.cuts == sorted(sheet.cuts)
    assert sheet.cuts[0] == 0.0
    assert sheet.cuts[-1] >= max(bottom for _, bottom in sheet.pieces()) - 6.0


def test_a_pdf_has_the_shipped_typeface_and_all_pages(
    dressed: QApplication, tmp_path: Path
) -> None:
    path = tmp_path / "run.pdf"
    write_pdf(path, RUN)
    written = path.read_bytes()
    assert b"AtkinsonHyperlegible" in written
    assert written.count(b"/Type /Page\n") == Sheet(RUN).pages


def test_every_sign_that_is_written_anywhere_is_in_a_shipped_typeface(
    dressed: QApplication,
) -> None:
    fonts = [QRawFont(str(path), 12.0) for path in sorted((theme.DATA / "fonts").glob("*.ttf"))]
    written = {
        sign
        for path in SOURCES.rglob("*.py")
        for sign in path.read_text(encoding="utf-8")
        if sign.isprintable() and not sign.isascii()
    }
    assert "☐" in written
    # Names can be in any of these.
    written |= set("µ→θ₁₂ΑΩαωДЖдж≤≥√ŁřşçñøÅ")
    missing = {s for s in written if not any(font.supportsCharacter(s) for font in fonts)}
    assert missing == set()
    assert theme.SIGNS_FAMILY in QFont(theme.words()).families()
