"""Mesh."""

from __future__ import annotations

import math
from typing import Any

from nimble_quake.conventions import Affine, Pixels, Warp
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.common import a_count, a_distance, a_share, an_angle
from nimble_quake.operators.graphs import Curve, Graph
from nimble_quake.operators.quake import FreeQuake
from nimble_quake.params.kinds import MAX_NET, Net, Place
from nimble_quake.raster import affine
from nimble_quake.raster.net import looked_back, looked_back_on, net_table
from nimble_quake.raster.places import Places


class Mesh(FreeQuake):
    """A net of points moved by hand in the picture, smooth between them; the net itself has a place, size and turn.

    What was at a point's first place is shown where the point is moved to. Keep the net still and move the plate, or
    move the net, and the picture flows through it.
    """

    title = "Mesh"
    group = "Move"
    rank = 35
    help = "A net whose points are dragged in the picture"
    lively = {"net": tuple(round(70 * math.sin(n * 2.3) * (n % 10 not in (0, 1, 8, 9)), 1) for n in range(40))}
    may_fold = False
    idle_because = "No point of its net is moved"
    simple = False

    columns = a_count("Columns", "Points side by side", 5, MAX_NET, (2, 12))
    rows = a_count("Rows", "Points above each other", 4, MAX_NET, (2, 12))
    net = Net(label="Points", help="How far the points are moved: drag them in the picture")
    grab = a_distance("Grab", "Points this near to the dragged one come along, the nearer the more", 0.0, (0, 400))
    place = Place(label="Place", help="The middle of the net")
    wide = a_share("Width", "How wide the net is, beside the frame", 1.0, (0.01, 20))
    high = a_share("Height", "How high the net is, beside the frame", 1.0, (0.01, 20))
    turn = an_angle("Turns the net clockwise")

    def idle(self) -> bool:
        return self.strength == 0 or not any(self.net)

    def _size(self, moment: Any) -> tuple[float, float]:
        return self.wide * moment.width, self.high * moment.height

    def _to_net(self, moment: Any) -> Affine:
        width, height = self._size(moment)
        centred = affine.then(affine.shift(-self.place[0], -self.place[1]), affine.turn(-self.turn))
        return affine.then(centred, affine.shift(width / 2, height / 2))

    def own_offsets(self, places: Places, ctx: Context) -> Warp:
        width, height = self._size(ctx.at)
        rows, columns = max(2, int(self.rows)), max(2, int(self.columns))
        table = net_table(self._moves_of(rows, columns), rows, columns, width, height)
        a, b, _, d, e, _ = affine.turn(self.turn)
        if places.warp is None:
            return looked_back_on(places.grid, self._to_net(ctx.at), (a, b, d, e), table, (width, height))
        return looked_back(places.absolute(), self._to_net(ctx.at), (a, b, d, e), table, (width, height))

    def _moves_of(self, rows: int, columns: int) -> tuple[float, ...]:
        """The moves of all points; what the list does not hold is not moved."""
        count = 2 * rows * columns
        held = (*self.net[:count], *(0.0 for _ in range(count - len(self.net))))
        return tuple(v * self.strength for v in held)

    def reach_of_offsets(self, ctx: Context) -> Pixels:
        moves = self._moves_of(int(self.rows), int(self.columns))
        far = max((math.hypot(x, y) for x, y in zip(moves[::2], moves[1::2], strict=True)), default=0.0)
        return 1.5 * far * self.most_weight(ctx)  # a spline may swing out between its points

    def _points_at(self, moment: Any) -> list[tuple[float, float]]:
        """Where the points lie now, moved, row by row."""
        width, height = self._size(moment)
        rows, columns = max(2, int(self.rows)), max(2, int(self.columns))
        back, moves = affine.inverse(self._to_net(moment)), self._moves_of(rows, columns)
        assert back is not None
        found = []
        for n in range(rows * columns):
            row, column = divmod(n, columns)
            x, y = width * column / (columns - 1), height * row / (rows - 1)
            found.append(affine.apply(back, x + moves[2 * n], y + moves[2 * n + 1]))
        return found

    def dragged_points(self, moment: Moment) -> dict[str, list[tuple[float, float]]]:
        return {"net": self._points_at(moment)}

    def drawn_lines(self, moment: Moment) -> list[list[tuple[float, float]]]:
        at, columns = self._points_at(moment), max(2, int(self.columns))
        rows = [at[n : n + columns] for n in range(0, len(at), columns)]
        return [*rows, *([row[n] for row in rows] for n in range(columns))]

    def with_point(self, name: str, number: int, place: tuple[float, float], moment: Moment) -> Any:
        """Points near the dragged one come along, by a smooth step within the grab radius."""
        rows, columns = max(2, int(self.rows)), max(2, int(self.columns))
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
            share = t * t * (3 - 2 * t)
            moves[2 * n] = round(moves[2 * n] + dx * share, 2)
            moves[2 * n + 1] = round(moves[2 * n + 1] + dy * share, 2)
        return tuple(moves)

    def summary(self) -> str:
        moved = sum(1 for x, y in zip(self.net[::2], self.net[1::2], strict=True) if x or y)
        return f"{moved} moved"

    def graph(self, rest: float) -> Graph:
        """The net itself, at its rest size, its points moved."""
        rows, columns = max(2, int(self.rows)), max(2, int(self.columns))
        moves, curves = self._moves_of(rows, columns), []
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
