"""An HTML page cut into pages of A4: never through a row, with a margin that holds, and a foot on each."""

from __future__ import annotations

import datetime
from collections.abc import Iterator
from itertools import pairwise

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import (
    QAbstractTextDocumentLayout,
    QColor,
    QFont,
    QImage,
    QPainter,
    QTextBlock,
    QTextDocument,
    QTextFrame,
    QTextTable,
)

from verve.app import theme

LAYOUT_DPI = 96
"""Everything is laid out in these, whatever paints it: so paper looks the same from every desktop."""
_MM = LAYOUT_DPI / 25.4
PAGE_WIDTH, PAGE_HEIGHT = 210.0 * _MM, 297.0 * _MM
MARGIN = 15.0 * _MM
_FOOT = 9.0 * _MM
_PADDING = 4.0
"""Above the words of a row, below the line that ends the row before."""
_MUTED = QColor("#555555")


class Sheet:
    """A page of HTML, laid out; `pages` is how many pages of paper it takes."""

    def __init__(self, html: str, today: datetime.date | None = None) -> None:
        self._today = today or datetime.date.today()
        document = QTextDocument()
        font = QFont([theme.WORDS_FAMILY, theme.SIGNS_FAMILY])
        font.setPointSizeF(12.0)
        document.setDefaultFont(font)
        document.setDocumentMargin(0.0)
        self._device = QImage(1, 1, QImage.Format.Format_RGB32)
        self._device.setDotsPerMeterX(round(LAYOUT_DPI / 0.0254))
        self._device.setDotsPerMeterY(round(LAYOUT_DPI / 0.0254))
        layout = document.documentLayout()
        assert layout is not None
        layout.setPaintDevice(self._device)
        document.setHtml(html)
        document.setTextWidth(PAGE_WIDTH - 2.0 * MARGIN)
        self._document, self._layout = document, layout
        self.title = document.metaInformation(QTextDocument.MetaInformation.DocumentTitle)
        self.cuts = self._cut(PAGE_HEIGHT - 2.0 * MARGIN - _FOOT)

    @property
    def pages(self) -> int:
        """How many pages it takes; at least one."""
        return len(self.cuts) - 1

    def pieces(self) -> list[tuple[float, float]]:
        """What is not to be cut, from where to where: rows, paragraphs, a heading with what follows it."""
        found: list[tuple[float, float]] = []
        root = self._document.rootFrame()
        assert root is not None
        is_heading = False
        for top, bottom, heads in self._of_frame(root):
            if is_heading:
                top = found.pop()[0]
            found.append((top, bottom))
            is_heading = heads
        return found

    def _of_frame(self, frame: QTextFrame) -> Iterator[tuple[float, float, bool]]:
        walk = frame.begin()
        while not walk.atEnd():
            child = walk.currentFrame()
            if isinstance(child, QTextTable):
                yield from self._of_table(child)
            elif child is not None:
                yield from self._of_frame(child)
            else:
                block = walk.currentBlock()
                rect = self._layout.blockBoundingRect(block)
                if rect.height() > 0.0:
                    yield rect.top(), rect.bottom(), block.blockFormat().headingLevel() > 0
            walk += 1

    def _of_table(self, table: QTextTable) -> Iterator[tuple[float, float, bool]]:
        rows = []
        for row in range(table.rows()):
            rects = [
                self._layout.blockBoundingRect(block)
                for column in range(table.columns())
                for block in _blocks(table, row, column)
            ]
            rows.append((min(r.top() for r in rects), max(r.bottom() for r in rects)))
        if not rows:
            return
        bottom = self._layout.frameBoundingRect(table).bottom()
        # The line between two rows and its padding stay with the row above it.
        edges = [*(top - _PADDING for top, _ in rows), bottom]
        for index, (top, below) in enumerate(pairwise(edges)):
            yield top, below, index == 0 and len(rows) > 1

    def _cut(self, room: float) -> list[float]:
        cuts = [0.0]
        for top, bottom in self.pieces():
            if bottom - cuts[-1] > room and top > cuts[-1]:
                cuts.append(top)
            while bottom - cuts[-1] > room:
                # One piece that is larger than a page: there is no other way.
                cuts.append(cuts[-1] + room)
        return [*cuts, max(cuts[-1], self._document.size().height())]

    def paint(self, painter: QPainter, number: int) -> None:
        """One page, from 0, in dots of `LAYOUT_DPI`."""
        top, bottom = self.cuts[number], self.cuts[number + 1]
        painter.save()
        painter.translate(MARGIN, MARGIN - top)
        seen = QRectF(0.0, top, PAGE_WIDTH - 2.0 * MARGIN, bottom - top)
        painter.setClipRect(seen)
        context = QAbstractTextDocumentLayout.PaintContext()
        context.clip = seen
        self._layout.draw(painter, context)
        painter.restore()
        painter.save()
        font = QFont([theme.WORDS_FAMILY, theme.SIGNS_FAMILY])
        font.setPixelSize(12)
        painter.setFont(font)
        painter.setPen(_MUTED)
        foot = QRectF(
            MARGIN, PAGE_HEIGHT - MARGIN - _FOOT / 2.0, PAGE_WIDTH - 2.0 * MARGIN, _FOOT / 2.0
        )
        painter.drawText(foot, Qt.AlignmentFlag.AlignLeft, self.title)
        said = f"{self._today.isoformat()}  ·  page {number + 1} of {self.pages}"
        painter.drawText(foot, Qt.AlignmentFlag.AlignRight, said)
        painter.restore()


def _blocks(table: QTextTable, row: int, column: int) -> Iterator[QTextBlock]:
    cell = table.cellAt(row, column)
    block, last = cell.firstCursorPosition().block(), cell.lastCursorPosition().block()
    yield block
    while block != last:
        block = block.next()
        yield block
