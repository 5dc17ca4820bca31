"""Clip."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from nimble_quake.conventions import Pixels, Seconds
from nimble_quake.media import flipbook
from nimble_quake.operators.base import LAYER, Context
from nimble_quake.operators.plate_kind import FIT, PlateKind, Raster
from nimble_quake.params.conditions import When
from nimble_quake.params.kinds import Choice, MediaFile, Number, StillNumber, StillToggle, options

SOUND = "Sound"
"""The section of its own sound."""
ROUNDED = 0.03
"""Files round the times of frames, Matroska to a millisecond: so near a frame it is that frame."""


class IsNumbered(When):
    """A file is numbered pictures, which have no rate of their own."""

    def holds(self, value: object) -> bool:
        return flipbook.is_pattern(str(value))


class IsFootage(IsNumbered):
    """A file is no numbered pictures: it may be interlaced."""

    def holds(self, value: object) -> bool:
        return not super().holds(value)


class Clip(PlateKind):
    """Footage from a file; its own rate is resolved by time, frame for frame."""

    title = "Clip"
    help = "Footage, numbered pictures, animated GIF, WebP or PNG, or another shot file"
    media_param = "file"
    fits = True
    plays = True
    sounds = True
    sections = (SOUND, *PlateKind.sections)

    file = MediaFile(label="File", help="The footage file", sort="clip")
    pace = Number(
        label="Pictures a second",
        help="How many of the numbered pictures are shown in a second; at 0 as many as the shot has frames",
        default=0.0,
        zero="as the shot",
        hard=(0, 1000),
        usual=(0, 60),
        unit="fps",
        decimals=3,
        shown_when=IsNumbered("file"),
    )
    layer = LAYER
    fit = FIT
    trim = Number(
        label="Trim in",
        help="Skips this much at the clip's start",
        default=0.0,
        hard=(0, 86400),
        usual=(0, 10),
        unit="s",
        decimals=2,
        group="time",
    )
    speed = Number(
        label="Speed",
        help="How fast it runs; negative runs backwards, 0 stands: give it pins to slow down or freeze",
        default=1.0,
        hard=(-100, 100),
        usual=(0, 2),
        unit="%",
        factor=100,
        decimals=0,
        group="time",
        accumulates=True,
    )
    between = Choice(
        label="Between",
        help="What is shown between two frames when it runs slowly",
        default="frame",
        row=True,
        options=options(frame="Frame", blend="Blended"),
        group="time",
    )
    fields = Choice(
        label="Lines",
        help="Interlaced footage holds two moments, line by line: which of them is shown",
        default="tagged",
        group="time",
        shown_when=IsFootage("file"),
        options=options(
            tagged="As its file says",
            both="Both: frames are whole",
            upper="Upper lines of each frame",
            lower="Lower lines of each frame",
        ),
    )
    beyond = Choice(
        label="At its end",
        help="What is shown after its last frame",
        default="loop",
        options=options(loop="Loop: begins again", hold="Hold: the last frame stays", empty="Empty: nothing"),
        group="time",
    )
    heard = StillToggle(
        label="Heard", help="Its own sound is heard along its bar, and cross-fades over crossings", section=SOUND
    )
    gain = StillNumber(
        label="Gain",
        help="How loud it is; 0 as it was recorded, 6 dB about twice",
        hard=(-96, 48),
        usual=(-24, 12),
        unit="dB",
        decimals=1,
        section=SOUND,
        shown_when=When("heard"),
    )

    def timed(self) -> bool:
        return True

    def fit_in_frame(self) -> str:
        return self.fit

    def box(self, ctx: Context) -> tuple[float, float]:
        source = ctx.services.media.open(self.file, "clip", layer=self.layer)
        return float(source.width), float(source.height)

    def clip_time(self, length: Seconds, rate: float) -> Seconds | None:
        """Its speed is the way gone since the plate began."""
        times = flipbook.times_its_rate(self.file, self.pace or rate)
        time = self._time(length / times)
        return None if time is None else time * times

    def _time(self, length: Seconds) -> Seconds | None:
        """The time in what lasts so long; None after its end."""
        time = self.trim + self.speed
        if 0 <= time < length or self.beyond == "hold":
            return time
        if self.beyond == "empty":
            return None
        room = length - self.trim
        return self.trim + (time - self.trim) % room if room > 0 else time % length

    def raster(self, ctx: Context, zoom: tuple[float, float], bleed: Pixels) -> Raster | None:
        source = ctx.services.media.open(self.file, "clip", fields=self.fields, layer=self.layer)
        time = self.clip_time(source.seconds, float(ctx.at.rate))
        if time is None:
            return None
        size = (round(source.width * zoom[0]), round(source.height * zoom[1]))
        picture = source.picture(time, *size)
        if source.trouble:
            ctx.services.report_problem(f"in {Path(self.file).name}: {source.trouble}")
        if self.between == "blend":
            number = source.frame_at(time)
            begins, ends = source.seconds_of(number), source.seconds_of(number + 1)
            fraction = min(max((time - begins) / (ends - begins), 0.0), 1.0) if ends > begins else 0.0
            if fraction > ROUNDED:
                after = source.picture(ends, *size)
                picture = picture + (after - picture) * np.float32(fraction)
        height, width = picture.shape[:2]
        return Raster(picture, (width / source.width, 0.0, 0.0, 0.0, height / source.height, 0.0), source.bits8)
