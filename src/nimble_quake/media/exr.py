"""OpenEXR pictures: any layer of one, in scene light, of more or less than the frame.

After the OpenEXR documentation, "Technical introduction" and "Interpreting OpenEXR Deep Pixels": colours are linear and
hold their alpha (associated); a layer is what stands before the last dot of a channel's name; the display window is
the frame, the data window what the file holds of it.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import TypeAlias

import Imath
import numpy as np
import OpenEXR
from numpy.typing import NDArray

from nimble_quake.conventions import MAX_PIXELS, Picture
from nimble_quake.errors import MediaError
from nimble_quake.files.plain import plain_file
from nimble_quake.media.stills import LARGEST, MAX_SIDE, Still
from nimble_quake.raster.colour.light import to_encoded

SUFFIX = ".exr"
MOST_CHANNELS = 1024
"""Names of channels that are looked at; four of them are read at most."""
MOST = 1e6
"""Values beyond this, and what is no number, are kept within it."""
COLOURS = ("R", "G", "B")
Window: TypeAlias = tuple[int, int, int, int]
"""First column and row, width and height."""


@dataclass(frozen=True)
class Layer:
    """A layer of a file: its name and the names of its channels, red, green and blue, or one to three of data."""

    name: str
    channels: tuple[str, ...]
    alpha: str
    colour: bool
    """It holds red, green and blue: light. Others are numbers as they are."""


class ExrStill(Still):
    """One layer of an OpenEXR picture, held as floats."""

    bits8 = False

    def __init__(self, path: Path, layer: str = "") -> None:
        pixels, colour = read_layer(path, layer)
        self._take(to_encoded(pixels) if colour else pixels)
        self.bits8, self.in_light = False, colour

    def sized(self, size: tuple[int, int]) -> Picture:
        return self.reduced(self._pixels, size)


def read_layer(path: Path, name: str = "") -> tuple[Picture, bool]:
    """Return a layer as its file holds it, over the display window, (H, W, 4), and whether it is colour.

    name: of the layer; empty: that without a name, else the first one. Raises MediaError.
    """
    with _opened(path) as file:
        return _read(file, path, name)


def layers_in(path: Path) -> list[Layer]:
    """Return the layers of a file, that without a name first. Raises MediaError."""
    with _opened(path) as file:
        return layers_of(list(file.header()["channels"]))


@contextmanager
def _opened(path: Path) -> Iterator[OpenEXR.InputFile]:
    try:
        plain_file(path)
        file = OpenEXR.InputFile(str(path))
        try:
            yield file
        finally:
            file.close()
    except MediaError:
        raise
    except FileNotFoundError as wrong:
        raise MediaError("the file is not there", where=str(path), cure="find it, or choose another") from wrong
    except Exception as wrong:  # the library raises many kinds of error on damaged files
        raise MediaError("cannot be read as an OpenEXR picture", where=str(path), cure="save it again") from wrong


def layers_of(names: list[str]) -> list[Layer]:
    """Return the layers that channels of these names make, that without a name first."""
    by_layer: dict[str, list[str]] = {}
    for name in names[:MOST_CHANNELS]:
        by_layer.setdefault(name.rpartition(".")[0], []).append(name)
    return [_layer(layer, channels) for layer, channels in sorted(by_layer.items(), key=lambda item: item[0] != "")]


def _layer(name: str, channels: list[str]) -> Layer:
    last = {channel.rpartition(".")[2].upper(): channel for channel in channels}
    alpha = last.get("A", "")
    if all(colour in last for colour in COLOURS):
        return Layer(name, tuple(last[colour] for colour in COLOURS), alpha, colour=True)
    return Layer(name, tuple(channel for channel in channels if channel != alpha)[:3], alpha, colour=False)


def _read(file: OpenEXR.InputFile, path: Path, name: str) -> tuple[Picture, bool]:
    header = file.header()
    data, frame = _window(header["dataWindow"]), _window(header["displayWindow"])
    for _, _, width, height in (data, frame):
        if not (0 < width <= MAX_SIDE and 0 < height <= MAX_SIDE and width * height <= MAX_PIXELS):
            raise MediaError(f"the picture is {width} x {height} pixels", where=str(path), cure=LARGEST)
    found = layers_of(list(header["channels"]))
    layer = next((each for each in found if each.name == name), None) if name else next(iter(found), None)
    if layer is None or not (layer.channels or layer.alpha):
        there = ", ".join(each.name or "the one without a name" for each in found[:8])
        what = f'has no layer "{name[:40]}"' if name else "has no channels"
        raise MediaError(what, where=str(path), cure=f"its layers: {there}" if there else "choose another file")
    wanted = [*layer.channels, *((layer.alpha,) if layer.alpha else ())]
    if any((header["channels"][each].xSampling, header["channels"][each].ySampling) != (1, 1) for each in wanted):
        raise MediaError("holds colours at half size", where=str(path), cure="save it as RGB")
    read = dict(zip(wanted, file.channels(wanted, Imath.PixelType(Imath.PixelType.FLOAT)), strict=True))
    planes = {each: np.frombuffer(part, np.float32).reshape(data[3], data[2]) for each, part in read.items()}
    out = np.zeros((frame[3], frame[2], 4), np.float32)
    shown = [planes[each] for each in layer.channels] or [planes[layer.alpha]]
    for k in range(3):
        _laid(shown[min(k, len(shown) - 1)], data, frame, out[..., k])
    _laid(planes[layer.alpha] if layer.alpha else np.ones_like(shown[0]), data, frame, out[..., 3])
    return _finite(out, layer), layer.colour


def _window(box: Imath.Box2i) -> Window:
    return box.min.x, box.min.y, box.max.x - box.min.x + 1, box.max.y - box.min.y + 1


def _laid(plane: NDArray[np.float32], data: Window, frame: Window, out: NDArray[np.float32]) -> None:
    """Lay what a file holds into the frame; beyond its border nothing is held."""
    left, top = max(data[0], frame[0]), max(data[1], frame[1])
    right, low = min(data[0] + data[2], frame[0] + frame[2]), min(data[1] + data[3], frame[1] + frame[3])
    if right > left and low > top:
        out[top - frame[1] : low - frame[1], left - frame[0] : right - frame[0]] = plane[
            top - data[1] : low - data[1], left - data[0] : right - data[0]
        ]


def _finite(picture: Picture, layer: Layer) -> Picture:
    """Numbers as a picture may hold them: alpha within 0...1, no light below none."""
    out = np.clip(np.nan_to_num(picture, nan=0.0, posinf=MOST, neginf=-MOST), -MOST, MOST)
    out[..., 3] = np.clip(out[..., 3], 0, 1)
    if layer.colour:
        np.maximum(out[..., :3], 0, out=out[..., :3])
    return np.asarray(out, np.float32)
