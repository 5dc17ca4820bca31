"""Pictures one after another as a clip: numbered stills, and animated GIF, WebP and PNG."""

from __future__ import annotations

import os
import re
import threading
import warnings
from bisect import bisect_right
from collections import OrderedDict
from fractions import Fraction
from functools import lru_cache
from itertools import accumulate
from pathlib import Path

import numpy as np
from PIL import Image

from nimble_quake.conventions import MAX_FRAMES, Picture, Seconds
from nimble_quake.errors import MediaError
from nimble_quake.files.plain import plain_file
from nimble_quake.media import exr, stills
from nimble_quake.media.frame_times import frame_lengths
from nimble_quake.media.planes import Codes
from nimble_quake.raster.geometry.grid import refuse_enormous

RATE = 24.0
"""Pictures a second that numbered stills are taken to have; what shows them says how many: see `times_its_rate`."""
ANIMATED = (".gif", ".webp", ".png", ".apng")
NUMBERED = stills.SUFFIXES
"""Files that may be numbered."""
KEPT = 4
"""Pictures that are kept open."""
SHORTEST = 0.02
"""Seconds; GIFs that ask for less are shown a tenth of a second a picture, as browsers do."""


def pattern_of(file: str) -> str:
    """Return `name_####.png` for a numbered still that has others beside it; empty for one that stands alone."""
    path = Path(file)
    found = re.fullmatch(r"(.*?)(\d+)", path.stem)
    if not found or path.suffix.lower() not in NUMBERED:
        return ""
    pattern = str(path.with_name(f"{found.group(1)}{'#' * len(found.group(2))}{path.suffix}"))
    return pattern if len(numbered(pattern)) > 1 else ""


@lru_cache(maxsize=1024)
def is_pattern(file: str) -> bool:
    """Return whether a path names numbered stills."""
    return bool(re.search(r"#+[^#/]*$", Path(file).name)) and Path(file).suffix.lower() in NUMBERED


def numbered(pattern: str) -> list[tuple[int, Path]]:
    """Return the numbered stills that a pattern names, in order."""
    path = Path(pattern)
    found = re.fullmatch(r"(.*?)(#+)([^#]*)", path.name)
    if not found or not path.parent.is_dir():
        return []
    digits = rf"(\d{{{len(found.group(2))},}})"
    name = re.compile(re.escape(found.group(1)) + digits + re.escape(found.group(3)))
    hits = [(int(hit.group(1)), each) for each in path.parent.iterdir() if (hit := name.fullmatch(each.name))]
    return sorted(hits)[:MAX_FRAMES]


def times_its_rate(file: str, rate: float) -> float:
    """Return how many times its own rate a file runs at: 1, but for numbered stills, shown at a rate that is asked."""
    return rate / RATE if is_pattern(file) else 1.0


def gaps(pattern: str) -> int:
    """Return how many numbers are missing between the first and the last."""
    numbers = [number for number, _ in numbered(pattern)]
    return numbers[-1] - numbers[0] + 1 - len(numbers) if numbers else 0


@lru_cache(maxsize=256)
def _is_animated(file: str, changed: int) -> bool:
    try:
        with warnings.catch_warnings(), Image.open(file) as image:
            warnings.simplefilter("ignore")
            return bool(getattr(image, "is_animated", False))
    except Exception:  # whatever a decoder meets in a damaged file: it is no animation
        return False


def is_animated(file: str) -> bool:
    """Return whether a picture file holds several pictures that are shown one after another."""
    if os.path.splitext(file)[1].lower() not in ANIMATED:
        return False
    try:
        return _is_animated(file, plain_file(file).st_mtime_ns)
    except (MediaError, OSError, ValueError):
        return False


class Flipbook:
    """Pictures with times. Missing numbers of a sequence show the picture before them."""

    trouble = ""

    def __init__(self, file: str, layer: str = "") -> None:
        """layer: of OpenEXR pictures."""
        self._file, self._layer = file, layer
        self._lock = threading.RLock()
        self.rate: Fraction | None = None
        self._open: OrderedDict[int, stills.Still] = OrderedDict()
        self._paths: list[Path] = []
        self._image: Image.Image | None = None
        """The open file of an animation."""
        if is_pattern(file):
            found = numbered(file)
            if not found:
                raise MediaError("there are no such numbered pictures", where=file, cure="find them")
            by_number = dict(found)
            first, last = found[0][0], found[-1][0]
            self.frames = min(last - first + 1, MAX_FRAMES)
            for number in range(first, first + self.frames):
                self._paths.append(by_number.get(number, self._paths[-1] if self._paths else found[0][1]))
            self._times = [n / RATE for n in range(self.frames)]
            self.seconds = self.frames / RATE
        else:
            self._read_times()
        opened = self._still(0)
        self.width, self.height, self.bits8 = opened.width, opened.height, opened.bits8
        self.in_light = opened.in_light

    def _read_times(self) -> None:
        try:
            self._image = Image.open(self._file)
            self.frames = min(int(getattr(self._image, "n_frames", 1)), MAX_FRAMES)
            refuse_enormous(*self._image.size, Path(self._file).name)
            lengths = [own if own >= SHORTEST else 0.1 for own in frame_lengths(Path(self._file))]
            lengths = (lengths + [0.1] * self.frames)[: self.frames]
            self._times = [0.0, *accumulate(lengths[:-1])]
            self.seconds = sum(lengths)
            self.rate = Fraction(self.frames / max(self.seconds, 1e-3)).limit_denominator(1001)
        except MediaError:
            raise
        except Exception as wrong:  # decoders raise whatever they meet
            raise MediaError("cannot be read as an animation", where=self._file, cure="save it again") from wrong

    def frame_at(self, seconds: Seconds) -> int:
        """Return the number of the picture shown at a time, held at both ends."""
        return min(max(bisect_right(self._times, seconds + 1e-6) - 1, 0), self.frames - 1)

    def seconds_of(self, number: int) -> Seconds:
        """Return the time at which a picture begins."""
        return self._times[min(max(number, 0), self.frames - 1)]

    def picture(self, seconds: Seconds, width: int, height: int) -> Picture:
        return self._still(self.frame_at(seconds)).picture(0.0, width, height)

    def _still(self, number: int) -> stills.Still:
        with self._lock:
            found = self._open.get(number)
            if found is None:
                found = self._numbered(number) if self._paths else stills.Still.of(self.decoded(number))
                self._open[number] = found
            self._open.move_to_end(number)
            while len(self._open) > KEPT:
                self._open.popitem(last=False)
            return found

    def _numbered(self, number: int) -> stills.Still:
        path = self._paths[number]
        return exr.ExrStill(path, self._layer) if path.suffix.lower() == exr.SUFFIX else stills.Still(path)

    def decoded(self, number: int) -> Codes:
        try:
            assert self._image is not None
            self._image.seek(number)  # the next one is decoded from the one before
            return np.asarray(self._image.convert("RGBA"))
        except Exception as wrong:
            raise MediaError(f"picture {number} cannot be read", where=self._file, cure="save it again") from wrong

    @property
    def nbytes(self) -> int:
        """Memory held."""
        return sum(still.nbytes for still in list(self._open.values()))
