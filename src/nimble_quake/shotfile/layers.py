"""What a file holds several of: the layers of an OpenEXR picture, the maps of a shot."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

from nimble_quake.conventions import SHOT_SUFFIX
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.files.plain import plain_file
from nimble_quake.media import exr, flipbook
from nimble_quake.shotfile.files import read_shot


def layer_names(file: str) -> tuple[str, ...]:
    """Return the names of a file's layers; none of a file that has none, or that cannot be read."""
    try:
        found = flipbook.numbered(file)[0][1] if flipbook.is_pattern(file) else Path(file)
        return _names(found, plain_file(found).st_mtime_ns)
    except (NimbleQuakeError, OSError, IndexError, ValueError):
        return ()


@lru_cache(maxsize=64)
def _names(file: Path, changed: int) -> tuple[str, ...]:
    """As the file was when it was last changed."""
    if file.suffix.lower() == SHOT_SUFFIX:
        return tuple(dict.fromkeys(map.name or map.id for map in read_shot(file).maps))
    return tuple(layer.name for layer in exr.layers_in(file) if layer.name) if file.suffix.lower() == exr.SUFFIX else ()
