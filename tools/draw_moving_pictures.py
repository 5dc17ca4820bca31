"""Draw the moving pictures of the samples that the start page shows, and list what is known of them.

    python tools/draw_moving_pictures.py [NAME ...]
"""

from __future__ import annotations

import sys

import msgspec

from nimble_quake.samples import moving_picture, sample_path, samples
from nimble_quake.session.starting.moving_pictures import draw
from nimble_quake.session.starting.starters import LIST, described
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile.files import read_shot


def shot_of(name: str) -> Shot:
    path = sample_path(name)
    assert path is not None
    return read_shot(path)


def main(names: list[str]) -> None:
    """Draw all, or those named; the list is of all."""
    for name in names or samples():
        target = moving_picture(name)
        target.parent.mkdir(exist_ok=True)
        draw(shot_of(name), target)
        print(f"{target.name}: {target.stat().st_size / 1000:.0f} kB")
    listed = {name: described(shot_of(name)) for name in samples()}
    LIST.write_bytes(msgspec.json.format(msgspec.json.encode(listed), indent=1) + b"\n")


if __name__ == "__main__":
    main(sys.argv[1:])
