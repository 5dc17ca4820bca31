"""The picture bay: the picture viewer, the stack of plates, and the selected plate's settings."""

from __future__ import annotations

import time
from collections.abc import Callable

from PyQt6.QtCore import QPointF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QDragEnterEvent, QDropEvent, QPainter, QPen
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QMenu, QVBoxLayout, QWidget

from nimble_quake.desktop.bays.row_list import scrolled
from nimble_quake.desktop.bays.stack import Stack
from nimble_quake.desktop.settings.panel import SettingsPanel
from nimble_quake.desktop.theme.look import font, give_icon
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.viewers.frames import PREVIEWS, Frames
from nimble_quake.desktop.viewers.handles import Handles
from nimble_quake.desktop.viewers.view_state import ViewState
from nimble_quake.desktop.viewers.viewer import Viewer, image_of
from nimble_quake.desktop.widgets.chooser import Chooser
from nimble_quake.desktop.widgets.parts import BODY, Region, bare, heading, line, quiet, title, worded
from nimble_quake.desktop.widgets.segments import Segments
from nimble_quake.render.shown.bench import BenchResponse
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import items
from nimble_quake.shot.paths import kind_of

VIEWS = (
    ("result", "Result"),
    ("untouched", "Untouched"),
    ("split", "Split"),
    ("difference", "Difference"),
    ("alpha", "Alpha"),
    ("loop", "Loop"),
)


QUICK = 0.1
"""Seconds from one look at the numbers in the stack to the next, while the playhead moves."""


