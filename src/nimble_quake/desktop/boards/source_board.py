"""The board of sources and shapers: moving thumbnails, tried on the real picture before one is added."""

from __future__ import annotations

import time

from PyQt6 import sip
from PyQt6.QtCore import QPoint, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QImage, QKeyEvent, QShortcut
from PyQt6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMenu,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from nimble_quake.conventions import Bytes8
from nimble_quake.desktop.aside import on_window_thread
from nimble_quake.desktop.boards.cells import THUMB, Cells
from nimble_quake.desktop.boards.entries import Entry, effect_entries, kinds, recipes, sample_shots, varied
from nimble_quake.desktop.boards.ranking import rank
from nimble_quake.desktop.boards.starter_entries import TABS as STARTERS
from nimble_quake.desktop.boards.starter_entries import starter_entries
from nimble_quake.desktop.viewers.frames import Frames
from nimble_quake.desktop.viewers.viewer import image_of
from nimble_quake.desktop.widgets.parts import ABOUT, QUESTION, Region, add_question, bare, line, quiet, title, worded
from nimble_quake.desktop.widgets.segments import Segments
from nimble_quake.operators.registry import Registry
from nimble_quake.render.engine import Engine
from nimble_quake.render.shown.bench import frame_thumbnail, plate_thumbnail, thumbnail
from nimble_quake.session.crossings import meetings
from nimble_quake.session.state import Session
from nimble_quake.session.storage import library
from nimble_quake.session.verbs import variations
from nimble_quake.shot.paths import plate_path

HEADS = {
    "source": "Add a source",
    "shaper": "Add a shaper",
    "recipes": "Use a recipe",
    "yours": "Use one of yours",
    "quake": "Add a quake",
    "finish": "Add a finish",
    "starter": "Put a starter on it",
    "crossing": "Cross two plates",
    "samples": "Open a sample",
}
PAGES = {"recipes": "building-maps", "yours": "building-maps", "vary": "building-maps", "crossing": "crossings"}
"""The help on what tabs show that are no kinds; the others' is on starters."""
TABS = (("source", "Sources"), ("shaper", "Shapers"), ("recipes", "Recipes"), ("yours", "Yours"))
EFFECT_TABS = (("quake", "Quakes"), ("finish", "Finishes"), ("starter", "Starters"), ("crossing", "Crossings"))
EFFECTS = tuple(tab for tab, _ in EFFECT_TABS)
"""Tabs of what is added to a plate."""
STEP = 2
"""How many frames thumbnails go on at a time: 24 a second, shown 12 times."""


def picture_of(engine: Engine, entry: Entry, frame: int, width: int = THUMB.width()) -> Bytes8 | None:
    """Return a choice's thumbnail: of a map, of a plate with its effects, or of a whole frame."""
    shot, plate, span = entry.later() if entry.later is not None else (entry.shot, entry.plate_id, entry.span)
    first, end = span or (0, shot.length)
    at = first + frame % max(1, end - first)
    if entry.whole:
        return frame_thumbnail(engine, shot, at, width)
    if plate:
        return plate_thumbnail(engine, shot, at, plate, width, with_effects=True)
    return thumbnail(engine, shot, at, entry.map_id, None, width)


