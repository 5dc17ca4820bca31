"""YUV4MPEG2."""

from __future__ import annotations

from nimble_quake.export.formats import Format
from nimble_quake.export.y4m import Y4mWriter

FORMAT = Format(
    "y4m",
    "YUV4MPEG2",
    ".y4m",
    "frames as they are, for other encoders; no transparency",
    False,
    Y4mWriter,
    rank=70,
)
