"""Draw the moving pictures of the samples that the start page shows, and list what is known of them.

python tools/draw_moving_pictures.py [NAME ...]
"""

from __future__ import annotations

import sys

import msgspec

from nimble_quake.samples import FOLDER, crossing_path, crossings, moving_picture, sample_path, samples
from nimble_quake.session.starting.map_shots import PREFIX, is_map, map_shot, recipe_file
from nimble_quake.session.starting.moving_pictures import draw
from nimble_quake.session.starting.starters import CROSSED, LIST, NOTHING, described
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile.files import read_shot
from nimble_quake.shotfile.recipes import SUFFIX


def shot_of(name: str) -> Shot:
    if is_map(name):
        return map_shot(recipe_file(name))
    if name.startswith(CROSSED):
        return read_shot(crossing_path(name.removeprefix(CROSSED)))
    path = sample_path(name)
    assert path is not None
    return read_shot(path)


def main(names: list[str]) -> None:
    """Draw all, or those named; the list is of all."""
    maps = [f"{PREFIX}{path.name.removesuffix(SUFFIX)}" for path in sorted((FOLDER / "recipes").glob(f"*{SUFFIX}"))]
    crossed = [f"{CROSSED}{name}" for name in crossings()]
    for name in names or [*samples(), *maps, *crossed]:
        target = moving_picture(name)
        target.parent.mkdir(exist_ok=True)
        draw(shot_of(name), target)
        print(f"{target.name}: {target.stat().st_size / 1000:.0f} kB")
    listed = {name: described(shot_of(name)) for name in samples()}
    for name in crossed:
        title, _, note = described(shot_of(name))
        listed[name] = (title, "Crossings", f"a crossing by {note}" if note != NOTHING else "a crossing by its mix")
    for name in maps:
        title, _, note = described(shot_of(name))
        listed[name] = (title, "Maps", f"a map, by {note}")
    LIST.write_bytes(msgspec.json.format(msgspec.json.encode(listed), indent=1) + b"\n")


if __name__ == "__main__":
    main(sys.argv[1:])
