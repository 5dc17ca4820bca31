"""Crossings: transitions between two plates, as plates that show both while they are there.

A crossing refers to its plates and owns neither. What it does to a side are effects of that side's plate that belong to
it: their span is the crossing's. Its progress, strength and mix are motions made from its bar, its strongest moment
and its ease; a motion that somebody has changed stays as it is.
"""

from __future__ import annotations

from typing import TypeAlias

import msgspec

from nimble_quake.conventions import Frames
from nimble_quake.motion.easing import Ease
from nimble_quake.motion.kinds import Key, Keys
from nimble_quake.motion.motion import Motion
from nimble_quake.params.drives import drives_in
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Node, Plate, Shot
from nimble_quake.shot.paths import find, path_in, value_path

CROSSING = "crossing"
Courses: TypeAlias = dict[str, Motion]
EASES: dict[str, tuple[str, Ease]] = {
    "straight": ("straight", (0.42, 0.0, 0.58, 1.0)),
    "eased": ("eased", (0.42, 0.0, 0.58, 1.0)),
    "late": ("eased", (0.6, 0.0, 1.0, 1.0)),
    "early": ("eased", (0.0, 0.0, 0.4, 1.0)),
}
"""How its progress goes on, and its Bézier curve (CSS Easing 1)."""
STRENGTH_EASE: Ease = (0.42, 0.0, 0.58, 1.0)


def span_of(crossing: Plate) -> tuple[int, int]:
    """Return a crossing's first frame, and the one after its last."""
    start = crossing.start or 0
    return start, max(start + 1, crossing.end if crossing.end is not None else start + 24)


def row_of(shot: Shot, inside: str) -> list[Plate]:
    """Return the plates that lie side by side in a group, or in the shot: all but crossings, the top one first."""
    return [plate for plate in shot.plates if plate.kind != CROSSING and plate.inside == inside]


def courses(crossing: Plate) -> Courses:
    """Return its progress, strength and mix over its span: progress = (t - start) / (end - start), the end excluded."""
    start, end = span_of(crossing)
    strongest = crossing.values.get("strongest", 0.5)
    peak = start + (end - start) * (0.5 if isinstance(strongest, Motion) else min(max(float(strongest), 0.0), 1.0))
    after, ease = EASES.get(str(crossing.values.get("ease", "straight")), EASES["straight"])
    whole = Keys((Key(frame=start, value=0.0, after=after, ease=ease), Key(frame=end, value=1.0, after="straight")))
    rising = [Key(frame=start, value=0.0, after="eased", ease=STRENGTH_EASE)] if peak > start else []
    falling = [Key(frame=end, value=0.0, after="straight")] if peak < end else []
    top = Key(frame=peak, value=1.0, after="eased", ease=STRENGTH_EASE)
    return {"progress": whole, "mix": whole, "strength": Keys((*rising, top, *falling))}


def strongest(shot: Shot, path: str) -> Frames | None:
    """Return the frame at which a crossing is strongest; None where that moves, or it is none."""
    plate = find(shot, path)
    if not isinstance(plate, Plate) or plate.kind != CROSSING or isinstance(plate.values.get("strongest"), Motion):
        return None
    start, end = span_of(plate)
    return start + (end - start) * min(max(float(plate.values.get("strongest", 0.5)), 0.0), 1.0)


def with_strongest(shot: Shot, path: str, frame: Frames) -> Shot:
    """Return a shot with a crossing that is strongest at a frame, as near as it is there; its dial goes along."""
    plate = find(shot, path)
    if not isinstance(plate, Plate):
        return shot
    (start, end), own = span_of(plate), value_path(path, "strongest")
    fraction = min(max((frame - start) / (end - start), 0.0), 1.0)
    for dial in shot.front:  # it has not left its dial by this
        if any(drive.path == own and drive.ends is None for drive in drives_in(dial.values)):
            shot = set_value(shot, value_path(path_in("front", dial.id), "value"), fraction)
    return set_value(shot, own, fraction)


def with_courses(crossing: Plate, before: Plate | None = None) -> Plate:
    """Return a crossing with its motions made from what it is now; those that differed from `before`'s stay."""
    now, old = courses(crossing), courses(before) if before is not None else {}
    values = dict(crossing.values)
    for name, motion in now.items():
        if before is None or name not in values or values[name] == old.get(name):
            values[name] = motion
    return crossing if values == crossing.values else msgspec.structs.replace(crossing, values=values)


def kept(before: Shot, after: Shot) -> Shot:
    """Return `after` with what a crossing that was moved, stretched or bent makes: its motions, its sides' spans."""
    if after.plates is before.plates:
        return after
    olds = {plate.id: plate for plate in before.plates if plate.kind == CROSSING}
    after = _on_its_cut(before, after, olds)
    changed = {
        plate.id: with_courses(plate, olds.get(plate.id))
        for plate in after.plates
        if plate.kind == CROSSING and plate is not olds.get(plate.id)
    }
    gone = {id for id in olds if after.plate(id) is None}
    if not changed and not gone:
        return after
    plates = tuple(_side(changed.get(plate.id, plate), changed, gone) for plate in after.plates)
    return msgspec.structs.replace(after, plates=plates)


def _on_its_cut(before: Shot, after: Shot, olds: dict[str, Plate]) -> Shot:
    """Its ends and those of its plates stay together: whichever was moved, the others go along."""
    moved: dict[str, Plate] = {}

    def now(id: str) -> Plate | None:
        return moved.get(id) or after.plate(id)

    for id, old in olds.items():
        crossing = now(id)
        if crossing is None:
            continue
        for side, own, theirs in (("before", "end", "end"), ("after", "start", "start")):
            was, plate = before.plate(str(old.values.get(side, ""))), now(str(crossing.values.get(side, "")))
            if was is None or plate is None or _edge(was, theirs) != _edge(old, own):
                continue
            if _edge(crossing, own) != _edge(old, own):
                moved[plate.id] = msgspec.structs.replace(plate, **{theirs: _edge(crossing, own)})
            elif _edge(plate, theirs) != _edge(was, theirs):
                crossing = moved[id] = msgspec.structs.replace(crossing, **{own: _edge(plate, theirs)})
    if not moved:
        return after
    return msgspec.structs.replace(after, plates=tuple(moved.get(plate.id, plate) for plate in after.plates))


def _edge(plate: Plate, which: str) -> int | None:
    return plate.start if which == "start" else plate.end


def _side(plate: Plate, changed: dict[str, Plate], gone: set[str]) -> Plate:
    """A plate whose effects that belong to a crossing have its span; those of one that is gone go with it."""
    if not any(effect.inside in changed or effect.inside in gone for effect in plate.effects):
        return plate
    effects = tuple(_in_span(effect, changed) for effect in plate.effects if effect.inside not in gone)
    return msgspec.structs.replace(plate, effects=effects)


def _in_span(effect: Node, changed: dict[str, Plate]) -> Node:
    crossing = changed.get(effect.inside)
    span = span_of(crossing) if crossing is not None else None
    return effect if span is None or effect.span == span else msgspec.structs.replace(effect, span=span)


def effects_of(shot: Shot, crossing: str) -> list[tuple[Plate, Node]]:
    """Return the effects of its sides that belong to a crossing, each with its plate."""
    return [(plate, effect) for plate in shot.plates for effect in plate.effects if effect.inside == crossing]
