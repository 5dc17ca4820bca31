"""MP4 with H.264."""

from __future__ import annotations

from nimble_quake.export.writers import Encoding, clips

WAY = Encoding("libx264", "yuv420p", lambda quality: {"crf": str(quality), "preset": "medium"}, even=True,
               container={"movflags": "+faststart"})  # fmt: skip

FORMAT = clips(
    "mp4",
    "MP4, H.264",
    ".mp4",
    "plays everywhere, with sound; no transparency",
    WAY,
    alpha=False,
    qualities=(("Best", 12), ("Good", 18), ("Small", 26)),
    sound="aac",
    rank=10,
)
