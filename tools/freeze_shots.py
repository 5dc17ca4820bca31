"""Freeze sample shots with a picture of each: what they look like must stay, whatever becomes of the code.

    python tools/freeze_shots.py           write pictures that are missing
    python tools/freeze_shots.py --review  write a sheet of those that differ: frozen, now, their difference x 20

An operator that is to render otherwise gets a new version, and its old code stays for shots that name the old one. A
picture is frozen anew only where that was decided; delete it and run this.
"""

from __future__ import annotations

import shutil
import sys
from fractions import Fraction
from pathlib import Path

import cv2
import numpy as np

from nimble_quake.conventions import Picture
from nimble_quake.raster.colour.convert import to_rgba16
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import render_frame
from nimble_quake.samples import sample_path
from nimble_quake.shotfile.files import read_shot, write_shot

FOLDER = Path(__file__).parents[1] / "tests" / "frozen"
SHOTS = {
    "plastic-pixels": 40,
    "beat-rings": 30,
    "lights-pulled-away": 36,
    "cloth-stripes": 24,
    "ribbed-glass": 20,
    "shockwave": 33,
    "stall-through-haze": 50,
    "swept-line-drawing": 40,
}
"""Which ones, and at which frame."""
SCALE = float(Fraction(1, 5))


def now(name: str) -> Picture:
    """Return a frozen shot's picture as it is rendered now."""
    return render_frame(Engine(), read_shot(FOLDER / f"{name}.nquake"), SHOTS[name], SCALE)


def frozen(name: str) -> Picture:
    """Return a frozen shot's picture as straight 16-bit codes, RGBA."""
    found = cv2.imread(str(FOLDER / f"{name}.png"), cv2.IMREAD_UNCHANGED)
    assert found is not None
    return found[..., [2, 1, 0, 3]]  # type: ignore[return-value]


def freeze(name: str) -> None:
    """Keep a sample as it is, with its picture."""
    shot = FOLDER / f"{name}.nquake"
    if not shot.exists():
        sample = sample_path(name)
        assert sample is not None
        write_shot(read_shot(sample), shot)
        shutil.rmtree(shot.with_suffix(".tracks"), ignore_errors=True)
    picture = shot.with_suffix(".png")
    if not picture.exists():
        cv2.imwrite(str(picture), to_rgba16(now(name))[..., [2, 1, 0, 3]])
        print("frozen", name)


def review(target: Path) -> None:
    """Write a sheet of the shots that differ."""
    rows = []
    for name in SHOTS:
        old, new = (frozen(name)[..., 2::-1] / 257.0, to_rgba16(now(name))[..., 2::-1] / 257.0)
        if np.abs(old - new).max() > 0.25:
            rows.append(np.hstack([old, new, np.clip(20 * np.abs(old - new), 0, 255)]))
            print(name, f"{np.abs(old - new).max():.2f} of 255")
    if rows:
        cv2.imwrite(str(target), np.vstack(rows))
        print(target)


if __name__ == "__main__":
    if "--review" in sys.argv:
        review(Path("frozen-review.png"))
    else:
        for shot in SHOTS:
            freeze(shot)
