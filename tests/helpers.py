"""Small shots and pictures for tests."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np

from nimble_quake.conventions import Picture
from nimble_quake.export.encoders.priority import steady_priority
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Around, Context
from nimble_quake.operators.registry import registry
from nimble_quake.raster.geometry.places import Places
from nimble_quake.render.engine import Engine
from nimble_quake.render.services import frame_job
from nimble_quake.render.values.resolving import resolved
from nimble_quake.shot.model import Map, Node, Plate, Shot


def write_png(path: Path, rgba: np.ndarray) -> Path:
    """Write straight RGBA (8 or 16 bits) as PNG with OpenCV, independently of our writers."""
    cv2.imwrite(str(path), np.ascontiguousarray(rgba[..., [2, 1, 0, 3]]))
    return path


def read_png(path: Path) -> np.ndarray:
    """Read a PNG as straight RGBA, any depth."""
    found = cv2.imread(str(path), cv2.IMREAD_UNCHANGED)
    assert found is not None
    return found[..., [2, 1, 0, 3]]


def coded(width: int, height: int) -> np.ndarray:
    """An opaque 8-bit picture whose red is the column and green the row, so that a result tells where it came from."""
    out = np.full((height, width, 4), 255, np.uint8)
    out[..., 0] = np.arange(width)
    out[..., 1] = np.arange(height)[:, None]
    out[..., 2] = 90
    return out


def speckled(width: int, height: int, seed: int = 3) -> np.ndarray:
    """An opaque 8-bit picture with soft random texture."""
    chance = np.random.Generator(np.random.PCG64(seed))
    out = np.full((height, width, 4), 255, np.uint8)
    noise = cv2.GaussianBlur(chance.random((height, width, 3)).astype(np.float32), (0, 0), 2)
    noise = (noise - noise.min()) / (noise.max() - noise.min())
    out[..., :3] = (noise * 255).astype(np.uint8)
    return out


def flat_map(level: float, id: str = "map") -> Map:
    """A map of one value: a gradient with a single stop."""
    from nimble_quake.params.kinds import Stop

    stop = (Stop(0.0, (level, level, level, 1.0)),)
    return Map(id=id, name="Flat", recipe=(Node(id="flat", kind="gradient", values={"stops": stop}),))


def noise_map(id: str = "map", **values: Any) -> Map:
    """A map of noise."""
    return Map(id=id, name="Noise", recipe=(Node(id="noise", kind="noise", values=values),))


def pushed_still(file: Path, map: Map, size: tuple[int, int], **values: Any) -> Shot:
    """A shot as large as its still, pushed by a map."""
    quake = Node(id="push", kind="push", values={"map": map.id, **values})
    plate = Plate(id="still", kind="still", values={"file": str(file), "fit": "centre"}, effects=(quake,))
    return Shot(
        width=size[0], height=size[1], length=48, rate=Fraction(24), ground=(0, 0, 0, 0), plates=(plate,), maps=(map,)
    )


def rendered(shot: Shot, frame: float = 0, scale: float = 1.0, engine: Engine | None = None, **kwargs: Any) -> Picture:
    """The picture of a shot at a frame."""
    from nimble_quake.render.frames import frame_picture

    return np.array(frame_picture(frame_job(engine or Engine(), shot, frame), scale, **kwargs))


class FlatReader(Around):
    """Reads a map of one value, as a coupling asks for it."""

    def __init__(self, field: np.ndarray, rest: float = 0.5) -> None:
        self.field, self.level = field, rest

    @property
    def maps(self) -> FlatReader:
        return self

    def at(
        self, map_id: str, places: Places, hook: str = "frame", fit: str = "stretch", made: Any = None
    ) -> np.ndarray:
        return np.broadcast_to(self.field, (*places.grid.shape, self.field.shape[2])).copy()

    def whole(self, map_id: str, made: Any = None) -> np.ndarray:
        return self.field

    def remembered(self, map_id: str, key: tuple[Any, ...], make: Any) -> Any:
        return make()

    def rest(self, map_id: str) -> float:
        return self.level

    def turned(self, moves: np.ndarray, hook: str) -> np.ndarray:
        return moves

    def stretched(self, distance: float, hook: str) -> float:
        return distance


def read_flat(level: float, width: int = 320, height: int = 180) -> Context:
    """A context in which every map is of one value."""
    services: Any = None
    at = Moment(0, Fraction(24), 48, width, height)
    return Context(at, services, around=FlatReader(np.full((1, 1, 1), level, np.float32)))


def moment(frame: float = 0, width: int = 320, height: int = 180, rate: Fraction = Fraction(24)) -> Moment:
    """A moment of a small shot."""
    return Moment(frame, rate, 240, width, height)


def operator_at(family: str, kind: str, at: Moment, **values: Any) -> tuple[Any, Context]:
    """An operator with its numbers at a moment, and its context."""
    op = registry().get(family, kind)
    assert op is not None
    node = Node(id=kind, kind=kind, values=values)
    shot = Shot(width=int(at.width), height=int(at.height), rate=at.rate, length=at.length)
    job = frame_job(Engine(), shot, at.frame)
    made = resolved(op, node, at)
    return made, job.context(made, node, kind)


def write_clip(path: Path, frames: list[np.ndarray], rate: Fraction, codec: str, pix_fmt: str, **options: str) -> Path:
    """Encode straight RGBA frames with PyAV, independently of our writers."""
    with steady_priority(), av.open(str(path), "w") as container:  # SVT-AV1 would leave the tests real-time under root
        stream: Any = container.add_stream(codec, rate=rate, options=options)
        stream.height, stream.width = frames[0].shape[:2]
        stream.pix_fmt = pix_fmt
        for number, rgba in enumerate(frames):
            frame = av.VideoFrame.from_ndarray(rgba, "rgba")
            frame.pts = number
            frame.time_base = 1 / rate
            container.mux(stream.encode(frame))
        container.mux(stream.encode())
    return path


def numbered_frame(number: int, width: int = 64, height: int = 48) -> np.ndarray:
    """A frame that holds its number as eight black or white blocks."""
    out = np.full((height, width, 4), 255, np.uint8)
    out[..., :3] = 128
    for bit in range(8):
        out[:, bit * 8 : bit * 8 + 8, :3] = 255 if number >> bit & 1 else 0
    return out


def number_in(picture: Picture) -> int:
    """The number in a frame's blocks."""
    scale = picture.shape[1] / 64
    middle = picture.shape[0] // 2
    return sum(1 << bit for bit in range(8) if picture[middle, int((bit * 8 + 4) * scale), 0] > 0.5)
