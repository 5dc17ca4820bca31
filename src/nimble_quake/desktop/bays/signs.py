"""The signs of the map bay: what people otherwise find late, each with a one-click cure."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from nimble_quake.errors import MediaError
from nimble_quake.operators.graphs import Remark
from nimble_quake.operators.quake import BendQuake, Quake
from nimble_quake.operators.steps import Step
from nimble_quake.params.kinds import Choice
from nimble_quake.render.shown.reading import MUCH
from nimble_quake.render.shown.request import BenchResponse
from nimble_quake.session.state import Session
from nimble_quake.session.verbs.items import swap_kind, switch
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Map, Plate
from nimble_quake.shot.paths import find, map_path, nested_path, owner_id, owner_path, plate_path

SLIDE = 1.0
"""A sign is shown when the picture would slide by more than this many pixels."""
CLIPPED = 0.12
"""A sign is shown when more than this share of the map is black or white."""


@dataclass(frozen=True)
class Sign:
    """A line, and a button that mends it. `key` and `figure` say of what it is a sign, and how large."""

    text: str
    cure: str
    mend: Callable[[], None]
    key: str = ""
    figure: float = 0.0
    """Pixels, or hundredths of the picture: one that was put away returns when it has changed by more than 1."""


def signs(session: Session, response: BenchResponse) -> list[Sign]:
    """Return what is off with the map and quake that are selected, the worst first."""
    found = [
        _slope_of_slope(session, response),
        _slides(session, response) or _ground_off_rest(session, response),
        _folds(session, response),
        _other_size(session),
        _clipped(session, response),
        _edges(session, response),
        _matte(session, response),
        _under_mask(session, response),
        _whiter(session, response),
    ]
    return [*(sign for sign in found if sign is not None), *_remarks(session, response)]


def _slides(session: Session, response: BenchResponse) -> Sign | None:
    path, reading = session.selection.quake, response.reading
    quake = session.operator_now(path)
    if reading is None or not isinstance(quake, Quake) or not quake.parts():
        return None
    x, y = quake.slide(
        (quake.counted(reading.means[0], reading.rest), quake.counted(reading.means[1], reading.rest)), reading.rest
    )
    axis = 0 if abs(x) >= abs(y) else 1
    mean = reading.means[axis]
    if max(abs(x), abs(y)) <= SLIDE or abs(mean - reading.rest) < 0.012:
        return None
    way = (f"{abs(x):.0f} px {'left' if x > 0 else 'right'}", f"{abs(y):.0f} px {'up' if y > 0 else 'down'}")[axis]

    def mend() -> None:
        shot = set_value(session.shot, f"{path}/rest_by", "picked")
        session.edit("Centre the rest level", set_value(shot, f"{path}/rest", round(mean, 3)))

    whose = (
        "" if reading.map_id == owner_id(session.selection.map) else f"{session.name_of(map_path(reading.map_id))}: "
    )
    text = f"{whose}Mean {mean:.2f}, rest {reading.rest:.2f}: picture slides {way}"
    return Sign(text, "Centre it", mend, f"slides {path}", max(abs(x), abs(y)))


def _ground_off_rest(session: Session, response: BenchResponse) -> Sign | None:
    """A ground that does something to what lies under it, although the mean is at rest."""
    path, reading = session.selection.quake, response.reading
    quake = session.operator_now(path)
    if reading is None or not isinstance(quake, Quake) or not quake.parts():
        return None
    level, fraction = reading.common
    does, figure = quake.does_at(quake.counted(level, reading.rest), reading.rest)
    if fraction <= MUCH or not does or abs(level - reading.rest) < 0.012:
        return None

    def mend() -> None:
        shot = set_value(session.shot, f"{path}/rest_by", "picked")
        session.edit("Rest at the ground", set_value(shot, f"{path}/rest", round(level, 3)))

    text = f"{fraction:.0%} of the map is {level:.2f}, rest {reading.rest:.2f}: {does}"
    return Sign(text, "Rest there", mend, f"ground {path}", figure)


def _slope_of_slope(session: Session, response: BenchResponse) -> Sign | None:
    """A map that holds a slope, read as a height: its slope would be taken once more."""
    path, reading = session.selection.quake, response.reading
    quake = session.operator_now(path)
    if reading is None or not reading.two_axes or not isinstance(quake, Quake) or not quake.better_for_slopes:
        return None
    other = session.engine.operators.get("effect", quake.better_for_slopes)
    assert other is not None
    text = f"The map is a slope already: {quake.title} takes the slope of it again"
    return Sign(text, f"Use {other.title}", lambda: swap_kind(session, path, other.kind), f"slope {path}")


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

    text = f"The picture folds over itself in {response.folds:.0%} of it"
    return Sign(text, "Halve it", mend, f"folds {path}", 100 * response.folds)


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

            text = f"{response.clipped:.0%} of the map is black or white"
            return Sign(text, "Ease it", mend, f"clipped {map.id}", 100 * response.clipped)
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
            param = session.param(path)
            how = param.label_of(str(session.shown(path))) if isinstance(param, Choice) else ""

            def mend(path: str = path) -> None:
                session.set(path, "stretch", "Stretch the map to the frame")

            text = f"Map is {source.width} × {source.height}, laid by “{how}”"
            return Sign(text, "Stretch it", mend, f"size {path}", float(source.width))
    return None


GAPS = 0.0005
"""A sign is shown when more than this fraction of the frame is a gap that comes from beyond it."""


def _edges(session: Session, response: BenchResponse) -> Sign | None:
    """What really comes in from beyond the frame, in the frame that is shown."""
    if response.gaps < GAPS or not session.selection.quake:
        return None
    plate = find(session.shot, owner_path(session.selection.quake))
    quakes = (
        [nested_path(owner_path(session.selection.quake), e.id) for e in plate.effects if e.on]
        if isinstance(plate, Plate)
        else []
    )
    bending = [path for path in quakes if isinstance(session.operator_now(path), BendQuake)]
    if not bending:
        return None
    last = bending[-1]  # its edge counts for all of them

    def mend() -> None:
        session.set(f"{last}/edge", "mirror", "Mirror the edge")

    text = f"Empty edges come into view: {max(100 * response.gaps, 0.1):.1f} % of the frame"
    return Sign(text, "Mirror them", mend, f"edges {owner_path(last)}", 100 * response.gaps)


def _matte(session: Session, response: BenchResponse) -> Sign | None:
    """A matte that cuts nothing, since it is opaque everywhere: it was meant by its brightness."""
    path = session.selection.plate
    if not response.opaque_matte or response.request.plate_id != owner_id(path):
        return None
    other = session.name_of(plate_path(str(session.shown(f"{path}/matte"))))
    what = "all" if session.shown(f"{path}/matte_invert") else "nothing"

    def mend() -> None:
        session.set(f"{path}/matte_by", "luminance", "Matte by luminance")

    return Sign(f"Matte {other} cuts {what}: it is opaque", "By luminance", mend, f"matte {path}")


LEFT_BEHIND = 4.0
"""A sign is shown when a plate has moved by more than so many pixels under a mask that stands still."""


def _under_mask(session: Session, response: BenchResponse) -> Sign | None:
    path = session.selection.plate
    if response.under_mask <= LEFT_BEHIND or response.request.plate_id != owner_id(path):
        return None

    def mend() -> None:
        session.set(f"{path}/mask_hook", "plate", "Take the mask along")

    text = f"The plate has moved {response.under_mask:.0f} px under its mask, which stands still"
    return Sign(text, "Take it along", mend, f"mask {path}", response.under_mask)


def _whiter(session: Session, response: BenchResponse) -> Sign | None:
    path, found = session.selection.plate, response.whiter
    if found is None or response.request.plate_id != owner_id(path):
        return None
    own = session.shown(f"{path}/{found.param}")
    if not isinstance(own, tuple):
        return None

    def mend() -> None:
        dimmed = tuple(round(part * found.beneath / found.own, 4) for part in own[:3])
        session.set(f"{path}/{found.param}", (*dimmed, *own[3:]), "As white as the footage")

    text = f"{session.name_of(path)} is whiter than the footage: {found.own:.2f}, that {found.beneath:.2f}"
    return Sign(text, "As white", mend, f"white {path}", 100 * (found.own - found.beneath))


def _remarks(session: Session, response: BenchResponse) -> list[Sign]:
    """What steps and effects say of themselves."""
    return [_remarked(session, path, remark) for path, remark in response.remarks]


def _remarked(session: Session, path: str, remark: Remark) -> Sign:
    def mend() -> None:
        if not remark.values:
            switch(session, path)
            return
        shot = session.shot
        for name, value in remark.values:
            shot = set_value(shot, f"{path}/{name}", value)
        session.edit(remark.cure, shot)

    return Sign(remark.text, remark.cure, mend, f"remark {path}", remark.figure)
