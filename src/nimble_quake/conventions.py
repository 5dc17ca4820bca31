"""The one place for axes, pixel centres, ranges, time base, angles, types, seeds and tolerances.

Coordinates
    Shot pixels. Origin top left, x right, y down. Sample (i, j) of a grid lies at its pixel's centre, so the first
    pixel of a full-size frame is at (0.5, 0.5). Places may lie outside the frame.
Angles
    Degrees as in SVG and CSS transforms: 0 points right, positive turns clockwise on screen.
Time
    Frame numbers from 0; the rate is an exact fraction; seconds = frame / rate.
Pictures
    float32, premultiplied RGBA, shape (H, W, 4), sRGB-encoded values, nominally 0...1.
Fields (maps)
    float32, C-contiguous. (H, W, 1) value, (H, W, 2) vector (x, y about the rest level), (H, W, 4) colour and
    alpha as data, never premultiplied, never colour-managed. Nominally 0...1, not clipped until a step says so.
Warps
    float32 (2, H, W): for each result sample, how far away (x, then y, in shot pixels) its source lies. In planes,
    because every kernel that touches one is several times faster so.
Luminance
    BT.709 weights on the encoded values as given.
"""

from __future__ import annotations

from typing import Any, TypeAlias

import numpy as np
from numpy.typing import NDArray

Picture: TypeAlias = NDArray[np.float32]
Field: TypeAlias = NDArray[np.float32]
Warp: TypeAlias = NDArray[np.float32]
Bytes8: TypeAlias = NDArray[np.uint8]
Seconds: TypeAlias = float
Frames: TypeAlias = float
Pixels: TypeAlias = float
Sides: TypeAlias = tuple[Pixels, Pixels, Pixels, Pixels]
"""Left, top, right, bottom."""
Degrees: TypeAlias = float
Affine: TypeAlias = tuple[float, float, float, float, float, float]
"""(a, b, c, d, e, f): u = a x + b y + c, v = d x + e y + f."""

Numeric: TypeAlias = float | NDArray[np.floating]
"""A number, or many at once."""
Json: TypeAlias = "dict[str, Json] | list[Json] | str | int | float | bool | None"
"""What a JSON reader gives."""
Value: TypeAlias = Any
"""What a parameter holds: a number, numbers, words, points, or a motion of them. Which of them is for the parameter to
say, which a shot names by text; so no type can."""
Values: TypeAlias = dict[str, Value]
"""An operator's values by name."""

REST = 0.5
"""The map value that moves nothing, two-sided."""

REST_OF_8_BIT = 128 / 255
"""The code nearest to one half in an 8-bit picture (0.50196)."""

LUMA_709 = (0.2126, 0.7152, 0.0722)
"""ITU-R BT.709-6: luma weights of red, green and blue."""

MAX_SIDE = 16384
"""The longest side, in pixels, of any picture we allocate for."""

MAX_PIXELS = 16384 * 8192
"""The most pixels of any picture we allocate for."""

MAX_FRAMES = 1_000_000
"""The longest shot."""

SHOT_SUFFIX = ".nquake"
"""How the names of shot files end."""
