"""What every open picture file can do."""

from __future__ import annotations

from fractions import Fraction
from typing import Protocol

from nimble_quake.conventions import Picture, Seconds


class MediaSource(Protocol):
    """An open still, clip or artwork. Safe to use from several threads."""

    width: int
    height: int
    bits8: bool
    in_light: bool
    """Its file holds linear light, which `picture` shows encoded: as data it is taken back."""
    trouble: str
    """What is wrong inside it, in one line, as of the last picture; empty: nothing."""
    seconds: float
    """How long it lasts; 0 for a still."""
    frames: int
    """How many pictures it has."""

    @property
    def rate(self) -> Fraction | None:
        """Its frames a second; None for a still, and for numbered pictures, which have as many as they are shown at."""

    def picture(self, seconds: Seconds, width: int, height: int) -> Picture:
        """Return the picture shown at a time, reduced to about this size (never enlarged)."""

    @property
    def nbytes(self) -> int:
        """Memory held."""


class ShotFile(MediaSource, Protocol):
    """A shot file that is open as a clip."""

    files: tuple[str, ...]
    """What it names."""
