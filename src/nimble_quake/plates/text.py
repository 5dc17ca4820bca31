"""Text."""

from __future__ import annotations

from nimble_quake.conventions import Pixels
from nimble_quake.media.type import DEFAULT_FACE, TextLook, draw_text, known_face, missing_glyphs, text_box
from nimble_quake.operators.base import Context, PlateKind, Raster
from nimble_quake.params.kinds import Choice, Colour, Face, Number, Words, options


class Text(PlateKind):
    """Words, editable while they are being pushed; drawn anew at the size they are shown, never cut at a box."""

    title = "Text"
    asks_for = "words"
    help = "Words in a face of your choice"

    words = Words(label="Words", help="What it says; several lines are fine", default="LANTERN ROW", lines=True)
    face = Face(label="Face", help="The typeface", default=DEFAULT_FACE)
    size = Number(
        label="Size", help="The size of the letters", default=160.0, hard=(1, 5000), usual=(10, 500), unit="px",
        decimals=0,
    )  # fmt: skip
    colour = Colour(label="Colour", help="The colour of the letters")
    letter_spacing = Number(
        label="Letter gap", help="Extra room between letters", default=0.0, hard=(-2000, 5000), usual=(-20, 100),
        unit="px",
    )  # fmt: skip
    line_spacing = Number(
        label="Line gap", help="The distance of lines, in % of the face's own", default=1.0, hard=(0.1, 20),
        usual=(0.6, 2), unit="%", factor=100, decimals=0,
    )  # fmt: skip
    align = Choice(
        label="Align", help="How lines lie to each other", default="centre", row=True,
        options=options(left="Left", centre="Centre", right="Right"),
    )  # fmt: skip

    def _look(self) -> TextLook:
        return TextLook(
            self.words, self.face, self.size, self.letter_spacing, self.line_spacing, self.align, self.colour
        )

    def box(self, ctx: Context) -> tuple[float, float]:
        return text_box(self._look())

    def raster(self, ctx: Context, zoom: tuple[float, float], bleed: Pixels) -> Raster | None:
        if not self.words.strip():
            return None
        if known_face(self.face) != self.face:
            ctx.feed.complain(f'the face "{self.face}" is not installed', "choose another; Bungee stands in")
        missing = missing_glyphs(self.words, self.face)
        if missing:
            ctx.feed.complain(f"the face has no {missing[:8]!r}", "choose a face that has these letters")
        picture, margin = draw_text(self._look(), *zoom)
        return Raster(picture, (zoom[0], 0.0, margin * zoom[0], 0.0, zoom[1], margin * zoom[1]), bits8=False)
