"""Which rows the time strip shows, and the geometry of time on it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from nimble_quake.motion.kinds import is_moving
from nimble_quake.motion.timecode import clock_text
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.session.state import Session
from nimble_quake.shot.groups import holders_of, in_order
from nimble_quake.shot.model import Map, Plate
from nimble_quake.shot.paths import find, map_path, nested_path, plate_path
from nimble_quake.shot.spans import bar_of

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


Known = dict[str, tuple[object, object, object, list[TimeRow]]]
"""Rows of plates and maps by path, with what they were made from: what is as it was is not gone through again."""


def rows_of(session: Session, tall: set[str], show: str, known: Known | None = None) -> list[TimeRow]:
    """Return the rows: each plate's bar with its moving values, then each map's. show: "moving", "all" or "bars"."""
    rows: list[TimeRow] = []
    kept = {} if known is None else known
    seen = (frozenset(tall), show, session.selection if show == "all" else None)
    for plate in in_order(session.shot.plates):
        path = plate_path(plate.id)
        if any(plate_path(holder.id) in session.folded for holder in holders_of(session.shot.plates, plate)):
            continue
        shared = session.shot.plates if any(effect.shared for effect in plate.effects) else None
        rows += _kept(kept, path, (plate, shared, seen), partial(_plate_rows, session, plate, tall, show))
    for map in session.shot.maps:
        path = map_path(map.id)
        unnamed = session.shot.maps if not map.name else None
        rows += _kept(kept, path, (map, unnamed, seen), partial(_map_rows, session, map, tall, show))
    return rows


def _kept(
    known: Known, path: str, depends: tuple[object, object, object], make: Callable[[], list[TimeRow]]
) -> list[TimeRow]:
    """Rows made before of the very same things, else made now."""
    found = known.get(path)
    if found is None or found[0] is not depends[0] or found[1] is not depends[1] or found[2] != depends[2]:
        found = known[path] = (*depends, make())
    return found[3]


def _plate_rows(session: Session, plate: Plate, tall: set[str], show: str) -> list[TimeRow]:
    path = plate_path(plate.id)
    rows = [TimeRow(path, session.name_of(path), "lagoon", bar=True)]
    rows += _values(session, path, "lagoon", tall, show, "")
    for effect in plate.effects:
        own = nested_path(path, effect.id)
        if effect.span is None and not _has_rows(session, own, show):
            continue
        region = "ember" if session.is_quake(own) else "lagoon"
        if effect.span is not None:
            rows.append(TimeRow(own, session.name_of(own), region, sort="span"))
        rows += _values(session, own, region, tall, show, session.name_of(own))
    return rows


def _map_rows(session: Session, map: Map, tall: set[str], show: str) -> list[TimeRow]:
    rows: list[TimeRow] = []
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
    return (show == "all" and _chosen(session, path)) or any(
        is_moving(value) for value in session.values_of(path).values()
    )


def _values(session: Session, path: str, region: str, tall: set[str], show: str, prefix: str) -> list[TimeRow]:
    operator = session.operator(path) if _has_rows(session, path, show) else None
    if operator is None:
        return []
    chosen = _chosen(session, path)
    found, values = [], session.values_of(path)
    bar = operator.with_bar if issubclass(operator, PlateKind) else ()
    for name, param in operator.declared.items():
        own = f"{path}/{name}"
        if name in bar and show != "all":
            continue
        if is_moving(values.get(name)) or (show == "all" and chosen and param.animatable):
            label = f"{prefix}, {param.label.lower()}" if prefix else param.label
            found.append(TimeRow(own, label, region, tall=own in tall))
    return found


def span_of(session: Session, path: str) -> tuple[int, int]:
    """Return a plate's first frame and end."""
    plate = find(session.shot, path)
    return bar_of(plate, session.shot.length) if isinstance(plate, Plate) else (0, session.shot.length)


def time_text(session: Session, frame: float, *, short: bool = False) -> str:
    """Return a frame as timecode, frames or seconds, whichever is chosen."""
    return clock_text(frame, session.shot.rate, session.clock, short=short)
