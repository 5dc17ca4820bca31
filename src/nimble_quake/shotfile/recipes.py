"""Recipe files: one map's steps and the coupling it was made for, to be used again in any shot."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import msgspec

from nimble_quake.errors import ShotError
from nimble_quake.motion.kinds import is_moving
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import Place
from nimble_quake.shot.model import Node
from nimble_quake.shot.recipe import Recipe
from nimble_quake.shotfile.codec import decoded_recipe, encoded_recipe
from nimble_quake.shotfile.files import put_bytes, read_plain, write_whole

SUFFIX = ".nquake-recipe"
MOST_BYTES = 4_000_000


def read_recipe(path: Path) -> Recipe:
    """Return the recipe in a file. Raises ShotError with the file's name."""
    try:
        data = read_plain(path, MOST_BYTES)
    except FileNotFoundError as wrong:
        raise ShotError("the file is not there", where=str(path), cure="check its name") from wrong
    return recipe_from(data, str(path), path.parent.absolute())


def recipe_from(data: bytes, where: str, folder: Path | None = None) -> Recipe:
    """Return the recipe in a file's bytes. Raises ShotError that names `where` they come from."""
    try:
        return decoded_recipe(msgspec.json.decode(data), folder)
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError) as wrong:
        raise ShotError(f"this is not whole JSON: {wrong}", where=where, cure="take another copy of it") from wrong
    except ShotError as wrong:
        raise ShotError(
            wrong.what, where=f"{where}: {wrong.where}" if wrong.where else where, cure=wrong.cure
        ) from wrong


def recipe_bytes(recipe: Recipe, folder: Path | None = None) -> bytes:
    """Return a recipe as the bytes of its file."""
    return msgspec.json.format(msgspec.json.encode(encoded_recipe(recipe, folder)), indent=1) + b"\n"


def write_recipe(recipe: Recipe, path: Path) -> None:
    """Save a recipe as a file. Raises SaveFailed; an old file stays then."""
    data = recipe_bytes(recipe, path.parent.absolute())
    write_whole(path, lambda target: put_bytes(target, data))


def fitted_to(recipe: Recipe, width: int, height: int) -> Recipe:
    """Return a recipe with its still places fitted to a shot of another size in px than it was made at."""
    if recipe.made_at is None or recipe.made_at == (width, height):
        return recipe
    times = (width / recipe.made_at[0], height / recipe.made_at[1])
    steps = tuple(_moved("step", step, times) for step in recipe.map.recipe)
    map = msgspec.structs.replace(recipe.map, recipe=steps)
    coupling = recipe.coupling and _moved("effect", recipe.coupling, times)
    return Recipe(map=map, coupling=coupling, made_at=(width, height))


def _moved(family: str, node: Node, times: tuple[float, float]) -> Node:
    operator = registry().get(family, node.kind)
    values: dict[str, Any] = dict(node.values)
    for name, value in node.values.items():
        if operator is not None and isinstance(operator.declared.get(name), Place) and not is_moving(value):
            values[name] = (value[0] * times[0], value[1] * times[1])
    return msgspec.structs.replace(node, values=values)
