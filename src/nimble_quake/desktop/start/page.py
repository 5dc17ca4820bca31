"""The page one begins from: something put in, work to go on with, a new shot; and the board of starters.

The bench opens the same page by *Starters*: then a starter goes on the selected plate.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QFont, QKeyEvent
from PyQt6.QtWidgets import (
    QCheckBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QMenu,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from nimble_quake.desktop.start.go_on import GoOn
from nimble_quake.desktop.start.starter_grid import StarterGrid
from nimble_quake.desktop.widgets.parts import Region, heading, line, linked, quiet, title
from nimble_quake.desktop.widgets.segments import Segments
from nimble_quake.session.starting.own import own_starters
from nimble_quake.session.starting.starters import OWN, SORTS, Starter, shipped
from nimble_quake.session.storage.recovery import Lost

SIZES = (
    ("1920 × 1080", 1920, 1080),
    ("1080 × 1350", 1080, 1350),
    ("1080 × 1920", 1080, 1920),
    ("1080 × 1080", 1080, 1080),
    ("3840 × 2160", 3840, 2160),
)
LEFT = 336
"""Pixels the left part is wide."""


@dataclass(frozen=True)
class Doors:
    """What leads from the page to the bench."""

    title: Callable[[str], object]
    """A title was typed."""
    file: Callable[[], object]
    """A file is to be chosen."""
    recent: Callable[[Path], object]
    lost: Callable[[Lost], bool]
    size: Callable[[int, int], object]
    other: Callable[[], object]
    """A size of one's own is to be asked for."""
    starter: Callable[[Starter, str], object]
    """A starter is used, with the title that was typed."""
    inside: Callable[[Starter], object]
    """A starter is opened as it is."""
    group: Callable[[Starter], object]
    """A whole starter is put into the open shot, as a group of its own."""
    rename: Callable[[Starter], object]
    regroup: Callable[[Starter], object]
    update: Callable[[Starter], object]
    give_away: Callable[[Starter], object]
    remove: Callable[[Starter], object]
    """One of one's own."""
    bench: Callable[[], object]
    """Nothing: to the bench."""


