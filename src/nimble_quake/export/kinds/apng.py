"""Animated PNG."""

from __future__ import annotations

from nimble_quake.export.writers import Encoding, clips

WAY = Encoding("apng", "rgba", lambda quality: {}, rgb=True, container={"plays": "0"})

FORMAT = clips(
    "apng",
    "PNG, animated",
    ".apng",
    "short loops without loss; keeps transparency",
    WAY,
    alpha=True,
    rank=28,
)
