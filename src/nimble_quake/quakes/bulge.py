"""Bulge."""

from __future__ import annotations

import math
from functools import lru_cache

from nimble_quake.conventions import Pixels
from nimble_quake.operators.base import Context
from nimble_quake.operators.graphs import Graph, profile
from nimble_quake.operators.quake import FreeQuake
from nimble_quake.operators.quantities import a_fraction, a_size
from nimble_quake.params.kinds import Choice, Number, Place, When, options
from nimble_quake.raster.warps.operations import BULGE, POLYNOMIAL, Bend


def _term(label: str, power: int, default: float) -> Number:
    return Number(
        label=label,
        help=f"How much the distance to the power of {power} adds: above 0 pincushion, below 0 barrel",
        default=default,
        hard=(-100, 100),
        usual=(-1, 1),
        decimals=3,
        shown_when=When("form", "polynomial"),
    )


def fall(fraction: float, soft: float) -> float:
    """Return `share` to the power of 1 + soft, straight between whole powers."""
    whole = int(soft)
    return fraction ** (1 + whole) * (1 - (soft - whole) + (soft - whole) * fraction)


@lru_cache(maxsize=256)
def steepest_ring(soft: float) -> float:
    """Return the most that u fall(1 - u^2) falls per u within the rim: a pinch by more than 1 in it would fold."""
    us = [n / 512 for n in range(513)]
    course = [u * fall(1 - u * u, soft) for u in us]
    return max(1e-3, max(512 * (a - b) for a, b in zip(course, course[1:], strict=False)))


class Bulge(FreeQuake):
    """Seen through a lens: enlarged (or pinched) inside a radius, or bent by the usual radial polynomial.

    Lens: a place at u radii from the centre shows u (1 - amount s), s = (1 - u^2)^(1 + softness), straight between
    whole powers. Polynomial: it shows
    u (1 + k1 u^2 + k2 u^4 + k3 u^6) (Brown 1966; the radial part of OpenCV's distortion model, the radius for f).
    """

    title = "Bulge"
    called = "magnifier, pinch, lens distortion"
    group = "Lens"
    rank = 2020
    help = "A magnifying glass, a pinch, or a lens's barrel and pincushion"
    may_fold = False
    idle_because = "Its amount is 0"

    form = Choice(
        label="Form",
        help="A lens with a rim, or the polynomial of a camera's lens",
        default="lens",
        row=True,
        options=options(lens="Lens", polynomial="Camera"),
    )
    centre = Place(label="Centre", help="The middle of the lens")
    radius = a_size(
        "Radius", "Where the lens ends; for a camera lens, what distances are measured by", 300.0, (20, 1500)
    )
    amount = Number(
        label="Amount",
        help="Above 0 enlarges its middle, below 0 pinches it; 100 % is the most",
        default=0.6,
        hard=(-1, 1),
        usual=(-1, 1),
        unit="%",
        factor=100,
        decimals=0,
        shown_when=When("form", "lens"),
    )
    soft = a_fraction("Softness", "How gently it ends at its rim", 0.3, (0, 6), When("form", "lens"))
    k1 = _term("k1", 2, 0.25)
    k2 = _term("k2", 4, 0.0)
    k3 = _term("k3", 6, 0.0)

    def idle(self) -> bool:
        return self.strength == 0 or not any(self._terms() if self.form == "polynomial" else (self.amount,))

    def _terms(self) -> tuple[float, float, float]:
        return self.k1 * self.strength, self.k2 * self.strength, self.k3 * self.strength

    def _amount(self) -> float:
        """The amount within what never folds: a pinch is held to where its steepest ring still opens."""
        amount = min(max(self.amount * self.strength, -1.0), 1.0)
        return amount if amount >= 0 else amount * min(1.0, 1 / steepest_ring(self.soft))

    def ops(self, ctx: Context) -> tuple[Bend, ...]:
        if self.form == "polynomial":
            return ((POLYNOMIAL, (*self.centre, self.radius, *self._terms())),)
        return ((BULGE, (*self.centre, self.radius, self._amount(), self.soft)),)

    def reach_of_offsets(self, ctx: Context) -> Pixels:
        if self.form == "polynomial":
            return math.inf
        return self.radius * abs(self._amount()) * self.most_weight(ctx)

    def goes_round(self) -> bool:
        return True

    def summary(self) -> str:
        return f"{self._amount():.0%}".replace("%", " %") if self.form == "lens" else f"k1 {self.k1:.2g}"

    def graph(self, rest: float) -> Graph:
        def looks(distance: float) -> float:
            u = distance / self.radius
            if self.form == "polynomial":
                k1, k2, k3 = self._terms()
                return u * (1 + k1 * u**2 + k2 * u**4 + k3 * u**6)
            return u * (1 - self._amount() * fall(1 - u * u, self.soft)) if u < 1 else u

        return profile(looks, self.radius, "px", foot="distance", side="looks at")
