"""Glass in one piece: a lens whose shape is its map, so that one place, one size and one turn move all of it."""

from __future__ import annotations

from nimble_quake.operators.registry import registry
from nimble_quake.session.state import Session
from nimble_quake.shot.edits.add import add_effect, add_map
from nimble_quake.shot.edits.set_value import set_field
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shot.paths import find, id_of

SHAPES = ("ellipse", "rectangle")
"""Figures of shape plates that a lens has too."""


def can_be_glass(session: Session, path: str) -> bool:
    """Return whether a plate is a lens with a shape, or a shape that a lens can have."""
    plate = find(session.shot, path) if path else None
    if not isinstance(plate, Plate):
        return False
    declared = registry().get("plate", plate.kind)
    if declared is None or not {"width", "height"} <= set(declared.declared):
        return False
    shape = session.shown(f"{path}/form") if "form" in declared.declared else session.shown(f"{path}/shape")
    return shape in SHAPES


def with_own_shape(shot: Shot, path: str, size: tuple[float, float]) -> tuple[Shot, str]:
    """Return the shot with a map that is a plate's own shape as a dome, and the map's path."""
    plate = find(shot, path)
    assert isinstance(plate, Plate)
    values = {
        "form": "plate",
        "plate": plate.id,
        "middle": 1.0,
        "edge": 0.5,
        "rises": "dome",
        "rim": min(size) / 2,
        "soft": 2.0,
    }
    name = f"Shape of {plate.name or plate.id}"
    return add_map(shot, Map(id="shape", name=name, recipe=(Node(id="shape", kind="shape", values=values),)))


def make_glass(session: Session, path: str) -> str:
    """Make a lens of glass of a shape plate, or of a lens with a shape. Returns the path of its coupling."""
    if not can_be_glass(session, path):
        session.message.emit("Choose a shape plate with an ellipse or a rectangle, or a lens with a shape")
        return ""
    size = (float(session.shown(f"{path}/width")), float(session.shown(f"{path}/height")))
    shot = _as_lens(session, path)
    shot, map_path = with_own_shape(shot, path, size)
    slope = {
        "map": id_of(map_path),
        "bends_by": "glass",
        "height": round(min(size) * 0.9),
        "depth": round(min(size) * 0.5),
        "smooth": 4.0,
        "dispersion": 0.02,
        "edge": "mirror",
    }
    shot, effect = add_effect(shot, path, Node(id="slope", kind="slope", name="Glass", values=slope))
    session.edit(f"Make {session.name_of(path)} glass", shot)
    session.select(quake=effect)
    return effect


def _as_lens(session: Session, path: str) -> Shot:
    """The shot with a shape plate as a lens of the same place, size and turn; a lens stays."""
    plate, lens = find(session.shot, path), registry().get("plate", "lens")
    assert isinstance(plate, Plate)
    assert lens is not None
    if registry().get("plate", plate.kind) is lens:
        return session.shot
    kept = {
        name: value for name, value in plate.values.items() if name in lens.declared and name not in ("shape", "soft")
    }
    size = {name: session.shown(f"{path}/{name}") for name in ("width", "height")}
    values = {**size, **kept, "shape": session.shown(f"{path}/form")}
    return set_field(session.shot, path, kind="lens", version=lens.version, values=values)
