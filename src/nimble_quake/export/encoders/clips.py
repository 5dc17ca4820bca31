"""Clips: frames encoded in segments, each with an encoder of its own, joined without a second encoding.

So a render that was stopped goes on where it was, many machines can share one, and the file is the same, bit for bit,
however it came about.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import Any, cast

import av
import numpy as np
from av.bitstream import BitStreamFilterContext
from av.container import InputContainer, OutputContainer
from av.video.reformatter import ColorRange, Colorspace

from nimble_quake.conventions import Picture
from nimble_quake.export.encoders.priority import steady_priority
from nimble_quake.export.formats import SEGMENT, Format, Target
from nimble_quake.export.writers import Part, as_save_failed, failed, give_name
from nimble_quake.files.unfinished import removed, unfinished_file
from nimble_quake.raster.colour.convert import to_rgba8, to_rgba16

BT709 = 1
"""The code of BT.709 for primaries, transfer and matrix (ITU-T H.273)."""
SRGB, PLAIN_RGB = 13, 0
"""The codes of sRGB's curve and of colours that are no luma and chroma."""
THREADS = 4
"""Of an encoder. A fixed number: what some of them write depends on it."""


@dataclass(frozen=True)
class Encoding:
    """How a clip is encoded. options: from a quality; rgb: colours are kept as they are, else they become BT.709."""

    codec: str
    pixels: str
    options: Callable[[int], dict[str, str]]
    even: bool = False
    """Its sides must be even: the last column and row are repeated."""
    rgb: bool = False
    bits: int = 8
    """Of a channel, where colours are kept as they are."""
    container: dict[str, str] = field(default_factory=dict)

    def opened(self, path: Path) -> OutputContainer:
        """Return a new file that is written the same way each time: without the time of day and random numbers."""
        return av.open(str(path), "w", options={"fflags": "+bitexact", **self.container})

    def size(self, target: Target) -> tuple[int, int]:
        """Return the width and height that are encoded."""
        width, height = target.width, target.height
        return (width + width % 2, height + height % 2) if self.even else (width, height)

    def frame(self, codes: np.ndarray, target: Target) -> av.VideoFrame:
        """Return straight RGBA codes as a frame of the encoder's own pixel format."""
        source = av.VideoFrame.from_ndarray(
            _grown(_rounded(codes, self.bits), *self.size(target)), "rgba64le" if codes.dtype == np.uint16 else "rgba"
        )
        if not self.rgb:
            found = as_bt709(source, self.pixels)
            found.colorspace, found.color_primaries, found.color_trc = BT709, BT709, BT709
            found.color_range = ColorRange.MPEG
            return found
        return source if source.format.name == self.pixels else source.reformat(format=self.pixels)

    def add_to(self, container: OutputContainer, target: Target) -> av.VideoStream:
        """Add a stream that is encoded in this way to a file that is being written."""
        rate = Fraction(target.rate)
        added = container.add_stream(self.codec, rate=rate, options=self.options(target.quality))
        stream = cast(av.VideoStream, added)
        stream.width, stream.height = self.size(target)
        stream.pix_fmt = self.pixels
        context = stream.codec_context
        context.thread_count = THREADS
        if not self.rgb:
            context.color_primaries = context.color_trc = context.colorspace = BT709
            context.color_range = ColorRange.MPEG
        elif target.colours:
            context.color_primaries, context.color_trc, context.colorspace = BT709, SRGB, PLAIN_RGB
            context.color_range = ColorRange.JPEG
        context.time_base = 1 / rate
        return stream

    def prepare(self, picture: Picture, target: Target) -> av.VideoFrame:
        """Return a picture as a frame of the encoder's own pixel format."""
        return self.frame(to_rgba16(picture) if self.bits > 8 else to_rgba8(picture), target)


def as_bt709(frame: av.VideoFrame, pixels: str) -> av.VideoFrame:
    """Return a frame of full-range RGB as Y'CbCr of BT.709, narrow range, in a pixel format."""
    return frame.reformat(
        format=pixels,
        dst_colorspace=Colorspace.ITU709,
        dst_color_range=ColorRange.MPEG,
        src_color_range=ColorRange.JPEG,
    )


def _rounded(codes: np.ndarray, bits: int) -> np.ndarray:
    """16-bit codes whose upper bits are the nearest code of fewer: the encoder's pixel format cuts the rest off."""
    if bits in (8, 16):
        return codes
    most = (1 << bits) - 1
    nearest = (codes.astype(np.uint32) * most + 32767) // 65535
    return (nearest << (16 - bits)).astype(np.uint16)


