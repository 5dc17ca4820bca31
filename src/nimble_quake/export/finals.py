"""The last changes to a picture before it is written: how alpha is held, dither to 8 bits, the broadcast limit."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Picture
from nimble_quake.errors import BadInput
from nimble_quake.export.formats import Format

STRAIGHT, PREMULTIPLIED = "straight", "premultiplied"
ALPHAS = {"": "As the format has it", STRAIGHT: "Straight", PREMULTIPLIED: "Multiplied in"}
"""How colours are held where they are partly clear; empty: OpenEXR multiplied, all others straight."""
BLACK, WHITE = 16 / 255, 235 / 255
"""What broadcast allows of 8 bits (ITU-R BT.601 and BT.709)."""


def refuse_impossible_alpha(format: Format, alpha: str) -> None:
    """Raise BadInput where alpha cannot be held in this way."""
    if alpha not in ALPHAS:
        raise BadInput(f'"{alpha}" is no way to hold alpha', where="alpha", cure="use straight or premultiplied")
    if alpha and not format.alpha:
        raise BadInput(f"{format.label} holds no transparency", where="alpha", cure="choose another format")


def limited(picture: Picture) -> Picture:
    """Return a picture whose straight colours lie between broadcast black and white."""
    out, alpha = np.array(picture), picture[..., 3:]
    np.clip(out[..., :3], np.float32(BLACK) * alpha, np.float32(WHITE) * alpha, out=out[..., :3])
    return out


def dithered(picture: Picture, frame: int) -> Picture:
    """Return a picture with random amounts of up to half an 8-bit step added to its straight colours.

    What is then rounded to 8 bits is right on average, so soft gradients show no bands. The same for a frame each time.
    """
    out = np.array(picture)
    noise = np.random.Generator(np.random.Philox(frame)).random(out[..., :3].shape, np.float32)
    noise -= np.float32(0.5)
    noise /= np.float32(255)
    out[..., :3] += noise * out[..., 3:]
    np.clip(out[..., :3], 0, out[..., 3:], out=out[..., :3])
    return out


def alpha_for(picture: Picture, format: Format, alpha: str) -> Picture:
    """Return a picture that its format's packing turns into colours held as `alpha` says."""
    own = PREMULTIPLIED if format.linear else STRAIGHT
    if alpha in ("", own):
        return picture
    out, clear = np.array(picture), picture[..., 3:4]
    if alpha == PREMULTIPLIED:
        out[..., :3] *= clear
    else:
        np.divide(out[..., :3], clear, out=out[..., :3], where=clear > 0)
    return out
