"""Which rows the time strip shows, and the geometry of time on it."""

from __future__ import annotations

from dataclasses import dataclass

from nimble_quake.motion.kinds import is_moving
from nimble_quake.motion.timecode import clock_text
from nimble_quake.session.state import Session
from nimble_quake.shot.groups import holders_of, in_order
from nimble_quake.shot.model import Plate
from nimble_quake.shot.paths import find, map_path, nested_path, plate_path

ROW, TALL, SOUND = 24, 200, 34


@dataclass(frozen=True)
class TimeRow:
    """A plate's bar, a moving value, a sound or a band. `region`: whose colour it has."""

    path: str
    label: str
    region: str
    bar: bool = False
    sort: str = ""
    """"sound", "band" or "span" (of an effect); empty for plates and values."""
    tall: bool = False

    @property
    def height(self) -> int:
        """Height in pixels."""
        return TALL if self.tall else SOUND if self.sort == "sound" else ROW


def rows_of(session: Session, tall: set[str], show: str) -> list[TimeRow]:
    """Return the rows: each plate's bar with its moving values, then each map's. show: "moving", "all" or "bars"."""
    rows: list[TimeRow] = []
    for plate in in_order(session.shot.plates):
        path = plate_path(plate.id)
        if any(plate_path(holder.id) in session.folded for holder in holders_of(session.shot.plates, plate)):
            continue
        rows.append(TimeRow(path, session.name_of(path), "lagoon", bar=True))
        rows += _values(session, path, "lagoon", tall, show, "")
        for effect in plate.effects:
            own = nested_path(path, effect.id)
            if effect.span is None and not _has_rows(session, own, show):
                continue
            region = "ember" if session.is_quake(own) else "lagoon"
            if effect.span is not None:
                rows.append(TimeRow(own, session.name_of(own), region, sort="span"))
            rows += _values(session, own, region, tall, show, session.name_of(own))
    for map in session.shot.maps:
        for step in map.recipe:
            own = nested_path(map_path(map.id), step.id)
            if _has_rows(session, own, show):
                owner = f"{session.name_of(map_path(map.id))}, {session.name_of(own)}"
                rows += _values(session, own, "brass", tall, show, owner)
    return rows


def _chosen(session: Session, path: str) -> bool:
    selection = session.selection
    return path in (selection.plate, selection.quake, selection.finish, selection.step)


def _has_rows(session: Session, path: str, show: str) -> bool:
    """Whether a node has values that get a row: asked first, because of many most do not."""
    if show == "bars":
        return False
    return (show == "all" and _chosen(session, path)) or any(map(is_moving, session.values_of(path).values()))


def _values(session: Session, path: str, region: str, tall: set[str], show: str, prefix: str) -> list[TimeRow]:
    operator = session.operator(path) if _has_rows(session, path, show) else None
    if operator is None:
        return []
    chosen = _chosen(session, path)
    found, values = [], session.values_of(path)
    for name, param in operator.declared.items():
        own = f"{path}/{name}"
        if is_moving(values.get(name)) or (show == "all" and chosen and param.animatable):
            label = f"{prefix}, {param.label.lower()}" if prefix else param.label
            found.append(TimeRow(own, label, region, tall=own in tall))
    return found


def span_of(session: Session, path: str) -> tuple[int, int]:
    """Return a plate's first frame and end."""
    plate = find(session.shot, path)
    if not isinstance(plate, Plate):
        return 0, session.shot.length
    start = plate.start if plate.start is not None else 0
    return start, plate.end if plate.end is not None else session.shot.length


def time_text(session: Session, frame: float, *, short: bool = False) -> str:
    """Return a frame as timecode, frames or seconds, whichever is chosen."""
    return clock_text(frame, session.shot.rate, session.clock, short=short)
