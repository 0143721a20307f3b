"""The order in which Tab goes: as things are laid out, and not as they came to be made."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QAbstractScrollArea,
    QApplication,
    QLayout,
    QScrollArea,
    QSplitter,
    QStackedWidget,
    QWidget,
)


def _inside(widget: QWidget) -> Iterator[QWidget]:
    """What stands in a widget, in the order of its layout."""
    if isinstance(widget, QScrollArea):
        content = widget.widget()
        if content is not None:
            yield content
    elif isinstance(widget, QStackedWidget):
        current = widget.currentWidget()
        if current is not None:
            yield current
    elif isinstance(widget, QSplitter):
        for index in range(widget.count()):
            pane = widget.widget(index)
            if pane is not None:
                yield pane
    else:
        yield from _of_layout(widget.layout())


def _of_layout(layout: QLayout | None) -> Iterator[QWidget]:
    if layout is None:
        return
    for index in range(layout.count()):
        item = layout.itemAt(index)
        if item is None:
            continue
        widget = item.widget()
        if widget is not None:
            yield widget
        else:
            yield from _of_layout(item.layout())


def stops(root: QWidget) -> Iterator[QWidget]:
    """Everything in there that Tab stops at, from the first to the last."""
    if not root.isVisible() or not root.isEnabled():
        return
    # What merely scrolls is no stop; a list or a table is.
    is_frame = isinstance(root, QScrollArea)
    if not is_frame and root.focusPolicy() & Qt.FocusPolicy.TabFocus:
        yield root
        if isinstance(root, QAbstractScrollArea):
            return
    for child in _inside(root):
        yield from stops(child)


def _bring_in(target: QWidget) -> None:
    """What has the focus is never out of sight."""
    parent = target.parentWidget()
    while parent is not None:
        if isinstance(parent, QScrollArea):
            parent.ensureWidgetVisible(target, 8, 8)
        parent = parent.parentWidget()


def go_on(window: QWidget, places: Sequence[QWidget], *, forward: bool) -> bool:
    """Put the focus on the next stop of these places, or the one before; whether there was any."""
    order = [stop for place in places for stop in stops(place)]
    now = QApplication.focusWidget()
    while now is not None and now not in order and now is not window:
        now = now.parentWidget()
    if not order:
        return False
    at = order.index(now) if now in order else -1 if forward else 0
    target = order[(at + (1 if forward else -1)) % len(order)]
    target.setFocus(Qt.FocusReason.TabFocusReason if forward else Qt.FocusReason.BacktabFocusReason)
    _bring_in(target)
    return True


def go_into(place: QWidget) -> None:
    """Put the focus on the first stop there."""
    first = next(iter(stops(place)), None)
    if first is not None:
        first.setFocus(Qt.FocusReason.ShortcutFocusReason)
        _bring_in(first)
