"""Writing frames: encoders and numbered pictures, all under a temporary name until whole."""

from __future__ import annotations

import errno
import os
import shutil
import tempfile
from contextlib import suppress
from fractions import Fraction
from pathlib import Path
from typing import Any, Protocol

import av
import cv2
import numpy as np
from av.video.reformatter import ColorRange, Colorspace

from nimble_quake.conventions import Picture
from nimble_quake.errors import SaveFailed
from nimble_quake.export.formats import Format, numbered
from nimble_quake.export.soundtrack import Soundtrack
from nimble_quake.raster.convert import to_rgba8, to_rgba16
from nimble_quake.shotfile.files import cure_of

BT709 = 1
"""The code of BT.709 for primaries, transfer and matrix (ITU-T H.273)."""


class Writer(Protocol):
    """Takes frames in order; `finish` gives the files their names, `discard` leaves nothing behind."""

    def write(self, frame: int, picture: Picture) -> None:
        """Take the next frame."""

    def finish(self) -> list[Path]:
        """Complete the files and return them."""

    def discard(self) -> None:
        """Remove all that was written."""


class ClipWriter:
    """One clip file."""

    def __init__(
        self, path: Path, format: Format, rate: Fraction, width: int, height: int, quality: int,
        sound: Soundtrack | None = None,
    ) -> None:  # fmt: skip
        self._path, self._format, self._sound = path, format, sound if format.sound else None
        self._size = (width, height)
        handle, name = tempfile.mkstemp(prefix=f".{path.stem}-", suffix=path.suffix, dir=path.parent)
        os.close(handle)
        self._temporary = Path(name)
        self._count = 0
        self._container: Any = None
        options = {"movflags": "+faststart"} if format.key == "mp4" else {}
        try:
            self._container = av.open(str(self._temporary), "w", options=options)
            self._stream = self._add_stream(rate, quality)
            if self._sound is not None:
                self._sound.add_to(self._container, format.sound)
        except BaseException:
            self.discard()
            raise

    def _add_stream(self, rate: Fraction, quality: int) -> Any:
        width, height = self._size
        if self._format.key == "mp4":
            stream = self._container.add_stream("libx264", rate=rate, options={"crf": str(quality), "preset": "medium"})
            stream.width, stream.height = width + width % 2, height + height % 2
            stream.pix_fmt = "yuv420p"
        elif self._format.key == "webm":
            options = {"crf": str(quality), "b:v": "0", "cpu-used": "4", "row-mt": "1", "auto-alt-ref": "0"}
            stream = self._container.add_stream("libvpx-vp9", rate=rate, options=options)
            stream.width, stream.height = width, height
            stream.pix_fmt = "yuva420p"
        else:
            stream = self._container.add_stream("ffv1", rate=rate, options={"level": "3", "slices": "4"})
            stream.width, stream.height = width, height
            stream.pix_fmt = "bgra"
        context = stream.codec_context
        if self._format.key != "ffv1":
            context.color_primaries = context.color_trc = context.colorspace = BT709
            context.color_range = ColorRange.MPEG
        context.time_base = 1 / rate
        return stream

    def write(self, frame: int, picture: Picture) -> None:
        source = av.VideoFrame.from_ndarray(_even(to_rgba8(picture), self._stream.width, self._stream.height), "rgba")
        if self._format.key == "ffv1":
            converted = source.reformat(format="bgra")
        else:
            converted = source.reformat(
                format=self._stream.pix_fmt,
                dst_colorspace=Colorspace.ITU709,
                dst_color_range=ColorRange.MPEG,
                src_color_range=ColorRange.JPEG,
            )
            converted.colorspace, converted.color_range = BT709, ColorRange.MPEG
        converted.pts, converted.time_base = self._count, self._stream.codec_context.time_base
        self._count += 1
        try:
            for packet in self._stream.encode(converted):
                self._container.mux(packet)
            if self._sound is not None:
                self._sound.write_until(self._container, self._count)
        except (av.FFmpegError, OSError) as wrong:
            raise _failed(self._path, wrong) from wrong

    def finish(self) -> list[Path]:
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
            raise _failed(self._path, wrong) from wrong
        return [self._path]

    def discard(self) -> None:
        with suppress(av.FFmpegError, OSError, ValueError):
            if self._container is not None:
                self._container.close()
        self._temporary.unlink(missing_ok=True)


class SequenceWriter:
    """Numbered PNG pictures; they get their names together at the end."""

    def __init__(self, path: Path, format: Format, *, single: bool = False) -> None:
        self._path, self._bits, self._single = path, format.bits, single
        self._folder = Path(tempfile.mkdtemp(prefix=f".{path.stem.strip('#_')}-", dir=path.parent))
        self._files: list[Path] = []

    def write(self, frame: int, picture: Picture) -> None:
        rgba = to_rgba16(picture) if self._bits == 16 else to_rgba8(picture)
        name = self._path if self._single else numbered(self._path, frame)
        target = self._folder / name.name
        good, data = cv2.imencode(
            ".png", np.ascontiguousarray(rgba[..., [2, 1, 0, 3]]), [cv2.IMWRITE_PNG_COMPRESSION, 4]
        )
        try:
            if not good:
                raise OSError("the picture could not be packed")
            target.write_bytes(data.tobytes())
        except OSError as wrong:
            raise _failed(self._path, wrong) from wrong
        self._files.append(target)

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
            raise _failed(self._path, wrong) from wrong
        finally:
            self.discard()
        return placed

    def discard(self) -> None:
        shutil.rmtree(self._folder, ignore_errors=True)


def _even(rgba: np.ndarray, width: int, height: int) -> np.ndarray:
    """Repeat the last column or row where the encoder needs an even size."""
    grow = ((0, height - rgba.shape[0]), (0, width - rgba.shape[1]), (0, 0))
    return np.pad(rgba, grow, mode="edge") if grow != ((0, 0),) * 3 else rgba


def _failed(path: Path, wrong: Exception) -> SaveFailed:
    why = getattr(wrong, "strerror", None) or str(wrong)
    cure = cure_of(wrong) if isinstance(wrong, OSError) else "choose another format or size"
    return SaveFailed(f"cannot be written: {why}", where=str(path), cure=cure)


def open_writer(
    path: Path, format: Format, rate: Fraction, width: int, height: int, quality: int | None,
    sound: Soundtrack | None = None,
) -> Writer:  # fmt: skip
    """Return a writer for a file or sequence, with the sound where it can hold one.

    Raises SaveFailed where the folder will not take it.
    """
    best = dict(format.qualities).get("Good", 0) if quality is None else quality
    try:
        if format.sequence:
            return SequenceWriter(path, format)
        return ClipWriter(path, format, rate, width, height, best, sound)
    except (av.FFmpegError, OSError) as wrong:
        raise _failed(path, wrong) from wrong
