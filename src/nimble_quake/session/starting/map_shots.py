"""Recipes as starters: each map moves a clip by the coupling it was made for, with its telling values as dials."""

from __future__ import annotations

from fractions import Fraction
from functools import lru_cache
from pathlib import Path

import msgspec

from nimble_quake.operators.front.bringing import with_behind, with_front, with_slot
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import Number, Velocity
from nimble_quake.samples import FOLDER
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shotfile.recipes import SUFFIX, fitted_to, read_recipe

PREFIX = "map-"
"""A map starter's name begins so: samples of the same name are whole shots."""
WIDTH, HEIGHT, RATE, LENGTH = 1280, 720, Fraction(24), 120
TELLING = (
    *("size_x", "size", "count", "width", "spacing", "radius", "speed", "churn", "drift", "rate", "density", "height"),
    *("length", "spread", "contrast", "turn"),
)
"""Values of steps that a stranger understands, the most telling first."""
MOST = 7


def is_map(name: str) -> bool:
    """Return whether a starter is a recipe, by its name."""
    return name.startswith(PREFIX)


def recipe_file(name: str) -> Path:
    """Return the recipe of a map starter."""
    return FOLDER / "recipes" / f"{name.removeprefix(PREFIX)}{SUFFIX}"


@lru_cache(maxsize=64)
def map_shot(file: Path) -> Shot:
    """Return the shot of a recipe: a clip that its map moves. Raises ShotError."""
    recipe = fitted_to(read_recipe(file), WIDTH, HEIGHT)
    map = msgspec.structs.replace(recipe.map, id="map")
    coupling = recipe.coupling or Node(id="push", kind="push", values={"reach_x": 40.0, "reach_y": 40.0})
    values = {"edge": "mirror", **coupling.values, "map": "map"}
    effect = msgspec.structs.replace(coupling, id=coupling.kind, values=values)
    media = {"file": str(FOLDER / "media" / "lanterns.mp4"), "fit": "cover"}
    clip = Plate(id="clip", kind="clip", name="Clip", values=media, effects=(effect,))
    shot = Shot(name=map.name, width=WIDTH, height=HEIGHT, rate=RATE, length=LENGTH, plates=(clip,), maps=(map,))
    return _fronted(shot, map, f"plates/clip/effects/{effect.id}")


def _fronted(shot: Shot, map: Map, effect: str) -> Shot:
    """The shot with a slot for the clip, one for the map, how far it moves, and what tells most of the map."""
    shot, _ = with_slot(shot, "plates/clip", "Clip", "", "over")
    for name, title in (("reach_x", "Reach"), ("height", "Height")):
        shot, dial = with_front(shot, f"{effect}/{name}", title, "")
        if dial and name == "reach_x":
            shot = with_behind(shot, dial, f"{effect}/reach_y") or shot
    shot, _ = with_front(shot, f"{effect}/strength", "Strength", "")
    return _with_telling(shot, map)


def _with_telling(shot: Shot, map: Map) -> Shot:
    count = 0
    for step in map.recipe:
        kind = registry().get("step", step.kind)
        for name in TELLING:
            param = kind.declared.get(name) if kind is not None else None
            if kind is None or count == MOST or not isinstance(param, Number | Velocity) or name not in step.values:
                continue
            taken = any(node.name == param.label for node in shot.front)
            label = f"{kind.title} {param.label.lower()}" if taken else param.label
            shot, dial = with_front(shot, f"maps/map/steps/{step.id}/{name}", label, "")
            count += bool(dial)
    return shot
