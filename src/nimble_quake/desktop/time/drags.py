"""What a press in the time strip began: it is told of each place the pointer goes to, and of its end."""

from __future__ import annotations

from collections.abc import Set
from typing import Protocol

from PyQt6.QtCore import QPointF, QRectF

from nimble_quake.desktop.time.bars import BarDrag, dragged_bar
from nimble_quake.desktop.time.lanes_shown import LanesShown
from nimble_quake.desktop.time.sound import dragged
from nimble_quake.desktop.time.spans import dragged_span, spanned
from nimble_quake.render.heard import Placed
from nimble_quake.shot.edits.settings import move_marker, set_shot
from nimble_quake.shot.model import Node
from nimble_quake.shot.paths import find


class LanesHeld(LanesShown, Protocol):
    """The lanes, as a drag changes them."""

    first: float
    """The frame at their left end."""
    box: QRectF | None
    """The box that is drawn round pins."""

    def snapped(self, frame: float, own: Set[float] = frozenset()) -> int:
        """Return a whole frame: that of a pin, a marker or the now-line where one is near. own: these do not count."""

    def pins_in(self, box: QRectF) -> set[tuple[str, float]]:
        """Return the pins whose heads lie in a box."""

    def scroll_frames(self, first: float) -> None:
        """Show the frames from `first` on."""

    def update(self, *area: object) -> None:
        """Draw everything anew."""


class Drag:
    """The base. `edits`: it is one gesture of the document, begun with the press and committed with the release."""

    edits = True

    def __init__(self, lanes: LanesHeld) -> None:
        self.lanes, self.session = lanes, lanes.session

    def move(self, at: QPointF) -> None:
        """Follow the pointer."""
        raise NotImplementedError

    def end(self) -> None:
        """Do what is left when the button is let go."""


class NowDrag(Drag):
    """The playhead."""

    edits = False

    def move(self, at: QPointF) -> None:
        frame = self.lanes.frame_at(at.x())
        self.session.set_frame(self.lanes.snapped(frame, {float(self.session.frame)}))


class PanDrag(Drag):
    """What is seen goes along."""

    edits = False

    def __init__(self, lanes: LanesHeld, at: QPointF) -> None:
        super().__init__(lanes)
        self._x, self._first = at.x(), lanes.first

    def move(self, at: QPointF) -> None:
        self.lanes.scroll_frames(self._first - (at.x() - self._x) / self.lanes.zoom)


class LoopDrag(Drag):
    """The loop range, from where it was pressed."""

    def __init__(self, lanes: LanesHeld, at: QPointF) -> None:
        super().__init__(lanes)
        self._from = round(lanes.frame_at(at.x()))
        self.session.begin("Set the loop")

    def move(self, at: QPointF) -> None:
        length, to = self.session.shot.length, round(self.lanes.frame_at(at.x()))
        first, last = sorted(min(max(frame, 0), length) for frame in (self._from, to))
        self.session.change(set_shot(self.session.shot, loop=(first, last) if last > first else None))


class MarkerDrag(Drag):
    """A marker."""

    def __init__(self, lanes: LanesHeld, frame: int) -> None:
        super().__init__(lanes)
        self._frame = frame
        self.session.begin("Move marker")

    def move(self, at: QPointF) -> None:
        snapped = self.lanes.snapped(self.lanes.frame_at(at.x()), {float(self._frame)})
        to = min(max(snapped, 0), self.session.shot.length - 1)
        self.session.change(move_marker(self.session.shot, self._frame, to))
        self._frame = to


class BarsDrag(Drag):
    """Bars of plates: slid, trimmed, faded, sped up."""

    def __init__(self, lanes: LanesHeld, drag: BarDrag, label: str) -> None:
        super().__init__(lanes)
        self._drag = drag
        self.session.begin(label)

    def move(self, at: QPointF) -> None:
        frame = self.lanes.frame_at(at.x())
        self.session.change(dragged_bar(self.session, self._drag, frame, self.lanes.snapped))


class SpanDrag(Drag):
    """The span of an effect: slid, trimmed or faded. pins: its pins go along."""

    def __init__(self, lanes: LanesHeld, path: str, grip: str, at: QPointF, label: str, *, pins: bool) -> None:
        super().__init__(lanes)
        self._shot, self._path, self._grip, self._pins = self.session.shot, path, grip, pins
        self._frame = lanes.frame_at(at.x())
        self.session.begin(label)

    def move(self, at: QPointF) -> None:
        node = spanned(self.session, self._path)
        if node is None or node.span is None:
            return
        frame, before = self.lanes.frame_at(at.x()), find(self._shot, self._path)
        way = round(frame - self._frame)
        if self._grip == "slide":
            first = before.span[0] if isinstance(before, Node) and before.span is not None else 0
            way = self.lanes.snapped(first + way) - first
        to = self.lanes.snapped(frame)
        self.session.change(dragged_span(self._shot, self._path, self._grip, to, way, pins=self._pins))


class SoundDrag(Drag):
    """A sound: slid, or trimmed at its ends."""

    def __init__(self, lanes: LanesHeld, path: str, grip: str, sound: Placed, at: QPointF) -> None:
        super().__init__(lanes)
        self._path, self._grip, self._sound = path, grip, sound
        self._frame = lanes.frame_at(at.x())
        self.session.begin(f"{'Slide' if grip == 'slide' else 'Trim'} {self.session.name_of(path)}")

    def move(self, at: QPointF) -> None:
        frame = self.lanes.frame_at(at.x())
        begins = self._sound.begins * float(self.session.shot.rate)
        to = begins + frame - self._frame if self._grip == "slide" else frame
        dragged(self.session, self._path, self._grip, self._sound, self.lanes.snapped(to))


class BoxDrag(Drag):
    """A box round pins: those in it are chosen."""

    edits = False

    def __init__(self, lanes: LanesHeld, at: QPointF) -> None:
        super().__init__(lanes)
        self._from = at

    def move(self, at: QPointF) -> None:
        self.lanes.box = QRectF(self._from, at).normalized()
        self.lanes.chosen = self.lanes.pins_in(self.lanes.box)
        self.lanes.update()

    def end(self) -> None:
        self.lanes.box = None
