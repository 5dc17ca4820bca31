"""An editor for each kind of parameter, bound to a value of the open shot.

Every editor has `refresh()`, which shows the document's value without counting as a change.
"""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any, Protocol

from PyQt6.QtCore import QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QContextMenuEvent, QFocusEvent, QMouseEvent, QPainter, QWheelEvent
from PyQt6.QtWidgets import (
    QCheckBox,
    QColorDialog,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QToolButton,
    QWidget,
)

from nimble_quake.desktop.settings.motion_menu import click_mark, motion_menu
from nimble_quake.desktop.settings.outline_editor import OutlinePad
from nimble_quake.desktop.theme.look import icon
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.angle_field import AngleField
from nimble_quake.desktop.widgets.drift_pad import DriftPad, bearing_word
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.desktop.widgets.segments import Segments
from nimble_quake.desktop.widgets.slide_field import MARK_WIDTH, SlideField, paint_tremor
from nimble_quake.desktop.widgets.stop_bar import StopBar
from nimble_quake.media import clips, stills
from nimble_quake.media.type import faces
from nimble_quake.motion.kinds import Keys, is_moving
from nimble_quake.params.kinds import (
    Choice,
    Colour,
    Drift,
    Face,
    MapRef,
    MediaFile,
    Number,
    Outline,
    Pairs,
    Param,
    PlateRef,
    Seed,
    Stops,
    Toggle,
    Words,
    hex_of,
)
from nimble_quake.session.state import Session


class Editor(Protocol):
    """What a settings panel needs of an editor; all are QWidgets."""

    def refresh(self) -> None:
        """Show the document's value."""


def motion_of(session: Session, path: str) -> str:
    """Return "still", "moving" or "pinned" for a value at the playhead."""
    raw = session.raw(path)
    if isinstance(raw, Keys):
        return "pinned" if any(round(key.frame) == session.frame for key in raw.keys) else "moving"
    return "moving" if is_moving(raw) else "still"


class _Bound(QWidget):
    """The base of editors: it knows its session, path and parameter."""

    def __init__(self, session: Session, path: str, param: Param, region: str) -> None:
        super().__init__()
        self.session, self.path, self.param, self.region = session, path, param, region
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        self.row = row

    def begin(self) -> None:
        self.session.begin(f"Change {self.session.label_of(self.path)}")

    def send(self, value: Any) -> None:
        self.session.set(self.path, value)

    def end(self) -> None:
        self.session.commit()

    def mark(self) -> None:
        click_mark(self.session, self.path, self)

    def gesture(self, widget: Any) -> None:
        """Join a widget's began, changing and ended."""
        widget.began.connect(self.begin)
        widget.changing.connect(self.send)
        widget.ended.connect(self.end)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event:
            motion_menu(self.session, self.path, self).exec(event.globalPos())


class NumberEditor(_Bound):
    """A slide-field, with a ring for angles."""

    def __init__(self, session: Session, path: str, param: Number, region: str) -> None:
        super().__init__(session, path, param, region)
        self.angle = AngleField(param, region) if param.ring else None
        self.field = self.angle.field if self.angle else SlideField(param, region)
        self.row.addWidget(self.angle or self.field)
        if self.angle:
            self.gesture(self.angle.ring)
        self.gesture(self.field)
        self.field.aborted.connect(session.abort)
        self.field.mark_clicked.connect(self.mark)
        self.setFocusProxy(self.field)

    def refresh(self) -> None:
        value = self.session.shown(self.path)
        if value is not None:
            (self.angle or self.field).show_value(value, motion_of(self.session, self.path))


class PairEditor(_Bound):
    """Two slide-fields, x and y."""

    def __init__(self, session: Session, path: str, param: Pairs, region: str) -> None:
        super().__init__(session, path, param, region)
        low, high = (0.0, 1.0) if param.factor != 1 else (0.0, 1920.0)
        self.fields: list[SlideField] = []
        for axis in "xy":
            number = Number(
                label=f"{param.label} {axis}", help=f"{param.help}, {axis}", unit=param.unit, hard=param.hard,
                usual=(low, high), decimals=param.decimals, factor=param.factor, default=0.0,
            )  # fmt: skip
            field = SlideField(number, region, mark=axis == "x")
            field.began.connect(self.begin)
            field.changing.connect(lambda _: self.send((self.fields[0].value, self.fields[1].value)))
            field.ended.connect(self.end)
            field.mark_clicked.connect(self.mark)
            self.fields.append(field)
            self.row.addWidget(field)
        self.setFocusProxy(self.fields[0])

    def refresh(self) -> None:
        motion = motion_of(self.session, self.path)
        for field, number in zip(self.fields, self.session.shown(self.path) or (0.0, 0.0), strict=True):
            field.show_value(number, motion)


