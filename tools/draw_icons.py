"""Draw the program's icon at every size a desktop asks for: draw_icons.py FOLDER (of an icon theme)."""

from __future__ import annotations

import sys
from pathlib import Path

import cv2

from nimble_quake.export.encoders.packing import packed
from nimble_quake.media.pool import MediaPool
from nimble_quake.raster.colour.convert import to_rgba8

SIZES = (16, 22, 24, 32, 48, 64, 96, 128, 256, 512)
ICON = Path(__file__).parent / "desktop" / "nimble-quake.svg"


def draw(theme: Path) -> list[Path]:
    """Draw all sizes into a theme's folders; returns the files."""
    drawn, icon = [], MediaPool().open(str(ICON))
    for size in SIZES:
        file = theme / f"{size}x{size}" / "apps" / "nimble-quake.png"
        file.parent.mkdir(parents=True, exist_ok=True)
        picture = icon.picture(0.0, size, size)
        file.write_bytes(packed(".png", to_rgba8(picture), (cv2.IMWRITE_PNG_COMPRESSION, 9)))
        drawn.append(file)
    return drawn


if __name__ == "__main__":
    draw(Path(sys.argv[1]))
