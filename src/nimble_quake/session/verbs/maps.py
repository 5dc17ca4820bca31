"""New maps, for themselves or for a value that reads one; and maps that several read, parted."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import msgspec

from nimble_quake.session.state import Session
from nimble_quake.session.storage import library
from nimble_quake.session.verbs.glass import can_be_glass, with_own_shape
from nimble_quake.shot.edits.add import add_map
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Map, Node, Shot
from nimble_quake.shot.paths import find, id_of, map_path, owner_id, plate_path
from nimble_quake.shot.recipe import Recipe
from nimble_quake.shotfile.recipes import fitted_to


def own_map(shot: Shot) -> tuple[Shot, str]:
    """Return the shot with a map for a new quake, that moves and can be seen: churning noise; and its path."""
    size = round(shot.width * 0.16)
    noise = {"size_x": float(size), "size_y": float(size), "octaves": 2, "churn": 0.5}
    return add_map(shot, Map(id="noise", name="", recipe=(Node(id="noise", kind="noise", values=noise),)))


def new_map(session: Session, kind: str = "") -> str:
    """Add a map, empty or with one step, and select it. Returns its path."""
    recipe = (Node(id=kind, kind=kind),) if kind else ()
    shot, path = add_map(session.shot, Map(id=kind or "map", name="", recipe=recipe))
    session.edit("New map", shot)
    session.select(map=path)
    return path


@dataclass(frozen=True)
class Choice:
    """A map that could be chosen: `make` returns the shot with it, and its id; a submenu's name, or empty."""

    title: str
    make: Callable[[Shot], tuple[Shot, str]]
    under: str = ""


def choices(session: Session, *, without_plate: str = "", shape_of: str | None = None) -> list[Choice]:
    """Return what every list of maps offers besides those that are there.

    without_plate: one that would be a circle. shape_of: the plate whose own shape is offered too.
    """
    found = [Choice("New map", lambda shot: _added(shot, Map(id="map", name="")))]
    if shape_of is not None and can_be_glass(session, shape_of):
        size = (float(session.shown(f"{shape_of}/width")), float(session.shown(f"{shape_of}/height")))
        found.append(Choice("Its own shape", lambda shot: _own_shape(shot, shape_of, size)))
    for own in (False, True):
        for item in library.kept(own)[0]:
            found.append(Choice(item.name, _from_recipe(item.recipe), "From a recipe"))
    for plate in session.shot.plates:
        if plate.id != without_plate:
            name = session.name_of(plate_path(plate.id))
            found.append(Choice(name, _from_plate(plate.id, name), "From a plate"))
    return found


def choose(session: Session, path: str, choice: Choice) -> str:
    """Make a map and let the value at a path read it, as one step. Returns the map's path."""
    shot, made = choice.make(session.shot)
    session.edit(f"{choice.under or choice.title}: {session.label_of(path)}", set_value(shot, path, made))
    session.select(map=map_path(made))
    return map_path(made)


def live_copy(session: Session, path: str) -> str:
    """Add a map that shows another one and follows it, but for exceptions. Returns its path."""
    old = map_of(session, path)
    if old is None:
        return ""
    step = Node(id="another_map", kind="another_map", values={"other": old.id})
    shot, made = add_map(session.shot, Map(id="", name=f"{session.name_of(path)} again", recipe=(step,)))
    session.edit(f"Live copy of {session.name_of(path)}", shot)
    session.select(map=made, step=f"{made}/steps/another_map")
    return made


def part_map(session: Session, path: str) -> str:
    """Give an effect a copy of the map that others read too, and select it. Returns the copy's path."""
    old = session.shot.map(str(session.shown(f"{path}/map") or ""))
    if old is None:
        return ""
    name = f"{session.name_of(map_path(old.id))} of {session.name_of(path)}"
    shot, made = add_map(session.shot, msgspec.structs.replace(old, name=name))
    session.edit(f"Part the map of {session.name_of(path)}", set_value(shot, f"{path}/map", id_of(made)))
    session.select(quake=path)
    session.select(map=made)
    return made


def _added(shot: Shot, map: Map) -> tuple[Shot, str]:
    shot, path = add_map(shot, map)
    return shot, owner_id(path)


def _own_shape(shot: Shot, path: str, size: tuple[float, float]) -> tuple[Shot, str]:
    shot, made = with_own_shape(shot, path, size)
    return shot, owner_id(made)


def _from_recipe(recipe: Recipe) -> Callable[[Shot], tuple[Shot, str]]:
    return lambda shot: _added(shot, fitted_to(recipe, shot.width, shot.height).map)


def _from_plate(plate: str, name: str) -> Callable[[Shot], tuple[Shot, str]]:
    step = Node(id="picture", kind="picture", values={"plate": plate})
    return lambda shot: _added(shot, Map(id=plate, name=name, recipe=(step,)))


def map_of(session: Session, path: str) -> Map | None:
    """Return the map at a path."""
    found = find(session.shot, path) if path else None
    return found if isinstance(found, Map) else None
