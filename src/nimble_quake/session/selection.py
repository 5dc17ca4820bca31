"""What is selected in the open shot."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, fields, replace

from nimble_quake.motion.kinds import said_by
from nimble_quake.operators.registry import registry
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shot.paths import find, kind_of, map_path, nested_path, owner_path, plate_path, real_path


@dataclass(frozen=True)
class Selection:
    """Paths of what is selected; empty where nothing is."""

    plate: str = ""
    quake: str = ""
    """The coupling whose settings are shown: of the selected plate."""
    finish: str = ""
    """The finish whose settings are shown instead of its plate's."""
    map: str = ""
    step: str = ""
    aimed: str = ""
    """What of the stack was chosen last by itself: a plate, or an effect. What is done next is done to it."""
    sound: str = ""
    """The sound or band whose settings are shown."""
    marked: frozenset[str] = frozenset()
    """What else is selected, to be removed, copied or switched together."""

    def paths(self) -> dict[str, str]:
        """Return the one path of each kind by its name."""
        return {field.name: str(vars(self)[field.name]) for field in fields(self) if field.name != "marked"}


def source_name(map: Map) -> str:
    """Return what a map is made of, as its name where nobody gave it one."""
    for step in map.recipe:
        operator = registry().get("source", step.kind)
        if operator is not None:
            return step.name or operator.title
    return "Map"


def path_of_map(map: Map | None) -> str:
    """Return a map's path; empty for none."""
    return map_path(map.id) if map else ""


def first_step(map: Map | None) -> str:
    """Return the path of a map's first step; empty where it has none."""
    return nested_path(map_path(map.id), map.recipe[0].id) if map and map.recipe else ""


def is_quake(shot: Shot, path: str) -> bool:
    """Return whether a path names a coupling of a plate."""
    node = find(shot, real_path(shot, path)) if path and kind_of(path) == "effect" else None
    operator = registry().get("effect", node.kind) if isinstance(node, Node) else None
    return operator is not None and operator.family == "quake"


def first_quake(shot: Shot, plate: str) -> str:
    """Return the path of a plate's first coupling; empty where it has none."""
    found = find(shot, plate) if plate else None
    effects = found.effects if isinstance(found, Plate) else ()
    return next((path for e in effects if is_quake(shot, path := nested_path(plate, e.id))), "")


def map_of_quake(shot: Shot, quake: str) -> Map | None:
    """Return the map a coupling reads, the first one where pins name several."""
    node = find(shot, real_path(shot, quake))
    named = said_by(node.values.get("map")) if isinstance(node, Node) else ()
    return next((map for id in named if (map := shot.map(str(id))) is not None), None)


def first_selection(shot: Shot) -> Selection:
    """Return what is selected in a shot that was just opened: its first coupling, with its plate and map."""
    for plate in shot.plates:
        quake = first_quake(shot, plate_path(plate.id))
        if quake:
            map = map_of_quake(shot, quake)
            return Selection(plate_path(plate.id), quake, "", path_of_map(map), first_step(map), quake)
    first = plate_path(shot.plates[0].id) if shot.plates else ""
    top = shot.maps[0] if shot.maps else None
    return Selection(first, "", "", path_of_map(top), first_step(top), first)


def chosen(now: Selection, shot: Shot, wanted: Mapping[str, str]) -> Selection:
    """Return the selection once things are selected by path.

    A quake brings its map, a map its first step; a plate by itself leaves its finish.
    """
    paths = {name: path for name, path in wanted.items() if name != "front"}  # a dial stands in the front panel
    aimed = next((paths[name] for name in ("effect", "finish", "quake", "plate") if paths.get(name)), now.aimed)
    if effect := paths.pop("effect", ""):
        paths["quake" if is_quake(shot, effect) else "finish"] = effect
    if paths.get("quake"):
        map = map_of_quake(shot, paths["quake"])
        paths = {"plate": owner_path(paths["quake"]), **({"map": path_of_map(map)} if map else {}), **paths}
    elif paths.get("finish"):
        paths.setdefault("plate", owner_path(paths["finish"]))
    if "plate" in paths:
        paths.setdefault("finish", "")
        if paths["plate"] != now.plate:
            paths.setdefault("quake", first_quake(shot, paths["plate"]))
    if "map" in paths and paths["map"] != now.map and "step" not in paths:
        found = find(shot, paths["map"]) if paths["map"] else None
        paths["step"] = first_step(found if isinstance(found, Map) else None)
    if paths.get("step"):
        paths.setdefault("map", owner_path(paths["step"]))
    return replace(now, **{"sound": "", "aimed": aimed, **paths}, marked=frozenset())  # type: ignore[arg-type]  # all paths are words


def mended(now: Selection, shot: Shot) -> Selection:
    """Return a selection without what is not in the shot any more."""
    paths = {name: path if path and find(shot, path) is not None else "" for name, path in now.paths().items()}
    if not paths["map"] and shot.maps:
        paths |= {"map": map_path(shot.maps[0].id), "step": first_step(shot.maps[0])}
    if not paths["plate"] and shot.plates:
        paths["plate"] = plate_path(shot.plates[0].id)
    return Selection(**paths, marked=frozenset(path for path in now.marked if find(shot, path) is not None))
