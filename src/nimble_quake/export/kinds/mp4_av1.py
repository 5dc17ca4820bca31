"""MP4 with AV1."""

from __future__ import annotations

from nimble_quake.export.encoders.clips import Encoding, clips

WAY = Encoding(
    "libsvtav1",
    "yuv420p10le",
    lambda quality: {"crf": str(quality), "preset": "8"},
    even=True,
    container={"movflags": "+faststart"},
)

FORMAT = clips(
    "mp4-av1",
    "MP4, AV1",
    ".mp4",
    "half the size of H.264, plays in newer programs; no transparency",
    WAY,
    alpha=False,
    bits=10,
    qualities=(("Best", 18), ("Good", 30), ("Small", 42)),
    sound="aac",
    lossy=True,
    rank=14,
)
