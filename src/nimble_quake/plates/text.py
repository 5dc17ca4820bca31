"""Text."""

from __future__ import annotations

from nimble_quake.conventions import Pixels
from nimble_quake.media.type import draw_text, text_box
from nimble_quake.operators.base import Context
from nimble_quake.operators.lettering import Lettered
from nimble_quake.operators.plate_kind import PlateKind, Raster
from nimble_quake.params.kinds import Words


class Text(Lettered, PlateKind):
    """Words, editable while they are being pushed; drawn anew at the size they are shown, never cut at a box."""

    title = "Text"
    rank = 10
    asks_for = "words"
    help = "Words in a face of your choice"

    words = Words(label="Words", help="What it says; several lines are fine", default="LANTERN ROW", lines=True)

    def box(self, ctx: Context) -> tuple[float, float]:
        return text_box(self.look_of(self.words))

    def raster(self, ctx: Context, zoom: tuple[float, float], bleed: Pixels) -> Raster | None:
        if not self.words.strip():
            return None
        self.tell_missing(self.words, ctx)
        picture, margin = draw_text(self.look_of(self.words), *zoom)
        return Raster(picture, (zoom[0], 0.0, margin * zoom[0], 0.0, zoom[1], margin * zoom[1]), bits8=False)
