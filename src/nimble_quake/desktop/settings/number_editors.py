"""Editors of numbers, pairs, drifts and seeds."""

from __future__ import annotations

import math

from PyQt6.QtWidgets import QLabel, QToolButton

from nimble_quake.desktop.settings.bound import Bound, motion_of
from nimble_quake.desktop.settings.joined_row import PairLink
from nimble_quake.desktop.theme.look import give_icon
from nimble_quake.desktop.widgets.angle_field import AngleField
from nimble_quake.desktop.widgets.drift_pad import DriftPad, bearing_word
from nimble_quake.desktop.widgets.slide_field import SlideField
from nimble_quake.params.kinds import Number, Pairs, Seed, Velocity
from nimble_quake.session.state import Session


class NumberEditor(Bound):
    """A slide-field, with a ring for angles."""

    def __init__(self, session: Session, path: str, param: Number, region: str) -> None:
        super().__init__(session, path, param, region)
        self.angle = AngleField(param, region) if param.ring else None
        self.field = self.angle.field if self.angle else SlideField(param, region)
        self.row.addWidget(self.angle or self.field)
        if self.angle:
            self.gesture(self.angle.ring)
        self.gesture(self.field)
        self.field.mark_clicked.connect(self.mark)
        self.setFocusProxy(self.field)
        self.link: PairLink | None = None
        self._began: tuple[float, float] | None = None
        """What it and its linked partner were when the gesture began."""

    def begin(self) -> None:
        super().begin()
        on = self.link is not None and self.link.on
        self._began = (self.number(), self.partner()) if on else None

    def send(self, value: object) -> None:
        super().send(value)
        if self._began is not None and self.link is not None and self._began[0] and isinstance(value, float):
            own, other = self._began
            path = self.link.other(self.path)
            param = self.session.param(path)
            scaled = other * value / own
            self.session.set(path, param.clamp(scaled) if isinstance(param, Number) else scaled)

    def end(self) -> None:
        super().end()
        self._began = None

    def number(self) -> float:
        """Return the value as it is now."""
        return float(self.session.shown(self.path))

    def partner(self) -> float:
        """Return what it is linked to, as that is now; itself where it is linked to nothing."""
        return self.number() if self.link is None else float(self.session.shown(self.link.other(self.path)))

    def refresh(self) -> None:
        value = self.session.shown(self.path)
        if value is not None:
            (self.angle or self.field).show_value(value, motion_of(self.session, self.path))

    def show_instead(self, value: float) -> None:
        """Show another number than the document's: what the value counts as now."""
        self.field.show_value(value)


class PairEditor(Bound):
    """Two slide-fields, x and y."""

    def __init__(self, session: Session, path: str, param: Pairs, region: str) -> None:
        super().__init__(session, path, param, region)
        low, high = (0.0, 1.0) if param.factor != 1 else (0.0, 1920.0)
        self.fields: list[SlideField] = []
        for axis in "xy":
            number = Number(
                label=f"{param.label} {axis}",
                help=f"{param.help}, {axis}",
                unit=param.unit,
                hard=param.hard,
                usual=(low, high),
                decimals=param.decimals,
                factor=param.factor,
                default=0.0,
            )
            field = SlideField(number, region, mark=axis == "x")
            field.began.connect(self.begin)
            field.changing.connect(lambda _: self.send((self.fields[0].number, self.fields[1].number)))
            field.ended.connect(self.end)
            field.mark_clicked.connect(self.mark)
            self.fields.append(field)
            self.row.addWidget(field)
        self.setFocusProxy(self.fields[0])

    def refresh(self) -> None:
        motion = motion_of(self.session, self.path)
        for field, number in zip(self.fields, self.session.shown(self.path) or (0.0, 0.0), strict=True):
            field.show_value(number, motion)


class DriftEditor(Bound):
    """A drift pad; its speed and direction stand in words under its name."""

    words: QLabel | None = None

    def __init__(self, session: Session, path: str, param: Velocity, region: str) -> None:
        super().__init__(session, path, param, region)
        self.pad = DriftPad(param, region)
        self.gesture(self.pad)
        self.pad.mark_clicked.connect(self.mark)
        self.row.addWidget(self.pad)
        self.row.addStretch(1)
        self.setFocusProxy(self.pad)

    def refresh(self) -> None:
        x, y = self.session.shown(self.path) or (0.0, 0.0)
        self.pad.show_value((x, y), motion_of(self.session, self.path))
        if self.words is not None:
            speed = f"{math.hypot(x, y):.0f} px/s\n{bearing_word(x, y)}" if (x, y) != (0.0, 0.0) else "still"
            self.words.setText(f"{self.param.label}\n{speed}")


class SeedEditor(Bound):
    """A seed with a die that takes the next one."""

    def __init__(self, session: Session, path: str, param: Seed, region: str) -> None:
        super().__init__(session, path, param, region)
        number = Number(
            label=param.label, help=param.help, hard=(0, param.most), usual=(0, 100), whole=True, decimals=0
        )
        self.field = SlideField(number, region, mark=False)
        self.field.began.connect(self.begin)
        self.field.changing.connect(lambda value: self.send(int(value)))
        self.field.ended.connect(self.end)
        self.die = QToolButton()
        self.die.setProperty("bare", "true")
        give_icon(self.die, "dice")
        self.die.setFixedSize(22, 20)
        self.die.setToolTip("Next seed: another arrangement")
        self.die.setAccessibleName("Next seed")
        self.die.clicked.connect(lambda: self.send((int(self.field.number) + 1) % param.most))
        self.row.addWidget(self.field, 1)
        self.row.addWidget(self.die)
        self.setFocusProxy(self.field)

    def refresh(self) -> None:
        self.field.show_value(float(self.session.shown(self.path) or 0))