class StartPage(QWidget):
    """Hidden while the bench is seen. Escape goes to the bench."""

    def __init__(self, doors: Doors) -> None:
        super().__init__()
        self._doors = doors
        self._on_picture = False
        self._own: tuple[Starter, ...] = ()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        row.addWidget(self._left())
        row.addWidget(self._right(), 1)
        self.hide()

    # Left

    def _left(self) -> QWidget:
        region = Region("lagoon", "Put something in")
        region.setFixedWidth(LEFT)
        column = QVBoxLayout(region)
        column.setContentsMargins(16, 14, 16, 12)
        column.setSpacing(8)
        column.addWidget(title("Put something in", "lagoon"))
        self.words = QLineEdit()
        self.words.setPlaceholderText("Type a title")
        self.words.setAccessibleName("Title")
        face = QFont("Bungee")
        face.setPixelSize(20)
        self.words.setFont(face)
        self.words.setFixedHeight(44)
        self.words.setMaxLength(200)
        self.words.returnPressed.connect(self._take_title)
        column.addWidget(self.words)
        column.addWidget(quiet("Return puts it into a new shot, moving", 11))
        column.addSpacing(8)
        column.addWidget(self._drop_box())
        column.addSpacing(14)
        self._go_on_head = heading("Go on with")
        self.go_on = GoOn(self._doors.recent, self._doors.lost)
        column.addWidget(self._go_on_head)
        column.addWidget(self.go_on)
        column.addSpacing(14)
        column.addWidget(heading("New shot"))
        column.addLayout(self._sizes())
        column.addStretch(1)
        self.skip = QCheckBox("Begin with an empty bench instead")
        self.skip.setToolTip("The next time the program opens the bench at once; Starters brings this page back")
        column.addWidget(self.skip)
        return region

    def _drop_box(self) -> QWidget:
        box = QFrame()
        box.setFixedHeight(92)
        box.setObjectName("drop")
        column = QVBoxLayout(box)
        words = quiet("Drop a picture, logo, clip, sound or shot here")
        words.setAlignment(Qt.AlignmentFlag.AlignCenter)
        choose = QPushButton("Choose a file …")
        choose.setFixedHeight(24)
        choose.clicked.connect(lambda: self._doors.file())
        column.addWidget(words)
        column.addWidget(choose, 0, Qt.AlignmentFlag.AlignHCenter)
        return box

    def _sizes(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setSpacing(6)
        for number, (label, width, height) in enumerate(SIZES):
            button = QPushButton(label)
            button.clicked.connect(lambda _=False, w=width, h=height: self._doors.size(w, h))
            grid.addWidget(button, number // 3, number % 3)
        other = QPushButton("Other …")
        other.clicked.connect(lambda: self._doors.other())
        grid.addWidget(other, len(SIZES) // 3, len(SIZES) % 3)
        for at in range(grid.count()):
            item = grid.itemAt(at)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.setFixedHeight(24)
        return grid

    # Right

    def _right(self) -> QWidget:
        region = Region("brass", "Board of starters")
        column = QVBoxLayout(region)
        column.setContentsMargins(16, 8, 12, 10)
        column.setSpacing(8)
        self._head = title("Begin from a starter", "brass")
        sorts = [(each, each) for each in ("All", *SORTS, OWN)]
        self.sorts = Segments(sorts, "brass", "Made for", boxed=False)
        self.sorts.chosen.connect(self._choose_sort)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Type to find one")
        self.search.setAccessibleName("Find a starter")
        self.search.setFixedSize(184, 24)
        self.search.textChanged.connect(lambda: self._filter())
        self.search.returnPressed.connect(lambda: self._use(self.grid.current))
        column.addWidget(line(self._head, None, self.sorts, None, self.search, height=28, margins=(0, 4)))
        self.grid = StarterGrid()
        self.grid.chosen.connect(self._show_chosen)
        self.grid.used.connect(self._use)
        self.grid.menu_asked.connect(self._show_menu)
        self.grid.typed.connect(self._find)
        area = QScrollArea()
        area.setWidget(self.grid)
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        column.addWidget(area, 1)
        self._name, self._note = title("", "brass"), quiet("")
        self._note.setMinimumWidth(0)
        self.inside = QPushButton("Look inside")
        self.inside.setToolTip("Open it as a shot of its own")
        self.inside.clicked.connect(lambda: self.grid.current and self._doors.inside(self.grid.current))
        self.use = QPushButton("Use")
        self.use.setProperty("main", "true")
        self.use.clicked.connect(lambda: self._use(self.grid.current))
        for button in (self.inside, self.use):
            button.setFixedHeight(24)
        self._removed = quiet("", 11)
        self._bring_back: Callable[[], object] | None = None
        self._back = linked("Bring it back", "Do not remove it", lambda: self._bring_back and self._bring_back())
        self._back.hide()
        words = (self._name, 10, self._note, None, self._removed, self._back, 8)
        column.addWidget(line(*words, self.inside, 8, self.use, height=30, margins=(0, 4)))
        return region

    def _choose_sort(self, sort: str) -> None:
        self.sorts.value = sort
        self.sorts.update()
        self._filter()

    def _filter(self) -> None:
        sort, text = self.sorts.value, self.search.text()
        found = (each for each in (*self._own, *shipped()) if sort in ("All", each.sort) and each.matches(text))
        self.grid.show_starters(tuple(found))

    def _show_chosen(self, starter: Starter | None) -> None:
        self._name.setText(starter.title if starter is not None else "")
        self._note.setText(starter.note if starter is not None else "")
        for button in (self.inside, self.use):
            button.setEnabled(starter is not None and not starter.damaged)

    def _use(self, starter: Starter | None) -> None:
        if starter is not None and not starter.damaged:
            self._doors.starter(starter, self.words.text().strip())

    def _show_menu(self, starter: Starter, at: QPoint) -> None:
        """What is done with it; more with one's own."""
        menu = QMenu(self)
        menu.addAction("Look inside", lambda: self._doors.inside(starter))
        menu.addAction("Put it in as a group", lambda: self._doors.group(starter))
        menu.addSeparator()
        menu.addAction("Give it away as a file …", lambda: self._doors.give_away(starter))
        if starter.sort == OWN:
            menu.addSeparator()
            menu.addAction("Rename …", lambda: self._doors.rename(starter))
            menu.addAction("Group …", lambda: self._doors.regroup(starter))
            menu.addAction("Make it as the open shot is", lambda: self._doors.update(starter))
            menu.addAction("Remove", lambda: self._doors.remove(starter))
        menu.exec(at)

    def show_own(self) -> None:
        """Show one's own starters as they are now."""
        self._own = own_starters()
        self._filter()

    def offer_back(self, words: str, back: Callable[[], object] | None) -> None:
        """Say what was removed, with a button that brings it back; empty words: nothing."""
        self._removed.setText(words)
        self._back.setVisible(back is not None)
        self._bring_back = back

    def _take_title(self) -> None:
        words = self.words.text().strip()
        if words:
            self._doors.title(words)

    # Shown

    def open(self, recent: list[str], lost: list[Lost], *, plate: str = "") -> None:
        """Show the page. plate: the name of the selected plate, which a starter goes on; empty: there is none."""
        self._on_picture = bool(plate)
        self._own = own_starters()
        self.go_on.show_shots(recent, lost)
        self._go_on_head.setVisible(self.go_on.isVisibleTo(self))
        self._head.setText("A starter on your picture" if plate else "Begin from a starter")
        self.use.setText("Put on my picture" if plate else "Use")
        begins = "Begin from it; a title that is typed takes its title's place"
        self.use.setToolTip(f"Its effects and maps go on {plate}" if plate else begins)
        self._filter()
        self.show()
        (self.grid if plate else self.words).setFocus()

    def _find(self, letter: str) -> None:
        """Go on in the field with what was typed over the board."""
        self.search.setFocus()
        self.search.setText(letter)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self._doors.bench()
        elif event is not None:
            super().keyPressEvent(event)
