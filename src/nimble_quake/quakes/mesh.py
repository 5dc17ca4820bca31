"""Mesh."""

from __future__ import annotations

import math
from typing import ClassVar

import numpy as np

from nimble_quake.conventions import Affine, Pixels, Value, Warp
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.graphs import Curve, Graph
from nimble_quake.operators.quake import FreeQuake
from nimble_quake.operators.quantities import a_count, a_distance, a_fraction, an_angle
from nimble_quake.params.kinds import MAX_NET, Net, Place
from nimble_quake.raster.geometry import affine
from nimble_quake.raster.geometry.net import Table, looked_back, looked_back_on, net_table, slopes_of
from nimble_quake.raster.geometry.places import Places

THIRD = 3.0
"""A handle lies a third of the slope from its point, as one of a Bézier curve does."""
MOST_BENT = 1e5


def _max_displacement(moves: tuple[float, ...]) -> float:
    return max((math.hypot(x, y) for x, y in zip(moves[::2], moves[1::2], strict=True)), default=0.0)


class Mesh(FreeQuake):
    """A net of points moved by hand in the picture, smooth between them; the net itself has a place, size and turn.

    What was at a point's first place is shown where the point is moved to. Keep the net still and move the plate, or
    move the net, and the picture flows through it.
    """

    title = "Mesh"
    group = "Move"
    rank = 2035
    help = "A net whose points are dragged in the picture"
    lively = {"net": tuple(round(70 * math.sin(n * 2.3) * (n % 10 not in (0, 1, 8, 9)), 1) for n in range(40))}
    may_fold = False
    idle_because = "No point of its net is moved"
    simple = False

    columns = a_count("Columns", "Points side by side", 5, MAX_NET, (2, 12))
    rows = a_count("Rows", "Points above each other", 4, MAX_NET, (2, 12))
    net = Net(
        label="Points",
        help="How far the points are moved: drag them in the picture; the one dragged last shows "
        "two handles that bend its lines",
    )
    along = Net(
        label="Bend along", help="How the rows bend at their points: drag the handle beside a point", done="bent"
    )
    down = Net(
        label="Bend down", help="How the columns bend at their points: drag the handle below a point", done="bent"
    )
    grab = a_distance("Grab", "Points this near to the dragged one come along, the nearer the more", 0.0, (0, 400))
    place = Place(label="Place", help="The middle of the net")
    wide = a_fraction("Width", "How wide the net is, beside the frame", 1.0, (0.01, 20))
    high = a_fraction("Height", "How high the net is, beside the frame", 1.0, (0.01, 20))
    turn = an_angle("Turns the net clockwise")

    @classmethod
    def begins_with(cls, width: float, height: float) -> dict[str, object]:
        return {}  # a net is moved by hand: it begins even, and its lines are seen in the picture

    def idle(self) -> bool:
        return self.strength == 0 or not (any(self.net) or any(self.along) or any(self.down))

    def _size(self, moment: Moment) -> tuple[float, float]:
        return self.wide * moment.width, self.high * moment.height

    def _to_net(self, moment: Moment) -> Affine:
        width, height = self._size(moment)
        centred = affine.compose(affine.shift(-self.place[0], -self.place[1]), affine.turn(-self.turn))
        return affine.compose(centred, affine.shift(width / 2, height / 2))

    def own_offsets(self, places: Places, ctx: Context) -> Warp:
        width, height = self._size(ctx.at)
        table = self._table(ctx.at)
        a, b, _, d, e, _ = affine.turn(self.turn)
        if places.warp is None:
            rows, columns = self._counts()
            cells = (columns - 1, rows - 1)
            return looked_back_on(places.grid, self._to_net(ctx.at), (a, b, d, e), table, (width, height), cells)
        return looked_back(places.absolute(), self._to_net(ctx.at), (a, b, d, e), table, (width, height))

    def _counts(self) -> tuple[int, int]:
        return max(2, int(self.rows)), max(2, int(self.columns))

    def _table(self, moment: Moment) -> Table:
        rows, columns = self._counts()
        bends = tuple(self._whole(each) if any(each) else () for each in (self.along, self.down))
        return net_table(self._whole(self.net), rows, columns, *self._size(moment), (bends[0], bends[1]))

    def _whole(self, each: tuple[float, ...]) -> tuple[float, ...]:
        """A list for all points, by the strength; what it does not hold is nothing."""
        rows, columns = self._counts()
        count = 2 * rows * columns
        return tuple(v * self.strength for v in (*each[:count], *(0.0 for _ in range(count - len(each)))))

    def reach_of_offsets(self, ctx: Context) -> Pixels:
        far, along, down = (_max_displacement(self._whole(each)) for each in (self.net, self.along, self.down))
        swing = 1.5 * far + 8 / 27 * (along + down)  # a spline may swing out between its points; so much a bend adds
        return swing * self.most_weight(ctx)

    def _shown(
        self, moment: Moment, columns: np.ndarray, rows: np.ndarray, moves: np.ndarray
    ) -> list[tuple[float, float]]:
        """Where places of the net (columns and rows from its corner, moves (N, 2)) lie in the shot, moved."""
        (wide, high), back = self._cells(moment), affine.inverse(self._to_net(moment))
        assert back is not None
        xs, ys = affine.apply(back, wide * columns + moves[:, 0], high * rows + moves[:, 1])
        return list(zip(np.asarray(xs).tolist(), np.asarray(ys).tolist(), strict=True))

    tied_points: ClassVar[dict[str, str]] = {"along": "net", "down": "net"}

    def dragged_points(self, moment: Moment) -> dict[str, list[tuple[float, float]]]:
        rows, columns = self._counts()
        row, column = (side.ravel() for side in np.mgrid[:rows, :columns])
        moves, natural = np.reshape(self._whole(self.net), (-1, 2)), self._natural(moment).reshape(2, -1, 2)
        found = {"net": self._shown(moment, column, row, moves)}
        for axis, (name, last) in enumerate((("along", column == columns - 1), ("down", row == rows - 1))):
            way = np.where(last, -1, 1) / THIRD  # to the next point, at the end to the one before
            slopes = natural[axis] + np.reshape(self._whole(self.values[name]), (-1, 2))
            found[name] = self._shown(
                moment, column + way * (axis == 0), row + way * (axis == 1), moves + slopes * way[:, None]
            )
        return found

    def _cells(self, moment: Moment) -> tuple[float, float]:
        """The width and the height of a cell."""
        (width, height), (rows, columns) = self._size(moment), self._counts()
        return width / (columns - 1), height / (rows - 1)

    def _natural(self, moment: Moment) -> Value:
        """How steep the moves are at the points with no bend."""
        rows, columns = self._counts()
        return slopes_of(net_table(self._whole(self.net), rows, columns, *self._size(moment)), rows, columns)

    def drawn_lines(self, moment: Moment) -> list[list[tuple[float, float]]]:
        """The lines of the net as they bend: every few samples of its table."""
        table, counts = self._table(moment), self._counts()
        steps = [(side - 1) // (count - 1) for side, count in zip(table.shape[:2], counts, strict=True)]
        parts = [max(1, step // (6 if max(counts) <= 12 else 2)) for step in steps]
        lines = []
        along = np.mgrid[: table.shape[0] : steps[0], : table.shape[1] : parts[1]]
        below = np.mgrid[: table.shape[0] : parts[0], : table.shape[1] : steps[1]].transpose(0, 2, 1)
        for js, xs in (along, below):
            for j, x in zip(js, xs, strict=True):
                lines.append(self._shown(moment, x / steps[1], j / steps[0], table[j, x].astype(np.float64)))
        return lines

    def with_point(self, name: str, number: int, place: tuple[float, float], moment: Moment) -> Value:
        """Points near the dragged one come along, by a smooth step within the grab radius; or a bend of one point."""
        if name != "net":
            return self._with_bend(name, number, place, moment)
        rows, columns = self._counts()
        count = 2 * rows * columns
        moves = [*self.net[:count], *(0.0 for _ in range(count - len(self.net)))]
        width, height = self._size(moment)
        x, y = affine.apply(self._to_net(moment), *place)
        row, column = divmod(number, columns)
        dx = x - width * column / (columns - 1) - moves[2 * number]
        dy = y - height * row / (rows - 1) - moves[2 * number + 1]
        for n in range(rows * columns):
            r, c = divmod(n, columns)
            away = math.hypot((c - column) * width / (columns - 1), (r - row) * height / (rows - 1))
            t = max(0.0, 1 - away / self.grab) if self.grab > 0 else float(n == number)
            fraction = t * t * (3 - 2 * t)
            moves[2 * n] = round(moves[2 * n] + dx * fraction, 2)
            moves[2 * n + 1] = round(moves[2 * n + 1] + dy * fraction, 2)
        return tuple(moves)

    def _with_bend(self, name: str, number: int, place: tuple[float, float], moment: Moment) -> Value:
        """The bends with the handle of one point dragged to a place."""
        rows, columns = self._counts()
        own, moves = list(self.values[name]), self._whole(self.net)
        own = [*own, *(0.0 for _ in range(2 * rows * columns - len(own)))]
        (row, column), axis = divmod(number, columns), ("along", "down").index(name)
        last = (column == columns - 1, row == rows - 1)[axis]
        cell, way = self._cells(moment), (-1 if last else 1) / THIRD
        natural, at = self._natural(moment)[axis, row, column], affine.apply(self._to_net(moment), *place)
        for side, index in enumerate((column, row)):
            from_point = at[side] - cell[side] * index - moves[2 * number + side]
            slope = from_point / way - cell[side] * (side == axis)
            bend = (slope - float(natural[side])) / (self.strength or 1.0)
            own[2 * number + side] = round(min(max(bend, -MOST_BENT), MOST_BENT), 2)
        return tuple(own)

    def summary(self) -> str:
        moved = sum(1 for x, y in zip(self.net[::2], self.net[1::2], strict=True) if x or y)
        return f"{moved} moved"

    def graph(self, rest: float) -> Graph:
        """The net itself, at its rest size, its points moved."""
        rows, columns = self._counts()
        moves, curves = self._whole(self.net), []
        spots = [
            (
                (n % columns) / (columns - 1) + moves[2 * n] / 1280,
                1 - (n // columns) / (rows - 1) - moves[2 * n + 1] / 720,
            )
            for n in range(rows * columns)
        ]
        for r in range(rows):
            curves.append(Curve(tuple(spots[r * columns : (r + 1) * columns])))
        for c in range(columns):
            curves.append(Curve(tuple(spots[c::columns])))
        return Graph(tuple(curves), 1.0, "", "", one_way=True, foot="net")
