"""The map bay: the shot's maps, the map viewer, the recipe and the selected step's settings."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPen
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QMenu, QVBoxLayout, QWidget

from nimble_quake.desktop.bays.row_list import Row, RowList, scrolled
from nimble_quake.desktop.bays.sign_pill import SignPill
from nimble_quake.desktop.bays.signs import signs
from nimble_quake.desktop.bays.swap_chooser import SwapChooser
from nimble_quake.desktop.bays.tabs import MapTabs
from nimble_quake.desktop.settings.panel import SettingsPanel
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.viewers.frames import Frames
from nimble_quake.desktop.viewers.handles import Handles
from nimble_quake.desktop.viewers.needles import paint_needles
from nimble_quake.desktop.viewers.view_state import ViewState
from nimble_quake.desktop.viewers.viewer import Viewer, image_of
from nimble_quake.desktop.widgets.chooser import Chooser
from nimble_quake.desktop.widgets.parts import BODY, Region, bare, heading, line, title, worded
from nimble_quake.desktop.widgets.segments import Segments
from nimble_quake.operators.quake import Quake
from nimble_quake.params.kinds import Choice
from nimble_quake.render.shown.bench import BenchResponse
from nimble_quake.render.shown.views import line_step
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import items
from nimble_quake.shot.model import Map, Node
from nimble_quake.shot.paths import find, id_of, map_path, nested_path, owner_id

VIEWS = (
    ("value", "Value"),
    ("red", "R"),
    ("green", "G"),
    ("blue", "B"),
    ("alpha", "A"),
    ("contour", "Contour"),
    ("needles", "Needles"),
    ("distance", "Distance"),
    ("slope", "Slope"),
)
STEP_VIEWS = {"finished": "Finished", "after": "After this step", "before": "Before this step", "compare": "Two steps"}


class MapBay(Region):
    """What drives."""

    board_asked = pyqtSignal()
    recipes_asked = pyqtSignal()
    vary_asked = pyqtSignal()
    keep_asked = pyqtSignal(str)
    save_recipe_asked = pyqtSignal(str)
    copy_asked = pyqtSignal(str)
    wide_asked = pyqtSignal()

    def __init__(self, session: Session, frames: Frames, state: ViewState) -> None:
        super().__init__("brass", "Map bay")
        self.session, self.frames = session, frames
        self._response: BenchResponse | None = None
        self.tabs = MapTabs()
        self.tabs.chosen.connect(lambda path: session.select(map=path))
        self.tabs.menu_asked.connect(self._tab_menu)
        self.tabs.renamed.connect(lambda path, name: items.rename(session, path, name))
        self.viewer = Viewer("Map viewer", state)
        self.viewer.overlays.append(self._overlay)
        self.handles = Handles(session, self.viewer, "brass", lambda: session.selection.step)
        self.pill = SignPill(self.viewer)
        self.views = Segments(VIEWS, "brass", "Map view", boxed=False)
        self.views.chosen.connect(self._choose_view)
        self.narrow_views = Chooser("Map view")
        for key, word in VIEWS:
            self.narrow_views.addItem({"R": "Red", "G": "Green", "B": "Blue", "A": "Alpha"}.get(word, word), key)
        self.narrow_views.setFixedWidth(104)
        self.narrow_views.activated.connect(lambda n: self._choose_view(self.narrow_views.itemData(n)))
        self.step_view = Chooser("Which step of the recipe is shown")
        self.step_view.setToolTip("Show the finished map, or how it looks after or before the selected step")
        self.step_view.setFixedWidth(100)
        for key, label in STEP_VIEWS.items():
            self.step_view.addItem(label, key)
        self.step_view.activated.connect(self._choose_step_view)
        self.recipe = RowList("Recipe", 33, QSize(50, 28))
        self.recipe.empty_text = "No steps yet. Add one: a source makes values, a shaper changes them."
        self.settings = SettingsPanel(session, "brass", names=62)
        self._step_title = heading("")
        self._lay_out()
        self._join()

    def _lay_out(self) -> None:
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 2, 0, 0)
        outer.setSpacing(0)
        add = bare("add", "New map", lambda: items.new_map(self.session))
        wide = bare("wide", "Give the map bay the whole width", self.wide_asked.emit, toggles=True)
        self.wide_button = wide
        head = line(title("Map", "brass"), 8, self.tabs, add, wide, height=28)
        layout = head.layout()
        if isinstance(layout, QHBoxLayout):
            layout.setStretchFactor(self.tabs, 1)
        self.fit_button = worded("Fit", "Show the whole frame", self.viewer.state.show_all)
        self.zoom_label = QLabel()
        self.zoom_label.hide()  # while the viewers are linked, the picture's stands for both
        views = line(self.views, self.narrow_views, None, self.step_view, 4, self.zoom_label, self.fit_button)
        outer.addWidget(head)
        framed = QHBoxLayout()
        framed.setContentsMargins(8, 0, 8, 0)
        framed.addWidget(self.viewer)
        outer.addLayout(framed, 1)
        outer.addWidget(views)
        outer.addWidget(self._body())

    def _body(self) -> QWidget:
        body = QWidget()
        body.setProperty("tab_first", True)
        body.setFixedHeight(BODY)
        self._lower = body
        row = QHBoxLayout(body)
        row.setContentsMargins(8, 0, 4, 0)
        row.setSpacing(10)
        left, right = QVBoxLayout(), QVBoxLayout()
        for column in (left, right):
            column.setContentsMargins(0, 0, 0, 0)
            column.setSpacing(2)
        self.add_button = worded("Add step", "Choose a source or shaper to add", self.board_asked.emit, "add")
        recipes = bare("board", "Use a recipe: a whole map that is ready", self.recipes_asked.emit)
        left.addWidget(line(heading("Recipe"), None, recipes, self.add_button, height=26, margins=(0, 0)))
        self.recipe_area = scrolled(self.recipe)
        left.addWidget(self.recipe_area, 1)
        self.swap = SwapChooser(self.session, self.frames)
        self.swap.setFixedWidth(118)
        reset = bare(
            "reset",
            "All settings of this step back to their defaults",
            lambda: items.reset(self.session, self.session.selection.step),
        )
        self.vary = bare("vary", "Variations: twelve of this step, by seed or by settings", self.vary_asked.emit)
        self.solo = bare("solo", "Show this step alone, the others off", self._solo_selected, toggles=True)
        right.addWidget(line(self._step_title, None, self.solo, self.vary, self.swap, reset, height=26, margins=(0, 4)))
        right.addWidget(self.settings, 1)
        holder = QWidget()
        holder.setLayout(left)
        holder.setFixedWidth(200)
        self._left = holder
        row.addWidget(holder)
        row.addLayout(right, 1)
        return body

    def _join(self) -> None:
        session = self.session
        self.recipe.chosen.connect(lambda path: session.select(step=path))
        self.recipe.switched.connect(lambda path: items.switch(session, path))
        self.recipe.removed.connect(lambda path: items.remove_item(session, path))
        self.recipe.renamed.connect(lambda path, name: items.rename(session, path, name))
        self.recipe.moved.connect(lambda path, to: items.move_item(session, path, to))
        self.recipe.menu_asked.connect(self._row_menu)
        self.viewer.state.changed.connect(self._show_zoom)
        session.changed.connect(self._changed)
        session.selected.connect(self.refresh)
        session.moved.connect(self._moved)

    # Showing

    def refresh(self) -> None:
        """Show the document."""
        session = self.session
        paths = [map_path(map.id) for map in session.shot.maps]
        self.tabs.show_items([(path, session.name_of(path)) for path in paths], session.selection.map)
        map = find(session.shot, session.selection.map) if session.selection.map else None
        self.recipe.show_rows(self._rows(map) if isinstance(map, Map) else [], (session.selection.step,))
        self.settings.show_node(session.selection.step)
        self._show_swap()
        self.solo.setChecked(bool(self.frames.solo))
        self.viewer.size_of_shot = (session.shot.width, session.shot.height)
        self.add_button.setEnabled(isinstance(map, Map))
        self._show_zoom()

    def _changed(self, found: set[str]) -> None:
        if found & {"shape", "settings"} or not found:
            self.refresh()
        else:
            map = find(self.session.shot, self.session.selection.map) if self.session.selection.map else None
            if isinstance(map, Map) and any(path.startswith("maps/") for path in found):
                self.recipe.show_rows(self._rows(map), (self.session.selection.step,))
            if self.session.selection.step in found:
                self.settings.refresh()
        self.viewer.update()

    def _moved(self) -> None:
        map = find(self.session.shot, self.session.selection.map) if self.session.selection.map else None
        if isinstance(map, Map) and not self.frames.playing:
            self.recipe.show_rows(self._rows(map), (self.session.selection.step,))
        self.settings.follow()

    def _rows(self, map: Map) -> list[Row]:
        rows = []
        solo = self.frames.solo
        for number, step in enumerate(map.recipe, 1):
            path = nested_path(map_path(map.id), step.id)
            on = step.on and (not solo or owner_id(solo) != map.id or id_of(solo) == step.id)
            note = "alone" if path == solo else self.frames.costs.note(path)
            rows.append(
                Row(
                    path,
                    self.session.name_of(path),
                    self._summary(path),
                    note,
                    on=on,
                    region="brass",
                    number=str(number),
                    depth=1 if step.inside else 0,
                    pictured=True,
                )
            )
        return rows

    def _show_steps(self) -> None:
        map = find(self.session.shot, self.session.selection.map) if self.session.selection.map else None
        if isinstance(map, Map):
            self.recipe.show_rows(self._rows(map), (self.session.selection.step,))

    def _summary(self, path: str) -> str:
        """A step's most telling numbers: "add 38 %" first, else its first two."""
        operator = self.session.operator(path)
        if operator is None:
            return "not known here"
        words = []
        combine, opacity = self.session.shown(f"{path}/combine"), self.session.shown(f"{path}/opacity")
        if combine not in (None, "over"):
            words.append(str(combine))
        if opacity is not None and opacity < 1:
            words.append(f"{opacity:.0%}".replace("%", " %"))
        for name, param in operator.declared.items():
            if len(words) >= 2 or name in ("combine", "opacity"):
                break
            if param.kind in ("map", "plate"):
                continue
            value = self.session.shown(f"{path}/{name}")
            if isinstance(param, Choice):
                words.append(param.label_of(str(value)).lower())
            elif param.kind == "number":
                factor, unit = param.factor, param.unit
                words.append(f"{value * factor:.4g} {unit}".strip())
        return ", ".join(words)

    def _show_swap(self) -> None:
        path = self.session.selection.step
        self._step_title.setText(self.session.name_of(path) if path else "")
        self.swap.show_step(path)

    def show_response(self, response: BenchResponse) -> None:
        """Show a computed frame."""
        self._response = response
        second = image_of(response.other_map) if response.other_map is not None else None
        self.viewer.split = None if second is None else self.viewer.split or 0.5
        self.viewer.tags = self._compared() if second is not None else ("", "")
        self.viewer.show_image(image_of(response.map) if response.map is not None else None, second)
        if not self.frames.playing and response.costs:
            self._show_steps()
        if response.request.probe:
            self.pill.show_signs(signs(self.session, response) if self.frames.shot_override is None else [])
            self.pill.move(8, self.viewer.height() - self.pill.height() - 8)
        self.settings.show_histogram(response.bars, response.rest, response.mean, response.clipped)

    def _compared(self) -> tuple[str, str]:
        """The names of the two steps that are compared."""
        other = self.frames.compare
        left = self.session.name_of(other) if other and find(self.session.shot, other) is not None else "step before"
        return f"after {left}", f"after {self.session.name_of(self.session.selection.step)}"

    def _overlay(self, painter: QPainter, viewer: Viewer) -> None:
        self._paint_ways(painter, viewer)
        if self.frames.map_view == "needles" and self._response is not None:
            paint_needles(painter, viewer, self._response)
        elif self.frames.map_view == "distance" and self._response is not None:
            far = self._response.max_displacement
            said = f"farthest {far:.3g} px, a line every {line_step(far):g} px" if far else "nothing is moved"
            viewer.paint_tag(painter, QPointF(8, 8), said)

    def _paint_ways(self, painter: QPainter, viewer: Viewer) -> None:
        """Two small signs: which way white pushes the picture, and which way black."""
        path = self.session.selection.quake
        quake = self.session.operator_now(path)
        map_id = owner_id(self.session.selection.map)
        if not map_id or not isinstance(quake, Quake) or quake.map_read() != map_id:
            return
        ways = quake.white_goes()
        x, y = viewer.width() - 8.0, 8.0
        for (dx, dy), fill in ((ways, "#f4f4f4"), ((-ways[0], -ways[1]), "#101010")):
            rect = QRectF(x - 40, y, 40, 18)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(18, 18, 18, 224))
            painter.drawRoundedRect(rect, 3, 3)
            middle = QPointF(rect.right() - 13, rect.center().y())
            painter.setPen(QPen(colour("rail"), 1))
            painter.setBrush(QColor(fill))
            painter.drawRect(QRectF(rect.left() + 5, rect.center().y() - 4.5, 9, 9))
            painter.setPen(QPen(colour("ember"), 1.6))
            _arrow(painter, middle, dx, dy)
            y += 21

    def toggle_solo(self, path: str) -> None:
        """Show a step alone, or all again."""
        self.frames.solo = "" if self.frames.solo == path else path
        self.solo.setChecked(bool(self.frames.solo))
        self._show_steps()
        self.frames.ask()

    def _solo_selected(self) -> None:
        if self.session.selection.step:
            self.toggle_solo(self.session.selection.step)

    def compare_with(self, path: str) -> None:
        """Show the map after a step beside the map after the selected one, parted by a line that can be dragged."""
        self.frames.compare = path
        self.step_view.setCurrentIndex(self.step_view.findData("compare"))
        self._choose_step_view(self.step_view.currentIndex())
        self.session.message.emit(f"{self.session.name_of(path)} stands beside the selected step; choose any other")

    def _show_zoom(self) -> None:
        self.zoom_label.setText(f"{self.viewer.zoom() * 100:.0f} %")

    def _choose_view(self, view: str) -> None:
        self.frames.map_view = view
        self.views.show_value(view)
        self.narrow_views.setCurrentIndex(self.narrow_views.findData(view))
        self.frames.ask()

    def _choose_step_view(self, index: int) -> None:
        self.frames.step_view = self.step_view.itemData(index)
        self.frames.ask()

    def resizeEvent(self, event: object) -> None:
        super().resizeEvent(event)  # type: ignore[arg-type]
        narrow = self.width() < 490
        self.views.setVisible(not narrow)
        self.narrow_views.setVisible(narrow)
        self.swap.setVisible(self.width() >= 440 and bool(self.session.selection.step))
        self._left.setFixedWidth(126 if self.width() < 400 else 168 if narrow else 206)
        self.add_button.setText("Add" if self.width() < 400 else "Add step")
        self.pill.set_room(self.viewer.width() - 16)
        self._show_zoom()
        self.pill.move(8, self.viewer.height() - self.pill.height() - 8)

    # Menus

    def _row_menu(self, path: str, at: object) -> None:
        menu = QMenu(self)
        menu.addAction("Duplicate", lambda: items.duplicate_item(self.session, path))
        menu.addAction("Variations …", self.vary_asked.emit)
        menu.addAction("Show all again" if self.frames.solo == path else "Show alone", lambda: self.toggle_solo(path))
        menu.addAction("Compare with …", lambda: self.compare_with(path))
        node = find(self.session.shot, path)
        if isinstance(node, Node) and node.inside:
            menu.addAction("Take out of its bracket", lambda: items.take_out(self.session, path))
        elif isinstance(node, Node) and not items.encloses(self.session, path):
            menu.addAction("Put into a bracket", lambda: items.put_in_bracket(self.session, path))
        menu.addSeparator()
        menu.addAction("Rename", lambda: self.recipe.rename(path))
        menu.addAction("Switch on or off", lambda: items.switch(self.session, path))
        menu.addAction("Remove", lambda: items.remove_item(self.session, path))
        menu.exec(at)  # type: ignore[call-overload]

    def _tab_menu(self, path: str, at: object) -> None:
        self.session.select(map=path)
        users = len(self.session.shot.users_of(owner_id(path)))
        menu = QMenu(self)
        used = menu.addAction(f"Used by {users} effect{'' if users == 1 else 's'}")
        if used:
            used.setEnabled(False)
        menu.addAction("Keep as recipe", lambda: self.keep_asked.emit(path))
        menu.addAction("Save as recipe file …", lambda: self.save_recipe_asked.emit(path))
        menu.addAction("Copy map", lambda: self.copy_asked.emit(path))
        menu.addSeparator()
        menu.addAction("Rename", lambda: self.tabs.rename(path))
        menu.addAction("Duplicate", lambda: items.duplicate_item(self.session, path))
        menu.addAction("Remove", lambda: items.remove_item(self.session, path))
        menu.exec(at)  # type: ignore[call-overload]


def _arrow(painter: QPainter, at: QPointF, dx: float, dy: float) -> None:
    """A small arrow about a place; a dot where there is no way."""
    if (dx, dy) == (0, 0):
        painter.drawEllipse(at, 1.5, 1.5)
        return
    tip, tail = QPointF(at.x() + dx * 7, at.y() + dy * 7), QPointF(at.x() - dx * 7, at.y() - dy * 7)
    painter.drawLine(tail, tip)
    for side in (1, -1):
        painter.drawLine(tip, QPointF(tip.x() - dx * 4 + dy * 3.5 * side, tip.y() - dy * 4 - dx * 3.5 * side))
