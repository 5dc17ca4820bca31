"""The course of a crossing in the front panel: its strength over its bar, and when it is strongest, in words."""

from __future__ import annotations

import numpy as np
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from nimble_quake.desktop.widgets.course_plot import CoursePlot
from nimble_quake.desktop.widgets.parts import quiet
from nimble_quake.motion.motion import values_at
from nimble_quake.motion.timecode import clock_text
from nimble_quake.session.state import Session
from nimble_quake.shot.model import Plate
from nimble_quake.shot.paths import find

POINTS = 64


class CourseOfBar(QWidget):
    """A value of a plate from where it begins to its end."""

    def __init__(self, session: Session, path: str, value: str) -> None:
        super().__init__()
        self.session, self.path, self.value = session, path, value
        self.plot = CoursePlot("ember")
        self.plot.setMinimumHeight(64)
        self.plot.setFixedHeight(64)
        self.words = quiet("", 11)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(self.plot)
        column.addWidget(self.words)
        self.refresh()

    def refresh(self) -> None:
        """Show the document."""
        plate, shot = find(self.session.shot, self.path), self.session.shot
        if not isinstance(plate, Plate):
            return
        start, end = plate.start or 0, plate.end if plate.end is not None else shot.length
        frames = np.linspace(start, end, POINTS)
        found = values_at(self.session.raw(f"{self.path}/{self.value}") or 0.0, self.session.moment, frames)[0]
        gone = min(max((self.session.frame - start) / max(1, end - start), 0.0), 1.0)
        self.plot.show_course([found.tolist()], (0.0, 1.0), gone, 100.0, "%")
        peak = int(round(float(frames[int(np.argmax(found))])))
        seconds = (end - start) / float(shot.rate)
        self.words.setText(
            f"{seconds:.2g} s, strongest at {clock_text(peak, shot.rate, self.session.clock, short=True)}"
        )