class DriftEditor(_Bound):
    """A drift pad; its speed and direction stand in words under its name."""

    words: QLabel | None = None

    def __init__(self, session: Session, path: str, param: Drift, region: str) -> None:
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


class StopsEditor(_Bound):
    """A stop bar."""

    def __init__(self, session: Session, path: str, param: Stops, region: str) -> None:
        super().__init__(session, path, param, region)
        self.bar = StopBar(param, region)
        self.gesture(self.bar)
        self.row.addWidget(self.bar)
        self.setFocusProxy(self.bar)

    def refresh(self) -> None:
        self.bar.show_value(self.session.shown(self.path) or ())


class ChoiceEditor(_Bound):
    """A row of segments, or a list that opens."""

    def __init__(self, session: Session, path: str, param: Choice, region: str) -> None:
        super().__init__(session, path, param, region)
        self.choice = param
        self.segments = (
            Segments([(o.value, o.label) for o in param.options], region, param.label) if param.row else None
        )
        self.box = None if param.row else Chooser(param.label)
        if self.segments is not None:
            self.segments.chosen.connect(self.send)
            self.row.addWidget(self.segments)
            self.setFocusProxy(self.segments)
        elif self.box is not None:
            for option in param.options:
                self.box.addItem(option.label, option.value)
                self.box.setItemData(self.box.count() - 1, option.help, Qt.ItemDataRole.ToolTipRole)
            self.box.activated.connect(
                lambda index: self.send(self.box.itemData(index)) if self.box is not None else None
            )
            self.row.addWidget(self.box)
            self.setFocusProxy(self.box)
        helps = "\n".join(f"{o.label}: {o.help}" for o in param.options if o.help)
        self.setToolTip(f"{param.help}\n{helps}".strip())

    def refresh(self) -> None:
        value = str(self.session.shown(self.path))
        if self.segments is not None:
            self.segments.show_value(value)
        elif self.box is not None:
            self.box.setCurrentIndex(max(0, self.box.findData(value)))


