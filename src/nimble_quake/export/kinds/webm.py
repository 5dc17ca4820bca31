"""WebM with VP9."""

from __future__ import annotations

from nimble_quake.export.formats import Format
from nimble_quake.export.writers import ClipWriter, Encoding

WAY = Encoding("libvpx-vp9", "yuva420p", lambda quality: {"crf": str(quality), "b:v": "0", "cpu-used": "4",
                                                          "row-mt": "1", "auto-alt-ref": "0"})  # fmt: skip

FORMAT = Format(
    "webm",
    "WebM, VP9",
    ".webm",
    "for the web, with sound; keeps transparency",
    True,
    lambda target: ClipWriter(target, WAY),
    qualities=(("Best", 15), ("Good", 28), ("Small", 40)),
    sound="libopus",
    rank=12,
)
