"""Animated GIF."""

from __future__ import annotations

from nimble_quake.export.formats import Format
from nimble_quake.export.gif import GifWriter

FORMAT = Format(
    "gif",
    "GIF",
    ".gif",
    "short loops; 256 colours chosen from the clip, edges of transparency are hard",
    True,
    GifWriter,
    rank=24,
)
