"""Draw the moving pictures of the samples that the start page shows: python tools/draw_moving_pictures.py [NAME ...]"""

from __future__ import annotations

import sys

from nimble_quake.samples import moving_picture, sample_path, samples
from nimble_quake.session.starting.moving_pictures import draw
from nimble_quake.shotfile.files import read_shot


def main(names: list[str]) -> None:
    """Draw all, or those named."""
    for name in names or samples():
        path, target = sample_path(name), moving_picture(name)
        assert path is not None
        target.parent.mkdir(exist_ok=True)
        draw(read_shot(path), target)
        print(f"{target.name}: {target.stat().st_size / 1000:.0f} kB")


if __name__ == "__main__":
    main(sys.argv[1:])
