"""Editors with a picture of their own: stops, colours, outlines."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter
from PyQt6.QtWidgets import QPushButton, QToolButton, QVBoxLayout

from nimble_quake.desktop.access.bases import SpokenButton
from nimble_quake.desktop.settings.bound import Bound, motion_of
from nimble_quake.desktop.settings.outline_editor import OutlinePad
from nimble_quake.desktop.theme.look import give_icon
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.colour_dialog import ColourDialog
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.desktop.widgets.slide_field import MARK_WIDTH, paint_tremor
from nimble_quake.desktop.widgets.stop_bar import StopBar
from nimble_quake.params.conditions import When
from nimble_quake.params.kinds import Colour, Net, Outline, Stops, hex_of
from nimble_quake.session.colours import colours_of
from nimble_quake.session.state import Session
from nimble_quake.shot.paths import node_path, value_path


class StopsEditor(Bound):
    """A stop bar."""

    def __init__(self, session: Session, path: str, param: Stops, region: str) -> None:
        super().__init__(session, path, param, region)
        self.bar = StopBar(param, region)
        self.bar.own_colours = lambda: colours_of(session.shot)
        self.gesture(self.bar)
        self.row.addWidget(self.bar)
        self.setFocusProxy(self.bar)

    def refresh(self) -> None:
        self.bar.show_value(self.session.shown(self.path) or ())


class ColourWell(SpokenButton):
    """A patch of colour that opens a colour dialog."""

    def __init__(self, editor: ColourEditor) -> None:
        super().__init__()
        self.editor, self.rgba = editor, (1.0, 1.0, 1.0, 1.0)
        self.setFixedHeight(20)
        self.setMinimumWidth(60)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(editor.param.label)
        self.setToolTip(f"{editor.param.help}. Click to choose; the mark at its left sets it moving.")
        self.clicked.connect(editor.ask)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event and event.position().x() < MARK_WIDTH:
            self.editor.mark()
        elif event and event.button() == Qt.MouseButton.LeftButton:
            self.editor.ask()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space, Qt.Key.Key_Enter):
            self.editor.ask()
        else:
            super().keyPressEvent(event)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(colour("raised"))
        painter.setPen(colour("chalk") if self.hasFocus() else colour("raised"))
        painter.drawRoundedRect(self.rect().adjusted(0, 0, -1, -1), 3, 3)
        painter.fillRect(MARK_WIDTH + 2, 4, self.width() - MARK_WIDTH - 8, 12, QColor.fromRgbF(*self.rgba))
        motion = motion_of(self.editor.session, self.editor.path)
        paint_tremor(painter, QPoint(10, 10).toPointF(), motion, colour(self.editor.region))


class ColourEditor(Bound):
    """A colour well; the dialog tries colours in the picture."""

    def __init__(self, session: Session, path: str, param: Colour, region: str) -> None:
        super().__init__(session, path, param, region)
        self.well = ColourWell(self)
        self.row.addWidget(self.well)
        self.dropper = QToolButton()
        self.dropper.setProperty("bare", "true")
        give_icon(self.dropper, "target")
        self.dropper.setFixedSize(22, 20)
        self.dropper.setToolTip("Pick it: click on the colour in the picture")
        self.dropper.setAccessibleName(f"Pick {param.label.lower()} in the picture")
        self.dropper.clicked.connect(lambda: session.colour_asked.emit(path))
        self.row.addWidget(self.dropper)
        self.setFocusProxy(self.well)

    def ask(self) -> None:
        """Open the colour dialog."""
        dialog = ColourDialog(self.well.rgba, self.param.label, colours_of(self.session.shot), self)
        self.begin()
        dialog.changed.connect(self.send)
        if dialog.exec():
            self.end()
        else:
            self.session.abort()

    def refresh(self) -> None:
        self.well.rgba = self.session.shown(self.path) or (1.0, 1.0, 1.0, 1.0)
        self.well.setAccessibleDescription(hex_of(self.well.rgba))
        self.well.update()


class OutlineEditor(Bound):
    """The points of a curve or a free shape."""

    def __init__(self, session: Session, path: str, param: Outline, region: str) -> None:
        super().__init__(session, path, param, region)
        self.smooth_when, self.closed_when = param.smooth_when, param.closed_when
        self.pad = OutlinePad(region, curve=param.least < 3, least=param.least)
        self.gesture(self.pad)
        column = QVBoxLayout()
        column.setSpacing(4)
        column.addWidget(self.pad)
        operator = session.operator(node_path(path))
        if operator is not None and operator.traced is not None and operator.traced.outline == param.name:
            column.addWidget(self._trace_button())
        self.row.addLayout(column)
        self.setFocusProxy(self.pad)

    def _trace_button(self) -> QPushButton:
        button = QPushButton("Click its points in the picture")
        button.setFixedHeight(22)
        button.setToolTip("Draws it anew: each click in the picture sets a point; Return closes it")
        button.clicked.connect(lambda: self.session.outline_asked.emit(self.path))
        return button

    def refresh(self) -> None:
        points = self.session.shown(self.path) or ()
        self.pad.show_points(points, smooth=self._holds(self.smooth_when), closed=self._holds(self.closed_when))

    def _holds(self, when: When | None) -> bool:
        return when is None or when.holds(self.session.shown(value_path(self.path, when.name)))


class NetEditor(Bound):
    """Says how many points of a net are moved; they are dragged in the picture. A button takes their moves back."""

    def __init__(self, session: Session, path: str, param: Net, region: str) -> None:
        super().__init__(session, path, param, region)
        self.done = param.done
        self.button = QPushButton()
        self.button.setProperty("row", True)
        self.button.setFixedHeight(20)
        self.button.setAccessibleName(param.label)
        self.button.setToolTip(f"{param.help}. Click: a pin for all points here. Right-click: back to the start.")
        self.button.clicked.connect(self.mark)
        self.row.addWidget(self.button)
        self.setFocusProxy(self.button)

    def refresh(self) -> None:
        moves = self.session.shown(self.path) or ()
        moved = sum(1 for x, y in zip(moves[::2], moves[1::2], strict=False) if x or y)
        words = {"still": "", "moving": ", moving", "pinned": ", pin here"}[motion_of(self.session, self.path)]
        self.button.setText(f"{moved} {self.done}{words}")
