"""The same work by general-purpose libraries, by turns: `make bench-peers`.

Each row names the quickest of them, the ratio to it, and the ratio to the physical limit: the bytes that have to be
read and written, divided by the rate at which this machine's memory copies. Pictures are 8-bit RGB in and out,
1280 x 720 where nothing else is said, with as many threads as each library takes by itself.
"""

from __future__ import annotations

import os
import statistics
import tempfile
import time
from collections.abc import Callable, Iterator
from fractions import Fraction
from typing import Any, NamedTuple

os.environ["NIMBLE_QUAKE_HOME"] = tempfile.mkdtemp()

import av
import av.filter
import cv2
import numpy as np
from PIL import Image, ImageFilter
from scipy import ndimage
from skimage import filters, transform

import nimble_quake as nq
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.raster.geometry.polar import polar_of
from nimble_quake.samples import FOLDER

Work = Callable[[], object]
warp: Any = transform.warp  # without types
swirl: Any = transform.swirl
soften_evenly: Any = filters.gaussian
SIZE, LARGE = (1280, 720), (3840, 2160)
REACH, TURNS, CLIP_FRAMES = 40.0, 7, 24
CLIP, DRIVER = (str(FOLDER / "media" / name) for name in ("lanterns.mp4", "crowd.mp4"))


class Row(NamedTuple):
    """One piece of work: by us, by the others, and the bytes it moves at least."""

    name: str
    ours: Work
    others: dict[str, Work]
    bytes: float


def soft(size: tuple[int, int], seed: int, channels: int, sigma: float) -> np.ndarray:
    """A picture of soft chance, (H, W, channels), uint8."""
    chance = np.random.Generator(np.random.PCG64(seed)).integers(0, 256, (size[1], size[0], channels), np.uint8)
    return np.ascontiguousarray(cv2.GaussianBlur(chance, (0, 0), sigma).reshape(chance.shape))


