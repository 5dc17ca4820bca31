"""The bench's frames: asks the render threads for what is to be seen, and plays."""

from __future__ import annotations

import sys
import time
from dataclasses import replace

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from nimble_quake.desktop.aside import on_window_thread
from nimble_quake.desktop.viewers.against import Against
from nimble_quake.desktop.viewers.costs import Costs
from nimble_quake.desktop.viewers.waiting import Waiting
from nimble_quake.render.shown.request import BenchRequest, BenchResponse
from nimble_quake.render.shown.scheduler import Scheduler
from nimble_quake.session.state import Session
from nimble_quake.shot.edits.brackets import alone
from nimble_quake.shot.model import Node, Shot
from nimble_quake.shot.paths import find, id_of, owner_id, siblings

PREVIEWS = {"auto": "Automatic", "full": "Full", "half": "Half", "third": "Third"}
SHARES = {"full": 1.0, "half": 0.5, "third": 1 / 3}
COARSE_FROM = 40.0
"""Milliseconds: where a frame takes longer, one at half its scale is shown first while something is dragged."""
PAUSE = 80
"""Milliseconds that the hand rests before the frame itself is computed: it would only be in the way of the next one."""
AHEAD = 36
"""How many frames are prepared ahead while playing."""


def _report(wrong: Exception) -> None:
    """A small job failed: the net that catches all tells it."""
    sys.excepthook(type(wrong), wrong, wrong.__traceback__)


