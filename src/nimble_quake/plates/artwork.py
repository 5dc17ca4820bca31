"""Artwork."""

from __future__ import annotations

from nimble_quake.conventions import Pixels
from nimble_quake.operators.base import Context
from nimble_quake.operators.plate_kind import FIT, PlateKind, Raster
from nimble_quake.params.kinds import MediaFile


class Artwork(PlateKind):
    """An SVG drawing, drawn anew at the size it is shown."""

    title = "Artwork"
    help = "An SVG drawing, sharp at any size"
    media_param = "file"
    fits = True

    file = MediaFile(label="File", help="The SVG file", sort="artwork")
    fit = FIT

    def fit_in_frame(self) -> str:
        return self.fit

    def box(self, ctx: Context) -> tuple[float, float]:
        source = ctx.services.media.open(self.file, "artwork")
        return float(source.width), float(source.height)

    def raster(self, ctx: Context, zoom: tuple[float, float], bleed: Pixels) -> Raster | None:
        source = ctx.services.media.open(self.file, "artwork")
        picture = source.picture(0.0, source.width * zoom[0], source.height * zoom[1])
        height, width = picture.shape[:2]
        return Raster(picture, (width / source.width, 0.0, 0.0, 0.0, height / source.height, 0.0), bits8=False)