def _grown(codes: np.ndarray, width: int, height: int) -> np.ndarray:
    """Repeat the last column or row where the encoder needs an even size."""
    grow = ((0, height - codes.shape[0]), (0, width - codes.shape[1]), (0, 0))
    return np.pad(codes, grow, mode="edge") if grow != ((0, 0),) * 3 else codes


class ClipWriter:
    """One file of encoded frames, without sound."""

    def __init__(self, target: Target, encoding: Encoding) -> None:
        self._path, self._encoding = target.path, encoding
        self._temporary = unfinished_file(target.path)
        self._count = 0
        self._container: Any = None
        try:
            self._container = encoding.opened(self._temporary)
            self._stream = encoding.add_to(self._container, target)
            with steady_priority():
                self._container.start_encoding()
        except BaseException:
            self.discard()
            raise

    def write(self, frame: int, prepared: av.VideoFrame) -> None:
        """Take the next frame."""
        prepared.pts, prepared.time_base = self._count, self._stream.codec_context.time_base
        self._count += 1
        with as_save_failed(self._path):
            for packet in self._stream.encode(prepared):
                self._container.mux(packet)

    def finish(self) -> None:
        """Complete the file and give it its name."""
        try:
            for packet in self._stream.encode():
                self._container.mux(packet)
            self._container.close()
            give_name(self._temporary, self._path)
        except (av.FFmpegError, OSError) as wrong:
            self.discard()
            raise failed(self._path, wrong) from wrong

    def discard(self) -> None:
        """Remove what was written."""
        with suppress(av.FFmpegError, OSError, ValueError):
            if self._container is not None:
                self._container.close()
        removed(self._temporary)


def join(target: Target, parts: Sequence[Part], way: Encoding) -> list[Path]:
    """Put segments into one file as they are, with the sound beside them. Raises SaveFailed."""
    temporary = unfinished_file(target.path)
    try:
        with as_save_failed(target.path):
            with way.opened(temporary) as out:
                _Joined(out, target, way).add(parts)
            give_name(temporary, target.path)
    finally:
        removed(temporary)
    return [target.path]


class _Joined:
    """A file that segments are put into. Its encoder is opened for its header, and never used."""

    def __init__(self, out: OutputContainer, target: Target, way: Encoding) -> None:
        self._out, self._rate = out, Fraction(target.rate)
        self._sound = target.sound if target.format.sound else None
        self._stream = way.add_to(out, target)
        if self._sound is not None:
            self._sound.add_to(out, target.format.sound)
        with steady_priority():
            out.start_encoding()
        self._made, self._delay = 0, 0
        self._head: bytes | None = None

    def add(self, parts: Sequence[Part]) -> None:
        """Put all segments in, then end the sound."""
        for part in parts:
            with av.open(str(part.file)) as segment:
                self._add(segment.streams.video[0], segment, len(part.frames))
        if self._sound is not None:
            self._sound.finish(self._out)

    def _add(self, video: av.VideoStream, segment: InputContainer, count: int) -> None:
        head = bytes(video.codec_context.extradata or b"")
        if self._head not in (None, head):
            raise ValueError("its segments were encoded in different ways")
        self._head = head
        packets = list(_packets(video, segment))
        if len(packets) != count:
            raise ValueError(f"a segment has {len(packets)} frames in place of {count}")
        begin = self._made
        for packet in packets:
            shown = round(packet.pts * packet.time_base * self._rate)
            if not self._made:
                self._delay = shown - round(packet.dts * packet.time_base * self._rate)
            packet.pts, packet.dts = begin + shown, self._made - self._delay
            packet.duration, packet.time_base, packet.stream = 1, 1 / self._rate, self._stream
            self._out.mux(packet)
            self._made += 1
            if self._sound is not None:
                self._sound.write_until(self._out, self._made / self._rate)


def _packets(video: av.VideoStream, segment: InputContainer) -> Iterator[Any]:
    """A segment's packets as its encoder gave them: MP4 holds those of H.264 in a form of its own."""
    packets = (packet for packet in segment.demux(video) if packet.size)
    if video.codec_context.name != "h264":
        yield from packets
        return
    plain = BitStreamFilterContext("h264_mp4toannexb", video)
    for packet in packets:
        yield from plain.filter(packet)
    yield from plain.filter(None)


def clips(key: str, label: str, suffix: str, about: str, way: Encoding, *, alpha: bool, **more: Any) -> Format:
    """Return a kind of clip. more: fields of Format."""
    return Format(
        key,
        label,
        suffix,
        about,
        alpha,
        way.prepare,
        lambda target: ClipWriter(target, way),
        lambda target, parts: join(target, parts, way),
        SEGMENT,
        **more,
    )
