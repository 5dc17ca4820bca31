"""WebM with AV1."""

from __future__ import annotations

from nimble_quake.export.encoders.clips import Encoding, clips

WAY = Encoding("libsvtav1", "yuv420p10le", lambda quality: {"crf": str(quality), "preset": "8"}, even=True)

FORMAT = clips(
    "webm-av1",
    "WebM, AV1",
    ".webm",
    "the smallest for the web; no transparency",
    WAY,
    alpha=False,
    bits=10,
    qualities=(("Best", 18), ("Good", 30), ("Small", 42)),
    sound="libopus",
    lossy=True,
    rank=16,
)
