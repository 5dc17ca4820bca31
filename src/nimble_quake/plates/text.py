"""Text."""

from __future__ import annotations

from dataclasses import replace

from nimble_quake.conventions import Pixels
from nimble_quake.media.drawing.letters import Letter, Move, draw_letters, letters_of, lines_coverage
from nimble_quake.media.drawing.type import text_box, text_coverage
from nimble_quake.motion.random_walk import random_of
from nimble_quake.operators.base import Context
from nimble_quake.operators.lettering import Lettered, lettered
from nimble_quake.operators.plate_kind import PlateKind, Raster
from nimble_quake.params.kinds import Choice, Number, Pairs, Seed, Words, options

LETTERS = "Letters"
"""The section of the settings that moves letters by themselves."""


def _far(label: str, help: str, default: float, usual: tuple[float, float], unit: str) -> Number:
    return Number(label=label, help=help, default=default, hard=(-5000, 5000), usual=usual, unit=unit, section=LETTERS)


class Text(Lettered, PlateKind):
    """Words, editable while they are being pushed; drawn anew at the size they are shown, never cut at a box.

    Letters can leave their places, each by itself and each a little later than the one before.
    """

    title = "Text"
    rank = 10
    asks_for = "words"
    help = "Words in a face of your choice"
    sections = (LETTERS, *PlateKind.sections)

    words = Words(label="Words", help="What it says; several lines are fine", default="LANTERN ROW", lines=True)
    astray = Number(
        label="Astray",
        help="How far letters are from their places, of what is set below",
        default=0.0,
        hard=(-10, 10),
        usual=(0, 1),
        unit="%",
        factor=100,
        decimals=0,
        section=LETTERS,
    )
    strewn = Pairs(
        label="Strewn",
        help="How far letters are strewn at random, to either side",
        default=(60.0, 60.0),
        unit="px",
        section=LETTERS,
    )
    sunk = _far("Sunk", "How far all of them sink; below 0 they rise", 0.0, (-400, 400), "px")
    tumbled = _far("Tumbled", "How far they turn at random, to either side", 0.0, (0, 180), "°")
    grown = replace(_far("Grown", "How much larger they get", 0.0, (-1, 2), "%"), factor=100, decimals=0)
    faded = Number(
        label="Faded",
        help="How much less of them is seen",
        default=0.0,
        hard=(0, 1),
        usual=(0, 1),
        unit="%",
        factor=100,
        decimals=0,
        section=LETTERS,
    )
    lag = Number(
        label="Lag",
        help="How many frames each letter is later than the one before",
        default=0.0,
        hard=(-1000, 1000),
        usual=(-6, 6),
        unit="f",
        decimals=1,
        section=LETTERS,
    )
    order = Choice(
        label="Order",
        help="Which letters come first",
        default="line",
        section=LETTERS,
        options=options(
            line="Left to right",
            back="Right to left",
            middle="From the middle",
            ends="From the ends",
            random="At random",
        ),
    )
    strewn_seed = Seed(label="Seed", help="Which of many random ways they go", section=LETTERS)

    def looks_back(self) -> bool:
        return self.lag != 0

    def timed(self) -> bool:
        return self.lag != 0

    def box(self, ctx: Context) -> tuple[float, float]:
        return text_box(self.look_of(self.words))

    def raster(self, ctx: Context, zoom: tuple[float, float], bleed: Pixels) -> Raster | None:
        if not self.words.strip():
            return None
        look = self.look_of(self.words)
        self.tell_missing(look, ctx)
        moves = self._moves(letters_of(look), ctx) if self.astray or self.lag else ()
        if any(move != Move() for move in moves):
            picture, margin = draw_letters(look, *zoom, moves)
            return Raster(picture, (zoom[0], 0.0, margin * zoom[0], 0.0, zoom[1], margin * zoom[1]), bits8=False)
        cover = lines_coverage if look.aligns else text_coverage
        return lettered(*cover(look, *zoom), zoom, look.rgba)

    def _moves(self, letters: tuple[Letter, ...], ctx: Context) -> tuple[Move, ...]:
        """How each letter is moved now."""
        places = self._places(len(letters))
        return tuple(self._move(n, self._astray_at(places[n], ctx)) for n in range(len(letters)))

    def _astray_at(self, place: float, ctx: Context) -> float:
        """How far astray a letter is that is this many places late."""
        if self.lag == 0:
            return self.astray
        later = place * self.lag / float(ctx.at.rate)
        return float(ctx.other(ctx.at.seconds - later).astray)

    def _places(self, count: int) -> list[float]:
        """Which place each letter has in the order they come."""
        if self.order == "random":
            order = sorted(range(count), key=lambda n: random_of(self.strewn_seed * 31.0 + n * 7.0 + 0.5))
            return [float(order.index(n)) for n in range(count)]
        middle = (count - 1) / 2
        ways = {
            "line": lambda n: n,
            "back": lambda n: count - 1 - n,
            "middle": lambda n: abs(n - middle),
            "ends": lambda n: middle - abs(n - middle),
        }
        return [float(ways[self.order](n)) for n in range(count)]

    def _move(self, number: int, astray: float) -> Move:
        def either(axis: int) -> float:
            return (random_of(self.strewn_seed * 131.0 + number * 8.0 + axis) * 2 - 1) * astray

        return Move(
            x=self.strewn[0] * either(0),
            y=self.strewn[1] * either(1) + self.sunk * astray,
            turn=self.tumbled * either(2),
            scale=max(0.0, 1 + self.grown * astray),
            alpha=min(max(1 - self.faded * abs(astray), 0.0), 1.0),
        )
