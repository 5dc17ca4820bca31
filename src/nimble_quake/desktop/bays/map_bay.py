"""The map bay: the shot's maps, the map viewer, the recipe and the selected step's settings."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QPointF, pyqtSignal
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QMenu, QWidget

from nimble_quake.desktop.bays.bay import Bay, shown_row
from nimble_quake.desktop.bays.recipe import Recipe
from nimble_quake.desktop.bays.sign_pill import SignPill
from nimble_quake.desktop.bays.signs import signs
from nimble_quake.desktop.bays.swap_chooser import SwapChooser
from nimble_quake.desktop.bays.tabs import MapTabs
from nimble_quake.desktop.coupling.sides import SidesChoice
from nimble_quake.desktop.placing.handles import Handles
from nimble_quake.desktop.viewers.frames import Frames
from nimble_quake.desktop.viewers.needles import paint_needles, paint_ways
from nimble_quake.desktop.viewers.view_state import ViewState
from nimble_quake.desktop.viewers.viewer import Viewer
from nimble_quake.desktop.widgets.chooser import Chooser
from nimble_quake.desktop.widgets.parts import add_question, bare, heading, line, title, worded
from nimble_quake.operators.quake import Quake
from nimble_quake.render.shown.bench import BENDINGS
from nimble_quake.render.shown.request import BenchResponse
from nimble_quake.render.shown.views import line_step
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import items, maps
from nimble_quake.shot.model import Map
from nimble_quake.shot.paths import find, map_path, owner_id, readers_of

VIEWS = (
    ("value", "Value"),
    ("red", "R", "Red"),
    ("green", "G", "Green"),
    ("blue", "B", "Blue"),
    ("alpha", "A", "Alpha"),
    ("contour", "Contour"),
    ("needles", "Needles"),
    ("distance", "Distance"),
    ("slope", "Slope"),
)
STEP_VIEWS = {"finished": "Finished", "after": "After this step", "before": "Before this step", "compare": "Two steps"}


class MapBay(Bay):
    """What drives."""

    board_asked = pyqtSignal()
    recipes_asked = pyqtSignal()
    vary_asked = pyqtSignal()
    keep_asked = pyqtSignal(str)
    save_recipe_asked = pyqtSignal(str)
    copy_asked = pyqtSignal(str)

    def __init__(self, session: Session, frames: Frames, state: ViewState) -> None:
        super().__init__("brass", "Map", session, frames, state, VIEWS)
        self._response: BenchResponse | None = None
        self.tabs = MapTabs()
        self.tabs.chosen.connect(lambda path: session.select(map=path))
        self.tabs.menu_asked.connect(self._tab_menu)
        self.tabs.renamed.connect(lambda path, name: items.rename(session, path, name))
        self.handles = Handles(session, self.viewer, "brass", lambda: self.handled(session.selection.step))
        self.pill = SignPill(self.viewer)
        self.step_view = Chooser("Which step of the recipe is shown")
        self.step_view.setToolTip("Show the finished map, or how it looks after or before the selected step")
        self.step_view.setFixedWidth(100)
        for key, label in STEP_VIEWS.items():
            self.step_view.addItem(label, key)
        self.step_view.activated.connect(self._choose_step_view)
        self.recipe = Recipe(session, frames)
        self.recipe.vary_asked.connect(self.vary_asked)
        self.recipe.solo_asked.connect(self.toggle_solo)
        self.recipe.compare_asked.connect(self.compare_with)
        self.zoom_label.hide()  # while the viewers are linked, the picture's stands for both
        fit = worded("Fit", "Show the whole frame", lambda: self.viewer.state.show_all())
        foot = (self.step_view, 4, self.zoom_label, fit)
        self.put_together(self._head(), foot, self.recipe, (self._recipe_head(), self._settings_head()))

    def _head(self) -> QWidget:
        add = bare("add", "New map", lambda: maps.new_map(self.session))
        head = line(title("Map", "brass"), 8, self.tabs, add, self.wide_button, height=28)
        shown_row(head).setStretchFactor(self.tabs, 1)
        return head

    def _recipe_head(self) -> QWidget:
        self.add_button = worded("Add step", "Choose a source or shaper to add", self.board_asked.emit, "add")
        recipes = bare("board", "Use a recipe: a whole map that is ready", self.recipes_asked.emit)
        self.sides = SidesChoice(self.session, "brass", lambda: self.session.selection.map)
        return line(heading("Recipe"), 4, self.sides, None, recipes, self.add_button, height=26, margins=(0, 0))

    def _settings_head(self) -> QWidget:
        self._step_title = heading("")
        self.swap = SwapChooser(self.session, self.frames)
        self.swap.setFixedWidth(118)
        reset = bare(
            "reset",
            "All settings of this step back to their defaults",
            lambda: items.reset(self.session, self.session.selection.step),
        )
        self.vary = bare("vary", "Variations: twelve of this step, by seed or by settings", self.vary_asked.emit)
        self.solo = bare("solo", "Show this step alone, the others off", self._solo_selected, toggles=True)
        return line(self._step_title, None, self.solo, self.vary, self.swap, reset, height=26, margins=(0, 4))

    # Showing

    def refresh(self) -> None:
        """Show the document."""
        super().refresh()
        session = self.session
        paths = [map_path(map.id) for map in session.shot.maps]
        readers = {map_path(map.id): len(readers_of(session.shot, map.id)) for map in session.shot.maps}
        self.tabs.show_items([(path, session.name_of(path)) for path in paths], session.selection.map, readers)
        self.recipe.refresh()
        self.sides.refresh()
        self.settings.show_node(session.selection.step)
        step = session.selection.step
        self._step_title.setText(session.name_of(step) if step else "")
        self.swap.show_step(step)
        self.solo.setChecked(bool(self.frames.solo))

    def _map(self) -> Map | None:
        chosen = self.session.selection.map
        map = find(self.session.shot, chosen) if chosen else None
        return map if isinstance(map, Map) else None

    def show_changes(self, found: set[str]) -> None:
        """Show what of the document has changed."""
        if found & {"shape", "settings"} or not found:
            self.refresh()
        elif self._map() is not None:
            if any(path.startswith("maps/") for path in found):
                self.recipe.refresh()
            if self.session.selection.step in found:
                self.settings.refresh()
        self.viewer.update()

    def show_moment(self) -> None:
        """Show the numbers of the frame at the playhead; rows of steps rest while it plays."""
        if not self.frames.playing:
            self.recipe.refresh()
        self.settings.follow()

    def refresh_rows(self) -> None:
        """Show the rows of steps."""
        self.recipe.refresh()

    def show_response(self, response: BenchResponse) -> None:
        """Show a computed frame."""
        self._response = response
        alone = response.other_map is None
        self.viewer.split = None if alone else self.viewer.split or 0.5
        self.viewer.tags = ("", "") if alone else self._compared()
        self.viewer.show_picture(response.map, response.other_map)
        self.show_costs(response)
        if response.request.probe and not response.partial:
            self.pill.show_signs(signs(self.session, response) if self.frames.shot_override is None else [])
            self._place_pill()
            self.viewer.say(_said(response))
            if response.request.map_view in BENDINGS:
                self.viewer.update()
        if not response.partial:
            self.settings.show_histogram(response.bars, response.rest, response.mean, response.clipped)

    def _place_pill(self) -> None:
        self.pill.move(8, self.viewer.height() - self.pill.height() - 8)

    def _compared(self) -> tuple[str, str]:
        """The names of the two steps, or maps, that are compared."""
        beside = self._response.request.beside if self._response is not None else ""
        if beside:
            return self.session.name_of(map_path(beside)), self.session.name_of(self.session.selection.map)
        other, own = self.frames.compare, self.session.selection.step
        left = self.session.name_of(other) if other and find(self.session.shot, other) is not None else "step before"
        return f"after {left}", "finished" if other == own else f"after {self.session.name_of(own)}"

    def paint_over(self, painter: QPainter, viewer: Viewer) -> None:
        """Paint which way white pushes, and the needles or the farthest push of such a view."""
        self._paint_ways(painter, viewer)
        self._paint_looked_at(painter, viewer)
        if self._response is None:
            return
        if self.frames.map_view == "needles":
            paint_needles(painter, viewer, self._response)
        elif self.frames.map_view == "distance":
            far = self._response.max_displacement
            said = f"farthest {far:.3g} px, a line every {line_step(far):g} px" if far else "nothing is moved"
            viewer.paint_tag(painter, QPointF(8, 8), said)

    def _paint_ways(self, painter: QPainter, viewer: Viewer) -> None:
        quake = self.session.operator_now(self.session.selection.quake)
        map_id = owner_id(self.session.selection.map)
        if map_id and isinstance(quake, Quake) and quake.map_read() == map_id:
            paint_ways(painter, viewer, quake.white_goes())

    def _paint_looked_at(self, painter: QPainter, viewer: Viewer) -> None:
        """Say so where another map is looked at than the coupling speaks of."""
        reading = self._response.reading if self._response is not None else None
        if reading is None or reading.map_id == owner_id(self.session.selection.map):
            return
        quake, own = self.session.name_of(self.session.selection.quake), self.session.name_of(map_path(reading.map_id))
        if quake and own:
            viewer.paint_tag(painter, QPointF(8, 8), f"Only looked at: {quake} reads {own}")

    def toggle_solo(self, path: str) -> None:
        """Show a step alone, or all again."""
        self.frames.solo = "" if self.frames.solo == path else path
        self.solo.setChecked(bool(self.frames.solo))
        self.recipe.refresh()
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

    def show_view(self, view: str) -> None:
        """Ask for another view of the map."""
        self.frames.map_view = view

    def _choose_step_view(self, index: int) -> None:
        self.frames.step_view = self.step_view.itemData(index)
        self.frames.ask()

    def fit_width(self, *, narrow: bool, small: bool) -> None:
        """Show fewer words in a narrow bay."""
        self.sides.setVisible(not narrow)
        self.swap.setVisible(self.width() >= 440 and bool(self.session.selection.step))
        self.add_button.setText("Add" if small else "Add step")
        self.pill.set_room(self.viewer.width() - 16)
        self._place_pill()

    def _tab_menu(self, path: str, at: QPoint) -> None:
        self.session.select(map=path)
        users = len(self.session.shot.users_of(owner_id(path)))
        menu = QMenu(self)
        used = menu.addAction(f"Used by {users} effect{'' if users == 1 else 's'}")
        if used:
            used.setEnabled(False)
        self._add_beside(menu, path)
        menu.addAction("Keep as recipe", lambda: self.keep_asked.emit(path))
        menu.addAction("Save as recipe file …", lambda: self.save_recipe_asked.emit(path))
        menu.addAction("Copy map", lambda: self.copy_asked.emit(path))
        menu.addSeparator()
        menu.addAction("Rename", lambda: self.tabs.rename(path))
        menu.addAction("Duplicate", lambda: items.duplicate_item(self.session, path))
        menu.addAction("Remove", lambda: items.remove_item(self.session, path))
        add_question(menu, self.session.help_asked.emit, "building-maps")
        menu.exec(at)

    def _add_beside(self, menu: QMenu, path: str) -> None:
        """What it can be shown beside: any other map of the shot."""
        others = [map_path(map.id) for map in self.session.shot.maps if map_path(map.id) != path]
        choice = menu.addMenu("Beside")
        if choice is None:
            return
        choice.setEnabled(bool(others))
        for other in others:
            action = choice.addAction(self.session.name_of(other), lambda other=other: self.show_beside(other))
            if action is not None:
                action.setCheckable(True)
                action.setChecked(other == self.frames.beside)

    def show_beside(self, path: str) -> None:
        """Show another map beside the selected one, parted by a line that can be dragged; or it alone again."""
        self.frames.beside = "" if self.frames.beside == path else path
        self.frames.ask()


def _said(response: BenchResponse) -> str:
    """What a response shows of a map, in words."""
    request = response.request
    map = request.shot.map(request.map_id)
    if map is None:
        return "no map"
    return f"{map.name}, {request.map_view}: mean {response.mean:.2f}, rest {response.rest:.2f}"
