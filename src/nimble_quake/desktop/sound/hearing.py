"""Sound in the window: what is decoded and searched for beats is done aside; what is heard plays with the picture."""

from __future__ import annotations

import threading

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QObject

from nimble_quake.analysis.beats import Found
from nimble_quake.desktop.aside import on_window_thread
from nimble_quake.desktop.lines.status_line import StatusLine
from nimble_quake.desktop.sound.speaker import Speaker
from nimble_quake.desktop.viewers.frames import Frames
from nimble_quake.media.sound import Recording
from nimble_quake.render.heard import sound_files
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import sounds
from nimble_quake.session.work import Work
from nimble_quake.shot.paths import id_of

PEAK_RATE = 200
"""Peaks of a waveform a second."""


class Hearing(QObject):
    """Decodes new sounds, finds beats, plays."""

    def __init__(self, session: Session, frames: Frames, status: StatusLine) -> None:
        super().__init__()
        self.session, self.frames, self.status = session, frames, status
        self.speaker = Speaker()
        self._decoding: threading.Thread | None = None
        self._work: Work | None = None
        self._peaks: dict[tuple[str, int, int], NDArray[np.float32]] = {}
        self._take_later = on_window_thread(self, self._take)
        self._keep_later = on_window_thread(self, self._keep)
        session.changed.connect(lambda _: self.look())
        frames.play_changed.connect(self._play)
        self.look()

    def look(self) -> None:
        """Decode aside what is not decoded yet."""
        files = sounds.sounds_missing(self.session)
        if not files or (self._decoding is not None and self._decoding.is_alive()):
            return
        recordings, hand_over = self.session.engine.recordings, self._take_later

        def work() -> None:
            hand_over(sounds.decode(recordings, files))

        self._decoding = threading.Thread(target=work, name="decoding sound", daemon=True)
        self._decoding.start()

    def _take(self, wrong: list[str]) -> None:
        for line in wrong:
            self.status.say(line, "fault_text")
        self.session.engine.forget_sounds()
        self.session.changed.emit({"sound"})
        if self.frames.playing:
            self._play()

    def find_beats(self, *, hits: bool) -> None:
        """Find the beats of the selected sound or band, else of all sounds, aside."""
        if not sound_files(self.session.shot):
            self.session.message.emit("Add a sound first, then find its beats")
            return
        if self._work is not None and not self._work.ended:
            self._work.stop()
        chosen, shot, hand_over = self.session.selection.sound, self.session.shot, self._keep_later
        sound = id_of(chosen) if chosen.startswith("sounds/") else ""
        band = id_of(chosen) if chosen.startswith("bands/") else ""
        if band:
            node = next((node for node in shot.bands if node.id == band), None)
            sound = str(node.values.get("of", "")) if node else ""
        work = self._work = Work("Finding beats", sounds.STEPS)
        self.status.show_work(work)

        def search() -> None:
            result: Found | None = None
            try:
                result = sounds.find_beats(self.session, shot, sound, band, work)
            finally:
                work.end()
                hand_over(result, hits)

        threading.Thread(target=search, name="finding beats", daemon=True).start()

    def _keep(self, result: Found | None, hits: bool) -> None:
        if result is not None:
            sounds.keep_beats(self.session, result, hits=hits)

    def _play(self) -> None:
        if self.frames.playing:
            shot = self.session.shot
            heard = sounds.heard(self.session)
            self.speaker.play(heard, float(shot.rate), self.frames.span(), self.session.frame)
        else:
            self.speaker.stop()

    def peaks(self, file: str) -> NDArray[np.float32] | None:
        """Return the loudest sample of each 1/PEAK_RATE second of a sound, (n,); None until it is decoded."""
        recordings = self.session.engine.recordings
        recording: Recording | None = recordings.known(file)
        if recording is None:
            return None
        key = recordings.stamp(file)
        if key not in self._peaks:
            if len(self._peaks) > 50:
                self._peaks.clear()
            size = max(1, recording.rate // PEAK_RATE)
            mono = np.abs(recording.samples).max(axis=1)
            whole = np.pad(mono, (0, -len(mono) % size)).reshape(-1, size)
            self._peaks[key] = whole.max(axis=1)
        return self._peaks[key]

    def shut(self) -> None:
        """Be silent, and stop what is under way."""
        self.speaker.stop()
        if self._work is not None:
            self._work.stop()
        if self._decoding is not None:
            self._decoding.join(5)
