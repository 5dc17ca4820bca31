"""The ease box: how the chosen pins go on, drawn by hand or typed, seen at once in the strip and the picture."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QFrame, QGridLayout, QWidget

from nimble_quake.desktop.widgets.ease_plot import EasePlot
from nimble_quake.desktop.widgets.parts import heading, quiet
from nimble_quake.desktop.widgets.slide_field import SlideField
from nimble_quake.motion.handles import bezier_of
from nimble_quake.motion.kinds import EASE_IN_OUT, Ease
from nimble_quake.params.kinds import Number
from nimble_quake.session.moving import pins
from nimble_quake.session.state import Session
from nimble_quake.shot.edits.keys import keys_at


def _fraction(label: str, help: str, *, time: bool) -> Number:
    return Number(label=label, help=help, hard=(0, 1) if time else (-10, 10), usual=(0, 1), decimals=2)


FIELDS = (
    _fraction("Start, time", "How far the first handle reaches, of the time to the next pin", time=True),
    _fraction("Start, value", "How far the first handle goes, of the way to the next value", time=False),
    _fraction("End, time", "Where the second handle stands, of the time to the next pin", time=True),
    _fraction("End, value", "Where the second handle stands, of the way to the next value", time=False),
)


class EaseBox(QFrame):
    """A small window that closes with a click beside it, or Escape."""

    def __init__(self, session: Session, chosen: pins.Chosen, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setFrameShape(QFrame.Shape.StyledPanel)
        self.setAccessibleName("Ease")
        self.session, self.chosen = session, chosen
        self.plot = EasePlot()
        self.fields = [SlideField(param, "chalk", mark=False) for param in FIELDS]
        grid = QGridLayout(self)
        grid.setContentsMargins(10, 8, 10, 10)
        grid.setSpacing(6)
        count = len(chosen)
        grid.addWidget(heading("Ease of one pin" if count == 1 else f"Ease of {count} pins"), 0, 0, 1, 4)
        grid.addWidget(self.plot, 1, 0, 1, 4)
        for number, (param, field) in enumerate(zip(FIELDS, self.fields, strict=True)):
            row, column = 2 + number // 2, 2 * (number % 2)
            grid.addWidget(quiet(param.label), row, column)
            grid.addWidget(field, row, column + 1)
            field.began.connect(self._begin)
            field.changing.connect(lambda value, number=number: self._typed(number, value))
            field.ended.connect(session.commit)
        self.plot.began.connect(self._begin)
        self.plot.changing.connect(self._take)
        self.plot.ended.connect(session.commit)
        self._show(self._now())

    def open_at(self, below: QPoint) -> None:
        """Show it above a place of the screen, and give it the keyboard."""
        size = self.sizeHint()
        self.move(below.x() - size.width() // 2, below.y() - size.height() - 4)
        self.show()
        self.plot.setFocus()

    def _now(self) -> Ease:
        path, frame = min(self.chosen, key=lambda pin: pin[1])
        keys = keys_at(self.session.shot, path)
        number = next((n for n, key in enumerate(keys) if key.frame == frame), 0)
        return bezier_of(keys, number) or (keys[number].ease if keys else EASE_IN_OUT)

    def _begin(self) -> None:
        self.session.begin("Shape the ease")

    def _typed(self, number: int, value: float) -> None:
        ease = list(self.plot.ease)
        ease[number] = value
        self._take((ease[0], ease[1], ease[2], ease[3]))

    def _take(self, ease: Ease) -> None:
        self._show(ease)
        self.session.change(pins.shaped(self.session.shot, self.chosen, "eased", ease))

    def _show(self, ease: Ease) -> None:
        self.plot.show_ease(ease)
        for field, value in zip(self.fields, ease, strict=True):
            field.show_value(value)
