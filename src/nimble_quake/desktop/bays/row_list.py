"""A list of rows that can be selected, switched, dragged into another order, and used from the keyboard."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import QPoint, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QMenu, QScrollArea, QWidget

from nimble_quake.desktop.access.bases import SpokenList
from nimble_quake.desktop.bays.row_painting import EYE, INDENT, Row, paint_row
from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.desktop.widgets.typed_entry import TypedEntry
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import items
from nimble_quake.shot.paths import same_row


class RowList(SpokenList):
    """Paints rows of one height. Keyboard: up and down select, Return switches, Delete removes, F2 renames,
    Alt with up and down moves."""

    chosen = pyqtSignal(str)
    switched = pyqtSignal(str)
    switched_here = pyqtSignal(str)
    """Alt and a click on the eye: from the playhead on."""
    removed = pyqtSignal(str)
    renamed = pyqtSignal(str, str)
    marked = pyqtSignal(str)
    """(path): it is to be selected too, or no longer: clicked with Ctrl."""
    moved = pyqtSignal(str, int)
    """(path, new place among the rows of its own parent)."""
    carried = pyqtSignal(str, str, bool)
    """(path, the row it was dropped on, of another parent, whether Ctrl was held: a copy)."""
    folded = pyqtSignal(str)
    note_asked = pyqtSignal(str, object)
    """(path, where on the screen): the note was clicked, which is a choice."""
    level_asked = pyqtSignal(str)
    menu_asked = pyqtSignal(str, object)

    def __init__(self, name: str, row_height: int, thumb: QSize, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._height, self.thumb = row_height, thumb
        self.rows: list[Row] = []
        self.thumbs: dict[str, QImage] = {}
        self.hot: dict[str, tuple[QRectF, QRectF]] = {}
        """Where notes that are choices, and levels, were painted, by path."""
        self.selected: tuple[str, ...] = ()
        self.current = ""
        """The one of the selected rows that keys are meant for: the last one chosen by hand."""
        self._drag: Row | None = None
        self._drag_y = 0.0
        self._dragging = False
        self.empty_text = ""
        self.carries: Callable[[str, str], bool] = lambda path, onto: False
        """Whether a row may be dropped on another, of another parent."""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.customContextMenuRequested.connect(self._ask_menu)

    def show_rows(self, rows: list[Row], selected: tuple[str, ...]) -> None:
        """Show rows; the selected ones are marked with their region's colour."""
        if (rows, selected) == (self.rows, self.selected):
            return
        self.rows, self.selected = rows, selected
        if self.current not in selected:
            self.current = selected[-1] if selected else ""
        self.setMinimumHeight(max(self._height, len(rows) * self._height))
        names = [row.title for row in rows if row.path in selected]
        self.setAccessibleDescription(", ".join(names))
        self._say()
        self.update()

    def _say(self) -> None:
        """Say what its rows are, and which of them keys are meant for; not what they cost, which changes each frame."""
        names = [f"{row.title}, {row.second}" if row.second else row.title for row in self.rows]
        self.say_items(names, self._index(self.current))

    def show_thumb(self, path: str, image: QImage) -> None:
        """Show a row's small picture."""
        self.thumbs[path] = image
        self.update()

    def row_at(self, y: float) -> Row | None:
        """Return the row at a height."""
        index = int(y // self._height)
        return self.rows[index] if 0 <= index < len(self.rows) else None

    def _index(self, path: str) -> int:
        return next((n for n, row in enumerate(self.rows) if row.path == path), -1)

    def siblings(self, row: Row) -> list[Row]:
        """Return the rows that share a row's parent, in order."""
        return [r for r in self.rows if same_row(r.path, row.path)]

    # Mouse and keys

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        row = self.row_at(event.position().y()) if event else None
        if event is None or row is None:
            return
        x = event.position().x()
        if event.button() == Qt.MouseButton.LeftButton and x > self.width() - EYE:
            alt = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
            (self.switched_here if alt else self.switched).emit(row.path)
            return
        if row.open is not None and row.depth * INDENT <= x < row.depth * INDENT + 18:
            self.folded.emit(row.path)
            return
        if event.button() == Qt.MouseButton.LeftButton and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.marked.emit(row.path)
            return
        self._choose(row.path)
        note, level = self.hot.get(row.path, (QRectF(), QRectF()))
        if event.button() == Qt.MouseButton.LeftButton and note.contains(event.position()):
            self.note_asked.emit(row.path, self.mapToGlobal(note.bottomLeft().toPoint()))
        elif event.button() == Qt.MouseButton.LeftButton and level.contains(event.position()):
            self.level_asked.emit(row.path)
        elif event.button() == Qt.MouseButton.LeftButton and not row.locked:
            self._drag, self._drag_y, self._dragging = row, event.position().y(), False

    def _choose(self, path: str) -> None:
        self.current = path
        self._say()
        self.chosen.emit(path)
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._drag is None:
            return
        if abs(event.position().y() - self._drag_y) > 5 or self._dragging:
            self._dragging, self._drag_y = True, event.position().y()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        row, self._drag = self._drag, None
        if row is not None and self._dragging:
            self._dragging, onto = False, self._onto(row)
            copies = event is not None and bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
            if onto is not None:
                self.carried.emit(row.path, onto.path, copies)
            else:
                self.moved.emit(row.path, self._drop_place(row))
            self.update()

    def _onto(self, row: Row) -> Row | None:
        """The row of another parent that a dragged one would be dropped on."""
        under = self.row_at(self._drag_y)
        return under if under is not None and self.carries(row.path, under.path) else None

    def _drop_place(self, row: Row) -> int:
        """The place among its siblings where a dragged row would land."""
        others = [s for s in self.siblings(row) if s.path != row.path]
        return sum(1 for s in others if (self._index(s.path) + 0.5) * self._height < self._drag_y)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        row = self.row_at(event.position().y()) if event else None
        if row is not None and event is not None and event.position().x() < self.width() - EYE:
            self.rename(row.path)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        index = next((n for n, row in enumerate(self.rows) if row.path == self.current), -1)
        row = self.rows[index] if index >= 0 else None
        key, alt = event.key(), bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self.rows:
            step = -1 if key == Qt.Key.Key_Up else 1
            if alt and row is not None:
                order = [s.path for s in self.siblings(row)]
                self.moved.emit(row.path, max(0, order.index(row.path) + step))
            else:
                self._choose(self.rows[min(max(index + step, 0), len(self.rows) - 1)].path)
        elif row is not None and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.switched.emit(row.path)
        elif row is not None and key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.removed.emit(row.path)
        elif row is not None and key == Qt.Key.Key_F2:
            self.rename(row.path)
        elif row is not None and row.open is not None and key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.folded.emit(row.path)
        else:
            super().keyPressEvent(event)

    def rename(self, path: str) -> None:
        """Let a row's name be typed."""
        index = self._index(path)
        if index < 0:
            return
        edit = TypedEntry(self, self.rows[index].title, lambda text: self._renamed(path, text))
        edit.setAccessibleName("New name")
        edit.setGeometry(18, index * self._height, self.width() - 18 - int(EYE), min(24, self._height))
        edit.open()

    def _renamed(self, path: str, text: str) -> str:
        if text.strip():
            self.renamed.emit(path, text.strip())
        return ""

    def _ask_menu(self, at: QPoint) -> None:
        y = at.y()
        row = self.row_at(float(y))
        if row is not None:
            if row.path not in self.selected:
                self._choose(row.path)
            self.menu_asked.emit(row.path, self.mapToGlobal(at))

    # Painting

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        if not self.rows and self.empty_text:
            painter.setFont(font())
            painter.setPen(colour("quiet"))
            flags = int(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap)
            painter.drawText(QRectF(4, 6, self.width() - 8, self.height()), flags, self.empty_text)
        seen = self.visibleRegion().boundingRect()
        for index, row in enumerate(self.rows):
            if not seen.top() - self._height <= index * self._height <= seen.bottom():
                continue
            paint_row(self, painter, row, QRectF(0, index * self._height, self.width(), self._height - 2))
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(colour("chalk", 150), 1))
            painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))
        if self._dragging and self._drag is not None:
            self._paint_drop(painter, self._drag)

    def _paint_drop(self, painter: QPainter, row: Row) -> None:
        onto = self._onto(row)
        if onto is not None:
            painter.setPen(QPen(colour(row.region), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            top = self._index(onto.path) * self._height
            painter.drawRect(QRectF(1, top + 1, self.width() - 2, self._height - 3))
            return
        others = [s for s in self.siblings(row) if s.path != row.path]
        place = self._drop_place(row)
        index = self._index(others[place].path) if place < len(others) else len(self.rows)
        y = index * self._height - 1
        painter.setPen(QPen(colour(row.region), 2))
        painter.drawLine(QPointF(row.depth * INDENT, y), QPointF(self.width(), y))


def add_clipboard(menu: QMenu, session: Session, path: str) -> None:
    """Add what is done with a row and the clipboard to its menu."""
    for what in ("copy", "cut", "paste"):
        menu.addAction(what.capitalize(), partial(session.carry_asked.emit, what, path))
    menu.addSeparator()


def add_switches(menu: QMenu, session: Session, path: str, switch: Callable[[Session, str], object]) -> None:
    """Add to a row's menu how it is switched: for the whole shot, and from the playhead on."""
    menu.addAction("Switch on or off", lambda: switch(session, path))
    way = "Off" if items.acts_now(session, path) else "On"
    menu.addAction(f"{way} from here on, by a pin", lambda: items.switch_here(session, path))


def scrolled(rows: RowList) -> QScrollArea:
    """Return a list in an area that scrolls."""
    area = QScrollArea()
    area.setWidget(rows)
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    return area
