"""The board of sources and shapers: moving thumbnails, tried on the real picture before one is added."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QImage, QKeyEvent, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QLabel, QLineEdit, QPushButton, QScrollArea, QVBoxLayout, QWidget

from nimble_quake.desktop.bench.frames import Frames
from nimble_quake.desktop.bench.parts import Region, bare, line, quiet, title
from nimble_quake.desktop.bench.viewer import image_of
from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.desktop.widgets.segments import Segments
from nimble_quake.motion.kinds import Formula
from nimble_quake.operators.base import Operator
from nimble_quake.render.bench import thumbnail
from nimble_quake.session import verbs
from nimble_quake.session.state import Session
from nimble_quake.shot.model import Map, Node, Plate, Shot

THUMB = QSize(118, 66)
CELL = QSize(128, 92)
FEW = 10
"""Up to so many choices are shown larger."""
GROUPS = ("Clouds", "Waves", "Cuts", "Swarms", "Brought in", "Values", "Softness", "Cells")
"""The order of the groups; others follow by name."""
BEFORE = {"shaper": (Node(id="base", kind="noise", values={"size_x": 420.0, "size_y": 420.0}),)}
"""What a shaper's thumbnail is shown on."""
LIVELY: dict[str, dict[str, object]] = {
    "noise": {"churn": 0.7, "drift": (60.0, 0.0)},
    "gradient": {"start": Formula("-400 + 500 * sin(t * 2), 360"), "end": Formula("1280 + 500 * sin(t * 2), 360")},
    "pixelate": {"size_x": 110.0, "size_y": 90.0},
    "blur": {"radius": 50.0},
    "levels": {"black": 0.3, "white": 0.7},
    "picture": {"plate": "title"},
}
"""Values that let a thumbnail move."""


@dataclass(frozen=True)
class Entry:
    """One choice on the board."""

    operator: type[Operator]

    def shot(self) -> Shot:
        """Return a small shot whose only map shows the choice."""
        op = self.operator
        node = Node(id=op.kind, kind=op.kind, values=dict(LIVELY.get(op.kind, {})))
        recipe = (*BEFORE.get(op.family, ()), node)
        title = Plate(id="title", kind="text", values={"size": 300.0, "words": "ROW"})
        return Shot(width=1280, height=720, length=240, plates=(title,), maps=(Map(id="map", name="", recipe=recipe),))


def _place(entry: Entry) -> tuple[bool, int, str]:
    group = entry.operator.group
    return entry.operator.family != "source", GROUPS.index(group) if group in GROUPS else 99, group


