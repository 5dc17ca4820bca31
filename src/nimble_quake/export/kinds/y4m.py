"""YUV4MPEG2."""

from __future__ import annotations

from nimble_quake.export.encoders.y4m import Y4mWriter, join, planes
from nimble_quake.export.formats import SEGMENT, Format

FORMAT = Format(
    "y4m",
    "YUV4MPEG2",
    ".y4m",
    "frames as they are, for other encoders; no transparency",
    False,
    planes,
    Y4mWriter,
    join,
    SEGMENT,
    rank=70,
)
