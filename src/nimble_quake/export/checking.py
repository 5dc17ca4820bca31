"""Looking at the files of parts that somebody else made: of the right kind, size and count, every picture decoded, and
a picture compared with the same one rendered here.

What a kind of file looks like is not written down a second time: one black frame, written here, is the pattern.
"""

from __future__ import annotations

import io
import tempfile
import warnings
from dataclasses import dataclass, replace
from itertools import islice
from pathlib import Path
from typing import Any, TypeAlias

import av
import cv2
import numpy as np
import OpenEXR
from numpy.typing import NDArray
from PIL import Image
from PIL.TiffImagePlugin import ImageFileDirectory_v2

from nimble_quake.export.encoders.stills import write_still
from nimble_quake.export.order import Order
from nimble_quake.export.writers import Part, Prepared

Facts: TypeAlias = tuple[object, ...]
"""What all files of a kind have in common: container, codec, size, pixels."""
Codes: TypeAlias = np.ndarray
Decoded: TypeAlias = Any
"""A frame of a clip, a still, or the channels of an OpenEXR picture."""

BLOCK = 16
"""What an encoder leaves of a picture is compared by means over blocks of so many pixels: noise goes, tones stay."""
MOST_OFF, MOST_MEAN, MOST_BLOCK = 1.0, 1.5, 16.0
"""How far, in levels of 255, a lossy picture may lie from what was rendered: all of it on average, its blocks on
average, its worst block. Over the samples and qualities H.264, VP9 and AV1 came to 0.43, 0.74 and 4.7 (measured)."""


STRIP_AT, STRIP_SIZE = 273, 279
"""TIFF's tags for where its strips lie."""


class Wrong(Exception):
    """What is wrong with a file, in words that follow "it sent"."""


@dataclass(frozen=True)
class Pattern:
    """How the files of an order's parts look."""

    facts: Facts
    lossy: bool

    @classmethod
    def of(cls, order: Order) -> Pattern:
        """Return the pattern of an order's parts."""
        target = order.target()
        black = np.zeros((target.height, target.width, 4 * len(target.layers)), np.float32)
        with tempfile.TemporaryDirectory(prefix="nimble-quake-") as folder:
            file = Path(folder) / f"0{order.kind.part_suffix or order.kind.suffix}"
            write_still(replace(target, path=file), black)
            return cls(_facts(file), order.kind.lossy)

    def check(self, part: Part, file: Path, rendered: tuple[int, Prepared] | None = None) -> None:
        """Decode a part's file. rendered: a frame of it, and what its writer takes for it, made here.

        Of a clip every picture is counted, and those are decoded that others are made from, and the one that is
        compared: half of the work, and a fault in any of them shows in the others. Raises Wrong where it is not what
        it should be.
        """
        found = _facts(file)
        if found != self.facts:
            raise Wrong(f"another kind of file ({_words(found)} in place of {_words(self.facts)})")
        wanted = None if rendered is None else part.frames.index(rendered[0])
        count, codes = seen_in(file, len(part.frames), wanted)
        if count != len(part.frames):
            raise Wrong(f"{count} frames in place of {len(part.frames)}")
        if rendered is not None:
            self._compare(rendered[0], codes, _codes_of(rendered[1], file.suffix, codes))

    def _compare(self, frame: int, theirs: Decoded, ours: Decoded) -> None:
        """Raise Wrong where a decoded frame is not the one that is rendered here."""
        same = _alike(theirs, ours) if self.lossy else _equal(theirs, ours)
        if not same:
            raise Wrong(f"a frame {frame} that is not the one that is rendered here")


def _facts(file: Path) -> Facts:
    """What a file's head says. Raises Wrong where it cannot be read."""
    try:
        if file.suffix == ".exr":
            return tuple(sorted((name, str(codes.dtype), codes.shape) for name, codes in _channels(file).items()))
        if _is_clip(file):
            with av.open(str(file)) as clip:
                video = clip.streams.video[0]
                context = video.codec_context
                return (
                    clip.format.name,
                    len(clip.streams),
                    context.codec.canonical_name,
                    context.width,
                    context.height,
                    context.pix_fmt,
                    video.average_rate,
                )
        if file.suffix == ".tif":
            return _of_tiff(file)
        with Image.open(file) as image:  # of a PNG, the depth of its samples (third edition, 11.2.1)
            depth = file.read_bytes()[24:26] if image.format == "PNG" else b""
            mode = "" if image.format == "WEBP" else image.mode  # which leaves out alpha where all is opaque
            return (image.format, *image.size, mode, depth)
    except (av.FFmpegError, OSError, ValueError, IndexError, KeyError, SyntaxError, RuntimeError) as wrong:
        raise Wrong(f"a file that cannot be read ({type(wrong).__name__})") from wrong


def _of_tiff(file: Path) -> Facts:
    """What a TIFF's directory says (TIFF 6.0, section 8). Raises Wrong where it names more than the file holds."""
    data = file.read_bytes()
    tags = ImageFileDirectory_v2(data[:8])
    stream = io.BytesIO(data)
    stream.seek(tags.next)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")  # what is missing is missed below
        tags.load(stream)
    ends = [int(at) + int(size) for at, size in zip(tags[STRIP_AT], tags[STRIP_SIZE], strict=True)]
    if max(ends, default=0) > len(data):
        raise Wrong("a picture that is cut off")
    return ("TIFF", *(tags.get(tag) for tag in (256, 257, 258, 277, 339)))


