"""Camera."""

from __future__ import annotations

import math

from nimble_quake.conventions import Pixels
from nimble_quake.operators.base import Context
from nimble_quake.operators.plate_kind import PlateKind, Point3, Raster
from nimble_quake.params.kinds import Number, Place


class Camera(PlateKind):
    """The eye that plates with a place are seen by; it shows nothing itself. The topmost one that is there counts."""

    title = "Camera"
    rank = 95
    help = "The eye that plates are seen by: moving it shows those in depth from another side"
    endless = True
    is_eye = True

    stands = Place(label="Stands", help="Where the eye is, across and down")
    target = Place(label="Looks at", help="The place it looks at, in the plane that plates lie in")
    field = Number(
        label="Field",
        help="How much it sees, from the top of the frame to its foot",
        default=40.0,
        hard=(1, 170),
        usual=(15, 90),
        unit="°",
        decimals=1,
    )
    nearer = Number(
        label="Nearer",
        help="How much nearer it stands than where plates are seen at their own size",
        default=0.0,
        hard=(-100_000, 100_000),
        usual=(-800, 800),
        unit="px",
        decimals=0,
    )
    roll = Number(
        label="Roll",
        help="Turns the eye about its own axis",
        default=0.0,
        hard=(-36000, 36000),
        usual=(-180, 180),
        unit="°",
        ring=True,
    )

    @classmethod
    def handles(cls) -> tuple[tuple[str, str], ...]:
        return (("stands", "target"),)

    def seen_from(self, frame: tuple[float, float]) -> tuple[Point3, Point3, float, float]:
        far = frame[1] / 2 / math.tan(math.radians(self.field) / 2) - self.nearer
        return (*self.stands, far), (*self.target, 0.0), self.field, self.roll

    def raster(self, ctx: Context, zoom: tuple[float, float], bleed: Pixels) -> Raster | None:
        return None
