"""Writing frames: encoders and numbered pictures, all under a temporary name until whole."""

from __future__ import annotations

import errno
import os
import shutil
import tempfile
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import Any, Protocol

import av
import numpy as np
from av.video.reformatter import ColorRange, Colorspace

from nimble_quake.conventions import Picture
from nimble_quake.errors import SaveFailed
from nimble_quake.export.formats import Format, Target, numbered
from nimble_quake.export.soundtrack import Soundtrack
from nimble_quake.raster.convert import to_rgba8, to_rgba16
from nimble_quake.shotfile.files import cure_of

BT709 = 1
"""The code of BT.709 for primaries, transfer and matrix (ITU-T H.273)."""


def beside(path: Path) -> Path:
    """Return a new hidden file beside a path, which gets the path's name when it is whole."""
    handle, name = tempfile.mkstemp(prefix=f".{path.stem}-", suffix=path.suffix, dir=path.parent)
    os.close(handle)
    return Path(name)


def as_bt709(frame: av.VideoFrame, pixels: str) -> av.VideoFrame:
    """Return a frame of full-range RGB as Y'CbCr of BT.709, narrow range, in a pixel format."""
    return frame.reformat(format=pixels, dst_colorspace=Colorspace.ITU709, dst_color_range=ColorRange.MPEG,
                          src_color_range=ColorRange.JPEG)  # fmt: skip


class Writer(Protocol):
    """Takes frames in order; `finish` gives the files their names, `discard` leaves nothing behind."""

    def write(self, frame: int, picture: Picture) -> None:
        """Take the next frame."""

    def finish(self) -> list[Path]:
        """Complete the files and return them."""

    def discard(self) -> None:
        """Remove all that was written."""


@dataclass(frozen=True)
class Encoding:
    """How a clip is encoded. options: from a quality; rgb: colours are kept as they are, else they become BT.709."""

    codec: str
    pixels: str
    options: Callable[[int], dict[str, str]]
    even: bool = False
    """Its sides must be even: the last column and row are repeated."""
    rgb: bool = False
    deep: bool = False
    """16 bits are handed to it."""
    container: dict[str, str] = field(default_factory=dict)


class ClipWriter:
    """One clip file."""

    def __init__(self, target: Target, encoding: Encoding) -> None:
        self._path, self._encoding = target.path, encoding
        self._sound: Soundtrack | None = target.sound if target.format.sound else None
        self._temporary = beside(target.path)
        self._count = 0
        self._container: Any = None
        try:
            self._container = av.open(str(self._temporary), "w", options=encoding.container)
            self._stream = self._add_stream(target)
            if self._sound is not None:
                self._sound.add_to(self._container, target.format.sound)
        except BaseException:
            self.discard()
            raise

    def _add_stream(self, target: Target) -> Any:
        way, rate = self._encoding, Fraction(target.rate)
        stream = self._container.add_stream(way.codec, rate=rate, options=way.options(target.quality))
        stream.width = target.width + (target.width % 2 if way.even else 0)
        stream.height = target.height + (target.height % 2 if way.even else 0)
        stream.pix_fmt = way.pixels
        context = stream.codec_context
        if not way.rgb:
            context.color_primaries = context.color_trc = context.colorspace = BT709
            context.color_range = ColorRange.MPEG
        context.time_base = 1 / rate
        return stream

    def write(self, frame: int, picture: Picture) -> None:
        """Take the next frame."""
        way = self._encoding
        codes = to_rgba16(picture) if way.deep else to_rgba8(picture)
        source = av.VideoFrame.from_ndarray(
            _even(codes, self._stream.width, self._stream.height), "rgba64le" if way.deep else "rgba"
        )
        if way.rgb:
            converted = source if source.format.name == way.pixels else source.reformat(format=way.pixels)
        else:
            converted = as_bt709(source, way.pixels)
            converted.colorspace, converted.color_range = BT709, ColorRange.MPEG
        converted.pts, converted.time_base = self._count, self._stream.codec_context.time_base
        self._count += 1
        try:
            for packet in self._stream.encode(converted):
                self._container.mux(packet)
            if self._sound is not None:
                self._sound.write_until(self._container, self._count * self._stream.codec_context.time_base)
        except (av.FFmpegError, OSError) as wrong:
            raise failed(self._path, wrong) from wrong

    def finish(self) -> list[Path]:
        """Complete the file and give it its name."""
        try:
            for packet in self._stream.encode():
                self._container.mux(packet)
            if self._sound is not None:
                self._sound.finish(self._container)
            self._container.close()
            self._temporary.chmod(0o644)
            self._temporary.replace(self._path)
        except (av.FFmpegError, OSError) as wrong:
            self.discard()
            raise failed(self._path, wrong) from wrong
        return [self._path]

    def discard(self) -> None:
        """Remove what was written."""
        with suppress(av.FFmpegError, OSError, ValueError):
            if self._container is not None:
                self._container.close()
        self._temporary.unlink(missing_ok=True)


