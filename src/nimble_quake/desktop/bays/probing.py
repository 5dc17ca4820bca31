"""The probe: one place, seen in both viewers; what the map says there, and where the picture's pixel came from."""

from __future__ import annotations

from PyQt6.QtCore import QPointF

from nimble_quake.conventions import Field
from nimble_quake.desktop.bays.map_bay import MapBay
from nimble_quake.desktop.bays.picture_bay import PictureBay
from nimble_quake.desktop.coupling.coupling import Coupling
from nimble_quake.desktop.widgets.arithmetic import shown_number
from nimble_quake.operators.quake import Quake
from nimble_quake.raster.colour.channels import channel
from nimble_quake.render.shown.request import BenchResponse
from nimble_quake.session.state import Session


class Probing:
    """Joins both viewers and the coupling graph."""

    def __init__(self, session: Session, map_bay: MapBay, coupling: Coupling, picture_bay: PictureBay) -> None:
        self.session, self.map_bay, self.coupling, self.picture_bay = session, map_bay, coupling, picture_bay
        self.place: QPointF | None = None
        self.response: BenchResponse | None = None
        map_bay.viewer.probed.connect(self.show)
        picture_bay.viewer.probed.connect(self.show)

    def take(self, response: BenchResponse) -> None:
        """Remember the values of the frame shown; while playing there are none."""
        self.response = response if response.request.probe else None
        self.show(self.place)

    def show(self, place: QPointF | None) -> None:
        """Show the probe at a shot place, or hide it."""
        self.place = place
        self.coupling.graph.show_value(self.read_values())
        values = self.map_values()
        map_tag = f"value {values[0]:.3f}" if values else ""
        pushed = self.push()
        tag = f"{shown_number(pushed[0], 1)}, {shown_number(pushed[1], 1)} px" if pushed else ""
        inside = place is not None and -0.5 <= place.x() / self.session.shot.width <= 1.5
        shown = place if inside else None
        self.map_bay.viewer.show_probe(shown, map_tag)
        before, self.picture_bay.origin = self.picture_bay.origin, None
        if pushed and shown is not None and pushed != (0.0, 0.0):
            # The push is where the picture went; its pixel came from the opposite side.
            self.picture_bay.origin = (shown, QPointF(shown.x() - pushed[0], shown.y() - pushed[1]))
        self.picture_bay.viewer.show_probe(shown, tag)
        if self.picture_bay.origin != before:
            self.picture_bay.viewer.update()

    def map_values(self) -> tuple[float, float] | None:
        """Return the values (across, down) of the map that is looked at, under the probe."""
        if self.response is None or self.response.values is None:
            return None
        at = self._sample(self.response.values)
        if at is None:
            return None
        (row, column), values = at, self.response.values
        quake = self.session.operator_now(self.session.selection.quake)
        names = quake.channels_read() if isinstance(quake, Quake) else ("value", "value")
        here = values[row : row + 1, column : column + 1]
        across, down = (float(channel(here, name, axis)[0, 0]) for axis, name in enumerate(names))
        return across, down

    def read_values(self) -> tuple[float, float] | None:
        """Return what the selected quake reads of its own map under the probe, across and down."""
        if self.response is None or self.response.reading is None:
            return None
        at = self._sample(self.response.reading.values)
        if at is None:
            return None
        across, down = self.response.reading.values[at]
        return float(across), float(down)

    def _sample(self, values: Field) -> tuple[int, int] | None:
        """The row and column of a map's values under the probe."""
        if self.response is None or self.place is None:
            return None
        scale = self.response.request.map_scale
        column, row = int(self.place.x() * scale), int(self.place.y() * scale)
        return (row, column) if 0 <= column < values.shape[1] and 0 <= row < values.shape[0] else None

    def push(self) -> tuple[float, float] | None:
        """Return how far the selected plate's picture is moved at the probe, all its quakes together."""
        if self.response is None or self.place is None or self.response.warp is None:
            return None
        (left, top), warp, scale = self.response.warp_at, self.response.warp, self.response.request.scale
        column, row = int(self.place.x() * scale) - left, int(self.place.y() * scale) - top
        if not (0 <= column < warp.shape[2] and 0 <= row < warp.shape[1]):
            return None
        return -float(warp[0, row, column]), -float(warp[1, row, column])
