"""MP4 with H.264."""

from __future__ import annotations

from nimble_quake.export.clips import Encoding, clips


def options(quality: int) -> dict[str, str]:
    """Return what x264 is told. With several threads that look ahead it would not write the same file each time."""
    return {"crf": str(quality), "preset": "medium", "x264-params": "lookahead-threads=1"}


WAY = Encoding("libx264", "yuv420p", options, even=True, container={"movflags": "+faststart"})

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
