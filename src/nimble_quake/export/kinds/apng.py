"""Animated PNG."""

from __future__ import annotations

from nimble_quake.export.formats import Format
from nimble_quake.export.writers import ClipWriter, Encoding

WAY = Encoding("apng", "rgba", lambda quality: {}, rgb=True, container={"plays": "0"})

FORMAT = Format(
    "apng",
    "PNG, animated",
    ".apng",
    "short loops without loss; keeps transparency",
    True,
    lambda target: ClipWriter(target, WAY),
    rank=28,
)
