"""Band."""

from __future__ import annotations

from nimble_quake.operators.sounding import Sounding
from nimble_quake.params.kinds import Number, SoundRef


class Band(Sounding):
    """A range of frequencies; how loud it is drives values."""

    title = "Band"
    help = "A range of frequencies whose loudness drives values"
    rank = 20

    of = SoundRef(label="Of", help="The sound it listens to; none: to all of them together")
    low = Number(
        label="From",
        help="Its lowest frequency",
        default=40.0,
        hard=(1, 24_000),
        usual=(20, 16_000),
        unit="Hz",
        decimals=0,
    )
    high = Number(
        label="To",
        help="Its highest frequency",
        default=120.0,
        hard=(2, 24_000),
        usual=(20, 16_000),
        unit="Hz",
        decimals=0,
    )
