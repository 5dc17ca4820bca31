"""The time strip: transport above, the lanes below."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QScrollBar, QSlider, QVBoxLayout, QWidget

from nimble_quake.desktop.motions.ease_box import EaseBox
from nimble_quake.desktop.sound.hearing import Hearing
from nimble_quake.desktop.sound.sound_panel import SoundPanel
from nimble_quake.desktop.theme.look import font, give_icon
from nimble_quake.desktop.time.crossing_drop import CrossingDrop
from nimble_quake.desktop.time.lanes import TimeLanes
from nimble_quake.desktop.time.paint import MARKERS, RULER
from nimble_quake.desktop.time.rows import time_text
from nimble_quake.desktop.viewers.frames import Frames
from nimble_quake.desktop.widgets.chooser import Chooser
from nimble_quake.desktop.widgets.parts import Region, bare, line, quiet, title, worded
from nimble_quake.motion.easing import PRESETS
from nimble_quake.motion.kinds import Ease, Key
from nimble_quake.session.moving import pins
from nimble_quake.session.state import Session
from nimble_quake.session.summaries import main_value
from nimble_quake.shot.edits.settings import put_marker, set_shot
from nimble_quake.shot.paths import value_path

EASES: tuple[tuple[str, str, str, Ease | None], ...] = (
    ("ease-straight", "Straight to the next pin", "straight", None),
    ("ease-in", "Ease in: starts slowly", "eased", PRESETS["ease-in"]),
    ("ease-out", "Ease out: ends slowly", "eased", PRESETS["ease-out"]),
    ("ease-ends", "Ease in and out", "eased", PRESETS["ease-in-out"]),
    ("ease-over", "Overshoot: goes past and comes back", "eased", PRESETS["overshoot"]),
    ("ease-smooth", "Smooth: runs through its neighbours", "smooth", None),
    ("ease-hold", "Hold until the next pin", "hold", None),
)
WIDEST = "299 of 29.97 fps, 999 dropped"
"""The longest figures the transport keeps room for."""

SHOWN = {"moving": "Moving values", "all": "All of the selected", "bars": "Plates only"}


class TimeStrip(Region):
    """When."""

    def __init__(self, session: Session, frames: Frames, hearing: Hearing) -> None:
        super().__init__("chalk", "Time")
        self.session, self.frames = session, frames
        self.lanes = TimeLanes(session)
        self.lanes.peaks = hearing.peaks
        self.lanes.prepared = frames.prepared
        self.crossing_drop = CrossingDrop(self.lanes)
        session.pins_put.connect(self.lanes.choose_pins)
        self.copied_pins: list[tuple[str, Key]] = []
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 2, 0, 0)
        outer.setSpacing(0)
        outer.addWidget(self._transport())
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        self.bar = QScrollBar(Qt.Orientation.Vertical)
        self.bar.setAccessibleName("Scroll the rows")
        self.bar.valueChanged.connect(self.lanes.scroll_to)
        row.addWidget(self.lanes, 1)
        row.addWidget(self.bar)
        outer.addLayout(row, 1)
        self.sound_panel = SoundPanel(session, hearing, self)
        self.lanes.rows_changed.connect(self._fit_bar)
        self.lanes.zoomed.connect(self._show_zoom)
        session.moved.connect(self._show_time)
        session.changed.connect(lambda _: self._show_time())
        frames.play_changed.connect(self._show_playing)
        self._show_time()
        self._show_playing()

    def _transport(self) -> QWidget:
        go = self.session.set_frame
        self.play = bare("play", "Play or pause (Space)", self.frames.toggle)
        self.play.setFixedWidth(34)
        self.play.setObjectName("play")
        self.loop = bare(
            "loop", "Play the loop range; without one, loop from here for a second", self._toggle_loop, toggles=True
        )
        self.clock = QLabel()
        self.clock.setFont(font(15, strong=True))
        self.clock.setFixedWidth(104)
        self.clock.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.clock.setObjectName("clock")
        self.clock.setFixedHeight(24)
        self.loop_from = bare("loop-from", "The loop begins at this frame", lambda: self._set_loop("from"))
        self.loop_to = bare("loop-to", "The loop ends with this frame", lambda: self._set_loop("to"))
        self.figures = quiet("")
        """The frame, or while playing the rate; it has kept room, so that nothing moves."""
        self.figures.setFixedWidth(self.figures.fontMetrics().horizontalAdvance(WIDEST) + 4)
        self.snap = worded(
            "Snap", "Dragged pins and bars snap to pins, markers and the now-line", self._toggle_snap, "magnet"
        )
        self.snap.setCheckable(True)
        self.snap.setChecked(True)
        self.snap.toggled.connect(lambda on: give_icon(self.snap, "magnet" if on else "magnet-off"))
        self.pin_button = worded("Pin", "Set a pin on the selected row here (K)", self.set_pin, "pin")
        self.marker_button = worded(
            "Marker", "Set a marker here (M); double-click it to name it", lambda: self.mark(), "flag"
        )
        self.eases = [
            bare(name, f"{tip} (chosen pins, or all of the selected row)", partial(self.shape, after, ease))
            for name, tip, after, ease in EASES
        ]
        self.eases.append(bare("ease-box", "Draw the ease by hand, or type it", self.open_ease_box))
        self.shown = Chooser("Which rows are shown", 134)
        for key, label in SHOWN.items():
            self.shown.addItem(label, key)
        self.shown.activated.connect(self._choose_rows)
        self.zoom = QSlider(Qt.Orientation.Horizontal)
        self.zoom.setAccessibleName("Zoom of the time strip")
        self.zoom.setRange(0, 1000)
        self.zoom.setFixedWidth(110)
        self.zoom.valueChanged.connect(lambda v: self.lanes.set_zoom(0.5 * 160 ** (v / 1000)))
        self.ease_label, self.zoom_label = quiet("Ease"), quiet("Zoom")
        widgets = (
            title("Time", "chalk"),
            4,
            bare("start", "To the start (Home)", lambda: go(0)),
            bare("back", "One frame back (Left)", lambda: go(self.session.frame - 1)),
            self.play,
            bare("forward", "One frame on (Right)", lambda: go(self.session.frame + 1)),
            bare("end", "To the end (End)", lambda: go(self.session.shot.length - 1)),
            self.loop_from,
            self.loop,
            self.loop_to,
            4,
            self.clock,
            4,
            self.figures,
            4,
            bare("pin-back", "To the pin before (J)", lambda: self.to_pin(-1)),
            self.pin_button,
            bare("pin-forward", "To the next pin (L)", lambda: self.to_pin(1)),
            4,
            self.snap,
            self.marker_button,
            4,
            self.ease_label,
            *self.eases,
            None,
            self.shown,
            4,
            self.zoom_label,
            self.zoom,
        )
        return line(*widgets, height=32)

    def _first_value(self, path: str) -> str:
        """The value of an operator that tells most of it."""
        main = main_value(self.session, path)
        return value_path(path, main.name) if main is not None else ""

    def set_pin(self) -> None:
        """Set or take away the pin of the selected row at the playhead."""
        path = self.lanes.selected_row
        if not path or self.session.param(path) is None:
            path = self._first_value(self.session.selection.quake)
        if path and self.session.param(path) is not None:
            self.session.start_moving(path)
        else:
            self.session.message.emit("Choose the row of a value first, then set a pin on it")

    def to_pin(self, way: int) -> None:
        """Go to the nearest pin before or after the playhead."""
        here = self.session.frame
        frames = [f for f in pins.pin_frames(self.session) if (f > here if way > 0 else f < here)]
        if frames:
            self.session.set_frame(round(min(frames) if way > 0 else max(frames)))

    def shape(self, after: str, ease: Ease | None) -> None:
        """Shape the chosen pins, or all of the selected row."""
        chosen = self.lanes.chosen or pins.pins_here(self.session, self.lanes.selected_row)
        if chosen:
            pins.shape_pins(self.session, chosen, after, ease)
        else:
            self.session.message.emit("Choose pins in the time strip first")

    def open_ease_box(self) -> None:
        """Draw the ease of the chosen pins, or of all of the selected row."""
        chosen = self.lanes.chosen or pins.pins_here(self.session, self.lanes.selected_row)
        if not chosen:
            self.session.message.emit("Choose pins in the time strip first")
            return
        button = self.eases[-1]
        EaseBox(self.session, set(chosen), self).open_at(button.mapToGlobal(button.rect().topLeft()))

    def reshape(self, how: Callable[[Session, pins.Chosen], None]) -> None:
        """Reshape the chosen pins, or all of the selected row."""
        how(self.session, self.lanes.chosen or pins.pins_here(self.session, self.lanes.selected_row))

    def copy(self) -> None:
        """Copy the chosen pins."""
        self.copied_pins = pins.copied(self.session, self.lanes.chosen)
        self.session.message.emit(
            f"{len(self.copied_pins)} pins copied" if self.copied_pins else "Choose pins first, then copy them"
        )

    def paste(self) -> None:
        """Paste pins at the playhead."""
        self.lanes.chosen = pins.paste(self.session, self.copied_pins, self.lanes.selected_row)
        self.lanes.update()

    def mark(self) -> None:
        """Set a numbered marker here at once; one that is there stays."""
        if any(marker.frame == self.session.frame for marker in self.session.shot.markers):
            return
        name = f"mark {len(self.session.shot.markers) + 1}"
        self.session.edit("Set marker", put_marker(self.session.shot, self.session.frame, name))

    def _toggle_loop(self) -> None:
        shot = self.session.shot
        if shot.loop:
            self.session.edit("Clear the loop", set_shot(shot, loop=None))
        else:
            end = min(shot.length, self.session.frame + max(2, round(float(shot.rate))))
            self.session.edit("Set the loop", set_shot(shot, loop=(min(self.session.frame, end - 1), end)))

    def _set_loop(self, end: str) -> None:
        """Let the loop begin at the playhead, or end with it; the other end stays where it makes sense."""
        shot, here = self.session.shot, self.session.frame
        first, last = shot.loop or (0, shot.length)
        loop = (here, last if last > here else shot.length) if end == "from" else (min(first, here), here + 1)
        self.session.edit("Set the loop", set_shot(shot, loop=loop))

    def _toggle_snap(self) -> None:
        self.lanes.snap = self.snap.isChecked()

    def _choose_rows(self, index: int) -> None:
        self.lanes.show_rows = self.shown.itemData(index)
        self.lanes.refresh()

    def _show_time(self) -> None:
        self.clock.setText(time_text(self.session, self.session.frame))
        self.loop.setChecked(self.session.shot.loop is not None)
        self._show_figures()

    def _show_figures(self) -> None:
        if not self.frames.playing:
            self.figures.setText(f"frame {self.session.frame} of {self.session.shot.length}")
            self.figures.setToolTip("The frame at the playhead, and the shot's length")
            return
        rate, dropped = self.frames.shown_rate, self.frames.dropped
        wanted = float(self.session.shot.rate)
        lost = f", {min(dropped, 9999)} dropped" if dropped else ""
        self.figures.setText(f"{rate:.0f} of {wanted:.4g} fps{lost}")
        self.figures.setToolTip("The rate really shown while playing, and how many frames could not be ready in time")

    def _show_playing(self) -> None:
        give_icon(self.play, "pause" if self.frames.playing else "play", "on_chalk")
        self._show_figures()

    def _show_zoom(self) -> None:
        self.zoom.blockSignals(True)
        self.zoom.setValue(round(1000 * math.log(max(self.lanes.zoom, 0.5) / 0.5, 160)))
        self.zoom.blockSignals(False)

    def _fit_bar(self) -> None:
        room = self.lanes.height() - RULER - MARKERS
        self.bar.blockSignals(True)
        self.bar.setRange(0, max(0, self.lanes.content_height() - room))
        self.bar.setPageStep(max(1, room))
        self.bar.setValue(self.lanes.scrolled)
        self.bar.setVisible(self.bar.maximum() > 0)
        self.bar.blockSignals(False)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit_bar()
        wide = self.width()
        self.sound_panel.place()
        shown = ((self.zoom, 1240), (self.zoom_label, 1420), (self.ease_label, 1420), (self.figures, 820))
        for widget, least in (*shown, *((button, 1120) for button in self.eases)):
            widget.setVisible(wide >= least)
        for button, words, least in ((self.marker_button, "Marker", 1340), (self.snap, "Snap", 1240)):
            button.setText(words if wide >= least else "")
        self.pin_button.setText("Pin" if wide >= 1180 else "")