class PictureWriter:
    """Numbered pictures, or one; they get their names together at the end. pack: a picture as a file's bytes."""

    def __init__(self, target: Target, pack: Callable[[Picture, Target], bytes]) -> None:
        path = target.path
        self._target, self._path, self._pack = target, path, pack
        self._folder = Path(tempfile.mkdtemp(prefix=f".{path.stem.strip('#_')}-", dir=path.parent))
        self._files: list[Path] = []

    def write(self, frame: int, picture: Picture) -> None:
        """Take the next frame."""
        name = self._path if self._target.single else numbered(self._path, frame)
        file = self._folder / name.name
        try:
            file.write_bytes(self._pack(picture, self._target))
        except (OSError, ValueError) as wrong:
            raise failed(self._path, wrong) from wrong
        self._files.append(file)

    def finish(self) -> list[Path]:
        """Give all pictures their names, or none: what stood there before comes back where one cannot be placed."""
        kept, placed = self._folder / "before", []
        try:
            kept.mkdir()
            for file in self._files:
                target = self._path.parent / file.name
                if target.is_dir():
                    raise IsADirectoryError(errno.EISDIR, f"there is a folder called {target.name}")
                if target.exists():
                    target.replace(kept / file.name)
                placed.append(target)
                file.replace(target)
        except OSError as wrong:
            for target in placed:
                target.unlink(missing_ok=True)
                if (kept / target.name).exists():
                    (kept / target.name).replace(target)
            raise failed(self._path, wrong) from wrong
        finally:
            self.discard()
        return placed

    def discard(self) -> None:
        """Remove what was written."""
        shutil.rmtree(self._folder, ignore_errors=True)


def pictures(
    key: str, label: str, suffix: str, about: str, pack: Callable[[Picture, Target], bytes], *, alpha: bool = True,
    **more: Any,
) -> Format:  # fmt: skip
    """Return a kind of picture, one file a frame. pack: a picture as a file's bytes. more: fields of Format."""
    return Format(key, label, suffix, about, alpha, lambda target: PictureWriter(target, pack), sequence=True, **more)


def clips(key: str, label: str, suffix: str, about: str, way: Encoding, *, alpha: bool, **more: Any) -> Format:
    """Return a kind of clip. more: fields of Format."""
    return Format(key, label, suffix, about, alpha, lambda target: ClipWriter(target, way), **more)


def _even(codes: np.ndarray, width: int, height: int) -> np.ndarray:
    """Repeat the last column or row where the encoder needs an even size."""
    grow = ((0, height - codes.shape[0]), (0, width - codes.shape[1]), (0, 0))
    return np.pad(codes, grow, mode="edge") if grow != ((0, 0),) * 3 else codes


def failed(path: Path, wrong: Exception) -> SaveFailed:
    """Return what is told where a file cannot be written."""
    why = getattr(wrong, "strerror", None) or str(wrong)
    cure = cure_of(wrong) if isinstance(wrong, OSError) else "choose another format or size"
    return SaveFailed(f"cannot be written: {why}", where=str(path), cure=cure)


def open_writer(
    path: Path, format: Format, rate: Fraction, width: int, height: int, quality: int | None,
    sound: Soundtrack | None = None, notes: tuple[tuple[str, str], ...] = (), *, single: bool = False,
    layers: tuple[str, ...] = ("",),
) -> Writer:  # fmt: skip
    """Return a writer for a file or sequence, with the sound where it can hold one.

    Raises SaveFailed where the folder will not take it.
    """
    best = dict(format.qualities).get("Good", 0) if quality is None else quality
    try:
        return format.opens(Target(path, format, rate, width, height, best, sound, single, notes, layers))
    except (av.FFmpegError, OSError, ValueError) as wrong:
        raise failed(path, wrong) from wrong
