"""The picture bay: the picture viewer, the stack of plates, and the selected plate's settings."""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import QPointF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPen
from PyQt6.QtWidgets import QMenu, QWidget

from nimble_quake.desktop.bays.bay import QUICK, Bay
from nimble_quake.desktop.bays.stack import Stack
from nimble_quake.desktop.bays.states_menu import StatesMenu
from nimble_quake.desktop.coupling.sides import SidesChoice
from nimble_quake.desktop.placing.guides import Guides
from nimble_quake.desktop.placing.handles import Handles
from nimble_quake.desktop.placing.map_box import MapBox
from nimble_quake.desktop.placing.snapping import Snapping
from nimble_quake.desktop.theme.look import font, give_icon
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.viewers.frames import PREVIEWS, Frames
from nimble_quake.desktop.viewers.view_state import ViewState
from nimble_quake.desktop.viewers.viewer import Viewer
from nimble_quake.desktop.widgets.chooser import Chooser
from nimble_quake.desktop.widgets.parts import Elided, bare, heading, line, title, worded
from nimble_quake.render.shown.bench import AROUND, BEYOND
from nimble_quake.render.shown.request import BenchResponse
from nimble_quake.session.state import Session
from nimble_quake.session.storage.preferences import Preferences
from nimble_quake.session.verbs import items
from nimble_quake.session.verbs.effects import travel_of_mask
from nimble_quake.session.verbs.shot_size import figures, source_of
from nimble_quake.shot.paths import kind_of, plate_path

VIEWS = (
    ("result", "Result"),
    ("untouched", "Untouched"),
    ("split", "Split"),
    ("difference", "Difference"),
    ("alpha", "Alpha"),
    ("loop", "Loop"),
    ("corners", "Corners"),
)
TRIED = ("Trying it, not added yet", "A sample, not opened yet")