def moved(picture: np.ndarray, map: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Where each pixel of a pushed picture looks: down, then across."""
    moves = (map.astype(np.float32) / 255 - np.float32(0.5)) * np.float32(2 * REACH)
    ys, xs = np.mgrid[0 : picture.shape[0], 0 : picture.shape[1]].astype(np.float32)
    return ys - moves, xs - moves


def by_opencv(picture: np.ndarray, map: np.ndarray) -> np.ndarray:
    ys, xs = moved(picture, map)
    return np.asarray(cv2.remap(picture, xs, ys, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE))


def by_scipy(picture: np.ndarray, map: np.ndarray) -> np.ndarray:
    places = np.stack(moved(picture, map))
    return np.stack([ndimage.map_coordinates(picture[..., k], places, order=1, mode="nearest") for k in range(3)], -1)


def by_skimage(picture: np.ndarray, map: np.ndarray) -> np.ndarray:
    places = np.stack(moved(picture, map))
    parts = [warp(picture[..., k], places, order=1, mode="edge", preserve_range=True) for k in range(3)]
    return np.stack(parts, -1).astype(np.uint8)


def graph(size: tuple[int, int], name: str, args: str, inputs: int) -> Callable[..., np.ndarray]:
    """One filter of a filter graph, fed with RGB pictures."""
    made = av.filter.Graph()
    format, tick = av.VideoFormat("gbrp"), Fraction(1, 24)
    given = [made.add_buffer(width=size[0], height=size[1], format=format, time_base=tick) for _ in range(inputs)]
    step, end = made.add(name, args), made.add("buffersink")
    for number, buffer in enumerate(given):
        buffer.link_to(step, 0, number)
    step.link_to(end)
    made.configure()
    count = iter(range(10**9))

    def run(*pictures: np.ndarray, of: av.filter.Graph = made) -> np.ndarray:  # its filters live as long as it does
        at = next(count)
        for buffer, picture in zip(given, pictures, strict=True):
            frame = av.VideoFrame.from_ndarray(picture, "rgb24").reformat(format="gbrp")
            frame.pts = at
            buffer.push(frame)
        found: Any = end.pull()
        return np.asarray(found.to_ndarray(format="rgb24"))

    return run


def pushed(name: str, size: tuple[int, int]) -> Row:
    picture, map = soft(size, 1, 3, 3), soft(size, 2, 1, 9)[..., 0]
    grey = np.repeat(map[..., None], 3, axis=2)
    pushing = graph(size, "displace", "edge=smear", 3)
    others: dict[str, Work] = {
        "OpenCV": lambda: by_opencv(picture, map),
        "SciPy": lambda: by_scipy(picture, map),
        "scikit-image": lambda: by_skimage(picture, map),
        "filter graph, whole pixels": lambda: pushing(picture, grey, grey),
    }
    return Row(name, lambda: nq.push(picture, map, REACH, edge="hold"), others, picture.nbytes * 2 + map.nbytes)


def decoded(path: str) -> Iterator[np.ndarray]:
    with av.open(path) as opened:
        opened.streams.video[0].thread_type = "AUTO"
        for _, frame in zip(range(CLIP_FRAMES), opened.decode(video=0), strict=False):
            yield frame.to_ndarray(format="rgb24")


def clips() -> Row:
    """Decoded, pushed, and handed out as bytes."""
    shot = nq.new(*SIZE, length=CLIP_FRAMES)
    shot, map = nq.add_map(shot, "Map")
    shot, _ = nq.add_step(shot, map, "picture", file=DRIVER, take="colour", fit="stretch")
    shot, clip = nq.add_plate(shot, "clip", file=CLIP, fit="centre")
    shot, _ = nq.add_effect(shot, clip, "push", map=map.rpartition("/")[2], reach_x=REACH, reach_y=REACH, edge="hold")

    def ours() -> None:
        for frame in range(CLIP_FRAMES):
            picture = nq.picture(shot, frame)
            (picture[..., :3] * np.float32(255) + np.float32(0.5)).astype(np.uint8)

    def opencv() -> None:
        for picture, map in zip(decoded(CLIP), decoded(DRIVER), strict=False):
            by_opencv(picture, map[..., 0])

    pushing = graph(SIZE, "displace", "edge=smear", 3)

    def filters() -> None:
        for picture, map in zip(decoded(CLIP), decoded(DRIVER), strict=False):
            pushing(picture, map, map)

    others: dict[str, Work] = {"OpenCV and PyAV": opencv, "filter graph, whole pixels": filters}
    return Row(f"{CLIP_FRAMES} frames of a clip pushed by a clip", ours, others, CLIP_FRAMES * SIZE[0] * SIZE[1] * 9.0)


def blurred() -> Row:
    picture, sigma = soft(SIZE, 1, 3, 3), 12.0
    image, soften = Image.fromarray(picture), graph(SIZE, "gblur", f"sigma={sigma}", 1)
    others: dict[str, Work] = {
        "OpenCV": lambda: cv2.GaussianBlur(picture, (0, 0), sigma),
        "SciPy": lambda: ndimage.gaussian_filter(picture, (sigma, sigma, 0)),
        "scikit-image": lambda: soften_evenly(picture, sigma, channel_axis=2),
        "Pillow, three boxes": lambda: np.asarray(image.filter(ImageFilter.GaussianBlur(sigma))),
        "filter graph": lambda: soften(picture),
    }
    return Row(
        "a Gaussian blur, sigma 12", lambda: nq.couple("blur", picture, radius=sigma), others, picture.nbytes * 2
    )


def noisy() -> Row:
    """Three octaves; another moment each time. The others' are of values between random lattices, ours of gradients."""
    shot = nq.new(*SIZE, length=100_000)
    shot, map = nq.add_map(shot, "Map")
    shot, _ = nq.add_step(shot, map, "noise", size_x=200.0, size_y=200.0, octaves=3, churn=1.0)
    moments, chance = iter(range(100_000)), np.random.Generator(np.random.PCG64(1))
    octaves = [(SIZE[1] * 2**n // 200 + 2, SIZE[0] * 2**n // 200 + 2) for n in range(3)]
    source = av.filter.Graph()
    numbers = f"size={SIZE[0]}x{SIZE[1]}:octaves=3:xscale=6.4:yscale=3.6:tscale=1"
    made, end = source.add("perlin", numbers), source.add("buffersink")
    made.link_to(end)
    source.configure()

    def scipy() -> np.ndarray:
        parts = [
            ndimage.zoom(chance.random(size, np.float32), (SIZE[1] / size[0], SIZE[0] / size[1])) for size in octaves
        ]
        return np.asarray(sum(part * 0.5**n for n, part in enumerate(parts)))

    def opencv() -> np.ndarray:
        parts = [cv2.resize(chance.random(size, np.float32), SIZE, interpolation=cv2.INTER_CUBIC) for size in octaves]
        return np.asarray(sum(part * np.float32(0.5**n) for n, part in enumerate(parts)))

    def pulled(of: av.filter.Graph = source) -> np.ndarray:
        found: Any = end.pull()
        return np.asarray(found.to_ndarray())

    others: dict[str, Work] = {"OpenCV, lattices": opencv, "SciPy, lattices": scipy, "filter graph": pulled}
    return Row(
        "noise of three octaves", lambda: nq.map_values(shot, "Map", next(moments)), others, SIZE[0] * SIZE[1] * 4.0
    )


def swirled() -> Row:
    picture, angle, radius = soft(SIZE, 1, 3, 3), 60.0, 400.0

    def places() -> tuple[np.ndarray, np.ndarray]:
        ys, xs = np.mgrid[0 : SIZE[1], 0 : SIZE[0]].astype(np.float32)
        dx, dy = xs - SIZE[0] / 2, ys - SIZE[1] / 2
        away = np.hypot(dx, dy)
        turn = np.where(away < radius, (1 - away / radius) ** 2 * np.radians(angle), 0).astype(np.float32)
        c, s = np.cos(turn), np.sin(turn)
        return dx * s + dy * c + SIZE[1] / 2, dx * c - dy * s + SIZE[0] / 2

    def opencv() -> np.ndarray:
        ys, xs = places()
        return np.asarray(cv2.remap(picture, xs, ys, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE))

    def scipy() -> np.ndarray:
        at = np.stack(places())
        return np.stack([ndimage.map_coordinates(picture[..., k], at, order=1, mode="nearest") for k in range(3)], -1)

    others: dict[str, Work] = {
        "OpenCV": opencv,
        "SciPy": scipy,
        "scikit-image": lambda: swirl(picture, strength=1.0, radius=radius),
    }
    return Row("a twirl", lambda: nq.couple("twirl", picture, radius=radius, angle=angle), others, picture.nbytes * 2)


def round_a_centre() -> Row:
    """How far each place lies from a centre, and which way."""
    grid, centre = frame_grid(*SIZE), (600.0, 300.0)

    def ways() -> tuple[np.ndarray, np.ndarray]:
        ys, xs = np.mgrid[0 : SIZE[1], 0 : SIZE[0]].astype(np.float32)
        return xs - np.float32(centre[0]), ys - np.float32(centre[1])

    def numpy() -> object:
        dx, dy = ways()
        return np.hypot(dx, dy), np.arctan2(dy, dx)

    others: dict[str, Work] = {"NumPy": numpy, "OpenCV, 1/100 degree": lambda: cv2.cartToPolar(*ways())}
    return Row("polar coordinates", lambda: polar_of(grid, centre), others, SIZE[0] * SIZE[1] * 8.0)


def copying() -> float:
    """Return the bytes a second that memory moves: those read and those written."""
    source, target, taken = np.ones(2**25, np.float32), np.ones(2**25, np.float32), []
    for _ in range(5):
        began = time.perf_counter()
        np.copyto(target, source)
        taken.append(time.perf_counter() - began)
    return 2 * source.nbytes / min(taken)


def by_turns(row: Row) -> dict[str, float]:
    """Return the median milliseconds of each."""
    works = {"ours": row.ours, **row.others}
    taken: dict[str, list[float]] = {name: [] for name in works}
    for work in works.values():
        work()
    for _ in range(TURNS):
        for name, work in works.items():
            began = time.perf_counter()
            work()
            taken[name].append((time.perf_counter() - began) * 1000)
    return {name: statistics.median(found) for name, found in taken.items()}


def main() -> None:
    rate = copying()
    print(f"memory moves {rate / 1e9:.1f} GB a second")
    for row in (
        pushed("a still pushed by a map", SIZE),
        clips(),
        blurred(),
        noisy(),
        swirled(),
        round_a_centre(),
        pushed("a picture of 3840 x 2160 pushed by a map", LARGE),
    ):
        taken = by_turns(row)
        ours = taken.pop("ours")
        quickest = min(taken, key=lambda name: taken[name])
        limit = row.bytes / rate * 1000
        rest = ", ".join(f"{name} {ms:.1f}" for name, ms in taken.items())
        print(
            f"{row.name:42} {ours:8.1f} ms  {ours / taken[quickest]:5.2f} x {quickest}; "
            f"{ours / limit:5.1f} x the memory's {limit:.1f} ms   ({rest})",
            flush=True,
        )


if __name__ == "__main__":
    main()
