"""Recipe files: one map's steps, to be used again in any shot."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import msgspec

from nimble_quake.errors import ShotError
from nimble_quake.motion.kinds import is_moving
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import Place
from nimble_quake.shot.model import Map, Node
from nimble_quake.shotfile.codec import decoded_recipe, encoded_recipe
from nimble_quake.shotfile.files import put_bytes, read_plain, write_whole

SUFFIX = ".nquake-recipe"
MOST_BYTES = 4_000_000


def read_recipe(path: Path) -> Map:
    """Return the map of a recipe file. Raises ShotError with the file's name."""
    try:
        data = read_plain(path, MOST_BYTES)
    except FileNotFoundError as wrong:
        raise ShotError("the file is not there", where=str(path), cure="check its name") from wrong
    return recipe_from(data, str(path), path.parent.absolute())


def recipe_from(data: bytes, where: str, folder: Path | None = None) -> Map:
    """Return the map in a recipe's bytes. Raises ShotError that names `where` they come from."""
    try:
        return decoded_recipe(msgspec.json.decode(data), folder)
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError) as wrong:
        raise ShotError(f"this is not whole JSON: {wrong}", where=where, cure="take another copy of it") from wrong
    except ShotError as wrong:
        raise ShotError(
            wrong.what, where=f"{where}: {wrong.where}" if wrong.where else where, cure=wrong.cure
        ) from wrong


def recipe_bytes(map: Map, size: tuple[int, int], folder: Path | None = None) -> bytes:
    """Return a map as the bytes of its recipe file."""
    return msgspec.json.format(msgspec.json.encode(encoded_recipe(map, size, folder)), indent=1) + b"\n"


def write_recipe(map: Map, size: tuple[int, int], path: Path) -> None:
    """Save a map as a recipe file. Raises SaveFailed; an old file stays then."""
    data = recipe_bytes(map, size, path.parent.absolute())
    write_whole(path, lambda target: put_bytes(target, data))


def fitted_to(map: Map, width: int, height: int) -> Map:
    """Return a map with its still places fitted to a shot of another size than it was made at."""
    made = map.extra.get("made_at")
    extra = {key: value for key, value in map.extra.items() if key != "made_at"}
    steps = map.recipe
    if isinstance(made, list) and made != [width, height]:
        times = (width / float(made[0]), height / float(made[1]))  # type: ignore[arg-type]
        steps = tuple(_moved(step, times) for step in steps)
    return msgspec.structs.replace(map, recipe=steps, extra=extra)


def _moved(step: Node, times: tuple[float, float]) -> Node:
    operator = registry().get("step", step.kind)
    values: dict[str, Any] = dict(step.values)
    for name, value in step.values.items():
        if operator is not None and isinstance(operator.declared.get(name), Place) and not is_moving(value):
            values[name] = (value[0] * times[0], value[1] * times[1])
    return msgspec.structs.replace(step, values=values)
