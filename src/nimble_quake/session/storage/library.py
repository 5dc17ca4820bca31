"""The library of recipes: those that come with the program, and the person's own folder of `.nquake-recipe` files."""

from __future__ import annotations

import os
import re
from dataclasses import dataclass
from pathlib import Path

import msgspec

from nimble_quake.errors import NimbleQuakeError, SaveFailed, one_line
from nimble_quake.operators.registry import registry
from nimble_quake.session.state import Session
from nimble_quake.session.storage.preferences import folder
from nimble_quake.shot.edits.add import add_effect, add_map
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Map, Node, Shot
from nimble_quake.shot.paths import find, id_of, nested_path, readers_of
from nimble_quake.shot.recipe import Recipe
from nimble_quake.shotfile.files import cure_of, put_bytes, write_whole
from nimble_quake.shotfile.recipes import SUFFIX, fitted_to, read_recipe, recipe_bytes, recipe_from, write_recipe

SHIPPED = Path(__file__).parents[2] / "samples" / "recipes"


@dataclass(frozen=True)
class Kept:
    """A recipe of the library; `own` ones can be thrown away."""

    path: Path
    recipe: Recipe
    own: bool

    @property
    def name(self) -> str:
        """What it is called."""
        return self.recipe.map.name


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
    return sorted(found, key=lambda item: item.name.lower()), wrong


def keep(session: Session, map_path: str) -> Path | None:
    """Save a map of the shot, and the quake that reads it, as a recipe of one's own. Raises SaveFailed.

    Returns its file.
    """
    recipe = recipe_of(session, map_path)
    if recipe is None:
        return None
    _make_folder()
    name = re.sub(r"[^\w-]+", "-", recipe.map.name.lower()).strip("-") or "recipe"
    path, number = own_folder() / f"{name}{SUFFIX}", 2
    while path.exists():
        path, number = own_folder() / f"{name}-{number}{SUFFIX}", number + 1
    write_recipe(recipe, path)
    operator = registry().get("effect", recipe.coupling.kind) if recipe.coupling is not None else None
    quake = f", with {operator.title}" if operator is not None else ""
    session.message.emit(f"Kept as a recipe of your own: {recipe.map.name}{quake}")
    return path


def recipe_of(session: Session, map_path: str) -> Recipe | None:
    """Return a map of the shot as a recipe, with the selected quake if that reads it, else the first that does."""
    map = find(session.shot, map_path)
    if not isinstance(map, Map):
        return None
    users = readers_of(session.shot, map.id)
    chosen = session.selection.quake
    user = chosen if chosen in users else users[0] if users else ""
    effect = find(session.shot, user) if user else None
    size = (session.shot.width, session.shot.height)
    named = msgspec.structs.replace(map, id="", name=session.name_of(map_path))
    return Recipe(map=named, coupling=_alone(effect) if isinstance(effect, Node) else None, made_at=size)


def _alone(effect: Node) -> Node:
    """A quake without what names other things of its shot: maps, plates, bands, spans and sharing."""
    operator = registry().get("effect", effect.kind)
    named = {name for name, _ in operator.reference_params} if operator is not None else {"map", "mask"}
    values = {name: value for name, value in effect.values.items() if name not in named}
    return Node(id=effect.kind, kind=effect.kind, version=effect.version, name=effect.name, values=values)


def with_recipe(session: Session, recipe: Recipe) -> tuple[Shot, str, str]:
    """Return the shot with a recipe as a new map, fitted to its size; the map's path, and that of a new quake or "".

    The selected quake, where it reads the selected map, reads the new one. Without one the selected plate gets the
    recipe's own: the picture shows it at once.
    """
    fitted = fitted_to(recipe, session.shot.width, session.shot.height)
    shot, path = add_map(session.shot, fitted.map)
    quake, plate, chosen = session.selection.quake, session.selection.plate, id_of(session.selection.map)
    if quake and chosen and session.shown(f"{quake}/map") == chosen:
        return set_value(shot, f"{quake}/map", id_of(path)), path, ""
    if quake or not plate or fitted.coupling is None:
        return shot, path, ""
    values = {"map": id_of(path), **fitted.coupling.values}
    shot, added = add_effect(shot, plate, msgspec.structs.replace(fitted.coupling, values=values))
    return shot, path, added


def use(session: Session, recipe: Recipe) -> str:
    """Add a recipe to the shot as a new map, with its quake if none reads it, and select it. Returns the map's path."""
    shot, path, quake = with_recipe(session, recipe)
    session.edit(f"Use recipe: {recipe.map.name}", shot)
    if quake:
        session.select(quake=quake)
    last = recipe.map.recipe[-1].id if recipe.map.recipe else ""
    session.select(map=path, step=nested_path(path, last) if last else "")
    return path


def throw_away(item: Kept) -> None:
    """Take a recipe of one's own out of the library; its file is kept as .bak, so nothing is lost."""
    item.path.replace(item.path.with_name(item.path.name + ".bak"))


def take_in(path: Path) -> Recipe:
    """Copy a recipe file into one's own library. Raises ShotError or SaveFailed. Returns the recipe."""
    recipe = read_recipe(path)
    _make_folder()
    target, number = own_folder() / path.name, 2
    while target.exists() and target.read_bytes() != path.read_bytes():
        target, number = own_folder() / f"{path.stem}-{number}{SUFFIX}", number + 1
    data = path.read_bytes()
    write_whole(target, lambda to: put_bytes(to, data))
    return recipe


def map_text(session: Session, map_path: str) -> str:
    """Return a map as text for the clipboard, so that another shot can take it."""
    recipe = recipe_of(session, map_path)
    return recipe_bytes(recipe).decode() if recipe is not None else ""


def map_from_text(text: str) -> Recipe:
    """Return the recipe in a clipboard's text. Raises ShotError."""
    return recipe_from(text.encode(), "the clipboard")
