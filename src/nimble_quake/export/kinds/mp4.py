"""MP4 with H.264."""

from __future__ import annotations

from contextlib import suppress
from functools import cache
from pathlib import Path

from nimble_quake.export.encoders.clips import Encoding, clips

CPU = Path("/proc/cpuinfo")


@cache
def _steady() -> dict[str, str]:
    """What makes x264 write the same file each time: by AVX-512 it does not, as found with x264 165 in PyAV 18.

    Of 150 files of the same frames, 160 x 90, 13 differed with AVX-512 and none with AVX2, at the same speed.
    """
    with suppress(OSError):
        if "avx512f" in CPU.read_text():
            return {"x264-params": "asm=avx2"}
    return {}


def options(quality: int) -> dict[str, str]:
    """Return what x264 is told."""
    return {"crf": str(quality), "preset": "medium", **_steady()}


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
    lossy=True,
    rank=10,
)
