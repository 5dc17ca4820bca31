"""Sound."""

from __future__ import annotations

from nimble_quake.operators.sounding import Sounding
from nimble_quake.params.kinds import MediaFile, Number


class Sound(Sounding):
    """A recording, placed in time: a file of sound, or the sound of a clip."""

    title = "Sound"
    help = "A recording, or the sound of a clip"
    rank = 10

    file = MediaFile(label="File", help="A file of sound (WAV, FLAC, MP3, AAC, Ogg), or a clip", sort="sound")
    start = Number(
        label="Start",
        help="The frame it begins at",
        default=0,
        hard=(-1e6, 1e6),
        usual=(0, 240),
        whole=True,
        decimals=0,
        unit="f",
    )
    gain = Number(
        label="Gain",
        help="How loud it is; 0 as it was recorded, 6 dB about twice",
        default=0.0,
        hard=(-96, 48),
        usual=(-24, 12),
        unit="dB",
        decimals=1,
    )
    first = Number(
        label="Trim start",
        help="How much of its beginning is left out",
        default=0.0,
        hard=(0, 1e5),
        usual=(0, 10),
        unit="s",
        decimals=2,
    )
    lasts = Number(
        label="Lasts",
        help="How long it is heard; 0: to its end",
        default=0.0,
        zero="to its end",
        hard=(0, 1e5),
        usual=(0, 10),
        unit="s",
        decimals=2,
    )
    fade_in = Number(
        label="Fade in",
        help="Over how long it comes in",
        default=0.0,
        hard=(0, 1e4),
        usual=(0, 4),
        unit="s",
        decimals=2,
    )
    fade_out = Number(
        label="Fade out",
        help="Over how long it goes at its end",
        default=0.0,
        hard=(0, 1e4),
        usual=(0, 4),
        unit="s",
        decimals=2,
    )
