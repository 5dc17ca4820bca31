"""What painting asks of the lanes of the time strip: where things lie, and what is chosen."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainterPath

from nimble_quake.desktop.time.rows import TimeRow
from nimble_quake.motion.kinds import Key
from nimble_quake.session.state import Session


class LanesShown(Protocol):
    """The lanes, as they are seen now."""

    session: Session
    zoom: float
    """Pixels a frame."""
    ruled: list[float]
    """Where the ruler's times stand."""
    rows: list[TimeRow]
    chosen: set[tuple[str, float]]
    """Pins that are chosen: (path, frame) each."""
    selected_row: str
    paths: dict[tuple[str, int], tuple[object, QPainterPath]]
    """Curves that were drawn before, with what they were drawn of."""
    peaks: Callable[[str], NDArray[np.float32] | None]
    """Finds the peaks of a sound's waveform."""

    def width(self) -> int:
        """Return the width in pixels."""

    def height(self) -> int:
        """Return the height in pixels."""

    def x_of(self, frame: float) -> float:
        """Return the x of a frame."""

    def frame_at(self, x: float) -> float:
        """Return the frame at an x."""

    def bounds(self, row: TimeRow) -> tuple[float, float]:
        """Return the value range a row shows."""

    def trace(self, path: str, count: int) -> list[list[float]]:
        """Return a row's curve over what is seen."""

    def y_of(self, value: float, row: TimeRow, top: float) -> float:
        """Return the y of a value in its row."""

    def pin_y(self, key: Key, row: TimeRow, top: float) -> float:
        """Return the y of a pin's head; of a place its x counts."""

    def handles(self, row: TimeRow, top: float) -> list[tuple[tuple[str, int], QPointF, QPointF]]:
        """Return the Bézier handles of a tall row: (which end, key number), their place, their pin's place."""

    def value_at_y(self, y: float, row: TimeRow, top: float) -> float:
        """Return the value that lies at a y in its row."""
