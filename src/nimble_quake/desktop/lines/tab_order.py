"""Where Tab goes: through a panel as it is read, field by field, then on to the next panel.

Qt's own order is the order in which widgets were made; settings are made anew for every selection, so it jumps.
"""

from __future__ import annotations

from collections.abc import Iterator

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLayout, QScrollArea, QSplitter, QWidget


def stops(root: QWidget) -> list[QWidget]:
    """Return what can have the keyboard inside a widget, in reading order."""
    return [widget for widget in _walk(root) if _takes_tab(widget)]


def neighbour(root: QWidget, now: QWidget | None, last: QWidget | None, *, forward: bool) -> QWidget | None:
    """Return the stop after (or before) the one that has the keyboard, or lately had it; None without any."""
    order = stops(root)
    if not order:
        return None
    here = _index(order, now)
    if here is None:
        here = _index(order, last)
    if here is None:
        return order[0 if forward else -1]
    return order[(here + (1 if forward else -1)) % len(order)]


def _index(order: list[QWidget], widget: QWidget | None) -> int | None:
    """The place of a widget, or of what it lies in (an editor opened on top of a field)."""
    while widget is not None:
        if widget in order:
            return order.index(widget)
        widget = widget.parentWidget()
    return None


def _takes_tab(widget: QWidget) -> bool:
    policy = Qt.FocusPolicy.TabFocus
    return widget.isEnabled() and widget.focusProxy() is None and (widget.focusPolicy() & policy) == policy


def _walk(widget: QWidget) -> Iterator[QWidget]:
    if not widget.isVisible():
        return
    yield widget
    if isinstance(widget, QSplitter):
        for number in range(widget.count()):
            part = widget.widget(number)
            if part is not None:
                yield from _walk(part)
    elif isinstance(widget, QScrollArea):
        inner = widget.widget()
        if inner is not None:
            yield from _walk(inner)
    else:
        layout = widget.layout()
        if layout is not None:
            for part in sorted(_laid(layout), key=_rank):
                yield from _walk(part)


def _laid(layout: QLayout) -> Iterator[QWidget]:
    for number in range(layout.count()):
        item = layout.itemAt(number)
        if item is None:
            continue
        widget, inner = item.widget(), item.layout()
        if widget is not None:
            yield widget
        elif inner is not None:
            yield from _laid(inner)


def _rank(widget: QWidget) -> int:
    """The part of a bay that holds its list and settings comes before its head and its viewer."""
    return 0 if widget.property("tab_first") else 1
