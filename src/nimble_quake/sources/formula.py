"""A formula for every pixel."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import REST, Field, Numeric, Values
from nimble_quake.errors import FormulaError
from nimble_quake.motion.fields import evaluated
from nimble_quake.motion.formula_moved import names_then, rewritten
from nimble_quake.operators.base import Context
from nimble_quake.operators.steps import Source, flat
from nimble_quake.params.kinds import MapRef, Words
from nimble_quake.params.refit import Refit
from nimble_quake.raster.colour.channels import channel
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.noise.fractal import Recipe, fractal_at

TRAINS = (
    "0.5 + 0.25*(sin(hypot(x - 0.3*width, y - 0.5*height)/14 - 6*t)"
    " + sin(hypot(x - 0.7*width, y - 0.5*height)/14 - 6*t))"
)


LONGEST = 500
"""Characters."""


class FormulaSource(Source):
    """A value for every pixel from place and time: anything that no other source makes."""

    title = "Formula"
    group = "Pictures"
    help = "Your own: a value from place, time and other maps"
    looks = (
        ("Twist", "Arms that wind up as they turn", {"text": "0.5 + 0.5*sin(tau*(3*angle + distance/220 - t*0.5))"}),
        ("Interference", "Two wave trains that cross", {"text": TRAINS}),
    )

    text = Words(
        label="Formula",
        default="0.5 + 0.5*sin(tau*(u*4 - t)) * cos(tau*v*3)",
        most=LONGEST,
        help="With x, y in px, u, v of 0...1, angle, distance, t, frame, progress, noise(x, y, z), below, a and b",
    )
    a = MapRef(label="Map a", help="A map the formula may read as a")
    b = MapRef(label="Map b", help="A map the formula may read as b")

    @classmethod
    def refit_rest(cls, values: Values, by: Refit) -> Values:
        """Its places are in px: it reads them as they were."""
        names = names_then(by)
        if by.scale != 1:
            across, down = by.place(None).factors, by.place(None).offsets
            back = {n: f"(({n} - {o:.10g}) / {f:.10g})" for n, f, o in zip("xy", across, down, strict=True)}
            names |= {**back, "distance": f"(distance / {by.scale:.10g})"}
        text = str(values.get("text") or cls.declared["text"].default)
        try:
            found = rewritten(text, names) if names else text
        except FormulaError:
            return values
        return values if found == text or len(found) > LONGEST else {**values, "text": found}

    def timed(self) -> bool:
        return True

    def make(self, grid: Grid, ctx: Context) -> Field:
        try:
            got = evaluated(self.text, self._names(grid, ctx), lambda *args: _noise(grid, *args))
        except FormulaError as wrong:
            ctx.services.report_problem(wrong.what, wrong.cure)
            return flat(grid)
        with np.errstate(over="ignore", invalid="ignore"):  # what is too large for a map is held below
            values = np.broadcast_to(np.asarray(got, np.float32), grid.shape)
        values = np.nan_to_num(values, nan=REST, posinf=4.0, neginf=-3.0)
        return np.ascontiguousarray(np.clip(values, -3, 4)[..., None])

    def _names(self, grid: Grid, ctx: Context) -> Values:
        at = ctx.at
        xs, ys = grid.xs()[None, :], grid.ys()[:, None]
        dx, dy = xs - np.float32(at.width / 2), ys - np.float32(at.height / 2)
        found: Values = {
            "x": xs,
            "y": ys,
            "u": xs / np.float32(at.width),
            "v": ys / np.float32(at.height),
            "t": at.seconds,
            "frame": at.frame,
            "progress": at.frame / max(1, at.length - 1),
            "width": at.width,
            "height": at.height,
        }
        words = set(_words(self.text))
        if "angle" in words:
            found["angle"] = np.arctan2(dy, dx) / np.float32(2 * np.pi)
        if "distance" in words:
            found["distance"] = np.hypot(dx, dy)
        for name, id in (("a", self.a), ("b", self.b)):
            if name in words:
                values = ctx.map_values(id, grid) if id else None
                found[name] = np.float32(REST) if values is None else channel(values, "value")
        if "below" in words:
            found["below"] = channel(ctx.below(grid), "value")
        return found


def _words(text: str) -> list[str]:
    return "".join(c if c.isalnum() or c == "_" else " " for c in text).split()


def _noise(grid: Grid, x: Numeric, y: Numeric = 0.0, z: Numeric = 0.0) -> Numeric:
    """One octave of smooth noise, -1...1, at lattice places x, y (arrays) and slice z (a number)."""
    us = np.ascontiguousarray(np.broadcast_to(np.asarray(x, np.float32), grid.shape))
    vs = np.ascontiguousarray(np.broadcast_to(np.asarray(y, np.float32), grid.shape))
    return fractal_at(us, vs, Recipe(octaves=1, z=float(np.mean(z)), seed=1))[..., 0]
