"""The kinds of file we write, and what each can hold."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from nimble_quake.errors import BadInput


@dataclass(frozen=True)
class Format:
    """A kind of output. `qualities`: shown name -> the encoder's own number, the best first."""

    key: str
    label: str
    suffix: str
    about: str
    alpha: bool
    sequence: bool = False
    bits: int = 8
    qualities: tuple[tuple[str, int], ...] = ()
    sound: str = ""
    """The encoder of its sound; empty where it has none."""


FORMATS = (
    Format("mp4", "MP4, H.264", ".mp4", "plays everywhere, with sound; no transparency", False,
           qualities=(("Best", 12), ("Good", 18), ("Small", 26)), sound="aac"),
    Format("webm", "WebM, VP9", ".webm", "for the web, with sound; keeps transparency", True,
           qualities=(("Best", 15), ("Good", 28), ("Small", 40)), sound="libopus"),
    Format("ffv1", "Matroska, FFV1", ".mkv", "lossless, with sound; keeps transparency", True, sound="flac"),
    Format("png", "PNG pictures, 8 bit", ".png", "one file a frame; keeps transparency", True, sequence=True),
    Format("png16", "PNG pictures, 16 bit", ".png", "one file a frame, 65,536 levels; for maps", True, True, 16),
)  # fmt: skip


def format_of(path: Path, *, deep: bool = False) -> Format:
    """Return the format that a file name asks for. Raises BadInput."""
    suffix = path.suffix.lower()
    for format in FORMATS:
        if format.suffix == suffix and (format.bits == 16) == (deep and suffix == ".png"):
            return format
    known = ", ".join(sorted({format.suffix for format in FORMATS}))
    raise BadInput(f'"{path.suffix}" is no kind of file we write', where=str(path), cure=f"end its name in {known}")


def numbered(path: Path, frame: int) -> Path:
    """Return the file of a frame: a run of # in the name becomes the number, else it is put before the ending."""
    name = path.name
    hashes = next((run for run in _runs(name)), "")
    if not hashes:
        return path.with_name(f"{path.stem}_{frame:04d}{path.suffix}")
    return path.with_name(name.replace(hashes, f"{frame:0{len(hashes)}d}", 1))


def _runs(name: str) -> list[str]:
    runs, here = [], ""
    for character in name + " ":
        if character == "#":
            here += "#"
        elif here:
            runs.append(here)
            here = ""
    return sorted(runs, key=len, reverse=True)
