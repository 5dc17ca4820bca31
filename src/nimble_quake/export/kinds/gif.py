"""Animated GIF."""

from __future__ import annotations

from nimble_quake.export.encoders.gif import write_gif
from nimble_quake.export.encoders.kept import kept_clips

FORMAT = kept_clips(
    "gif",
    "GIF",
    ".gif",
    "short loops; 256 colours chosen from the clip, edges of transparency are hard",
    write_gif,
    rank=24,
)
