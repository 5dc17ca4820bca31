"""WebM with VP9."""

from __future__ import annotations

from nimble_quake.export.encoders.clips import Encoding, clips

WAY = Encoding(
    "libvpx-vp9",
    "yuva420p",
    lambda quality: {"crf": str(quality), "b:v": "0", "cpu-used": "4", "row-mt": "1", "auto-alt-ref": "0"},
)

FORMAT = clips(
    "webm",
    "WebM, VP9",
    ".webm",
    "for the web, with sound; keeps transparency",
    WAY,
    alpha=True,
    qualities=(("Best", 15), ("Good", 28), ("Small", 40)),
    sound="libopus",
    lossy=True,
    rank=12,
)
