"""Still."""

from __future__ import annotations

from nimble_quake.conventions import Pixels
from nimble_quake.operators.base import LAYER, Context
from nimble_quake.operators.plate_kind import FIT, PlateKind, Raster
from nimble_quake.params.kinds import MediaFile


class Still(PlateKind):
    """A picture from a file, fitted to the frame."""

    title = "Still"
    help = "A picture file: PNG, JPEG, WebP, TIFF, OpenEXR"
    media_param = "file"
    fits = True

    file = MediaFile(label="File", help="The picture file", sort="still")
    layer = LAYER
    fit = FIT

    def fit_in_frame(self) -> str:
        return self.fit

    def box(self, ctx: Context) -> tuple[float, float]:
        source = ctx.services.media.open(self.file, "still", layer=self.layer)
        return float(source.width), float(source.height)

    def raster(self, ctx: Context, zoom: tuple[float, float], bleed: Pixels) -> Raster | None:
        source = ctx.services.media.open(self.file, "still", layer=self.layer)
        picture = source.picture(0.0, round(source.width * zoom[0]), round(source.height * zoom[1]))
        height, width = picture.shape[:2]
        return Raster(picture, (width / source.width, 0.0, 0.0, 0.0, height / source.height, 0.0), source.bits8)
