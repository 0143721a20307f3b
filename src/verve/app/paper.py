"""Pages as PDF: the same HTML that is written as a web page."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QMarginsF
from PyQt6.QtGui import QPageLayout, QPageSize, QPdfWriter, QTextDocument

from verve.core.errors import FileError

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
    writer = QPdfWriter(str(temporary))
    writer.setResolution(_DPI)
    writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
    margins = QMarginsF(_MARGIN_MM, _MARGIN_MM, _MARGIN_MM, _MARGIN_MM)
    writer.setPageMargins(margins, QPageLayout.Unit.Millimeter)
    document = QTextDocument()
    document.setHtml(page)
    document.print(writer)
    del writer
    temporary.replace(path)
