"""The editor of what stands behind a dial: a row for each value, with what it is at the dial's two ends."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

from PyQt6.QtWidgets import QHBoxLayout, QLabel, QSizePolicy, QToolButton, QVBoxLayout, QWidget

from nimble_quake.desktop.settings.bound import Bound
from nimble_quake.desktop.theme.look import font, give_icon, tone
from nimble_quake.desktop.widgets.chooser import Chooser
from nimble_quake.desktop.widgets.slide_field import SlideField
from nimble_quake.operators.front.base import NumberDial
from nimble_quake.operators.front.turning import param_behind
from nimble_quake.params.kinds import Drive, Number, Param
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import front
from nimble_quake.shot.paths import node_path

COURSES: tuple[tuple[str, tuple[tuple[float, float], ...]], ...] = (
    ("Straight", ()),
    ("Slow, then fast", ((0.0, 0.0), (0.25, 0.0625), (0.5, 0.25), (0.75, 0.5625), (1.0, 1.0))),
    ("Fast, then slow", ((0.0, 0.0), (0.25, 0.4375), (0.5, 0.75), (0.75, 0.9375), (1.0, 1.0))),
    ("Eased", ((0.0, 0.0), (0.25, 0.15625), (0.5, 0.5), (0.75, 0.84375), (1.0, 1.0))),
    ("There and back", ((0.0, 0.0), (0.5, 1.0), (1.0, 0.0))),
)
"""How a value goes from one end of a dial to the other."""


class DrivesEditor(Bound):
    """Whose values go along; numbers have two ends of their own."""

    def __init__(self, session: Session, path: str, param: Param, region: str) -> None:
        super().__init__(session, path, param, region)
        self.setToolTip(param.help)
        self.list = QVBoxLayout()
        self.list.setSpacing(3)
        self.row.addLayout(self.list)
        self._shown: tuple[str, ...] | None = None
        self._ends: dict[str, tuple[SlideField, SlideField]] = {}

    def value(self) -> tuple[Drive, ...]:
        """Return what stands behind the dial now."""
        return tuple(self.session.shown(self.path) or ())

    def refresh(self) -> None:
        drives = self.value()
        paths = tuple(drive.path for drive in drives)
        if paths != self._shown:
            self._shown = paths
            self._ends = {}
            while (item := self.list.takeAt(0)) is not None:
                widget = item.widget()
                if widget is not None:
                    widget.deleteLater()
            for drive in drives:
                self.list.addWidget(self._line(drive))
        for drive in drives:
            for field, end in zip(self._ends.get(drive.path, ()), self._ends_of(drive), strict=False):
                field.show_value(end)

    def _ends_of(self, drive: Drive) -> tuple[float, float]:
        """What it is at the ends of the dial: the dial's own, until others are set."""
        operator = self.session.operator(self.path)
        if drive.ends is not None or operator is None or not issubclass(operator, NumberDial):
            return drive.ends or (0.0, 1.0)
        return operator.reach_of(self.session.values_of(node_path(self.path)))

    def _line(self, drive: Drive) -> QWidget:
        holder = QWidget()
        line = QHBoxLayout(holder)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(4)
        param = param_behind(self.session.shot, drive.path)
        whole = front.whole_name(self.session, drive.path) if param is not None else f"{drive.path} (gone)"
        label = QLabel(whole)
        label.setFont(font(11))
        label.setMinimumWidth(40)
        label.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        label.setToolTip(whole)
        tone(label, "text" if param is not None else "fault_text")
        line.addWidget(label, 3)
        dial = self.session.operator(self.path)
        if isinstance(param, Number) and dial is not None and issubclass(dial, NumberDial) and not drive.own:
            self._ends[drive.path] = (self._end(drive, param, 0), self._end(drive, param, 1))
            for field in self._ends[drive.path]:
                line.addWidget(field, 2)
            line.addWidget(self._course(drive))
        close = QToolButton()
        close.setProperty("bare", "true")
        give_icon(close, "close")
        close.setFixedSize(20, 20)
        close.setToolTip("Take it from behind this dial; it stays as it is")
        close.setAccessibleName(f"Take away: {whole}")
        close.clicked.connect(partial(front.let_go, self.session, node_path(self.path), drive.path))
        line.addWidget(close)
        return holder

    def _course(self, drive: Drive) -> Chooser:
        box = Chooser("Course")
        box.setToolTip("How it goes from one end to the other while the dial is turned")
        box.setFixedWidth(112)
        for title, course in COURSES:
            box.addItem(title, course)
        known = [course for _, course in COURSES]
        if drive.course not in known:
            box.addItem("Its own", drive.course)
        box.setCurrentIndex(known.index(drive.course) if drive.course in known else len(known))
        box.activated.connect(lambda index: self._bend(drive.path, box.itemData(index)))
        return box

    def _bend(self, path: str, course: tuple[tuple[float, float], ...]) -> None:
        found = [
            (replace(each, course=course, ends=self._ends_of(each)) if each.path == path else each)
            for each in self.value()
        ]
        self.send(tuple(found))

    def _end(self, drive: Drive, param: Number, which: int) -> SlideField:
        name = ("At its low end", "At its high end")[which]
        own = replace(param, label=name, help=f"{name}: what {param.label.lower()} is there; a range may run downwards")
        field = SlideField(own, self.region, mark=False)
        field.began.connect(self.begin)
        field.changing.connect(partial(self._change, drive.path, which))
        field.ended.connect(self.end)
        return field

    def _change(self, path: str, which: int, new: float) -> None:
        def changed(drive: Drive) -> Drive:
            ends = list(self._ends_of(drive))
            ends[which] = new
            return replace(drive, ends=(ends[0], ends[1]))

        self.send(tuple(changed(drive) if drive.path == path else drive for drive in self.value()))
