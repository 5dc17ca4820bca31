"""Which rows the time strip shows, and the geometry of time on it."""

from __future__ import annotations

from dataclasses import dataclass

from nimble_quake.motion.kinds import Keys, is_moving
from nimble_quake.motion.resolve import value_at
from nimble_quake.params.kinds import Param
from nimble_quake.render.job import moment_of
from nimble_quake.session.state import Session
from nimble_quake.shot.groups import holders_of, in_order
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shot.paths import all_nodes, find, map_path, nested_path, plate_path

ROW, TALL = 24, 200


@dataclass(frozen=True)
class TimeRow:
    """A plate's bar, or a moving value. `region`: whose colour it has."""

    path: str
    label: str
    region: str
    bar: bool = False
    tall: bool = False

    @property
    def height(self) -> int:
        """Height in pixels."""
        return TALL if self.tall else ROW


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
            region = "ember" if session.is_quake(own) else "lagoon"
            rows += _values(session, own, region, tall, show, session.name_of(own))
    for map in session.shot.maps:
        for step in map.recipe:
            own = nested_path(map_path(map.id), step.id)
            owner = f"{session.name_of(map_path(map.id))}, {session.name_of(own)}"
            rows += _values(session, own, "brass", tall, show, owner)
    return rows


def _values(session: Session, path: str, region: str, tall: set[str], show: str, prefix: str) -> list[TimeRow]:
    operator = session.operator(path)
    if operator is None or show == "bars":
        return []
    chosen = path in (
        session.selection.plate,
        session.selection.quake,
        session.selection.finish,
        session.selection.step,
    )
    found = []
    for name, param in operator.declared.items():
        own = f"{path}/{name}"
        if is_moving(session.raw(own)) or (show == "all" and chosen and param.animatable):
            label = f"{prefix}, {param.label.lower()}" if prefix else param.label
            found.append(TimeRow(own, label, region, tall=own in tall))
    return found


def curve(session: Session, path: str, first: float, last: float, count: int) -> list[list[float]]:
    """Return the values of a moving value at `count` times from `first` to `last` (frames), one list a number."""
    param, raw = session.param(path), session.raw(path)
    if param is None or param.size == 0:
        return []
    raw = raw if raw is not None else session.shown(path)
    lists: list[list[float]] = [[] for _ in range(param.size)]
    try:
        for n in range(count):
            frame = first + (last - first) * n / max(1, count - 1)
            value = value_at(raw, moment_of(session.shot, frame), param.size)
            for number, out in zip(value if isinstance(value, tuple) else (value,), lists, strict=True):
                out.append(float(number))
    except Exception:  # a formula that fails somewhere has no trace there; the viewer says why
        return []
    return lists


def bounds_of(lists: list[list[float]], param: Param | None) -> tuple[float, float]:
    """Return the lowest and highest value to show, with 6 % of room each way."""
    flat = [number for numbers in lists for number in numbers] or [0.0, 1.0]
    low, high = min(flat), max(flat)
    if high - low < 1e-9:
        spread = abs(high) or 1.0
        low, high = low - spread / 2, high + spread / 2
    room = (high - low) * 0.06
    return low - room, high + room


def all_pin_frames(shot: Shot) -> list[float]:
    """Return the frames of all pins of a shot, in order."""
    found: set[float] = set()
    for _, node in all_nodes(shot):
        for value in node.values.values():
            if isinstance(value, Keys):
                found |= {key.frame for key in value.keys}
    return sorted(found)


def span_of(session: Session, path: str) -> tuple[int, int]:
    """Return a plate's first frame and end."""
    plate = find(session.shot, path)
    if not isinstance(plate, Plate):
        return 0, session.shot.length
    start = plate.start if plate.start is not None else 0
    return start, plate.end if plate.end is not None else session.shot.length


def time_text(session: Session, frame: float, *, short: bool = False) -> str:
    """Return a frame as seconds and frames: 0:02.14 is 2 seconds and 14 frames."""
    rate = max(1, round(float(session.shot.rate)))
    seconds, rest = divmod(round(frame), rate)
    minutes, seconds = divmod(seconds, 60)
    return f"{seconds}.{rest:02d}" if short and not minutes else f"{minutes}:{seconds:02d}.{rest:02d}"
