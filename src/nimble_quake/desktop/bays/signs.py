"""The signs of the map bay: what people otherwise find late, each with a one-click cure."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from nimble_quake.errors import MediaError
from nimble_quake.operators.quake import BendQuake, Quake
from nimble_quake.operators.reading import ReadsMap
from nimble_quake.operators.steps import Step
from nimble_quake.render.shown.bench import BenchResponse
from nimble_quake.session.state import Session
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Map, Plate
from nimble_quake.shot.paths import find, nested_path, owner_id, owner_path

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
    found = [
        _slides(session, response),
        _folds(session, response),
        _other_size(session),
        _clipped(session, response),
        _edges(session),
    ]
    return [sign for sign in found if sign is not None]


def rest_of(session: Session, response: BenchResponse) -> float:
    """Return the rest level of the selected quake on the map shown."""
    quake = session.operator_now(session.selection.quake)
    return quake.rest_level(response.rest) if isinstance(quake, ReadsMap) else response.rest


def _quake_reads_map(session: Session) -> bool:
    chosen = session.selection
    return bool(chosen.quake) and session.raw(f"{chosen.quake}/map") == owner_id(chosen.map)


def _slides(session: Session, response: BenchResponse) -> Sign | None:
    path = session.selection.quake
    if not _quake_reads_map(session) or response.request.steps is not None or not response.bars:
        return None
    quake, rest = session.operator_now(path), rest_of(session, response)
    x, y = quake.slide(response.mean, rest) if isinstance(quake, Quake) else (0.0, 0.0)
    if max(abs(x), abs(y)) <= SLIDE or abs(response.mean - rest) < 0.012:
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


FOLDED = 0.004
"""A sign is shown when more than this share of the picture is folded over."""


def _folds(session: Session, response: BenchResponse) -> Sign | None:
    path = session.selection.quake
    quake = session.operator_now(path)
    if not isinstance(quake, Quake) or quake.may_fold or response.folds < FOLDED:
        return None
    if session.raw(f"{path}/strength") is not None:
        return None

    def mend() -> None:
        session.set(f"{path}/strength", 0.5, "Halve the strength")

    return Sign(f"The picture folds over itself in {response.folds:.0%} of it", "Halve it", mend)


def _clipped(session: Session, response: BenchResponse) -> Sign | None:
    """The last step that says how its values are kept from black and white."""
    map = find(session.shot, session.selection.map) if session.selection.map else None
    if response.clipped < CLIPPED or not isinstance(map, Map):
        return None
    for step in reversed(map.recipe):
        path = nested_path(session.selection.map, step.id)
        operator = session.operator_now(path) if step.on else None
        if not isinstance(operator, Step):
            continue
        if operator.meant_to_clip:
            return None
        eased = operator.eased()
        if eased:

            def mend(path: str = path, eased: dict[str, object] = eased) -> None:
                shot = session.shot
                for name, value in eased.items():
                    shot = set_value(shot, f"{path}/{name}", value)
                session.edit("Ease clipped values", shot)

            return Sign(f"{response.clipped:.0%} of the map is black or white", "Ease it", mend)
    return None


def _other_size(session: Session) -> Sign | None:
    map = find(session.shot, session.selection.map) if session.selection.map else None
    if not isinstance(map, Map):
        return None
    for step in map.recipe:
        path = nested_path(session.selection.map, step.id)
        operator = session.operator(path)
        if (
            operator is None
            or not step.on
            or not {"plate", "fit"} <= set(operator.declared)
            or step.values.get("plate")
        ):
            continue
        file = next((str(step.values[name]) for name in operator.file_names if step.values.get(name)), "")
        if not file:
            continue
        try:
            source = session.engine.media.open(file)
        except MediaError:
            continue
        path = f"{path}/fit"
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
    operator, quake = session.operator(owner_path(path)) if path else None, session.operator_now(path)
    if not isinstance(plate, Plate) or operator is None or not operator.file_names or not _quake_reads_map(session):
        return None
    if not isinstance(quake, BendQuake) or quake.edge != "empty" or not quake.parts():
        return None
    if session.shown(f"{owner_path(path)}/fit") not in ("cover", "stretch", "contain"):
        return None

    def mend() -> None:
        session.set(f"{path}/edge", "mirror", "Mirror the edge")

    return Sign("Empty edges are pulled into view", "Mirror them", mend)
