"""QuickTime with ProRes 422 HQ (SMPTE RDD 36), 10 bit."""

from __future__ import annotations

from nimble_quake.export.encoders.clips import Encoding, clips

WAY = Encoding("prores_ks", "yuv422p10le", lambda quality: {"profile": "hq"}, even=True, bits=16)

FORMAT = clips(
    "prores",
    "QuickTime, ProRes 422 HQ",
    ".mov",
    "10 bit, an intermediate for editors, with sound; no transparency",
    WAY,
    alpha=False,
    bits=10,
    sound="pcm_s24le",
    lossy=True,
    rank=24,
)
