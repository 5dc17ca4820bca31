"""Format 1 to 2: a plate's quakes became its effects; three steps became others.

"Swirl" and "push by map" are the couplings twirl and push now, which work in recipes too. The shaper that gives a
height's slope is called so, since the coupling "slope" has the short name.
"""

from __future__ import annotations

from nimble_quake.conventions import Json
from nimble_quake.shotfile.upgrades import each


def upgraded(raw: dict[str, Json]) -> dict[str, Json]:
    """Return a shot's JSON as format 2 writes it."""
    out = dict(raw)
    if "plates" in raw:
        out["plates"] = each(raw["plates"], _plate)
    if "maps" in raw:
        out["maps"] = each(raw["maps"], _map)
    return out


def _plate(raw: dict[str, Json]) -> dict[str, Json]:
    out = {("effects" if key == "quakes" else key): value for key, value in raw.items()}
    return {**out, "effects": each(out["effects"], _quake)} if "effects" in out else out


def _quake(raw: dict[str, Json]) -> dict[str, Json]:
    """A push was fetched by plain linear sampling where nothing was said."""
    values = raw.get("values", {})
    return {**raw, "values": {"filter": "linear", **values}} if isinstance(values, dict) else raw


def _map(raw: dict[str, Json]) -> dict[str, Json]:
    return {**raw, "recipe": each(raw["recipe"], upgraded_step)} if "recipe" in raw else raw


def upgraded_step(raw: dict[str, Json]) -> dict[str, Json]:
    """Return a step of a recipe as format 2 writes it."""
    if raw.get("kind") == "slope":
        return {**raw, "kind": "height_to_slope"}
    if raw.get("kind") == "swirl":
        return {**raw, "kind": "twirl", "values": _twirl(raw.get("values"))}
    if raw.get("kind") == "push_map":
        return {**raw, "kind": "push", "values": _push(raw.get("values"))}
    return raw


def _twirl(values: Json) -> Json:
    """The mask was on the result; swirl's own defaults are twirl's."""
    return {**values, **({"mask_on": "result"} if values.get("mask") else {})} if isinstance(values, dict) else values


def _push(values: Json) -> Json:
    """It rested at what the map itself rests at, and pushed 60 px where nothing was said."""
    if not isinstance(values, dict):
        return values
    out = {("map" if key == "other" else key): value for key, value in values.items()}
    out.setdefault("reach_x", 60)
    out.setdefault("reach_y", 60)
    return {**out, "rest_by": "ground", **({"mask_on": "result"} if values.get("mask") else {})}
