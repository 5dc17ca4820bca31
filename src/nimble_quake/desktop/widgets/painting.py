"""Painting a widget with a painter that is surely ended."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import TypeVar

from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

Painted = TypeVar("Painted", bound=QWidget)


def painted(paint: Callable[[Painted, QPainter], None]) -> Callable[[Painted, QPaintEvent | None], None]:
    """Make a paint event of a method that takes a painter, and end the painter whatever happens.

    An error caught below a paint event (a formula that fails) keeps that event's frame alive, and with it a painter
    that nobody ended; were it ended by the garbage collector, after its widget is gone, Qt would crash.
    """

    @wraps(paint)
    def paint_event(self: Painted, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        try:
            paint(self, painter)
        finally:
            painter.end()

    return paint_event