class Cells(QWidget):
    """The thumbnails, grouped by what they look like."""

    hovered = pyqtSignal(object)
    taken = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.entries: list[Entry] = []
        self.current: Entry | None = None
        self.images: dict[str, QImage] = {}
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Choices")

    def show_entries(self, entries: list[Entry]) -> None:
        """Show choices."""
        self.entries = entries
        if self.current not in entries:
            self.current = entries[0] if entries else None
        self.setMinimumHeight(int(max((box.bottom() for _, box, _ in self.boxes()), default=0.0)) + 10)
        self.update()

    def _times(self) -> float:
        return 1.45 if len(self.entries) <= FEW else 1.0

    def boxes(self) -> list[tuple[Entry, QRectF, str]]:
        """Return each choice with its box; the first of a group has the group's name."""
        found: list[tuple[Entry, QRectF, str]] = []
        y, group = 6.0, ""
        wide, tall = int(CELL.width() * self._times()), int(CELL.height() * self._times() - 8 * (self._times() - 1))
        column, columns = 0, max(1, (self.width() - 96) // wide)
        for entry in self.entries:
            name = entry.operator.group
            if name != group or column >= columns:
                y += tall if found else 0
                column = 0
            found.append(
                (
                    entry,
                    QRectF(92 + column * wide, y, wide - 10, tall - 6),
                    name if name != group else "",
                )
            )
            group, column = name, column + 1
        return found

    def resizeEvent(self, event: object) -> None:
        self.show_entries(self.entries)

    def _at(self, event: QMouseEvent) -> Entry | None:
        return next((entry for entry, box, _ in self.boxes() if box.contains(event.position())), None)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        entry = self._at(event) if event else None
        if entry is not None and entry != self.current:
            self.choose(entry)

    def choose(self, entry: Entry) -> None:
        """Make a choice the current one, and try it."""
        self.current = entry
        self.setAccessibleDescription(entry.operator.title)
        self.hovered.emit(entry)
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        entry = self._at(event) if event else None
        if entry is not None:
            self.choose(entry)
            self.taken.emit(entry)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or not self.entries or self.current is None:
            return
        index = self.entries.index(self.current)
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        if event.key() in steps:
            self.choose(self.entries[(index + steps[Qt.Key(event.key())]) % len(self.entries)])
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.taken.emit(self.current)
        else:
            super().keyPressEvent(event)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        for entry, box, group in self.boxes():
            if group:
                painter.setFont(font(12, strong=True))
                painter.setPen(colour("text"))
                painter.drawText(QRectF(8, box.top() + 2, 84, 20), int(Qt.AlignmentFlag.AlignVCenter), group)
            on = entry == self.current
            if on:
                painter.fillRect(box.adjusted(-3, -3, 3, 3), colour("brass", 66))
                painter.setPen(QPen(colour("brass"), 2))
                painter.drawRect(box.adjusted(-3, -3, 3, 3))
            picture = QRectF(box.left(), box.top(), box.width(), box.width() * 9 / 16)
            painter.fillRect(picture, colour("well"))
            if entry.operator.kind in self.images:
                painter.drawImage(picture, self.images[entry.operator.kind])
            painter.setFont(font(12))
            painter.setPen(colour("text"))
            name = QFontMetricsF(font(12)).elidedText(entry.operator.title, Qt.TextElideMode.ElideRight, box.width())
            painter.drawText(
                QRectF(box.left(), picture.bottom(), box.width(), 19), int(Qt.AlignmentFlag.AlignVCenter), name
            )


class SourceBoard(Region):
    """Covers map and coupling, never the picture."""

    closed = pyqtSignal()
    _made = pyqtSignal(str, object)

    def __init__(self, session: Session, frames: Frames, parent: QWidget) -> None:
        super().__init__("brass", "Board of sources and shapers")
        self.setParent(parent)
        self.session, self.frames = session, frames
        self.family = "source"
        self.frame = 0
        self.cells = Cells()
        self.cells.hovered.connect(self._try)
        self.cells.taken.connect(self._take)
        counts = {family: len(session.engine.operators.all(family)) for family in ("source", "shaper")}
        self.kinds = Segments(
            (("source", f"Sources  {counts['source']}"), ("shaper", f"Shapers  {counts['shaper']}")),
            "brass",
            "Kind",
            boxed=False,
        )
        self.kinds.chosen.connect(self._choose_family)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Type to find one")
        self.search.setAccessibleName("Find a source or shaper")
        self.search.setFixedSize(170, 22)
        self.search.textChanged.connect(lambda _: self._fill())
        self.search.returnPressed.connect(lambda: self._take(self.cells.current) if self.cells.current else None)
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.name = title("", "brass")
        self.target = quiet("")
        self.add = QPushButton("Add")
        self.add.setProperty("main", "true")
        self.add.clicked.connect(lambda: self._take(self.cells.current) if self.cells.current else None)
        self._lay_out()
        self._made.connect(self._show_image)
        self._clock = QTimer(self)
        self._clock.setInterval(66)
        self._clock.timeout.connect(self._animate)
        self.hide()

    def _lay_out(self) -> None:
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 2, 0, 8)
        outer.setSpacing(4)
        shut = bare("close", "Close without adding (Esc)", self.shut)
        outer.addWidget(
            line(title("Add a step", "brass"), 4, self.target, None, self.kinds, 6, self.search, shut, height=32)
        )
        area = QScrollArea()
        area.setWidget(self.cells)
        area.setWidgetResizable(True)
        outer.addWidget(area, 1)
        foot = line(self.name, 10, self.words, None, self.add, height=56)
        layout = foot.layout()
        if layout is not None:
            layout.setStretchFactor(self.words, 1)  # type: ignore[attr-defined]
        outer.addWidget(foot)

    def open(self) -> None:
        """Show the board over map and coupling."""
        self.target.setText(f"to {self.session.name_of(self.session.selection.map)}")
        self.search.clear()
        self._fill()
        self.show()
        self.raise_()
        self.search.setFocus()
        self._clock.start()
        if self.cells.current:
            self._try(self.cells.current)

    def shut(self) -> None:
        """Close, with nothing added."""
        self._clock.stop()
        self.hide()
        self.frames.with_override(None)
        self.closed.emit()

    def _choose_family(self, family: str) -> None:
        self.family = family
        self._fill()

    def _fill(self) -> None:
        typed = self.search.text().strip().lower()
        found = self.session.engine.operators.all() if typed else self.session.engine.operators.all(self.family)
        entries = [
            Entry(op) for op in found
            if op.family in ("source", "shaper") and typed in f"{op.title} {op.help} {op.group}".lower()
        ]  # fmt: skip
        entries.sort(key=_place)
        self.cells.show_entries(entries)
        if self.cells.current and self.isVisible():
            self._try(self.cells.current)

    def _try(self, entry: Entry) -> None:
        operator = entry.operator
        self.name.setText(operator.title)
        names = " · ".join(p.label.lower() for p in list(operator.declared.values())[:6])
        self.words.setText(f"{operator.help}\n{names}")
        if self.session.selection.map:
            shot, _ = verbs.with_step(
                self.session.shot, self.session.selection.map, operator.kind, self.session.selection.step
            )
            self.frames.with_override(shot)

    def _take(self, entry: Entry) -> None:
        self.shut()
        verbs.new_step(self.session, entry.operator.kind)

    def _animate(self) -> None:
        self.frame = (self.frame + 2) % 240
        for entry in self.cells.entries:
            kind, shot, frame = entry.operator.kind, entry.shot(), self.frame

            def make(kind: str = kind, shot: Shot = shot, frame: int = frame) -> None:
                found = thumbnail(self.session.engine, shot, frame, "map", None, round(THUMB.width() * 1.5))
                if found is not None:
                    self._made.emit(kind, image_of(found))

            self.frames.scheduler.later(f"board-{kind}", make)

    def _show_image(self, kind: str, image: QImage) -> None:
        self.cells.images[kind] = image
        self.cells.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event.key() == Qt.Key.Key_Escape:
            self.shut()
        elif event.key() == Qt.Key.Key_Down and self.search.hasFocus():
            self.cells.setFocus()
        else:
            super().keyPressEvent(event)
