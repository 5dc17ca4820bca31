"""MP4 with H.264."""

from __future__ import annotations

from nimble_quake.export.formats import Format
from nimble_quake.export.writers import ClipWriter, Encoding

WAY = Encoding("libx264", "yuv420p", lambda quality: {"crf": str(quality), "preset": "medium"}, even=True,
               container={"movflags": "+faststart"})  # fmt: skip

FORMAT = Format(
    "mp4",
    "MP4, H.264",
    ".mp4",
    "plays everywhere, with sound; no transparency",
    False,
    lambda target: ClipWriter(target, WAY),
    qualities=(("Best", 12), ("Good", 18), ("Small", 26)),
    sound="aac",
    rank=10,
)
