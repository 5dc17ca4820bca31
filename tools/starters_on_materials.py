"""Draw every starter on four materials, to be looked at: a title, a logo, a drawn clip, a clip like a photograph.

    python tools/starters_on_materials.py FOLDER [NAME ...]

A row for each starter, seven rows a sheet. What cannot be carried to the next picture is seen here.
"""

from __future__ import annotations

import sys
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from nimble_quake.raster.colour.convert import to_screen
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import render_frame
from nimble_quake.samples import FOLDER
from nimble_quake.session.starting.starters import Starter, shipped, with_starter
from nimble_quake.session.state import Session
from nimble_quake.shot.model import Plate, Shot

MEDIA = FOLDER / "media"
MATERIALS = (
    Plate(id="mine", kind="text", name="Mine", values={"words": "OPEN LATE", "size": 180.0}),
    Plate(id="mine", kind="artwork", name="Mine", values={"file": str(MEDIA / "emblem.svg"), "fit": "centre"}),
    Plate(id="mine", kind="clip", name="Mine", values={"file": str(MEDIA / "stall.mp4"), "fit": "cover"}),
    Plate(id="mine", kind="clip", name="Mine", values={"file": str(MEDIA / "wall.mp4"), "fit": "cover"}),
)
WIDE, ROWS = 300, 7


def row_of(starter: Starter) -> NDArray[np.uint8]:
    """Return a starter on every material, at the frame it opens on."""
    cells = []
    for plate in MATERIALS:
        session = Session()
        session.take(Shot(width=1280, height=720, length=120, plates=(plate,)))
        session.select(plate="plates/mine")
        shot, _ = with_starter(session, starter)
        frame = min(starter.shot.playhead or shot.length // 3, shot.length - 1)
        picture = render_frame(Engine(), shot, frame, 2 * WIDE / 1280)
        cell = cv2.resize(np.ascontiguousarray(to_screen(picture)[..., :3]), (WIDE, WIDE * 9 // 16), interpolation=3)
        cells.append(cell)
    row = np.hstack(cells)
    cv2.putText(row, starter.name, (6, 14), cv2.FONT_HERSHEY_SIMPLEX, 0.45, (255, 255, 255), 1, cv2.LINE_AA)
    return np.asarray(row, np.uint8)


if __name__ == "__main__":
    target, names = Path(sys.argv[1]), sys.argv[2:]
    rows = [row_of(starter) for starter in shipped() if not names or starter.name in names]
    for first in range(0, len(rows), ROWS):
        cv2.imwrite(str(target / f"starters-{first // ROWS + 1}.png"), np.vstack(rows[first : first + ROWS]))