def seen_in(file: Path, most: int, wanted: int | None) -> tuple[int, Decoded]:
    """How many pictures a file holds (`most` and one more at most), and the one that is wanted, decoded; None for none.

    Raises Wrong where it cannot be read.
    """
    try:
        if file.suffix == ".exr":
            return 1, _channels(file)
        if not _is_clip(file):
            return 1, _decoded(file.read_bytes())
        count, found = _glanced(file, most, wanted)
        if count == most and (wanted is None or found is not None):
            return count, found
        return _decoded_whole(file, most, wanted)  # a decoder that keeps pictures back, or a file that is wrong
    except (av.FFmpegError, OSError, ValueError, RuntimeError, cv2.error) as wrong:
        raise Wrong(f"a picture that cannot be read ({type(wrong).__name__})") from wrong


def _glanced(file: Path, most: int, wanted: int | None) -> tuple[int, av.VideoFrame | None]:
    """Decode what other pictures are made from, and what is wanted; count all."""
    with av.open(str(file)) as clip:
        video = clip.streams.video[0]
        video.thread_type = "AUTO"
        packets = [packet for packet in islice(clip.demux(video), most + 2) if packet.size]
        if any(packet.is_corrupt for packet in packets):
            raise Wrong("a clip that is cut off")
        times = sorted(packet.pts for packet in packets if packet.pts is not None)
        at = times[wanted] if wanted is not None and wanted < len(times) else None
        found, decoded = None, 0
        for packet in [*packets, None]:
            whole = packet is not None and packet.pts == at
            video.codec_context.skip_frame = "DEFAULT" if whole else "NONREF"
            for frame in video.codec_context.decode(packet):
                decoded += 1
                found = frame if frame.pts == at and at is not None else found
    if not decoded:
        raise Wrong("nothing that can be decoded")
    return len(packets), found


def _decoded_whole(file: Path, most: int, wanted: int | None) -> tuple[int, av.VideoFrame | None]:
    """Decode every picture."""
    count, found = 0, None
    with av.open(str(file)) as clip:
        clip.streams.video[0].thread_type = "AUTO"
        for frame in islice(clip.decode(video=0), most + 1):
            found = frame if count == wanted else found
            count += 1
    return count, found


def _is_clip(file: Path) -> bool:
    return file.suffix not in (".png", ".jpg", ".webp", ".tif")


def _decoded(data: bytes) -> Codes:
    found = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
    if found is None:
        raise Wrong("a picture that cannot be read")
    return found


def _channels(file: Path) -> dict[str, Codes]:
    with OpenEXR.File(str(file), separate_channels=True) as opened:
        return {name: np.asarray(channel.pixels) for name, channel in opened.channels().items()}


def _codes_of(prepared: Prepared, suffix: str, like: Decoded) -> Decoded:
    """What a writer takes, as what is decoded of its file."""
    if isinstance(prepared, av.VideoFrame):
        return prepared
    if isinstance(like, av.VideoFrame):  # planes as bytes
        return np.frombuffer(prepared, np.uint8).reshape(like.to_ndarray().shape)
    if suffix != ".exr":
        return _decoded(prepared)
    with tempfile.TemporaryDirectory(prefix="nimble-quake-") as folder:
        file = Path(folder) / "ours.exr"
        file.write_bytes(prepared)
        return _channels(file)


def _equal(theirs: Decoded, ours: Decoded) -> bool:
    if isinstance(theirs, dict):
        return theirs.keys() == ours.keys() and all(np.array_equal(theirs[n], ours[n], equal_nan=True) for n in ours)
    if isinstance(ours, av.VideoFrame):
        return np.array_equal(theirs.reformat(format=ours.format.name).to_ndarray(), ours.to_ndarray())
    return np.array_equal(theirs.to_ndarray() if isinstance(theirs, av.VideoFrame) else theirs, ours)


def _alike(theirs: Decoded, ours: Decoded) -> bool:
    """Whether two pictures are the same but for what an encoder takes away."""
    off = _grey(theirs) - _grey(ours)
    high, wide = (max(1, side // BLOCK) for side in off.shape)
    blocks = np.array([part.mean() for row in np.array_split(off, high) for part in np.array_split(row, wide, axis=1)])
    means = abs(float(off.mean())), float(np.abs(blocks).mean()), float(np.abs(blocks).max())
    return all(found <= most for found, most in zip(means, (MOST_OFF, MOST_MEAN, MOST_BLOCK), strict=True))


def _grey(picture: Decoded) -> NDArray[np.float64]:
    """A picture's tones, (H, W), 0...255."""
    if isinstance(picture, av.VideoFrame):
        return picture.to_ndarray(format="gray16le").astype(np.float64) / 257
    codes: NDArray[np.float64] = picture.astype(np.float64) * (255 / np.iinfo(picture.dtype).max)
    return codes if codes.ndim == 2 else np.asarray(codes[..., :3].mean(axis=2))


def _words(facts: Facts) -> str:
    return " ".join(str(fact) for fact in facts)[:120]