class PictureBay(Region):
    """What moves."""

    file_asked = pyqtSignal()
    cover_asked = pyqtSignal(str, bool)
    """(plate's path, whether the enlargement moves): its gaps are to be covered."""
    wide_asked = pyqtSignal()

    def __init__(self, session: Session, frames: Frames, state: ViewState) -> None:
        super().__init__("lagoon", "Picture bay")
        self.session, self.frames = session, frames
        self.origin: tuple[QPointF, QPointF] | None = None
        """The probe's place and where its pixel came from."""
        self._rows_shown = 0.0
        self._rows_soon = QTimer(self)
        self._rows_soon.setSingleShot(True)
        self._rows_soon.setInterval(int(QUICK * 1000))
        self._rows_soon.timeout.connect(self._show_rows)
        self.gain: float | None = None
        """What the difference that is shown is multiplied by."""
        self.message = ""
        self.viewer = Viewer("Picture viewer", state)
        self.viewer.overlays.append(self._overlay)
        self.step_handles = Handles(session, self.viewer, "brass", lambda: session.selection.step)
        self.effect_handles = Handles(session, self.viewer, "ember", lambda: session.selection.quake)
        self.finish_handles = Handles(session, self.viewer, "lagoon", lambda: session.selection.finish)
        self.handles = Handles(session, self.viewer, "lagoon", lambda: session.selection.plate)
        self.finish_asked: Callable[[], None] = lambda: None
        self.quake_asked: Callable[[], None] = lambda: None
        self.preview = Chooser("Preview size", 140)
        self.preview.setToolTip("At which size frames are computed while you work; rendering is always full")
        for key, label in PREVIEWS.items():
            self.preview.addItem(f"Preview: {label.lower()}", key)
        self.preview.setCurrentIndex(self.preview.findData(frames.preview))
        self.preview.activated.connect(self._choose_preview)
        self.views = Segments(VIEWS, "lagoon", "Picture view", boxed=False)
        self.views.chosen.connect(self._choose_view)
        self.narrow_views = Chooser("Picture view")
        for key, label in VIEWS:
            self.narrow_views.addItem(label, key)
        self.narrow_views.setFixedWidth(104)
        self.narrow_views.activated.connect(lambda n: self._choose_view(self.narrow_views.itemData(n)))
        self.stack = Stack(session, frames)
        self.stack.cover_asked.connect(self.cover_asked.emit)
        self.settings = SettingsPanel(session, "lagoon", names=62)
        self._stack_title, self._name, self._kind = heading("Stack"), heading(""), quiet("")
        self.setAcceptDrops(True)
        self._lay_out()
        self._join()

    def _lay_out(self) -> None:
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 2, 0, 0)
        outer.setSpacing(0)
        self.handles_button = bare("handles", "Show handles for place, scale and turn", toggles=True)
        self.handles_button.setChecked(True)
        self.handles_button.toggled.connect(self._show_handles)
        self.gaps_button = bare("hatch", "Hatch what the plate no longer covers", toggles=True)
        self.gaps_button.toggled.connect(lambda on: self._overlay_on(gaps=on))
        self.mask_button = bare("mask", "Tint the mask of the selected effect or plate", toggles=True)
        self.mask_button.toggled.connect(lambda on: self._overlay_on(masks=on))
        self.points_button = bare("points", "Show the tracked points; click or drag a box to pick some", toggles=True)
        self.wide_button = bare("wide", "Give the picture bay the whole width", self.wide_asked.emit, toggles=True)
        outer.addWidget(
            line(
                title("Picture", "lagoon"),
                8,
                self.preview,
                None,
                self.points_button,
                self.gaps_button,
                self.mask_button,
                self.handles_button,
                self.wide_button,
            )
        )
        framed = QHBoxLayout()
        framed.setContentsMargins(8, 0, 8, 0)
        framed.addWidget(self.viewer)
        outer.addLayout(framed, 1)
        self.link_button = bare("link", "Both viewers zoom together", toggles=True)
        self.link_button.setChecked(True)
        self.link_button.toggled.connect(lambda on: give_icon(self.link_button, "link" if on else "link-off"))
        self.zoom_label = QLabel()
        fit = worded("Fit", "Show the whole frame", lambda: self.viewer.state.show_all())
        whole = worded("1:1", "One picture pixel on one screen pixel", self._show_whole)
        outer.addWidget(line(self.views, self.narrow_views, None, self.link_button, self.zoom_label, whole, fit))
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
        self.plate_button = worded("Plate", "Add text, a shape, a group, a picture or a clip", self.plate_menu, "add")
        self.quake_button = worded(
            "Quake", "Choose how a map moves the selected plate", lambda: self.quake_asked(), "add"
        )
        self.finish_button = worded(
            "Finish", "Choose what else is done to the selected plate's picture", lambda: self.finish_asked(), "add"
        )
        buttons = (self.plate_button, self.quake_button, self.finish_button)
        left.addWidget(line(self._stack_title, None, *buttons, height=26, margins=(0, 0)))
        left.addWidget(scrolled(self.stack), 1)
        reset = bare(
            "reset",
            "All settings shown here back to their defaults",
            lambda: items.reset(self.session, self.shown_path()),
        )
        right.addWidget(line(self._name, 4, self._kind, None, reset, height=26, margins=(0, 4)))
        right.addWidget(self.settings, 1)
        self._left = QWidget()
        self._left.setLayout(left)
        self._left.setFixedWidth(270)
        row.addWidget(self._left)
        row.addLayout(right, 1)
        return body

    def _join(self) -> None:
        session = self.session
        self.viewer.state.changed.connect(self._show_zoom)
        session.changed.connect(self._changed)
        session.selected.connect(self.refresh)
        session.moved.connect(self._moved)

    # Showing

    def refresh(self) -> None:
        """Show the document."""
        session = self.session
        chosen = session.selection
        self.stack.refresh()
        shown = self.shown_path()
        self.settings.show_node(shown)
        operator = session.operator(shown) if shown else None
        name = session.name_of(shown) if shown else ""
        self._name.setText(self._name.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, 110))
        word = "finish" if chosen.finish else "plate"
        self._kind.setText(
            f"{operator.title.lower()} {word}" if operator and not chosen.finish else word if shown else ""
        )
        for button in (self.quake_button, self.finish_button):
            button.setEnabled(bool(chosen.plate))
        self.viewer.size_of_shot = (session.shot.width, session.shot.height)
        self._show_zoom()

    def shown_path(self) -> str:
        """The path of what the settings are of: the selected finish, else the plate."""
        return self.session.selection.finish or self.session.selection.plate

    def _changed(self, found: set[str]) -> None:
        if found & {"shape", "settings"} or not found:
            self.refresh()
        elif any(kind_of(path) in ("plate", "effect") for path in found):
            self.stack.refresh()
            if self.shown_path() in found:
                self.settings.refresh()
        self.viewer.update()

    def _moved(self) -> None:
        now = time.monotonic()
        if now - self._rows_shown > QUICK:  # numbers that run faster cannot be read
            self._show_rows()
        elif not self.frames.playing:
            self._rows_soon.start()
        self.settings.follow()
        self.viewer.update()

    def _show_rows(self) -> None:
        self._rows_shown = time.monotonic()
        self.stack.refresh()

    def show_response(self, response: BenchResponse) -> None:
        """Show a computed frame."""
        self.message = response.error
        self.gain = response.gain if response.request.picture_view in ("difference", "loop") else None
        second = image_of(response.untouched) if response.untouched is not None else None
        if response.costs and not self.frames.playing:
            self.stack.refresh()
        if response.picture is not None:
            self.viewer.show_image(image_of(response.picture), second)
        self.viewer.update()

    def _overlay(self, painter: QPainter, viewer: Viewer) -> None:
        if self.origin is not None:
            start, end = (viewer.to_widget(p.x(), p.y()) for p in self.origin)
            for pen in (QPen(colour("well"), 3), QPen(colour("lagoon"), 1.5)):
                painter.setPen(pen)
                painter.drawLine(start, end)
            painter.setBrush(colour("lagoon"))
            painter.drawEllipse(end, 3.0, 3.0)
        if self.frames.shot_override is not None:
            viewer.paint_tag(painter, QPointF(8, 8), "Trying it, not added yet")
        if self.frames.exaggeration != 1 and self.session.selection.quake:
            name = self.session.name_of(self.session.selection.quake)
            viewer.paint_tag(painter, QPointF(8, viewer.height() - 30), f"{name} shown × {self.frames.exaggeration:g}")
        if self.frames.upto:
            viewer.paint_tag(painter, QPointF(8, 34), f"After {self.session.name_of(self.frames.upto)}, no further")
        if self.gain is not None:
            what = "End and beginning" if self.frames.picture_view == "loop" else "Difference"
            words = f"{what} × {self.gain:g}" if self.gain > 1 else what
            tall = 34.0 if self.frames.shot_override is not None else 8.0
            viewer.paint_tag(painter, QPointF(8, tall), words)
        if self.message:
            self._paint_message(painter, viewer)

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

    def _show_zoom(self) -> None:
        self.zoom_label.setText(f"{self.viewer.zoom() * 100:.0f} %")

    def _show_whole(self) -> None:
        self.viewer.state.show_pixels(1 / self.devicePixelRatioF())

    def _overlay_on(self, **on: bool) -> None:
        for name, value in on.items():
            setattr(self.frames, name, value)
        self.frames.ask()

    def _show_handles(self, on: bool) -> None:
        for handles in (self.handles, self.step_handles, self.effect_handles, self.finish_handles):
            handles.on = on
        self.viewer.update()

    def _choose_view(self, view: str) -> None:
        self.frames.picture_view = view
        self.viewer.split = 0.5 if view == "split" else None
        self.views.show_value(view)
        self.narrow_views.setCurrentIndex(self.narrow_views.findData(view))
        self.frames.ask()

    def _choose_preview(self, index: int) -> None:
        self.frames.preview = self.preview.itemData(index)
        self.frames.ask()

    def resizeEvent(self, event: object) -> None:
        super().resizeEvent(event)  # type: ignore[arg-type]
        narrow = self.width() < 490
        self.views.setVisible(not narrow)
        self.narrow_views.setVisible(narrow)
        small = self.width() < 400
        self._left.setFixedWidth(132 if small else 186 if narrow else 270)
        buttons = ((self.plate_button, "Plate"), (self.quake_button, "Quake"), (self.finish_button, "Finish"))
        for button, words in buttons:
            button.setText("" if small else words)
            button.setIconSize(QSize(1, 1) if narrow and not small else QSize(13, 13))
        self._stack_title.setVisible(not narrow)
        self._kind.setVisible(not narrow)
        self._show_zoom()

    # Menus and drops

    def plate_menu(self) -> None:
        """Open the list of plates to add."""
        menu = QMenu(self)
        for kind in sorted(self.session.engine.operators.all("plate"), key=lambda kind: kind.rank):
            if not kind.file_names:
                menu.addAction(kind.title, lambda kind=kind.kind: items.new_plate(self.session, kind))
        menu.addAction("Picture, SVG or clip from a file …", self.file_asked.emit)
        menu.exec(self.plate_button.mapToGlobal(self.plate_button.rect().bottomLeft()))

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event else None
        if event and data and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event else None
        for url in data.urls() if data else []:
            if url.isLocalFile():
                items.plate_from_file(self.session, url.toLocalFile())
