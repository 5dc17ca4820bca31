"""The board of sources and shapers: moving thumbnails, tried on the real picture before one is added."""

from __future__ import annotations

import time

from PyQt6.QtCore import QMimeData, QPointF, QRectF, QSize, Qt, QTimer, QUrl, pyqtSignal
from PyQt6.QtGui import QDrag, QFontMetricsF, QImage, QKeyEvent, QMouseEvent, QPainter, QPen, QPixmap
from PyQt6.QtWidgets import QLabel, QLineEdit, QPushButton, QScrollArea, QVBoxLayout, QWidget

from nimble_quake.desktop.bench.frames import Frames
from nimble_quake.desktop.bench.parts import Region, bare, line, quiet, title, worded
from nimble_quake.desktop.bench.viewer import image_of
from nimble_quake.desktop.boards.entries import Entry, kinds, recipes, varied
from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.desktop.widgets.segments import Segments
from nimble_quake.render.bench import thumbnail
from nimble_quake.session import library, variations
from nimble_quake.session.state import Session

THUMB = QSize(118, 66)
CELL = QSize(128, 92)
FEW = 12
"""Up to so many choices are shown larger."""
HEADS = {"source": "Add a source", "shaper": "Add a shaper", "recipes": "Use a recipe", "yours": "Use one of yours"}
STEP = 2
"""How many frames thumbnails go on at a time: 24 a second, shown 12 times."""


class Cells(QWidget):
    """The thumbnails, grouped by what they look like."""

    hovered = pyqtSignal(object)
    taken = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.entries: list[Entry] = []
        self.current: Entry | None = None
        self.empty_text = ""
        self._pressed: tuple[Entry, QPointF] | None = None
        self.images: dict[str, QImage] = {}
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Choices")

    def show_entries(self, entries: list[Entry]) -> None:
        """Show choices."""
        self.entries = entries
        keys = {entry.key: entry for entry in entries}
        self.current = keys.get(self.current.key if self.current else "", entries[0] if entries else None)
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
            name = entry.group
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
        if event is not None and self._pressed is not None and event.buttons():
            self._drag_out(event)
            return
        entry = self._at(event) if event else None
        if entry is not None and (self.current is None or entry.key != self.current.key):
            self.choose(entry)

    def choose(self, entry: Entry) -> None:
        """Make a choice the current one, and try it."""
        self.current = entry
        self.setAccessibleDescription(entry.title)
        self.hovered.emit(entry)
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        entry = self._at(event) if event else None
        if event is not None and entry is not None:
            self.choose(entry)
            self._pressed = (entry, event.position())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        pressed, self._pressed = self._pressed, None
        if event is not None and pressed is not None and self._at(event) is not None:
            self.taken.emit(pressed[0])

    def _drag_out(self, event: QMouseEvent) -> None:
        """Drag a recipe's file off the board, into a folder or another window."""
        assert self._pressed is not None
        entry, start = self._pressed
        if entry.own is None or (event.position() - start).manhattanLength() < 12:
            return
        self._pressed = None
        drag, data = QDrag(self), QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(entry.own.path))])
        drag.setMimeData(data)
        if entry.key in self.images:
            drag.setPixmap(QPixmap.fromImage(self.images[entry.key]))
        drag.exec(Qt.DropAction.CopyAction)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or not self.entries or self.current is None:
            return
        index = next(n for n, entry in enumerate(self.entries) if entry.key == self.current.key)
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
        if not self.entries and self.empty_text:
            painter.setFont(font())
            painter.setPen(colour("quiet"))
            painter.drawText(QRectF(20, 20, self.width() - 40, 60), int(Qt.TextFlag.TextWordWrap), self.empty_text)
        for entry, box, group in self.boxes():
            if group:
                painter.setFont(font(12, strong=True))
                painter.setPen(colour("text"))
                painter.drawText(QRectF(8, box.top() + 2, 84, 60), int(Qt.TextFlag.TextWordWrap), group)
            on = self.current is not None and entry.key == self.current.key
            if on:
                painter.fillRect(box.adjusted(-3, -3, 3, 3), colour("brass", 66))
                painter.setPen(QPen(colour("brass"), 2))
                painter.drawRect(box.adjusted(-3, -3, 3, 3))
            picture = QRectF(box.left(), box.top(), box.width(), box.width() * 9 / 16)
            painter.fillRect(picture, colour("well"))
            if entry.key in self.images:
                painter.drawImage(picture, self.images[entry.key])
            painter.setFont(font(12))
            painter.setPen(colour("text"))
            name = QFontMetricsF(font(12)).elidedText(entry.title, Qt.TextElideMode.ElideRight, box.width())
            painter.drawText(
                QRectF(box.left(), picture.bottom(), box.width(), 19), int(Qt.AlignmentFlag.AlignVCenter), name
            )