class Chooser(QComboBox):
    """A list that opens; the wheel only turns it when it has the focus, and long words do not widen it."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumWidth(40)
        self.setFixedHeight(20)
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None and not self.hasFocus():
            event.ignore()
        else:
            super().wheelEvent(event)

    def showPopup(self) -> None:
        view = self.view()
        if view is not None:
            view.setMinimumWidth(max(self.width(), view.sizeHintForColumn(0) + 28))
        super().showPopup()


class ToggleEditor(_Bound):
    """A box to tick."""

    def __init__(self, session: Session, path: str, param: Toggle, region: str) -> None:
        super().__init__(session, path, param, region)
        self.box = QCheckBox()
        self.box.setAccessibleName(param.label)
        self.box.setToolTip(param.help)
        self.box.clicked.connect(self.send)
        self.row.addWidget(self.box)
        self.row.addStretch(1)
        self.setFocusProxy(self.box)

    def refresh(self) -> None:
        self.box.setChecked(bool(self.session.shown(self.path)))


class SeedEditor(_Bound):
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
        self.die.setIcon(icon("dice"))
        self.die.setFixedSize(22, 20)
        self.die.setToolTip("Next seed: another arrangement")
        self.die.setAccessibleName("Next seed")
        self.die.clicked.connect(lambda: self.send((int(self.field.value) + 1) % param.most))
        self.row.addWidget(self.field, 1)
        self.row.addWidget(self.die)
        self.setFocusProxy(self.field)

    def refresh(self) -> None:
        self.field.show_value(float(self.session.shown(self.path) or 0))


class Page(QPlainTextEdit):
    """A page that says when the keyboard has left it."""

    left = pyqtSignal()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        self.left.emit()


class WordsEditor(_Bound):
    """A line, or a small page where lines may be broken."""

    def __init__(self, session: Session, path: str, param: Words, region: str) -> None:
        super().__init__(session, path, param, region)
        self.page: Page | None = None
        self.line: QLineEdit | None = None
        if param.lines:
            self.page = Page()
            self.page.left.connect(self._left)
            self.page.setFixedHeight(44)
            self.page.setTabChangesFocus(True)
            self.page.textChanged.connect(self._typed)
            edit: QWidget = self.page
        else:
            self.line = QLineEdit()
            self.line.setFixedHeight(20)
            self.line.textEdited.connect(self._typed)
            self.line.editingFinished.connect(self._left)
            edit = self.line
        edit.setAccessibleName(param.label)
        edit.setToolTip(param.help)
        self.row.addWidget(edit)
        self.setFocusProxy(edit)
        self._typing = False

    def _text(self) -> str:
        return self.page.toPlainText() if self.page else self.line.text() if self.line else ""

    def _typed(self) -> None:
        text = self._text()
        if text != self.session.shown(self.path):
            if not self._typing:
                self._typing = True
                self.begin()
            self.send(self.param.check(text[: getattr(self.param, "most", 5000)]))

    def _left(self) -> None:
        if self._typing:
            self._typing = False
            self.end()

    def refresh(self) -> None:
        value = str(self.session.shown(self.path) or "")
        if value == self._text():
            return
        target = self.page or self.line
        if target:
            target.blockSignals(True)
            self.page.setPlainText(value) if self.page else self.line.setText(value) if self.line else None
            target.blockSignals(False)


class FaceEditor(_Bound):
    """A searchable list of typefaces."""

    def __init__(self, session: Session, path: str, param: Face, region: str) -> None:
        super().__init__(session, path, param, region)
        self.box = Chooser(param.label)
        self.box.setEditable(True)
        self.box.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        self.box.addItems(faces())
        self.box.setToolTip(param.help)
        self.box.textActivated.connect(self.send)
        self.row.addWidget(self.box)
        self.setFocusProxy(self.box)

    def refresh(self) -> None:
        self.box.setEditText(str(self.session.shown(self.path)))
        line = self.box.lineEdit()
        if line:
            line.setCursorPosition(0)


class ItemEditor(_Bound):
    """A list of the shot's maps or plates."""

    def __init__(self, session: Session, path: str, param: Param, region: str) -> None:
        super().__init__(session, path, param, region)
        self.box = Chooser(param.label)
        self.box.setToolTip(param.help)
        self.box.activated.connect(lambda index: self.send(self.box.itemData(index)))
        self.row.addWidget(self.box)
        self.setFocusProxy(self.box)

    def refresh(self) -> None:
        shot = self.session.shot
        items = [(m.id, m.name) for m in shot.maps]
        if isinstance(self.param, PlateRef):
            items = [(p.id, self.session.name_of(f"plates/{p.id}")) for p in shot.plates]
        wanted = [("", "None"), *items]
        value = str(self.session.shown(self.path) or "")
        if value and value not in dict(wanted):
            wanted.append((value, f"{value} (gone)"))
        if [(self.box.itemData(n), self.box.itemText(n)) for n in range(self.box.count())] != wanted:
            self.box.clear()
            for id, name in wanted:
                self.box.addItem(name, id)
        self.box.setCurrentIndex(max(0, self.box.findData(value)))