class Frames(QObject):
    """Owns the scheduler. What arrives comes on the window's thread."""

    arrived = pyqtSignal(object)
    """A frame, with all that is said of it."""
    partly_arrived = pyqtSignal(object)
    """A frame's map, its picture still being computed; or both, without what is said of them."""
    waits = pyqtSignal(bool, bool)
    """(map, picture): what is shown is not what was asked for, and has not been for some time."""
    play_changed = pyqtSignal()
    asked = pyqtSignal()
    """A frame is asked for now, not ahead."""

    def __init__(self, session: Session, preview: str = "auto") -> None:
        super().__init__()
        self.session, self.preview = session, preview
        self.scheduler = Scheduler(session.engine, on_window_thread(self, self._arrive), failed=_report)
        self.viewer_scale = self.map_viewer_scale = 0.5
        self._laid_out = False
        """The viewers have their sizes: what is asked for before is asked for once they have."""
        self.map_view, self.picture_view = "value", "result"
        self.whole_warp = False
        self.shutter = False
        """The preview shows what moves smeared, where the shot asks for it."""
        self.step_view = "finished"
        """Look at the map "finished", "after" the selected step, "before" it, or "compare" it with another."""
        self.compare = ""
        """The path of a step to compare the selected one with, side by side."""
        self.beside = ""
        """The path of another map that is shown beside the selected one."""
        self.beyond = False
        """The picture goes on round the frame."""
        self.against = Against(session)
        self.solo = ""
        """The path of a step that is shown alone, with a bracket's steps."""
        self._soloed: tuple[object, str, Shot] | None = None
        self.upto = ""
        """The path of the effect after which its plate is seen, without the later ones."""
        self.gaps = self.masks = False
        """Hatch what shows through; tint the mask of the selected effect."""
        self.exaggeration = 1.0
        """How many times stronger than it is the selected quake is shown."""
        self.other_shot = False
        """What is tried is a shot of its own."""
        self.shot_override: Shot | None = None
        """A shot to show instead of the open one: a choice being tried."""
        self.playing = False
        self.shown_rate = 0.0
        self.dropped = 0
        self.last: BenchResponse | None = None
        self.costs = Costs()
        self._finer: BenchRequest | None = None
        """What is asked for once its coarse picture is there."""
        self._taken = 0.0
        """Milliseconds that the last frame took which was no coarse one."""
        self._began = (0.0, 0)
        self._asked_for = self._seen = -1
        self._shown: list[float] = []
        self._clock = QTimer(self)
        self._clock.setInterval(4)
        self._clock.timeout.connect(self._tick)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(0)
        self._soon.timeout.connect(self._ask)
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(PAUSE)
        self._pause.timeout.connect(self._refine)
        self._waiting = Waiting(self, self.waits.emit)
        session.changed.connect(lambda _: self._ask_now())
        session.selected.connect(self.ask)
        session.moved.connect(self._moved)

    def set_scales(self, picture: float, map: float) -> None:
        """Take the scales that the viewers need, and ask for a frame at them."""
        self.viewer_scale, self.map_viewer_scale, self._laid_out = max(0.05, picture), max(0.05, map), True
        self.ask()

    def scales(self) -> tuple[float, float]:
        """Return the scales picture and map are computed at."""
        if self.preview in SHARES:
            fraction = SHARES[self.preview]
            return fraction, fraction
        return min(1.0, self.viewer_scale), min(1.0, self.map_viewer_scale)

    def request(self, frame: int, *, probe: bool) -> BenchRequest:
        """Return the request for a frame as the bench is set now."""
        session = self.session
        shot = self.shot_override or self._with_solo(session.shot)
        scale, map_scale = self.scales()
        map_id = owner_id(session.selection.map)
        if not map_id and shot is self.shot_override and shot.maps:
            map_id = shot.maps[-1].id  # the first map of a shot is being tried
        steps = compare = None
        if self.step_view != "finished" and session.selection.step and self.shot_override is None:
            map = session.shot.map(map_id)
            ids = [step.id for step in map.recipe] if map else []
            step = id_of(session.selection.step)
            if step in ids:
                steps = ids.index(step) + (self.step_view in ("after", "compare"))
                if self.step_view == "compare":
                    other = id_of(self.compare)
                    compare = ids.index(other) + 1 if other in ids else ids.index(step)
                    steps = len(ids) if other == step else steps  # until another is chosen, beside the finished map
        return BenchRequest(
            shot=shot,
            frame=frame,
            scale=scale,
            map_scale=map_scale,
            map_id=map_id,
            steps=steps,
            compare=compare,
            beside=owner_id(self.beside) if self.beside != session.selection.map else "",
            against=self.against.shot(),
            beyond=self.beyond,
            plate_id=owner_id(session.selection.plate),
            quake_path=session.selection.quake,
            finish_path=session.selection.finish if self.shot_override is None else "",
            map_view=self.map_view,
            picture_view=self.picture_view,
            exaggerated=(session.selection.quake, self.exaggeration) if self._exaggerates() else None,
            upto=self._upto(session.shot),
            gaps=self.gaps,
            masked=self._masked() if self.masks else "",
            whole_warp=self.whole_warp,
            probe=probe,
            shutter=self.shutter,
        )

    def _upto(self, shot: Shot) -> tuple[str, int] | None:
        row = siblings(shot, self.upto) if self.upto else []
        if self.upto not in row:
            self.upto = ""
            return None
        return owner_id(self.upto), row.index(self.upto) + 1

    def _masked(self) -> str:
        """The path of the selected finish, quake or plate, the first that has a mask."""
        chosen = self.session.selection
        paths = (chosen.finish, chosen.quake, chosen.plate)
        return next((path for path in paths if path and self.session.shown(f"{path}/mask")), "")

    def show_upto(self, path: str) -> None:
        """See a plate after one of its effects, without the later ones; or whole again."""
        self.upto = "" if self.upto == path else path
        self.ask()

    def _exaggerates(self) -> bool:
        return self.exaggeration != 1 and bool(self.session.selection.quake)

    def toggle_whole_warp(self) -> None:
        """Let needles and distances show all effects of the plate together, or the selected quake alone."""
        self.whole_warp = not self.whole_warp
        what = "all effects together" if self.whole_warp else "one quake alone"
        self.session.message.emit(f"Needles and distances show {what}")
        self.ask()

    def toggle_shutter(self) -> None:
        """Show the shutter in the preview, or leave it to the render."""
        self.shutter = not self.shutter
        angle = self.session.shot.shutter
        seen = f"is shown: {angle}°" if self.shutter else "is left to the render"
        self.session.message.emit(
            f"The shutter {seen}" if angle else "The shot has no shutter: Shot › Size, rate and length"
        )
        self.session.changed.emit({"settings"})
        self.ask()

    def exaggerate(self, factor: float) -> None:
        """Show the selected quake so many times stronger than it is; 1 is as it is."""
        self.exaggeration = factor
        self.ask()

    def _with_solo(self, shot: Shot) -> Shot:
        """The shot with only one step of its map switched on, where one is shown alone."""
        if self.solo and not isinstance(find(shot, self.solo), Node):
            self.solo = ""  # it is gone, and another shot's step of that name is another step
        if not self.solo:
            return shot
        if self._soloed is None or self._soloed[0] is not shot or self._soloed[1] != self.solo:
            self._soloed = (shot, self.solo, alone(shot, self.solo))
        return self._soloed[2]

    def ask(self) -> None:
        """Ask for the frame at the playhead; several asks in one turn of the event loop are one."""
        if not self._soon.isActive():
            self._soon.start()

    def _ask_now(self) -> None:
        """Ask before the window shows the change, so that frame and widgets are made side by side."""
        if self.playing or not self._laid_out:
            self.ask()
        else:
            self._ask()

    def _ask(self) -> None:
        if self.playing:
            self._prepare(self.session.frame)
        else:
            self.asked.emit()
            request = self.request(self.session.frame, probe=True)
            self._finer = None
            self._pause.stop()
            if self.session.history.gesturing:
                request = replace(request, dragged=True)
                if self._taken > COARSE_FROM:
                    self._finer, request = replace(request, refines=True), request.coarser()
            self._send(request)

    def _refine(self) -> None:
        finer, self._finer = self._finer, None
        if finer is not None and not self.playing:
            self._send(finer)

    def _send(self, request: BenchRequest) -> None:
        self._waiting.begin(request)
        self.scheduler.ask(request)

    def _arrive(self, response: BenchResponse) -> None:
        if self.playing:
            return
        self._waiting.take(response)
        if response.partial:
            if response.picture is not None:
                self._shown_now(response)
            self.partly_arrived.emit(response)
            return
        self.last = response
        self._shown_now(response)
        if not response.request.coarse:
            self.costs.take(response)
        self.arrived.emit(response)

    def _shown_now(self, response: BenchResponse) -> None:
        """A frame's picture is there."""
        if not response.request.coarse:
            self._taken = response.milliseconds
        elif not self._pause.isActive():  # what is said of it must not put the frame itself off
            self._pause.start()

    def _moved(self) -> None:
        if self.playing:
            return
        kept = self.scheduler.ready(self.request(self.session.frame, probe=False))
        if kept is not None:
            self.arrived.emit(kept)
        self.ask()

    # Playing

    def span(self) -> tuple[int, int]:
        """Return the range that plays, end not included."""
        return self.session.shot.loop or (0, self.session.shot.length)

    def toggle(self) -> None:
        """Play or pause."""
        self.stop() if self.playing else self.play()

    def play(self) -> None:
        """Play in a loop from the playhead, at true rate."""
        if self.playing:
            return
        first, end = self.span()
        if not first <= self.session.frame < end:
            self.session.set_frame(first)
        self.playing, self.dropped = True, 0
        self._waiting.end()
        self._shown = []
        self._began = (time.perf_counter(), self.session.frame)
        self._asked_for = self._seen = -1
        self._prepare(self.session.frame)
        self._clock.start()
        self.play_changed.emit()

    def stop(self) -> None:
        """Pause, and look at this frame closely."""
        if not self.playing:
            return
        self.playing = False
        self._clock.stop()
        self.scheduler.prepare(())
        self.play_changed.emit()
        self.ask()

    def _wanted(self) -> int:
        first, end = self.span()
        began, start = self._began
        gone = int((time.perf_counter() - began) * float(self.session.shot.rate))
        return first + (start - first + gone) % max(1, end - first)

    def _prepare(self, frame: int) -> None:
        """Ask for the coming frames; when computing cannot keep up, from the first that can be ready in time."""
        first, end = self.span()
        period = 1000 / float(self.session.shot.rate)
        lead = max(0, int(self.scheduler.cost / period))
        coming = [first + (frame + lead + n - first) % (end - first) for n in range(min(AHEAD, end - first))]
        self.scheduler.prepare([self.request(number, probe=False) for number in coming])

    def prepared(self) -> dict[int, bool]:
        """Return the frames that are kept, and whether each is what would be shown now (else it is out of date)."""
        found: dict[int, bool] = {}
        wanted = self.request(0, probe=False)
        for request in self.scheduler.kept():
            fresh = request.key() == replace(wanted, frame=request.frame).key()
            found[request.frame] = fresh or found.get(request.frame, False)
        return found

    def _tick(self) -> None:
        wanted = self._wanted()
        if wanted == self._asked_for and self.scheduler.finished == self._seen:
            return  # nothing has been finished since the last look
        self._seen = self.scheduler.finished
        if self.last is not None and self.last.request.frame == wanted and not self.last.request.probe:
            return
        kept = self.scheduler.ready(self.request(wanted, probe=False))
        if kept is None or (self.last is kept):
            if wanted not in (self.session.frame, self._asked_for) and kept is None:
                self._prepare(wanted)  # true time goes on, and the coming ones are asked for
            self._asked_for = wanted
            return
        self._asked_for = wanted
        skipped = (wanted - self.session.frame - 1) % max(1, self.session.shot.length)
        self.dropped += skipped if 0 < skipped < 60 else 0
        now = time.perf_counter()
        self._shown = [at for at in self._shown if now - at < 1.0] + [now]
        if len(self._shown) > 2:
            self.shown_rate = (len(self._shown) - 1) / (self._shown[-1] - self._shown[0])
        self.last = kept
        self.costs.take(kept)
        self.session.set_frame(wanted)
        self.arrived.emit(kept)
        self._prepare(wanted)

    def shut(self) -> None:
        """End the render threads."""
        self._clock.stop()
        self.scheduler.stop()

    def with_override(self, shot: Shot | None, *, whole: bool = False) -> None:
        """Show another shot in the viewers (a choice being tried), or the open one again.

        whole: it has nothing to do with the open shot, whose handles and names say nothing of it.
        """
        self.shot_override, self.other_shot = shot, whole and shot is not None
        self.ask()
