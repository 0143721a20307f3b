"""Texts that neither fit where they stand, nor scroll, nor are elided with the whole of them in tooltip and name."""

from __future__ import annotations

from collections.abc import Iterator

from PyQt6.QtCore import QRect, Qt
from PyQt6.QtWidgets import (
    QAbstractButton,
    QComboBox,
    QHeaderView,
    QLabel,
    QLineEdit,
    QScrollArea,
    QTabBar,
    QTableWidget,
    QWidget,
)

from verve.app.widgets.choice import Choice
from verve.app.widgets.table import Table

_SLACK_PX = 2


def _is_told(widget: QWidget, text: str) -> bool:
    return text in widget.toolTip() or text in widget.accessibleName()


def _labels(root: QWidget) -> Iterator[str]:
    for label in root.findChildren(QLabel):
        text = label.text()
        if not label.isVisible() or not text or label.visibleRegion().isEmpty():
            continue
        metrics = label.fontMetrics()
        room = label.contentsRect()
        if label.wordWrap():
            box = metrics.boundingRect(
                QRect(0, 0, room.width(), 10_000), int(Qt.TextFlag.TextWordWrap), text
            )
            longest = max(metrics.horizontalAdvance(word) for word in text.split() or [""])
            fits = box.height() <= room.height() + _SLACK_PX and longest <= room.width() + _SLACK_PX
        else:
            fits = all(
                metrics.horizontalAdvance(row) <= room.width() + _SLACK_PX
                for row in text.splitlines()
            )
        if not fits and not (text.endswith("…") and label.toolTip()):
            yield f"label “{text}” in {room.width()} × {room.height()}"


def _buttons(root: QWidget) -> Iterator[str]:
    for button in root.findChildren(QAbstractButton):
        if button.isVisible() and button.text():
            needed = button.minimumSizeHint()
            if button.width() < needed.width() - _SLACK_PX:
                yield f"button “{button.text()}”: {button.width()} of {needed.width()} wide"
            if button.height() < needed.height() - _SLACK_PX:
                yield f"button “{button.text()}”: {button.height()} of {needed.height()} high"


def _fields(root: QWidget) -> Iterator[str]:
    for box in root.findChildren(QComboBox):
        if box.isVisible():
            text = box.currentText()
            # The arrow and the frame beside it.
            needed = box.fontMetrics().horizontalAdvance(text) + 24
            is_elided = isinstance(box, Choice)
            if box.width() < needed - _SLACK_PX and not is_elided and not _is_told(box, text):
                yield f"choice “{text}”: {box.width()} of {needed}"
    for field in root.findChildren(QLineEdit):
        if field.isVisible() and isinstance(field.parent(), QComboBox):
            continue
        if field.isVisible() and field.width() < 40:
            yield f"field {field.accessibleName()} is {field.width()} wide"


def _tables(root: QWidget) -> Iterator[str]:
    for header in root.findChildren(QHeaderView):
        model = header.model()
        if (
            not header.isVisible()
            or model is None
            or header.orientation() != Qt.Orientation.Horizontal
        ):
            continue
        for section in range(header.count()):
            text = str(model.headerData(section, Qt.Orientation.Horizontal) or "")
            needed = header.fontMetrics().horizontalAdvance(text)
            tip = str(
                model.headerData(section, Qt.Orientation.Horizontal, Qt.ItemDataRole.ToolTipRole)
                or ""
            )
            if header.sectionSize(section) < needed + 4 and text not in tip:
                yield f"head “{text}”: {header.sectionSize(section)} of {needed}"
    for table in root.findChildren(QTableWidget):
        if not table.isVisible():
            continue
        viewport = table.viewport()
        if isinstance(table, Table) and viewport is not None:
            needed, given = table.empty_height(), viewport.height() - 14
            if needed > given + _SLACK_PX:
                yield f"“{table.empty_words}”: {given} of {needed} high"
        for row in range(table.rowCount()):
            for column in range(table.columnCount()):
                item = table.item(row, column)
                if item is None or not item.text() or table.wordWrap():
                    continue
                needed = table.fontMetrics().horizontalAdvance(item.text())
                if table.columnWidth(column) < needed and item.text() not in item.toolTip():
                    yield f"cell “{item.text()}”: {table.columnWidth(column)} of {needed}"


def _areas(root: QWidget) -> Iterator[str]:
    for area in root.findChildren(QScrollArea):
        inside, viewport = area.widget(), area.viewport()
        is_off = area.horizontalScrollBarPolicy() == Qt.ScrollBarPolicy.ScrollBarAlwaysOff
        if not area.isVisible() or inside is None or viewport is None or not is_off:
            continue
        if inside.width() > viewport.width() + _SLACK_PX:
            yield f"inside of “{area.accessibleName()}”: {inside.width()} of {viewport.width()}"
    for bar in root.findChildren(QTabBar):
        if bar.isVisible():
            needed = sum(bar.tabSizeHint(tab).width() for tab in range(bar.count()))
            if needed > bar.width() + _SLACK_PX:
                yield f"tabs {bar.accessibleName()}: {bar.width()} of {needed}"


def unfit(root: QWidget) -> list[str]:
    """Everything that does not fit in a window or dialog as it stands."""
    found = [_labels, _buttons, _fields, _tables, _areas]
    return [what for look in found for what in look(root)]
