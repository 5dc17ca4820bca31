"""Animated PNG."""

from __future__ import annotations

from nimble_quake.export.encoders.clips import Encoding
from nimble_quake.export.encoders.kept import encoded, kept_clips

WAY = Encoding("apng", "rgba", lambda quality: {}, rgb=True, container={"plays": "0"})

FORMAT = kept_clips(
    "apng", "PNG, animated", ".apng", "short loops without loss; keeps transparency", encoded(WAY), rank=28
)