class PictureBay(Bay):
    """What moves."""

    file_asked = pyqtSignal()
    cover_asked = pyqtSignal(str, bool)
    """(plate's path, whether the enlargement moves): its gaps are to be covered."""
    list_widths = (132, 186, 270)

    def __init__(self, session: Session, frames: Frames, state: ViewState, preferences: Preferences) -> None:
        super().__init__("lagoon", "Picture", session, frames, state, VIEWS)
        self.guides = Guides(session, self.viewer, preferences)
        self.states = StatesMenu(session, frames.against, self, self._show_compared)
        self.origin: tuple[QPointF, QPointF] | None = None
        """The probe's place and where its pixel came from."""
        self._rows_shown = 0.0
        self.gain: float | None = None
        """What the difference that is shown is multiplied by."""
        self.enlarged = 0.0
        """How many times what is shown is enlarged, where it is parts of the frame."""
        self.message = self.unseen = ""
        self.beneath: tuple[str, int] | None = None
        """A plate's id, and on how many others it acts in the frame that is shown."""
        self.map_box = MapBox(self.viewer)
        self.step_handles = Handles(session, self.viewer, "brass", lambda: self.handled(session.selection.step))
        self.step_handles.travels = partial(travel_of_mask, session)
        self.effect_handles = Handles(session, self.viewer, "ember", lambda: self.handled(session.selection.quake))
        self.finish_handles = Handles(session, self.viewer, "lagoon", lambda: self.handled(session.selection.finish))
        self.handles = Handles(session, self.viewer, "lagoon", lambda: self.handled(session.selection.plate))
        snapping = Snapping(session, self.viewer, self.guides)
        for handles in self._all_handles():
            handles.snapping = snapping
        self.finish_asked: Callable[[], None] = lambda: None
        self.quake_asked: Callable[[], None] = lambda: None
        self.stack = Stack(session, frames)
        self.stack.cover_asked.connect(self.cover_asked.emit)
        self.put_together(self._head(), self._foot(), self.stack, (self._stack_head(), self._settings_head()))

    def _head(self) -> QWidget:
        self.preview = Chooser("Preview size", 140)
        self.preview.setToolTip("At which size frames are computed while you work; rendering is always full")
        for key, label in PREVIEWS.items():
            self.preview.addItem(f"Preview: {label.lower()}", key)
        self.preview.setCurrentIndex(self.preview.findData(self.frames.preview))
        self.preview.activated.connect(self._choose_preview)
        self.handles_button = bare("handles", "Show handles for place, scale and turn", toggles=True)
        self.handles_button.setChecked(True)
        self.handles_button.toggled.connect(self._show_handles)
        self.gaps_button = bare("hatch", "Hatch what the plate no longer covers", toggles=True)
        self.gaps_button.toggled.connect(self._show_gaps)
        self.mask_button = bare("mask", "Tint the mask of the selected effect or plate", toggles=True)
        self.mask_button.toggled.connect(self._show_masks)
        self.states_button = bare("states", "States of the whole shot: keep, go back, compare")
        self.states_button.clicked.connect(lambda: open_below(self.states_button, self.states.menu()))
        self.guides_button = bare("guides", "Lines to place things by: thirds, centre, safe areas, own ones")
        self.guides_button.clicked.connect(lambda: open_below(self.guides_button, self.guides.menu(self)))
        self.beyond_button = bare("beyond", "Show what lies round the frame, too", toggles=True)
        self.beyond_button.toggled.connect(self._show_beyond)
        self.points_button = bare("points", "Show the tracked points; click or drag a box to pick some", toggles=True)
        toggles = (self.points_button, self.gaps_button, self.mask_button, self.handles_button)
        buttons = (self.states_button, self.beyond_button, self.guides_button, *toggles, self.wide_button)
        return line(title("Picture", "lagoon"), 8, self.preview, None, *buttons)

    def _foot(self) -> tuple[QWidget, ...]:
        self.link_button = bare("link", "Both viewers zoom together", toggles=True)
        self.link_button.setChecked(True)
        self.link_button.toggled.connect(lambda on: give_icon(self.link_button, "link" if on else "link-off"))
        fit = worded("Fit", "Show the whole frame", lambda: self.viewer.state.show_all())
        whole = worded("1:1", "One picture pixel on one screen pixel", self._show_whole)
        return (self.link_button, self.zoom_label, whole, fit)

    def _stack_head(self) -> QWidget:
        self.plate_button = worded("Plate", "Add text, a shape, a group, a picture or a clip", self.plate_menu, "add")
        self.quake_button = worded(
            "Quake", "Choose how a map moves the selected plate", lambda: self.quake_asked(), "add"
        )
        self.finish_button = worded(
            "Finish", "Choose what else is done to the selected plate's picture", lambda: self.finish_asked(), "add"
        )
        self._stack_title = heading("Stack")
        buttons = (self.plate_button, self.quake_button, self.finish_button)
        return line(self._stack_title, None, *buttons, height=26, margins=(0, 0))

    def _settings_head(self) -> QWidget:
        self._name, self.kind_label = heading(""), Elided()
        self.sides = SidesChoice(self.session, "lagoon", self.shown_path)
        reset = bare(
            "reset",
            "All settings shown here back to their defaults",
            lambda: items.reset(self.session, self.shown_path()),
        )
        return line(self._name, 4, self.kind_label, None, self.sides, reset, height=26, margins=(0, 4))

    # Showing

    def refresh(self) -> None:
        """Show the document."""
        super().refresh()
        session = self.session
        chosen = session.selection
        self.stack.refresh()
        shown = self.shown_path()
        self.settings.show_node(shown)
        self.sides.refresh()
        name = session.name_of(shown) if shown else ""
        self._name.setText(self._name.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, 110))
        self.kind_label.setText(self._kind_of(shown))
        for button in (self.quake_button, self.finish_button):
            button.setEnabled(bool(chosen.plate))

    def _kind_of(self, path: str) -> str:
        """What the settings are of: a file with its size, rate and length, or a kind."""
        operator, source = self.session.operator(path) if path else None, source_of(self.session, path)
        if source is not None:
            return figures(source)
        word = "finish" if self.session.selection.finish else "plate"
        beneath = ""
        if self.beneath is not None and path == plate_path(self.beneath[0]):
            count = self.beneath[1]
            beneath = f", on {count} plate{'s' * (count != 1)}" if count else ", on nothing"
        return f"{operator.title.lower()} {word}{beneath}" if operator and word == "plate" else word if path else ""

    def shown_path(self) -> str:
        """The path of what the settings are of: the selected finish, else the plate."""
        return self.session.selection.finish or self.session.selection.plate

    def show_changes(self, found: set[str]) -> None:
        """Show what of the document has changed."""
        if found & {"shape", "settings"} or not found:
            self.refresh()
        elif any(kind_of(path) in ("plate", "effect") for path in found):
            self.stack.refresh()
            if self.shown_path() in found:
                self.settings.refresh()
        self.viewer.update()

    def show_moment(self) -> None:
        """Show the numbers of the frame at the playhead."""
        now = time.monotonic()
        if now - self._rows_shown > QUICK:  # numbers that run faster cannot be read
            self.refresh_rows()
        elif not self.frames.playing:
            self._rows_soon.start()
        self.settings.follow()
        self.viewer.update()

    def refresh_rows(self) -> None:
        """Show the rows of plates and their effects."""
        self._rows_shown = time.monotonic()
        self.stack.refresh()

    def show_response(self, response: BenchResponse) -> None:
        """Show a computed frame."""
        self.message = response.error
        if not response.partial:
            self.unseen = response.unseen
            self._show_beneath(response)
        self.gain = response.gain if response.request.picture_view in ("difference", "loop") else None
        self.viewer.beyond, self.viewer.montage = response.beyond, response.enlarged > 0
        self.enlarged = response.enlarged
        self.map_box.show_response(response)
        self.viewer.tags = (self.frames.against.name(), "now" if self.frames.against.id else "result")
        self.show_costs(response)
        if response.picture is not None:
            self.viewer.show_picture(response.picture, response.untouched)
        if response.request.probe and not response.partial:
            self.viewer.say(f"{response.request.picture_view}, frame {response.request.frame}")
        over = (self.gain, self.enlarged, self.map_box.corners, self.frames.upto, self.frames.shot_override is None)
        self.viewer.paint_where_new(*over, self.message, *self._notes())

    def _show_beneath(self, response: BenchResponse) -> None:
        if response.request.probe:
            found = response.beneath
            self.beneath = None if found is None else (response.request.plate_id, found)
            self.kind_label.setText(self._kind_of(self.shown_path()))

    def paint_over(self, painter: QPainter, viewer: Viewer) -> None:
        """Paint where the probe's pixel came from, and in small words what is shown otherwise than it is."""
        if self.origin is not None:
            start, end = (viewer.to_widget(p.x(), p.y()) for p in self.origin)
            for pen in (QPen(colour("well"), 3), QPen(colour("lagoon"), 1.5)):
                painter.setPen(pen)
                painter.drawLine(start, end)
            painter.setBrush(colour("lagoon"))
            painter.drawEllipse(end, 3.0, 3.0)
        if self.frames.shot_override is not None:
            viewer.paint_tag(painter, QPointF(8, 8), TRIED[self.frames.other_shot])
        for number, words in enumerate(self._notes()):
            viewer.paint_tag(painter, QPointF(8, viewer.height() - 30.0 - 22 * number), words)
        if self.frames.upto:
            viewer.paint_tag(painter, QPointF(8, 34), f"After {self.session.name_of(self.frames.upto)}, no further")
        if self.enlarged:
            self._paint_cells(painter, viewer)
        if self.gain is not None:
            against = f" from {self.frames.against.name()}" if self.frames.against.id else ""
            what = "End and beginning" if self.frames.picture_view == "loop" else f"Difference{against}"
            words = f"{what} × {self.gain:g}" if self.gain > 1 else what
            tall = 34.0 if self.frames.shot_override is not None else 8.0
            viewer.paint_tag(painter, QPointF(8, tall), words)
        if self.message:
            self._paint_message(painter, viewer)

    def _paint_cells(self, painter: QPainter, viewer: Viewer) -> None:
        """Say what the cells are: corners and borders in their places, the seam between them."""
        first, end = self.frames.span()
        middle = viewer.frame_rect().center() - QPointF(0, viewer.frame_rect().height() / 6 - 6)
        viewer.paint_tag(painter, middle - QPointF(3, 0), f"frame {end - 1}", right=True)
        viewer.paint_tag(painter, middle + QPointF(3, 0), f"frame {first}")
        drawn = viewer.frame_rect().width() / max(viewer.image.width(), 1) if viewer.image is not None else 1.0
        times = self.enlarged * drawn
        viewer.paint_tag(painter, QPointF(8, 8), f"Corners and borders, {times:.1f} screen pixels each")

    def _notes(self) -> list[str]:
        """What is said at the picture's foot of the selected quake and finish."""
        chosen, notes = self.session.selection, []
        if self.frames.exaggeration != 1 and chosen.quake:
            notes.append(f"{self.session.name_of(chosen.quake)} shown × {self.frames.exaggeration:g}")
        if self.unseen and chosen.finish:
            why = f"{self.unseen[:1].lower()}{self.unseen[1:]}"
            notes.append(f"Nothing is seen of {self.session.name_of(chosen.finish)} - {why}")
        return notes

    def _paint_message(self, painter: QPainter, viewer: Viewer) -> None:
        painter.setFont(font(12))
        flags = int(Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap)
        room = viewer.rect().adjusted(20, 0, -20, -12)
        text = painter.boundingRect(room, flags, self.message)
        text.moveBottom(viewer.height() - 14)
        painter.setPen(QPen(colour("fault"), 1))
        painter.setBrush(QColor(18, 18, 18, 235))
        painter.drawRoundedRect(text.adjusted(-9, -6, 9, 6), 3, 3)
        painter.setPen(QColor("#f58793"))
        painter.drawText(text, flags, self.message)

    def _show_whole(self) -> None:
        self.viewer.state.show_pixels(1 / self.devicePixelRatioF())

    def _show_beyond(self, on: bool) -> None:
        self.frames.beyond = on
        self._leave_room()
        self.frames.ask()

    def _leave_room(self) -> None:
        """Leave room round the frame where something is shown there."""
        beyond = self.frames.beyond and self.frames.picture_view in BEYOND
        self.viewer.state.show_around(AROUND if beyond else 0.0)

    def _show_gaps(self, on: bool) -> None:
        self.frames.gaps = on
        self.frames.ask()

    def _show_masks(self, on: bool) -> None:
        self.frames.masks = on
        self.frames.ask()

    def _show_handles(self, on: bool) -> None:
        for handles in self._all_handles():
            handles.show(on)
        self.viewer.update()

    def _all_handles(self) -> tuple[Handles, ...]:
        return (self.handles, self.step_handles, self.effect_handles, self.finish_handles)

    def _show_compared(self) -> None:
        """A state is to be seen beside what is now: split, unless the difference is shown already."""
        if self.frames.picture_view not in ("split", "difference"):
            self.choose_view("split")
        self.frames.ask()

    def show_view(self, view: str) -> None:
        """Ask for another view of the picture."""
        self.frames.picture_view = view
        self.viewer.split = 0.5 if view == "split" else None
        self._leave_room()

    def _choose_preview(self, index: int) -> None:
        self.frames.preview = self.preview.itemData(index)
        self.frames.ask()

    def fit_width(self, *, narrow: bool, small: bool) -> None:
        """Show fewer words in a narrow bay, and icons only in a small one."""
        buttons = ((self.plate_button, "Plate"), (self.quake_button, "Quake"), (self.finish_button, "Finish"))
        for button, words in buttons:
            button.setText("" if small else words)
            button.setIconSize(QSize(1, 1) if narrow and not small else QSize(13, 13))
        self._stack_title.setVisible(not narrow)
        self.kind_label.setVisible(not narrow)

    def plate_menu(self) -> None:
        """Open the list of plates to add."""
        menu = QMenu(self)
        for kind in sorted(self.session.engine.operators.all("plate"), key=lambda kind: kind.rank):
            if not kind.file_names:
                menu.addAction(kind.title, lambda kind=kind.kind: items.new_plate(self.session, kind))
        menu.addAction("Picture, SVG or clip from a file …", self.file_asked.emit)
        open_below(self.plate_button, menu)


def open_below(button: QWidget, menu: QMenu) -> None:
    """Open a menu under a button."""
    menu.exec(button.mapToGlobal(button.rect().bottomLeft()))
