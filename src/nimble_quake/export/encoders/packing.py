"""Pictures as the bytes of a file: by OpenCV, whose order of colours is blue, green, red."""

from __future__ import annotations

import io

import cv2
import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Picture
from nimble_quake.export.encoders.colour_space import png_in_srgb, srgb_profile
from nimble_quake.export.formats import Target
from nimble_quake.raster.colour.convert import to_rgba8

QUICK_PNG = (cv2.IMWRITE_PNG_COMPRESSION, 1, cv2.IMWRITE_PNG_FILTER, cv2.IMWRITE_PNG_FAST_FILTERS)
"""How PNG is packed: in half the time of level 4 without filters, and a fifth larger."""
DEFLATE_LEVEL = 5
"""How hard TIFF is packed."""


def png_of(codes: NDArray[np.generic], target: Target) -> bytes:
    """Return straight RGBA codes as a PNG's bytes, with what their colours are."""
    data = packed(".png", codes, QUICK_PNG)
    return png_in_srgb(data) if target.colours else data


def tiff_of(values: NDArray[np.generic], target: Target) -> bytes:
    """Return RGBA values (H, W, 4) as a TIFF's bytes: it says what its fourth channel is, and what its colours are.

    It is deflated without a predictor, so that every reader reads it.
    """
    import tifffile  # here: of all formats only this one needs it, and the window starts without

    file = io.BytesIO()
    tifffile.imwrite(
        file,
        np.ascontiguousarray(values),
        photometric="rgb",
        extrasamples=["assocalpha" if target.associated else "unassalpha"],
        compression="zlib",
        compressionargs={"level": DEFLATE_LEVEL},
        iccprofile=srgb_profile() if target.colours else None,
        metadata=None,
        software=False,
    )
    return file.getvalue()


def packed(suffix: str, codes: NDArray[np.generic], options: tuple[int, ...] = ()) -> bytes:
    """Return RGB(A) codes as a file's bytes. Raises ValueError where they cannot be packed."""
    order = [2, 1, 0, 3][: codes.shape[2]]
    good, data = cv2.imencode(suffix, np.ascontiguousarray(codes[..., order]), list(options))
    if not good:
        raise ValueError("the picture could not be packed")
    return data.tobytes()


def straight(picture: Picture) -> NDArray[np.float32]:
    """Return a picture's colours taken out of their alpha, any number, (H, W, 4)."""
    alpha = picture[..., 3:]
    colour = np.divide(picture[..., :3], alpha, out=np.zeros_like(picture[..., :3]), where=alpha > 0)
    return np.concatenate([colour, alpha], axis=2)


def over_black(picture: Picture) -> NDArray[np.uint8]:
    """Return 8-bit RGB of a picture over black."""
    whole = np.array(picture)
    whole[..., 3] = 1
    return np.ascontiguousarray(to_rgba8(whole)[..., :3])
