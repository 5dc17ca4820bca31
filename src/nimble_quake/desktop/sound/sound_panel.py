"""The settings of the selected sound or band, beside the rows of the time strip; a band's with its spectrum."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent, QPainter
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from nimble_quake.analysis.bands import spectrum
from nimble_quake.desktop.settings.panel import SettingsPanel
from nimble_quake.desktop.sound.hearing import Hearing
from nimble_quake.desktop.sound.spectrum import BARS, Spectrum, edges
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.desktop.widgets.parts import bare, heading, quiet, worded
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import items, sounds
from nimble_quake.shot.paths import find, id_of, value_path

WIDTH, WIDE = 316, 492
"""Pixels of a sound's settings, and of a band's, which has its spectrum beside them."""


class SoundPanel(QWidget):
    """Shown while a sound or a band is selected."""

    def __init__(self, session: Session, hearing: Hearing, parent: QWidget) -> None:
        super().__init__(parent)
        self.session, self.hearing = session, hearing
        self.setAccessibleName("Sound settings")
        self.title, self.range = heading(""), quiet("", 11)
        self.level = QLabel()
        self.close_button = bare("close", "Close the sound's settings", lambda: session.select(sound=""))
        self.remove = bare("trash", "Remove it", self._remove)
        self.band = worded("Band", "Add a band that listens to this sound", lambda: sounds.add_band(session), "add")
        self.beats = worded(
            "Beats", "Find its beats: they become ticks to snap to", lambda: hearing.find_beats(hits=False)
        )
        self.hits = worded("Hits", "Find every hit of it, steady or not", lambda: hearing.find_beats(hits=True))
        self.spectrum = Spectrum()
        self.spectrum.began.connect(lambda: session.begin("Change the band"))
        self.spectrum.changing.connect(self._drag_band)
        self.spectrum.ended.connect(session.commit)
        self.settings = SettingsPanel(session, "brass", names=64)
        head = QHBoxLayout()
        head.setSpacing(4)
        head.addWidget(self.title)
        head.addWidget(self.range, 1)
        for button in (self.band, self.beats, self.hits, self.remove, self.close_button):
            head.addWidget(button)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(10, 4, 6, 6)
        outer.setSpacing(4)
        outer.addLayout(head)
        body = QHBoxLayout()
        body.setSpacing(10)
        body.addWidget(self.spectrum, 1)
        body.addWidget(self.settings, 1)
        outer.addLayout(body, 1)
        session.selected.connect(self.refresh)
        session.changed.connect(lambda _: self.refresh())
        session.moved.connect(self._show_sound)
        self.refresh()

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.fillRect(self.rect(), colour("panel"))
        painter.fillRect(0, 0, 1, self.height(), colour("line"))

    def refresh(self) -> None:
        """Show what is selected; hidden where it is no sound."""
        path = self.session.selection.sound
        node = find(self.session.shot, path) if path else None
        if node is None:
            self.hide()
            return
        is_band = path.startswith("bands/")
        self.title.setText(self.session.name_of(path))
        self.range.setText(_range(self.session, path) if is_band else "")
        self.band.setVisible(not is_band)
        self.spectrum.setVisible(is_band)
        if self.settings.path != path:
            self.settings.show_node(path)
        else:
            self.settings.refresh()
        if is_band:
            low, high = (float(self.session.shown(value_path(path, name)) or 0) for name in ("low", "high"))
            self.spectrum.show_band(low, high)
        self.place()
        self.show()
        self.raise_()
        self._show_sound()

    def place(self) -> None:
        """Lie at the right of the time strip, below its transport."""
        strip = self.parentWidget()
        if strip is not None:
            wide = WIDE if self.session.selection.sound.startswith("bands/") else WIDTH
            self.setGeometry(strip.width() - wide, 34, wide, max(0, strip.height() - 34))

    def _drag_band(self, low: float, high: float) -> None:
        path = self.session.selection.sound
        self.session.set(value_path(path, "low"), low)
        self.session.set(value_path(path, "high"), high)

    def _show_sound(self) -> None:
        """The spectrum at the playhead, and the band's level."""
        path = self.session.selection.sound
        if not self.isVisible() or not path.startswith("bands/"):
            return
        of = str(self.session.shown(value_path(path, "of")) or "")
        seconds = self.session.frame / float(self.session.shot.rate)
        power = np.zeros(BARS, np.float32)
        for at, recording in sounds.heard(self.session):
            if (of and at.id != of) or not at.begins <= seconds < at.begins + at.lasts:
                continue
            bars = spectrum(recording.samples[:, 0], recording.rate, seconds - at.begins + at.first, edges())
            power += np.square(bars * at.gain)
        try:
            world = self.session.answers()
            level = world.level(id_of(path), seconds, 0.0, 0.0)
        except NimbleQuakeError:
            level = 0.0
        self.spectrum.show_sound(np.sqrt(power), level)

    def _remove(self) -> None:
        items.remove_item(self.session, self.session.selection.sound)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.session.select(sound="")
        else:
            super().keyPressEvent(event)


def _range(session: Session, path: str) -> str:
    low, high = (float(session.shown(value_path(path, name)) or 0) for name in ("low", "high"))
    return f"{low:.0f} – {high:.0f} Hz"
