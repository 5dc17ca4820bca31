"""The library of recipes: those that come with the program, and the person's own folder of `.nquake-recipe` files."""

from __future__ import annotations

import os
import re
from dataclasses import dataclass
from pathlib import Path

import msgspec

from nimble_quake.errors import NimbleQuakeError, SaveFailed, one_line
from nimble_quake.session.state import Session
from nimble_quake.session.storage.preferences import folder
from nimble_quake.shot.edits.add import add_map
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Map, Shot
from nimble_quake.shot.paths import find, id_of, nested_path
from nimble_quake.shotfile.files import cure_of, put_bytes, write_whole
from nimble_quake.shotfile.recipes import SUFFIX, fitted_to, read_recipe, recipe_bytes, recipe_from, write_recipe

SHIPPED = Path(__file__).parents[2] / "samples" / "recipes"


@dataclass(frozen=True)
class Kept:
    """A recipe of the library; `own` ones can be thrown away."""

    path: Path
    map: Map
    own: bool


def own_folder() -> Path:
    """Return the folder of the person's own recipes."""
    return folder("config") / "recipes"


def _make_folder() -> None:
    """Make the folder of one's own recipes. Raises SaveFailed."""
    try:
        own_folder().mkdir(parents=True, exist_ok=True)
    except OSError as wrong:
        what = f"your recipes cannot be kept there: {wrong.strerror}"
        raise SaveFailed(what, where=str(own_folder()), cure=cure_of(wrong)) from wrong


def kept(own: bool) -> tuple[list[Kept], list[str]]:
    """Return the recipes of one part of the library by name, and one line for each file that could not be read."""
    found, wrong = [], []
    where = own_folder() if own else SHIPPED
    try:
        files = sorted(where / name for name in os.listdir(where) if name.endswith(SUFFIX))[:500]
    except FileNotFoundError:
        files = []
    except OSError as error:
        return [], [one_line(f"{where}: your recipes cannot be read: {error.strerror}", cure_of(error))]
    for path in files:
        try:
            found.append(Kept(path, read_recipe(path), own))
        except NimbleQuakeError as error:
            wrong.append(error.line())
    return sorted(found, key=lambda item: item.map.name.lower()), wrong


def keep(session: Session, map_path: str) -> Path | None:
    """Save a map of the shot as a recipe of one's own. Raises SaveFailed. Returns its file."""
    map = find(session.shot, map_path)
    if not isinstance(map, Map):
        return None
    map = msgspec.structs.replace(map, name=session.name_of(map_path))
    _make_folder()
    name = re.sub(r"[^\w-]+", "-", map.name.lower()).strip("-") or "recipe"
    path, number = own_folder() / f"{name}{SUFFIX}", 2
    while path.exists():
        path, number = own_folder() / f"{name}-{number}{SUFFIX}", number + 1
    write_recipe(map, (session.shot.width, session.shot.height), path)
    session.message.emit(f"Kept as a recipe of your own: {map.name}")
    return path


def with_recipe(session: Session, map: Map) -> tuple[Shot, str]:
    """Return the shot with a recipe as a new map, fitted to its size, and the map's path.

    The selected quake, where it reads the selected map, reads the new one: the picture shows it at once.
    """
    fitted = fitted_to(map, session.shot.width, session.shot.height)
    shot, path = add_map(session.shot, msgspec.structs.replace(fitted, id=""))
    quake, chosen = session.selection.quake, id_of(session.selection.map)
    if quake and chosen and session.raw(f"{quake}/map") == chosen:
        shot = set_value(shot, f"{quake}/map", id_of(path))
    return shot, path


def use(session: Session, map: Map) -> str:
    """Add a recipe to the shot as a new map and select it. Returns the map's path."""
    shot, path = with_recipe(session, map)
    session.edit(f"Use recipe: {map.name}", shot)
    last = map.recipe[-1].id if map.recipe else ""
    session.select(map=path, step=nested_path(path, last) if last else "")
    return path


def throw_away(item: Kept) -> None:
    """Take a recipe of one's own out of the library; its file is kept as .bak, so nothing is lost."""
    item.path.replace(item.path.with_name(item.path.name + ".bak"))


def take_in(path: Path) -> Map:
    """Copy a recipe file into one's own library. Raises ShotError or SaveFailed. Returns its map."""
    map = read_recipe(path)
    _make_folder()
    target, number = own_folder() / path.name, 2
    while target.exists() and target.read_bytes() != path.read_bytes():
        target, number = own_folder() / f"{path.stem}-{number}{SUFFIX}", number + 1
    data = path.read_bytes()
    write_whole(target, lambda to: put_bytes(to, data))
    return map


def map_text(session: Session, map_path: str) -> str:
    """Return a map as text for the clipboard, so that another shot can take it."""
    map = find(session.shot, map_path)
    size = (session.shot.width, session.shot.height)
    if not isinstance(map, Map):
        return ""
    return recipe_bytes(msgspec.structs.replace(map, name=session.name_of(map_path)), size).decode()


def map_from_text(text: str) -> Map:
    """Return the map in a clipboard's text. Raises ShotError."""
    return recipe_from(text.encode(), "the clipboard")