class SourceBoard(Region):
    """Covers map and coupling, never the picture. Tabs: sources, shapers, recipes, one's own; or variations."""

    closed = pyqtSignal()
    _made = pyqtSignal(object)

    def __init__(self, session: Session, frames: Frames, parent: QWidget) -> None:
        super().__init__("brass", "Board of sources and shapers")
        self.setParent(parent)
        self.session, self.frames = session, frames
        self.tab, self.vary_by, self.round = "source", "seed", 0
        self.frame = 0
        self.rate = 0.0
        """How often a second thumbnails were shown lately."""
        self._waiting = False
        self._last_shown = 0.0
        self.cells = Cells()
        self.cells.hovered.connect(self._try)
        self.cells.taken.connect(self._take)
        self.tabs = Segments(self._tab_names(), "brass", "Kind", boxed=False)
        self.tabs.chosen.connect(self.choose_tab)
        self.ways = Segments((("seed", "By seed"), ("settings", "By settings")), "brass", "Vary", boxed=False)
        self.ways.chosen.connect(self._choose_way)
        self.again = worded("Another dozen", "Other variations", self._another)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Type to find one")
        self.search.setAccessibleName("Find a source, shaper or recipe")
        self.search.setFixedSize(150, 22)
        self.search.textChanged.connect(lambda _: self._fill())
        self.search.returnPressed.connect(lambda: self._take(self.cells.current) if self.cells.current else None)
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.name = title("", "brass")
        self.head = title("Add a step", "brass")
        self.target = quiet("")
        self.add = QPushButton("Add")
        self.add.setProperty("main", "true")
        self.add.clicked.connect(lambda: self._take(self.cells.current) if self.cells.current else None)
        self.discard = worded("Throw away", "Remove this recipe from your own ones", self._throw_away)
        self._lay_out()
        self._made.connect(self._show_images)
        self._clock = QTimer(self)
        self._clock.setInterval(1000 // 14)
        self._clock.timeout.connect(self._animate)
        self.hide()

    def _tab_names(self) -> tuple[tuple[str, str], ...]:
        counts = {family: len(self.session.engine.operators.all(family)) for family in ("source", "shaper")}
        return (("source", f"Sources  {counts['source']}"), ("shaper", f"Shapers  {counts['shaper']}"),
                ("recipes", "Recipes"), ("yours", "Yours"))  # fmt: skip

    def _lay_out(self) -> None:
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 2, 0, 8)
        outer.setSpacing(4)
        shut = bare("close", "Close without adding (Esc)", self.shut)
        outer.addWidget(
            line(self.head, 4, self.target, None, self.tabs, self.ways, self.again, 6, self.search, shut, height=32)
        )
        self.area = QScrollArea()
        self.area.setWidget(self.cells)
        self.area.setWidgetResizable(True)
        outer.addWidget(self.area, 1)
        foot = line(self.name, 10, self.words, 10, self.discard, 4, self.add, height=56)
        layout = foot.layout()
        if layout is not None:
            layout.setStretchFactor(self.words, 1)  # type: ignore[attr-defined]
        outer.addWidget(foot)

    def open(self, tab: str = "") -> None:
        """Show the board over map and coupling; tab "vary" shows variations of the selected step."""
        self.tab = tab or (self.tab if self.tab != "vary" else "source")
        vary = self.tab == "vary"
        if vary and not self.session.selection.step:
            return
        self.tabs.setVisible(not vary)
        self.search.setVisible(not vary)
        self.ways.setVisible(vary)
        self.again.setVisible(vary)
        self.add.setText("Take it" if vary else "Use" if self.tab in ("recipes", "yours") else "Add")
        if vary:
            self.head.setText("Variations")
            self.target.setText(f"of {self.session.name_of(self.session.selection.step)}")
            if not variations.has_seed(self.session.operator(self.session.selection.step)):
                self.vary_by = "settings"
            self.ways.show_value(self.vary_by)
        else:
            self.tabs.show_value(self.tab)
        self._words_of_tab()
        self.search.clear()
        self._fill()
        self.show()
        self.raise_()
        (self.cells if vary else self.search).setFocus()
        self._waiting = False
        self._clock.start()
        if self.cells.current:
            self._try(self.cells.current)

    def _words_of_tab(self) -> None:
        if self.tab == "vary":
            return
        recipe = self.tab in ("recipes", "yours")
        self.head.setText(HEADS[self.tab])
        self.target.setText("" if recipe else f"to {self.session.name_of(self.session.selection.map)}")

    def shut(self) -> None:
        """Close, with nothing added."""
        self._clock.stop()
        self.hide()
        self.frames.with_override(None)
        self.closed.emit()

    def choose_tab(self, tab: str) -> None:
        """Show another tab."""
        self.tab = tab
        self.tabs.show_value(tab)
        self.add.setText("Use" if tab in ("recipes", "yours") else "Add")
        self._words_of_tab()
        self._fill()

    def _choose_way(self, by: str) -> None:
        self.vary_by = by
        self._fill()

    def _another(self) -> None:
        self.round += 1
        self._fill()

    def _fill(self) -> None:
        typed = self.search.text().strip().lower()
        if self.tab == "vary":
            found = varied(self.session, self.session.selection.step, self.vary_by, self.round)
        elif typed:
            found = [
                *kinds(self.session, "source"),
                *kinds(self.session, "shaper"),
                *recipes(False)[0],
                *recipes(True)[0],
            ]
        elif self.tab in ("recipes", "yours"):
            found, wrong = recipes(self.tab == "yours")
            if wrong:
                self.session.told.emit(wrong[0])
        else:
            found = kinds(self.session, self.tab)
        self.cells.empty_text = (
            "Nothing of your own yet. Keep a map with “Keep as recipe” in its menu, or drop a .nquake-recipe file here."
            if self.tab == "yours" and not typed
            else "Nothing is called that."
        )
        found = [e for e in found if typed in f"{e.title} {e.help} {e.group}".lower()]
        if typed:  # the first that fits is at hand: those of this tab, and what is called so, come first
            found.sort(key=lambda e: (e.tab != self.tab, typed not in e.title.lower()))
            self.cells.current = None
        self.cells.show_entries(found)
        self.discard.setVisible(self.tab == "yours" and bool(self.cells.entries))
        if self.cells.current and self.isVisible():
            self._try(self.cells.current)

    def _try(self, entry: Entry) -> None:
        self.name.setText(entry.title)
        self.words.setText(entry.help)
        if self.session.selection.map or self.tab in ("recipes", "yours"):
            self.frames.with_override(entry.tried(self.session))

    def _take(self, entry: Entry) -> None:
        self.shut()
        entry.take(self.session)

    def _throw_away(self) -> None:
        entry = self.cells.current
        if entry is not None and entry.own is not None and entry.own.own:
            library.throw_away(entry.own)
            self.session.told.emit(f"Thrown away: {entry.title} (its file is now {entry.own.path.name}.bak)")
            self._fill()

    def _animate(self) -> None:
        """Make the thumbnails that are seen, all of one moment, on a render thread; one batch at a time."""
        if self._waiting:
            return
        self._waiting = True
        self.frame = (self.frame + STEP) % 240
        bar, port = self.area.verticalScrollBar(), self.area.viewport()
        top = bar.value() if bar is not None else 0
        bottom = top + (port.height() if port is not None else 0)
        seen = [entry for entry, box, _ in self.cells.boxes() if box.bottom() > top and box.top() < bottom]
        frame, engine = self.frame, self.session.engine

        def make() -> None:
            images = {}
            for entry in seen:
                found = thumbnail(engine, entry.shot, frame % entry.shot.length, entry.map_id, None, THUMB.width())
                if found is not None:
                    images[entry.key] = image_of(found)
            self._made.emit(images)

        self.frames.scheduler.later("board", make)

    def _show_images(self, images: dict[str, QImage]) -> None:
        self._waiting = False
        now = time.monotonic()
        if self._last_shown:
            self.rate += (1 / max(now - self._last_shown, 1e-3) - self.rate) * 0.1
        self._last_shown = now
        self.cells.images.update(images)
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
