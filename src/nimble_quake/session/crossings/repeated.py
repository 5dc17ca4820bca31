"""The same crossing in many places: wherever plates meet, and at every beat."""

from __future__ import annotations

import msgspec

from nimble_quake.conventions import Frames
from nimble_quake.session.crossings.laying import with_laid
from nimble_quake.session.crossings.meetings import crossed_by, cuts, pairs
from nimble_quake.session.state import Session
from nimble_quake.session.verbs.bars import with_cut
from nimble_quake.shot.crossings import CROSSING, effects_of, row_of, span_of, strongest, with_strongest
from nimble_quake.shot.edits.set_value import set_field
from nimble_quake.shot.fragment import fragment_of
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shot.paths import id_of, nested_path, plate_path
from nimble_quake.shot.spans import bar_of

MOST = 100
"""Beats that are crossed at once."""


def at_every_cut(session: Session) -> int:
    """Lay the selected crossing at every other cut too, as one step. Returns how many were laid."""
    crossing = _selected(session)
    if crossing is None:
        return 0
    starter, shot, count = _alone_with(session, crossing), session.shot, 0
    for pair in cuts(shot, crossing.inside):
        made, path = with_laid(shot, starter, pair, crossing.name)
        shot, count = (made, count + 1) if path else (shot, count)
    if not count:
        session.message.emit("No other plates meet: let their bars overlap or touch")
        return 0
    session.edit(f"{crossing.name} at {count} more {'cut' if count == 1 else 'cuts'}", shot)
    return count


def at_every_beat(session: Session) -> int:
    """Cut the row of the selected crossing at every beat and lay it there, strongest on the beat, as one step.

    Beats are the shot's, else its markers. Where they are closer than it is long it is shorter there; a beat in or
    beside a crossing or the end of a bar is left out. Returns how many were laid.
    """
    crossing = _selected(session)
    if crossing is None:
        return 0
    beats = session.shot.beats or tuple(float(marker.frame) for marker in session.shot.markers)
    if not beats:
        session.message.emit("There are no beats yet: find them in a sound, tap them, or set markers")
        return 0
    laid = _AtBeats(session, crossing, beats)
    for beat in beats[:MOST]:
        laid.take(beat)
    if not laid.count:
        session.message.emit(f"No beat lies inside the plates that {crossing.name} crosses")
        return 0
    session.edit(f"{crossing.name} at {laid.count} {'beat' if laid.count == 1 else 'beats'}", laid.shot)
    left = min(len(beats), MOST) - laid.count
    more = f"; {len(beats) - MOST} beats after the first {MOST} are left" if len(beats) > MOST else ""
    beside = f", {left} lie in a crossing or beside the end of a bar" if left else ""
    session.message.emit(f"{crossing.name} at {laid.count} of {min(len(beats), MOST)} beats{beside}{more}")
    return laid.count


class _AtBeats:
    """A shot that gets a crossing at one beat after the other."""

    def __init__(self, session: Session, crossing: Plate, beats: tuple[Frames, ...]) -> None:
        self.session, self.crossing, self.shot, self.count = session, crossing, session.shot, 0
        self._starter = _alone_with(session, crossing)
        start, end = span_of(crossing)
        peak = strongest(session.shot, plate_path(crossing.id))
        self._before = 0.5 if peak is None else (peak - start) / (end - start)
        closest = min((then - now for now, then in zip(beats, beats[1:], strict=False)), default=float(end - start))
        self._long = max(2, min(end - start, int(closest)))
        self._row = _chained(self.shot, crossing)

    def take(self, beat: Frames) -> None:
        """Cut the plate that is seen at a beat, and cross there."""
        start = round(beat - self._before * self._long)
        end = start + self._long
        taken = (span_of(each) for each in crossed_by(self.shot).values() if each.inside == self.crossing.inside)
        if any(first < end and start < last for first, last in taken):
            return
        row = [plate for plate in row_of(self.shot, self.crossing.inside) if plate.id in self._row]
        bars = {plate.id: bar_of(plate, self.shot.length) for plate in row}
        found = next((plate for plate in row if bars[plate.id][0] < start and end < bars[plate.id][1]), None)
        if found is None:
            return
        shot, second = with_cut(self.session, self.shot, plate_path(found.id), start)
        shot = set_field(shot, plate_path(found.id), end=end)
        shot, path = with_laid(shot, self._starter, (found.id, id_of(second)), self.crossing.name)
        if path:
            self.shot, self.count = with_strongest(shot, path, beat), self.count + 1
            self._row.add(id_of(second))


def _chained(shot: Shot, crossing: Plate) -> set[str]:
    """The plates that a crossing crosses, and those that follow them or that they follow, cut by cut."""
    found = {str(crossing.values.get(side, "")) for side in ("before", "after")} - {""}
    links = [*pairs(shot, crossing.inside), *crossed_by(shot)]
    while more := {id for pair in links if found & set(pair) for id in pair if id} - found:
        found |= more
    return found


def _selected(session: Session) -> Plate | None:
    crossing = session.shot.plate(id_of(session.selection.plate))
    if crossing is None or crossing.kind != CROSSING:
        session.message.emit("Select a crossing first")
        return None
    return crossing


def _alone_with(session: Session, crossing: Plate) -> Shot:
    """A shot of a crossing and its two plates, with the maps that it and its sides' effects read."""
    shot = session.shot
    own = [nested_path(plate_path(plate.id), effect.id) for plate, effect in effects_of(shot, crossing.id)]
    kinds = session.engine.operators.get
    pieces = [fragment_of(shot, [plate_path(crossing.id)], kinds), *(fragment_of(shot, [path], kinds) for path in own)]
    read = {map.id for piece in pieces for map in piece.shot.maps}
    sides = (crossing.values.get("before"), crossing.values.get("after"))
    plates = (crossing, *(plate for plate in shot.plates if plate.id in sides))
    maps = tuple(map for map in shot.maps if map.id in read)
    front = tuple(node for node in shot.front if node.inside == crossing.id)
    return msgspec.structs.replace(shot, plates=plates, maps=maps, front=front)
