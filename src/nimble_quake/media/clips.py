"""Clips: whatever the bundled FFmpeg libraries decode, exact frame by time.

The times of all frames are read once (without decoding), so that variable rates, odd time bases and B-frames are
resolved by the file's own presentation times: the frame shown at a time is the last one that has begun.
"""

from __future__ import annotations

import contextlib
import threading
from bisect import bisect_right
from collections import OrderedDict
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from fractions import Fraction
from functools import cache
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
from av.video.reformatter import ColorRange, Colorspace, Interpolation

from nimble_quake.conventions import MAX_FRAMES, Picture, Seconds
from nimble_quake.errors import LimitError, MediaError
from nimble_quake.files.plain import plain_file
from nimble_quake.kernels.pools.native import Begun
from nimble_quake.media.interlaced import one_field
from nimble_quake.media.planes import Planes, begin_picture, picture_of, planes_of
from nimble_quake.media.smaller import smaller_where_there
from nimble_quake.raster.colour.convert import premultiplied
from nimble_quake.raster.geometry.grid import refuse_enormous
from nimble_quake.raster.threads.rows import helped, on_one_thread

SUFFIXES = (".mp4", ".mov", ".m4v", ".mkv", ".webm", ".avi", ".mpg", ".mpeg", ".ts", ".mxf", ".ogv", ".y4m")
CONTAINERS = {"mov,mp4,m4a,3gp,3g2,mj2", "matroska,webm", "avi", "mpeg", "mpegts", "mxf", "ogg", "yuv4mpegpipe"}
"""The readers we allow: none of them follows references to other files."""

KEPT = 8
"""Decoded frames kept per clip, as bytes; more where a span is played again and again that fits `MOST_BYTES`."""
MOST_BYTES = 144 * 2**20
"""Bytes that decoded frames of all open clips may take: a loop of 100 frames of 1280x720 is decoded once."""
MOST_PREPARED = 40 * 2**20
"""Bytes that a picture made ahead may take."""
AHEAD = 48
"""Decode forward up to this many frames rather than seek."""


@cache
def _beside() -> ThreadPoolExecutor:
    """The one thread that makes frames of clips ahead."""
    return ThreadPoolExecutor(1, thread_name_prefix="decoding")


@dataclass(frozen=True)
class Announced:
    """What a clip's header says: how long it is (0 where it says nothing or is no clip), and whether it has sound."""

    seconds: Seconds = 0.0
    sound: bool = False


def announced(path: Path) -> Announced:
    """Return what a clip's header says. Nothing else is read: all frames' times of a long clip take seconds."""
    try:
        plain_file(path)
        with path.open("rb") as file, av.open(file, "r") as container:
            if container.format.name not in CONTAINERS or not container.streams.video:
                return Announced()
            stream, sound = container.streams.video[0], bool(container.streams.audio)
            if stream.duration and stream.time_base:
                return Announced(float(stream.duration * stream.time_base), sound)
            return Announced((container.duration or 0) / av.time_base, sound)
    except (MediaError, av.FFmpegError, OSError, ValueError, IndexError):
        return Announced()


@dataclass(frozen=True)
class Ready:
    """A frame's picture at a size, made ahead; `begun`: other threads are still at it."""

    number: int
    size: tuple[int, int]
    picture: Picture
    begun: Begun | None = None

    def finished(self) -> Picture:
        """Return it once it is whole."""
        if self.begun is not None:
            self.begun.finish()
        return self.picture


