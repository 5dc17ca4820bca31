"""Recipe files: one map's steps and the coupling it was made for, to be used again in any shot."""

from __future__ import annotations

from pathlib import Path

import msgspec

from nimble_quake.errors import ShotError
from nimble_quake.operators.registry import registry
from nimble_quake.shot.recipe import Recipe
from nimble_quake.shot.refit import fitted_recipe
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
    """Return a recipe for a shot of another size in px than it was made at."""
    return fitted_recipe(recipe, width, height, registry().get)
