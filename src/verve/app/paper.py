"""Sheets on paper, as PDF, web page or table, written beside the window."""

from __future__ import annotations

import errno
import os
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QEventLoop, QMarginsF
from PyQt6.QtGui import QPageSize, QPainter, QPdfWriter

from verve.app.pager import LAYOUT_DPI, Sheet
from verve.app.tasks import Tasks
from verve.core.files import unwritable, whole_file, write_atomically

PAPER = "on paper"
_DPI = 300


def write_pdf(path: Path, page: str) -> None:
    """An HTML page on A4 paper, whole or not at all.

    raises: FileError if it cannot be written
    """
    with whole_file(path) as temporary:
        # A text document keeps timers; beside the window there is nothing that runs them until a loop is made.
        loop = QEventLoop()
        writer = QPdfWriter(str(temporary))
        writer.setResolution(_DPI)
        writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
        writer.setPageMargins(QMarginsF(0.0, 0.0, 0.0, 0.0))
        sheet = Sheet(page)
        writer.setTitle(sheet.title)
        painter = QPainter(writer)
        painter.scale(_DPI / LAYOUT_DPI, _DPI / LAYOUT_DPI)
        for number in range(sheet.pages):
            if number:
                writer.newPage()
            sheet.paint(painter, number)
        painter.end()
        del painter, writer, sheet, loop
        _check_whole(path, temporary)


def _check_whole(path: Path, written: Path) -> None:
    """The writer of pages tells nobody that a disk is full: what it has written must end as such a file does.

    raises: FileError if it does not
    """
    with written.open("rb") as file:
        file.seek(max(0, written.stat().st_size - 64))
        is_whole = b"%%EOF" in file.read()
        os.fsync(file.fileno())
    if not is_whole:
        raise unwritable(path, OSError(errno.ENOSPC, ""))


def put_on_paper(
    tasks: Tasks,
    path: Path,
    *,
    html: Callable[[], str],
    csv: Callable[[], str],
    failed: Callable[[str], None],
) -> None:
    """Write a sheet as PDF, web page or text (a table, or Markdown), by the ending of the name, beside the window.

    `failed` is told the sentence if it cannot be written.
    """

    def work(_: object, __: object) -> object:
        if path.suffix.lower() in {".csv", ".md"}:
            write_atomically(path, csv())
        elif path.suffix.lower() in {".html", ".htm"}:
            write_atomically(path, html())
        else:
            write_pdf(path, html())
        return path

    # A lane for each file: two sheets may be on their way at once, one file is written once at a time.
    tasks.run(f"{PAPER} {path}", work, lambda _: None, failed=failed)