class Clip:
    """An open clip. One decoder, used by one thread at a time. fields: see `media.pool.open_clip`."""

    trouble = ""

    def __init__(self, path: Path, fields: str = "tagged") -> None:
        self._path, self._fields = path, fields
        self._lock = threading.RLock()
        self._container: Any = None
        self._frames: Iterator[av.VideoFrame] = iter(())
        self._next = 0
        self._asked = -2
        self._kept: OrderedDict[int, np.ndarray | Planes] = OrderedDict()
        self._kept_bytes, self._span = 0, KEPT
        self.most_bytes = MOST_BYTES
        """What its decoded frames may take; two are kept in any case."""
        self._size = (0, 0)
        """The size that was asked for last."""
        self._ready: Ready | None = None
        """The next frame at that size."""
        try:
            self._open()
            self._index()
        except (MediaError, LimitError):
            raise
        except FileNotFoundError as wrong:
            raise MediaError("the file is not there", where=str(path), cure="find it, or choose another") from wrong
        except (av.FFmpegError, OSError, ValueError, IndexError) as wrong:
            raise self._unreadable() from wrong

    def _unreadable(self) -> MediaError:
        return MediaError("cannot be read as a clip", where=str(self._path), cure="save it again as MP4, MOV or WebM")

    def _open(self) -> None:
        # Opened as a plain file object: no protocol and no second file can be reached from inside it.
        plain_file(self._path)
        self._file = self._path.open("rb")
        try:
            self._container = av.open(self._file, "r")
        except BaseException:
            self._file.close()  # the fault is remembered, and would hold it open
            raise
        if self._container.format.name not in CONTAINERS or not self._container.streams.video:
            raise self._unreadable()
        self._stream = self._container.streams.video[0]
        context = self._stream.codec_context
        refuse_enormous(context.width, context.height, self._path.name)
        if context.width < 1 or context.height < 1:
            raise self._unreadable()
        self._decoder = self._alpha_decoder() or context
        self._decoder.thread_type = "AUTO"
        if self._stream.codec_context.codec.intra_only and not self._decoder.is_open:
            # A damaged frame of its own would be patched with what an earlier one left in memory: no frame instead.
            self._decoder.options = {"err_detect": "explode"}
        self.bits8, self.in_light = True, False

    def _alpha_decoder(self) -> Any:
        """VP8/VP9 alpha is dropped by FFmpeg's own decoders; libvpx keeps it."""
        name = self._stream.codec_context.name
        tags = {key.lower(): value for key, value in self._stream.metadata.items()}
        if tags.get("alpha_mode") != "1" or name not in ("vp8", "vp9"):
            return None
        # libvpx hands out the colour planes alone through PyAV; alpha arrives as yuva420p only from this decoder.
        decoder = av.CodecContext.create(f"libvpx-{name}" if name == "vp9" else "libvpx", "r")
        decoder.extradata = self._stream.codec_context.extradata
        return decoder

    def _index(self) -> None:
        base = self._stream.time_base or Fraction(1, 1000)
        # Matroska rounds times to milliseconds: a frame may be stamped half a unit after it is due.
        self._slack = float(min(base, Fraction(1, 1000)) * Fraction(51, 100) + Fraction(1, 10**6))
        times, lasts = [], {}
        for packet in self._container.demux(self._stream):
            stamp = packet.pts if packet.pts is not None else packet.dts
            if stamp is not None and packet.size and not packet.is_discard:
                times.append(stamp)
                lasts[stamp] = packet.duration or 0
            if len(times) > MAX_FRAMES:
                raise LimitError("the clip has too many frames", where=str(self._path), cure="cut it shorter")
        if not times:
            raise self._unreadable()
        self._stamps = sorted(set(times))
        start = self._stamps[0]
        begins = [Fraction(stamp - start) * base for stamp in self._stamps]
        self._seconds = [float(time) for time in begins]  # far finer than the slack
        rate = self._stream.average_rate or Fraction(25)
        own = lasts[self._stamps[-1]] * base
        mean = begins[-1] / (len(begins) - 1) if len(begins) > 1 else 1 / rate
        self.seconds = float(begins[-1] + (own if own > 0 else mean))
        self.rate = Fraction(rate)
        self.frames = len(self._stamps)
        self._rewind(0)
        first = self._next_frame()
        if first is None:
            raise self._unreadable()
        self._turn = round(-(first.rotation or 0) / 90) % 4
        self._clear = "a" in first.format.name.replace("gray", "")
        self._bits16 = max(c.bits for c in first.format.components) > 8
        self.bits8 = not self._bits16
        self._pixels = (first.width, first.height) if self._turn % 2 == 0 else (first.height, first.width)
        self.width, self.height = _square_pixels(self._stream, first.width, first.height)
        if self._turn % 2:
            self.width, self.height = self.height, self.width
        refuse_enormous(self.width, self.height, self._path.name)
        self._rewind(0)

    def frame_at(self, seconds: Seconds) -> int:
        """Return the number of the frame shown at a time, held at both ends."""
        return min(max(bisect_right(self._seconds, seconds + self._slack) - 1, 0), self.frames - 1)

    def seconds_of(self, number: int) -> Seconds:
        """Return the time at which a frame begins."""
        return self._seconds[min(max(number, 0), self.frames - 1)]

    def picture(self, seconds: Seconds, width: int, height: int) -> Picture:
        width, height = min(max(width, 1), self._pixels[0]), min(max(height, 1), self._pixels[1])
        number = self.frame_at(seconds)
        with self._lock:
            in_order = number == self._asked + 1
            self._note(number)
            rgba = self._decoded_at(number)
            self._size = (width, height)
            ready, self._ready = self._ready, None
            if in_order and number + 1 < self.frames:
                self._look_ahead(number + 1)
        if ready is not None and (ready.number, ready.size) == (number, (width, height)):
            return ready.finished()
        if isinstance(rgba, Planes):
            return self._coloured(rgba, width, height)
        if (width, height) == self._pixels:
            return premultiplied(rgba)
        # Converting at full size takes libswscale's fast way; averaging comes after it, and after any alpha.
        if self._clear:
            return smaller_where_there(rgba, (width, height))
        return premultiplied(np.asarray(cv2.resize(rgba, (width, height), interpolation=cv2.INTER_AREA), rgba.dtype))

    def _coloured(self, planes: Planes, width: int, height: int) -> Picture:
        across, down = (width, height) if self._turn % 2 == 0 else (height, width)
        made = picture_of(planes, across, down)
        return np.ascontiguousarray(np.rot90(made, -self._turn)) if self._turn else made

    def _decoded_at(self, number: int) -> np.ndarray | Planes:
        """Return a frame as planes, or as straight RGBA where its format is not read as planes."""
        with self._lock:
            if number in self._kept:
                self._kept.move_to_end(number)
                return self._kept[number]
            try:
                found = self._converted(self.decode(number))
            except (av.FFmpegError, OSError, ValueError) as wrong:
                raise MediaError(
                    f"frame {number} cannot be decoded", where=str(self._path), cure="the file may be damaged"
                ) from wrong
            self._kept[number] = found
            self._kept_bytes += found.nbytes
            while len(self._kept) > self._span or (len(self._kept) > 2 and self._kept_bytes > self.most_bytes):
                self._kept_bytes -= self._kept.popitem(last=False)[1].nbytes
            return found

    def _note(self, number: int) -> None:
        """Note which frame is asked for: one played again and again is kept until it comes another time."""
        again = self._asked - number + 2  # how many frames it takes to come here once more, with the one ahead
        if self._kept and self._span < again <= self.most_bytes // next(iter(self._kept.values())).nbytes:
            self._span = again
        self._asked = number

    def _look_ahead(self, number: int) -> None:
        """While frames are asked for in order, make the next one beside whatever is done with this one."""
        kept, (width, height) = self._kept.get(number), self._size
        if kept is None:
            _beside().submit(self._prepare, number)
        elif isinstance(kept, Planes) and helped() and not self._turn and width * height * 16 <= MOST_PREPARED:
            self._ready = Ready(number, self._size, *begin_picture(kept, width, height))

    def _prepare(self, number: int) -> None:
        with self._lock, contextlib.suppress(MediaError):
            if number == self._asked + 1:  # still the next one
                planes = self._decoded_at(number)
                width, height = self._size
                if isinstance(planes, Planes) and 0 < width * height * 16 <= MOST_PREPARED:
                    with on_one_thread():
                        self._ready = Ready(number, self._size, self._coloured(planes, width, height))

    def decode(self, number: int) -> av.VideoFrame:
        """Return a frame as the decoder gives it; from the one before where it can."""
        if not self._next <= number <= self._next + AHEAD:
            self._rewind(number)
        best = None
        target = self._stamps[number]
        while True:
            frame = self._next_frame()
            if frame is None:
                break
            best = frame
            stamp = frame.pts if frame.pts is not None else frame.dts
            self._next = bisect_right(self._stamps, stamp)
            if stamp >= target:
                break
        if best is None:
            raise ValueError("no frame")
        return best

    def _rewind(self, number: int) -> None:
        self._container.seek(self._stamps[number], stream=self._stream, backward=True)
        self._decoder.flush_buffers() if self._decoder.is_open else None
        self._frames = self._decoded()
        self._next = 0 if number == 0 else number

    def _decoded(self) -> Iterator[av.VideoFrame]:
        for packet in self._container.demux(self._stream):
            if packet.size or packet.dts is None:
                try:
                    yield from self._decoder.decode(packet if packet.size else None)
                except (av.error.InvalidDataError, av.error.PatchWelcomeError):
                    continue  # a damaged packet costs its own frame, not those after it

    def _next_frame(self) -> av.VideoFrame | None:
        return next(self._frames, None)

    def _converted(self, frame: av.VideoFrame) -> np.ndarray | Planes:
        field = self._fields if self._fields != "tagged" else "upper" if frame.interlaced_frame else "both"
        planes = planes_of(frame) if field == "both" else None
        if planes is not None:
            return planes
        kind = "rgba64le" if self._bits16 else "rgba"
        rgb = frame.format.name.startswith(("rgb", "bgr", "gbr", "gray", "argb", "abgr"))
        converted = frame.reformat(
            format=kind,
            src_colorspace=None if rgb else _matrix(frame),
            src_color_range=frame.color_range if frame.color_range else ColorRange.MPEG,
            dst_color_range=ColorRange.JPEG,
            interpolation=Interpolation.POINT,
        )
        array: np.ndarray = converted.to_ndarray()
        if field != "both":
            array = one_field(array, lower=field == "lower")
        if self._turn:
            array = np.ascontiguousarray(np.rot90(array, -self._turn))
        return array

    @property
    def nbytes(self) -> int:
        """Memory held."""
        ready = self._ready
        return self._kept_bytes + (ready.picture.nbytes if ready else 0)


def _square_pixels(stream: av.VideoStream, width: int, height: int) -> tuple[int, int]:
    """The size a frame is shown at: pixels that are not square are stretched across, as ITU-R BT.601 ones are."""
    aspect = Fraction(stream.sample_aspect_ratio or stream.codec_context.sample_aspect_ratio or 1)
    if not Fraction(1, 20) <= aspect <= 20:
        aspect = Fraction(1)
    return max(1, round(width * aspect)), height


def _matrix(frame: av.VideoFrame) -> int:
    """The YCbCr matrix: the stream's own; untagged, BT.709 from 720 lines up and BT.601 below."""
    known = {
        1: Colorspace.ITU709,
        5: Colorspace.ITU601,
        6: Colorspace.ITU601,
        4: Colorspace.FCC,
        7: Colorspace.SMPTE240M,
        9: Colorspace.BT2020,
        10: Colorspace.BT2020,
    }
    tagged = known.get(int(frame.colorspace))
    if tagged is not None:
        return int(tagged)
    return int(Colorspace.ITU709 if frame.height >= 720 else Colorspace.ITU601)
