"""Shots that were frozen with a picture look as they did: what moves by a quarter of a level has a new version.

`tools/freeze_shots.py` made them; with --review it lays old and new side by side.
"""

import sys
from pathlib import Path

import numpy as np
import pytest

from nimble_quake.raster.colour.convert import to_rgba16

sys.path.insert(0, str(Path(__file__).parents[2] / "tools"))
from freeze_shots import SHOTS, frozen, now  # type: ignore[import-not-found]  # a tool beside the package


@pytest.mark.parametrize("name", SHOTS)
def test_a_frozen_shot_renders_as_it_did(name: str) -> None:
    apart = np.abs(to_rgba16(now(name)).astype(np.int64) - frozen(name).astype(np.int64))
    assert apart.max() <= 65535 / 255 / 4, f"{apart.max() / 257:.2f} levels: python tools/freeze_shots.py --review"
