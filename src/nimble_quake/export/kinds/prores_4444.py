"""QuickTime with ProRes 4444 (SMPTE RDD 36), 10 bit, its alpha 16."""

from __future__ import annotations

from nimble_quake.export.encoders.clips import Encoding, clips

WAY = Encoding("prores_ks", "yuva444p10le", lambda quality: {"profile": "4444", "alpha_bits": "16"}, bits=16)

FORMAT = clips(
    "prores-4444",
    "QuickTime, ProRes 4444",
    ".mov",
    "10 bit, an intermediate for editors, with sound; keeps transparency",
    WAY,
    alpha=True,
    bits=10,
    sound="pcm_s24le",
    lossy=True,
    rank=26,
)
