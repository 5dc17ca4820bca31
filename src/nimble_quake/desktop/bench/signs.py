"""The signs of the map bay: what people otherwise find late, each with a one-click cure."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from nimble_quake.errors import MediaError
from nimble_quake.render.bench import BenchResponse
from nimble_quake.session.state import Session
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Map, Plate
from nimble_quake.shot.paths import find, owner_path

SLIDE = 1.0
"""A sign is shown when the picture would slide by more than this many pixels."""
CLIPPED = 0.12
"""A sign is shown when more than this share of the map is black or white."""


@dataclass(frozen=True)
class Sign:
    """A line, and a button that mends it."""

    text: str
    cure: str
    mend: Callable[[], None]


def signs(session: Session, response: BenchResponse) -> list[Sign]:
    """Return what is off with the map and quake that are selected, the worst first."""
    found = [_slides(session, response), _other_size(session), _clipped(session, response), _edges(session)]
    return [sign for sign in found if sign is not None]


def rest_of(session: Session, response: BenchResponse) -> float:
    """Return the rest level of the selected quake on the map shown."""
    path = session.selection.quake
    by = session.shown(f"{path}/rest_by") if path else "auto"
    if by == "picked":
        return float(session.shown(f"{path}/rest"))
    return {"two": 0.5, "one": 0.0}.get(str(by), response.rest)


def _quake_reads_map(session: Session) -> bool:
    chosen = session.selection
    return bool(chosen.quake) and session.raw(f"{chosen.quake}/map") == chosen.map.partition("/")[2]


def _slides(session: Session, response: BenchResponse) -> Sign | None:
    path = session.selection.quake
    if not _quake_reads_map(session) or response.request.steps is not None or not response.bars:
        return None
    rest, strength = rest_of(session, response), float(session.shown(f"{path}/strength"))
    x, y = (
        2 * float(session.shown(f"{path}/{name}")) * strength * (response.mean - rest)
        for name in ("reach_x", "reach_y")
    )
    if session.shown(f"{path}/rest_by") == "one" or max(abs(x), abs(y)) <= SLIDE or abs(response.mean - rest) < 0.012:
        return None
    way = (
        f"{abs(x):.0f} px {'left' if x > 0 else 'right'}"
        if abs(x) >= abs(y)
        else f"{abs(y):.0f} px {'up' if y > 0 else 'down'}"
    )

    def mend() -> None:
        shot = set_value(session.shot, f"{path}/rest_by", "picked")
        session.edit("Centre the rest level", set_value(shot, f"{path}/rest", round(response.mean, 3)))

    return Sign(f"Mean {response.mean:.2f}, rest {rest:.2f}: picture slides {way}", "Centre it", mend)


def _clipped(session: Session, response: BenchResponse) -> Sign | None:
    map = find(session.shot, session.selection.map) if session.selection.map else None
    if response.clipped < CLIPPED or not isinstance(map, Map):
        return None
    step = next((step for step in reversed(map.recipe) if step.on and step.kind in ("levels", "noise")), None)
    if step is None or any(s.kind == "gradient" and s.values.get("combine", "over") == "over" for s in map.recipe):
        return None
    path = f"{session.selection.map}/steps/{step.id}"

    def mend() -> None:
        shot = session.shot
        if step.kind == "levels":
            black, white = (float(session.shown(f"{path}/{name}")) for name in ("black", "white"))
            spread = (white - black) * 0.25
            shot = set_value(shot, f"{path}/black", round(black - spread, 3))
            shot = set_value(shot, f"{path}/white", round(white + spread, 3))
        else:
            shot = set_value(shot, f"{path}/contrast", round(float(session.shown(f"{path}/contrast")) * 0.7, 2))
        session.edit("Ease clipped values", shot)

    return Sign(f"{response.clipped:.0%} of the map is black or white", "Ease it", mend)


def _other_size(session: Session) -> Sign | None:
    map = find(session.shot, session.selection.map) if session.selection.map else None
    if not isinstance(map, Map):
        return None
    for step in map.recipe:
        file = str(step.values.get("file", "")) if step.kind == "picture" and step.on else ""
        if not file or step.values.get("plate"):
            continue
        try:
            source = session.engine.media.open(file)
        except MediaError:
            continue
        path = f"{session.selection.map}/steps/{step.id}/fit"
        shot = session.shot
        if (source.width * shot.height != source.height * shot.width) and session.shown(path) != "stretch":
            how = str(session.shown(path))

            def mend(path: str = path) -> None:
                session.set(path, "stretch", "Stretch the map to the frame")

            return Sign(f"Map is {source.width} × {source.height}, laid by “{how}”", "Stretch it", mend)
    return None


def _edges(session: Session) -> Sign | None:
    path = session.selection.quake
    plate = find(session.shot, owner_path(path)) if path else None
    if not isinstance(plate, Plate) or plate.kind not in ("still", "clip") or not _quake_reads_map(session):
        return None
    reach = max(abs(float(session.shown(f"{path}/{name}") or 0)) for name in ("reach_x", "reach_y"))
    covers = session.shown(f"{owner_path(path)}/fit") in ("cover", "stretch", "contain")
    if session.shown(f"{path}/edge") != "empty" or reach < 1 or not covers:
        return None

    def mend() -> None:
        session.set(f"{path}/edge", "mirror", "Mirror the edge")

    return Sign("Empty edges are pulled into view", "Mirror them", mend)
