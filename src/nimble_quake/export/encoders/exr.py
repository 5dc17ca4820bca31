"""OpenEXR files, by the OpenEXR library: half or float, associated alpha, primaries of BT.709, words as attributes."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import numpy as np
import OpenEXR

from nimble_quake.conventions import Picture
from nimble_quake.export.formats import Target

BT709_PRIMARIES = (0.64, 0.33, 0.30, 0.60, 0.15, 0.06, 0.3127, 0.3290)
"""Red, green, blue and white of ITU-R BT.709 (BT.709-6, item 1.3 and 1.4), x and y each."""
NO_FLAGS = (0,) * 14
"""A time code's flags and user bits."""
MOST_COUNTED = 40
"""A time code has room for the numbers 0 to 39 of a second's frames."""
LARGEST_HALF = 65_504.0
"""The largest number of IEEE 754 binary16."""


def exr_of(
    picture: Picture,
    *,
    half: bool,
    notes: tuple[tuple[str, str], ...] = (),
    layers: tuple[str, ...] = ("",),
    overscan: int = 0,
    times: tuple[Fraction, int] | None = None,
) -> bytes:
    """Return pictures (H, W, 4 x count) as they are, as an OpenEXR file's bytes.

    notes: attributes, (name, words) each. layers: the pictures' names; a channel is LAYER.R, or R where it has none.
    overscan: how much wider than the frame the pictures are on every side, px: the display window is the frame, the
    data window what there is (OpenEXR's technical introduction, "Display Window and Data Window").
    times: the frames a second, and the picture's number: *framesPerSecond* and *timeCode* (OpenEXR's standard
    attributes; the code is SMPTE ST 12-1's, without dropped frames).
    """
    values = np.ascontiguousarray(picture, np.float32)
    if half:
        values = np.clip(values, -LARGEST_HALF, LARGEST_HALF).astype(np.float16)
    header: dict[str, object] = {
        "compression": OpenEXR.ZIP_COMPRESSION,
        "type": OpenEXR.scanlineimage,
        "chromaticities": BT709_PRIMARIES,
    }
    header |= dict(notes)
    if times is not None:
        header |= _timed(*times)
    if overscan:
        corner = np.array(values.shape[1::-1], np.int32) - overscan - 1
        header["dataWindow"] = (np.full(2, -overscan, np.int32), corner)
        header["displayWindow"] = (np.zeros(2, np.int32), corner - overscan)
    channels = {
        f"{layer}.{letter}" if layer else letter: np.ascontiguousarray(values[..., 4 * n + k])
        for n, layer in enumerate(layers)
        for k, letter in enumerate("RGBA")
    }
    with tempfile.TemporaryDirectory(prefix="nimble-quake-") as folder:
        path = Path(folder) / "frame.exr"
        OpenEXR.File(header, channels).write(str(path))
        return path.read_bytes()


def _timed(rate: Fraction, frame: int) -> dict[str, object]:
    """What says when a picture is seen. Frames are counted as whole seconds of the rounded rate hold them."""
    whole = max(1, round(rate))
    seconds, number = divmod(frame, whole)
    found: dict[str, object] = {"framesPerSecond": rate}
    if whole <= MOST_COUNTED:
        hours, minutes = seconds // 3600 % 24, seconds // 60 % 60
        found["timeCode"] = OpenEXR.TimeCode(hours, minutes, seconds % 60, number, *NO_FLAGS)
    return found


def packer(*, half: bool) -> Callable[[Picture, Target], bytes]:
    """Return what packs premultiplied linear light, or data as they are."""

    def pack(picture: Picture, target: Target) -> bytes:
        return exr_of(
            picture,
            half=half,
            notes=target.notes,
            layers=target.layers,
            overscan=target.overscan,
            times=(Fraction(target.rate), target.frame),
        )

    return pack