class FileEditor(_Bound):
    """The name of a file, and a button to find one."""

    def __init__(self, session: Session, path: str, param: MediaFile, region: str) -> None:
        super().__init__(session, path, param, region)
        self.button = QPushButton()
        self.button.setIcon(icon("file"))
        self.button.setFixedHeight(20)
        self.button.setStyleSheet("text-align: left")
        self.button.setAccessibleName(param.label)
        self.button.clicked.connect(self.ask)
        self.row.addWidget(self.button)
        self.setFocusProxy(self.button)

    def ask(self) -> None:
        """Ask for a file."""
        picture, clip = (" ".join(f"*{ending}" for ending in endings) for endings in (stills.SUFFIXES, clips.SUFFIXES))
        sort = getattr(self.param, "sort", "")
        wanted = {"still": picture, "clip": clip, "artwork": "*.svg"}.get(sort, f"{picture} {clip} *.svg")
        start = str(Path(str(self.session.shown(self.path) or "")).parent)
        name, _ = QFileDialog.getOpenFileName(self, f"Find: {self.param.label}", start, f"Files ({wanted})")
        if name:
            self.send(name)

    def refresh(self) -> None:
        value = str(self.session.shown(self.path) or "")
        found = not value or Path(value).exists()
        name = Path(value).name if value else "Choose …"
        metrics = self.button.fontMetrics()
        text = name if found else f"Find {name}"
        self.button.setText(metrics.elidedText(text, Qt.TextElideMode.ElideMiddle, max(60, self.width() - 38)))
        self.button.setIcon(icon("file" if found else "warning", "text" if found else "fault_text"))
        self.button.setToolTip(f"{self.param.help}\n{value}" if found else f"This file is not there; find it\n{value}")


class ColourWell(QWidget):
    """A patch of colour that opens a colour dialog."""

    def __init__(self, editor: ColourEditor) -> None:
        super().__init__()
        self.editor, self.rgba = editor, (1.0, 1.0, 1.0, 1.0)
        self.setFixedHeight(20)
        self.setMinimumWidth(60)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(editor.param.label)
        self.setToolTip(f"{editor.param.help}. Click to choose; the mark at its left sets it moving.")

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event and event.position().x() < MARK_WIDTH:
            self.editor.mark()
        elif event and event.button() == Qt.MouseButton.LeftButton:
            self.editor.ask()

    def keyPressEvent(self, event: Any) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space, Qt.Key.Key_Enter):
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


class ColourEditor(_Bound):
    """A colour well; the dialog tries colours in the picture."""

    def __init__(self, session: Session, path: str, param: Colour, region: str) -> None:
        super().__init__(session, path, param, region)
        self.well = ColourWell(self)
        self.row.addWidget(self.well)
        self.setFocusProxy(self.well)

    def ask(self) -> None:
        """Open the colour dialog."""
        dialog = QColorDialog(QColor.fromRgbF(*self.well.rgba), self)
        dialog.setWindowTitle(self.param.label)
        dialog.setOptions(
            QColorDialog.ColorDialogOption.ShowAlphaChannel | QColorDialog.ColorDialogOption.DontUseNativeDialog
        )
        self.begin()
        dialog.currentColorChanged.connect(lambda c: self.send((c.redF(), c.greenF(), c.blueF(), c.alphaF())))
        if dialog.exec():
            self.end()
        else:
            self.session.abort()

    def refresh(self) -> None:
        self.well.rgba = self.session.shown(self.path) or (1.0, 1.0, 1.0, 1.0)
        self.well.setAccessibleDescription(hex_of(self.well.rgba))
        self.well.update()


class OutlineEditor(_Bound):
    """The points of a curve or a free shape."""

    def __init__(self, session: Session, path: str, param: Outline, region: str) -> None:
        super().__init__(session, path, param, region)
        self.pad = OutlinePad(region, curve=param.least < 3, least=param.least)
        self.gesture(self.pad)
        self.row.addWidget(self.pad)
        self.setFocusProxy(self.pad)

    def refresh(self) -> None:
        self.pad.show_points(self.session.shown(self.path) or ())


EDITORS: tuple[tuple[type[Param], type[Any]], ...] = (
    (Number, NumberEditor),
    (Drift, DriftEditor),
    (Pairs, PairEditor),
    (Colour, ColourEditor),
    (Choice, ChoiceEditor),
    (Toggle, ToggleEditor),
    (Seed, SeedEditor),
    (Stops, StopsEditor),
    (Outline, OutlineEditor),
    (Face, FaceEditor),
    (MediaFile, FileEditor),
    (MapRef, ItemEditor),
    (PlateRef, ItemEditor),
    (Words, WordsEditor),
)
"""The editor of each kind; the first that fits counts."""


def editor_for(session: Session, path: str, param: Param, region: str) -> Any:
    """Return an editor for the value at a path."""
    made = next(editor for kind, editor in EDITORS if isinstance(param, kind))
    return made(session, path, param, region)
