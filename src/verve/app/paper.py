"""Pages as PDF: the same HTML that is written as a web page."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QEventLoop, QMarginsF
from PyQt6.QtGui import QPageLayout, QPageSize, QPdfWriter, QTextDocument

from verve.app.tasks import Tasks
from verve.core.errors import FileError
from verve.core.session import write_atomically

PAPER = "on paper"
_MARGIN_MM = 15.0
_DPI = 150


def write_pdf(path: Path, page: str) -> None:
    """An HTML page on A4 paper, whole or not at all.

    raises: FileError if it cannot be written
    """
    temporary = path.with_name(f".{path.name}.part")
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        temporary.touch()
    except OSError as error:
        remedy = "Check the space and rights there, or choose another name."
        raise FileError(path, f"cannot be written: {error.strerror}", remedy) from error
    # A text document keeps timers; beside the window there is nothing that runs them until a loop is made.
    loop = QEventLoop()
    writer = QPdfWriter(str(temporary))
    writer.setResolution(_DPI)
    writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
    margins = QMarginsF(_MARGIN_MM, _MARGIN_MM, _MARGIN_MM, _MARGIN_MM)
    writer.setPageMargins(margins, QPageLayout.Unit.Millimeter)
    document = QTextDocument()
    document.setHtml(page)
    document.print(writer)
    del writer, document, loop
    temporary.replace(path)


def put_on_paper(
    tasks: Tasks,
    path: Path,
    *,
    html: Callable[[], str],
    csv: Callable[[], str],
    failed: Callable[[str], None],
) -> None:
    """Write a sheet as PDF, web page or table, by the ending of the name, beside the window.

    `failed` is told the sentence if it cannot be written.
    """

    def work(_: object, __: object) -> object:
        if path.suffix.lower() == ".csv":
            write_atomically(path, csv())
        elif path.suffix.lower() in {".html", ".htm"}:
            write_atomically(path, html())
        else:
            write_pdf(path, html())
        return path

    # A lane for each file: two sheets may be on their way at once, one file is written once at a time.
    tasks.run(f"{PAPER} {path}", work, lambda _: None, failed=failed)