class SourceBoard(Region):
    """Covers map and coupling, never the picture. Tabs: sources, shapers, recipes, one's own; or quakes and finishes
    for the selected plate; or variations of the selected step."""

    closed = pyqtSignal()
    taken = pyqtSignal()
    sample_chosen = pyqtSignal(str)
    help_asked = pyqtSignal(str)
    """The page that is wanted, or "family/kind"."""

    def __init__(self, session: Session, frames: Frames, parent: QWidget) -> None:
        super().__init__("brass", "Board of sources and shapers")
        self.setParent(parent)
        self.session, self.frames = session, frames
        self.tab, self.vary_by, self.round = "source", "seed", 0
        self.frame = 0
        self.rate = 0.0
        """How often a second thumbnails were shown lately."""
        self._waiting = False
        self._before: QWidget | None = None
        """What had the keys before it opened."""
        self._last_shown = 0.0
        self.cells = Cells()
        self.cells.hovered.connect(self._try)
        self.cells.taken.connect(self._take)
        self.cells.stepped.connect(self._see_current)
        self.cells.asked.connect(self._show_menu)
        self.cells.carried.connect(lambda entry: self.shut() if entry.tab in EFFECTS else None)
        self.tabs = Segments(TABS, "brass", "Kind", boxed=False)
        self.effect_tabs = Segments(EFFECT_TABS, "lagoon", "Kind of effect", boxed=False)
        for tabs in (self.tabs, self.effect_tabs):
            tabs.chosen.connect(self.choose_tab)
        self.ways = Segments((("seed", "By seed"), ("settings", "By settings")), "brass", "Vary", boxed=False)
        self.ways.chosen.connect(self._choose_way)
        self.again = worded("Another dozen", "Other variations", self._another)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Type to find one")
        self.search.setAccessibleName("Find a source, shaper or recipe")
        self.search.setFixedSize(150, 22)
        self.search.textChanged.connect(lambda _: self._fill())
        self.search.returnPressed.connect(lambda: self._take(self.cells.current) if self.cells.current else None)
        on = QShortcut(Qt.Key.Key_Down, self.search, context=Qt.ShortcutContext.WidgetShortcut)
        on.activated.connect(self.cells.setFocus)
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.name = title("", "brass")
        self.head = title("Add a step", "brass")
        self.target = quiet("")
        self.add = QPushButton("Add")
        self.add.setProperty("main", "true")
        self.add.clicked.connect(lambda: self._take(self.cells.current) if self.cells.current else None)
        self.discard = worded("Throw away", "Remove this recipe from your own ones", self._throw_away)
        self.question = worded(QUESTION, "Open the help on the chosen one (F1)", self._ask)
        self._lay_out()
        self._hand_over = on_window_thread(self, self._show_images)
        self._clock = QTimer(self)
        self._clock.setInterval(1000 // 14)
        self._clock.timeout.connect(self._animate)
        self.hide()

    def _lay_out(self) -> None:
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 2, 0, 8)
        outer.setSpacing(4)
        shut = bare("close", "Close without adding (Esc)", self.shut)
        choices = (self.tabs, self.effect_tabs, self.ways, self.again)
        outer.addWidget(line(self.head, 4, self.target, None, *choices, 6, self.search, shut, height=32))
        self.area = QScrollArea()
        self.area.setWidget(self.cells)
        self.area.setWidgetResizable(True)
        self.area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        outer.addWidget(self.area, 1)
        foot = line(self.name, 10, self.words, 10, self.question, 4, self.discard, 4, self.add, height=56)
        layout = foot.layout()
        if isinstance(layout, QHBoxLayout):
            layout.setStretchFactor(self.words, 1)
        outer.addWidget(foot)

    def open(self, tab: str = "") -> None:
        """Show the board over map and coupling; tab "vary" shows variations of the selected step."""
        self._before = QApplication.focusWidget()
        self.tab = tab or (self.tab if self.tab != "vary" and self.tab not in (*EFFECTS, "samples") else "source")
        _count(self.session.engine.operators, self.tabs, self.effect_tabs)
        vary, effect, shots = self.tab == "vary", self.tab in EFFECTS, self.tab == "samples"
        if vary and not self.session.selection.step:
            return
        self.tabs.setVisible(not vary and not effect and not shots)
        self.effect_tabs.setVisible(effect)
        self.search.setVisible(not vary)
        self.ways.setVisible(vary)
        self.again.setVisible(vary)
        self.add.setText(
            "Take it" if vary else "Open" if shots else "Use" if self.tab in ("recipes", "yours") else "Add"
        )
        if vary:
            self.head.setText("Variations")
            self.target.setText(f"of {self.session.name_of(self.session.selection.step)}")
            if not variations.has_seed(self.session.operator(self.session.selection.step)):
                self.vary_by = "settings"
            self.ways.show_value(self.vary_by)
        else:
            (self.effect_tabs if effect else self.tabs).show_value(self.tab)
        self._words_of_tab()
        self._show_meeting()
        self.search.clear()
        self._fill()
        self.show()
        self.raise_()
        (self.cells if vary else self.search).setFocus()
        self._waiting = False
        self._clock.start()
        QTimer.singleShot(0, self._see_current)  # once it is laid out
        if self.cells.current:
            self._try(self.cells.current)

    def _words_of_tab(self) -> None:
        if self.tab == "vary":
            return
        chosen = self.session.selection
        owner = chosen.plate if self.tab in EFFECTS else chosen.map if self.tab in ("source", "shaper") else ""
        self.head.setText(HEADS[self.tab])
        self.target.setText(
            self._meets() if self.tab == "crossing" else f"to {self.session.name_of(owner)}" if owner else ""
        )

    def _meets(self) -> str:
        """The plates that a crossing would lie between."""
        first, second = (self.session.name_of(plate_path(id)) if id else "" for id in meetings.sides(self.session))
        return f"{first} leaves" if not second else f"{second} arrives" if not first else f"from {first} to {second}"

    def shut(self) -> None:
        """Close, with nothing added; the keys go to what had them before."""
        self._clock.stop()
        self.hide()
        self.frames.with_override(None)
        if self._before is not None and not sip.isdeleted(self._before) and self._before.isVisible():
            self._before.setFocus()
        self.closed.emit()

    def choose_tab(self, tab: str) -> None:
        """Show another tab."""
        self.tab = tab
        (self.effect_tabs if tab in EFFECTS else self.tabs).show_value(tab)
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
        elif self.tab == "samples":
            found = sample_shots()
        elif self.tab in EFFECTS:
            found = [entry for tab in (EFFECTS if typed else (self.tab,)) for entry in self._on_plate(tab)]
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
                self.session.message.emit(wrong[0])
        else:
            found = kinds(self.session, self.tab)
        self.cells.empty_text = (
            "Nothing of your own yet. Keep a map with “Keep as recipe” in its menu, or drop a .nquake-recipe file here."
            if self.tab == "yours" and not typed
            else "Nothing is called that."
        )
        found = [e for e in found if typed in f"{e.title} {e.help} {e.group} {e.called}".lower()]
        if typed:  # the first that fits is at hand: what is called so, then those of this tab
            found.sort(key=lambda e: (rank(e.title, typed), e.tab != self.tab))
            self.cells.current = None
        self.cells.show_entries(found)
        self.add.setEnabled(bool(found))
        self.question.setEnabled(bool(found))
        if not found:
            self.name.setText("")
            self.words.setText("")
            self.frames.with_override(None)
        bar = self.area.verticalScrollBar()
        if bar is not None:
            bar.setValue(0)
        self._see_current()
        self.discard.setVisible(self.tab == "yours" and bool(self.cells.entries))
        if self.cells.current and self.isVisible():
            self._try(self.cells.current)

    def _see_current(self) -> None:
        """Scroll to where the current choice is seen whole."""
        box = self.cells.current_box()
        if box is not None:
            middle = box.center().toPoint()
            self.area.ensureVisible(middle.x(), middle.y(), 0, int(box.height() / 2) + 6)

    def _show_meeting(self) -> None:
        """Crossings are tried where the two plates meet: the playhead goes there."""
        if self.tab == "crossing":
            self.session.set_frame(meetings.moment_of_meeting(self.session))

    def _on_plate(self, tab: str) -> list[Entry]:
        """What can be done to the selected plate."""
        if tab in STARTERS:
            return starter_entries(self.session, tab)
        return effect_entries(self.session, tab)

    def _try(self, entry: Entry) -> None:
        self.name.setText(entry.title)
        self.words.setText(entry.help)
        self.setProperty(ABOUT, entry.about or PAGES.get(entry.tab, "starters"))
        self.frames.with_override(entry.tried(self.session), whole=entry.whole)

    def _take(self, entry: Entry) -> None:
        self.shut()
        self.taken.emit()
        if entry.whole:
            self.sample_chosen.emit(entry.key)
        else:
            entry.take(self.session)

    def _ask(self) -> None:
        """Ask for the help on the chosen one."""
        self.help_asked.emit(str(self.property(ABOUT) or ""))

    def _show_menu(self, entry: Entry, at: QPoint) -> None:
        menu = QMenu(self)
        menu.addAction(self.add.text(), lambda: self._take(entry))
        add_question(menu, self.help_asked.emit, str(self.property(ABOUT)))
        menu.exec(at)

    def _throw_away(self) -> None:
        entry = self.cells.current
        if entry is not None and entry.own is not None and entry.own.own:
            library.throw_away(entry.own)
            self.session.message.emit(f"Thrown away: {entry.title} (its file is now {entry.own.path.name}.bak)")
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
        frame, engine, hand_over = self.frame, self.session.engine, self._hand_over

        known = set(self.cells.images)

        def make() -> None:
            images = {}
            for entry in seen:
                found = picture_of(engine, entry, frame)
                if found is not None:
                    images[entry.key] = image_of(found)
                if entry.key in images and entry.key not in known:  # the first one is shown at once
                    hand_over({entry.key: images[entry.key]}, False)
            hand_over(images, True)

        self.frames.scheduler.later("board", make)

    def _show_images(self, images: dict[str, QImage], whole: bool) -> None:
        self.cells.images.update(images)
        self.cells.update()
        if not whole:
            return
        self._waiting = False
        now = time.monotonic()
        if self._last_shown:
            self.rate += (1 / max(now - self._last_shown, 1e-3) - self.rate) * 0.1
        self._last_shown = now

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event.key() == Qt.Key.Key_Escape:
            self.shut()
        elif event.key() == Qt.Key.Key_Down and self.search.hasFocus():
            self.cells.setFocus()
        else:
            super().keyPressEvent(event)


def _count(operators: Registry, tabs: Segments, effect_tabs: Segments) -> None:
    """Say at the tabs how many there are; every operator is loaded for that."""
    effects, quakes = len(operators.playing("effect")), len(operators.all("quake"))
    tabs.word({tab: f"{word}  {len(operators.all(tab))}" for tab, word in TABS if tab in ("source", "shaper")})
    effect_tabs.word({"quake": f"Quakes  {quakes}", "finish": f"Finishes  {effects - quakes}"})
