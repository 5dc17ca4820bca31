"""One shot at one moment, with all that operators may ask of the renderer (operators.base.Feed)."""

from __future__ import annotations

from contextlib import nullcontext

from nimble_quake.conventions import REST, Field, Frames, Picture, Seconds
from nimble_quake.errors import ShotError
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Tracked
from nimble_quake.raster.grid import Grid
from nimble_quake.raster.light import to_encoded
from nimble_quake.render.exceptions import Exceptions
from nimble_quake.render.groups import plate_operator, stacked
from nimble_quake.render.maps import map_rest, other_map
from nimble_quake.render.pins import tracked_points
from nimble_quake.render.plates import finished, on_whole, plate_layer
from nimble_quake.render.pull import MOST_LOOKS
from nimble_quake.render.stack import beneath_of, stack_over
from nimble_quake.render.state import Engine, Problem, State, moment_in, moment_of
from nimble_quake.render.world import ShotWorld
from nimble_quake.shot.model import Shot
from nimble_quake.shot.paths import owner_id


class Job(State):
    """A shot at a frame."""

    def map_values(self, map_id: str, grid: Grid, seconds: Seconds | None = None) -> Field | None:
        return other_map(self, map_id, grid, seconds)

    def map_rest(self, map_id: str) -> float:
        map = self.shot.map(map_id)
        return REST if map is None else map_rest(self, map)

    def plate_picture(
        self,
        plate_id: str,
        grid: Grid,
        *,
        with_effects: bool,
        seconds: Seconds | None = None,
        exceptions: Exceptions = (),
    ) -> tuple[Picture, bool]:
        if exceptions:
            return self.differing(exceptions).plate_picture(plate_id, grid, with_effects=with_effects, seconds=seconds)
        if seconds is not None and seconds != self.moment.seconds:
            self.count_look(MOST_LOOKS)
            return self.at(seconds).plate_picture(plate_id, grid, with_effects=with_effects)
        plate = self.shot.plate(plate_id)
        if plate is None:
            raise ShotError(f'there is no plate "{plate_id}"', where=self.path, cure="choose another plate")
        with self.unseen():
            operator = plate_operator(self, plate)
            lens = operator is not None and operator.beneath
            with finished(self, plate) if with_effects else nullcontext():
                ground = beneath_of(self, plate, grid) if lens else None
            layer = plate_layer(self, plate, grid, with_effects=with_effects, beneath=ground)
        shown = on_whole(layer, grid)
        return to_encoded(shown) if self.shot.linear else shown, layer is not None and layer.bits8

    def tracked(self, plate_id: str, seconds: Seconds | None = None) -> Tracked | None:
        return tracked_points(self if seconds is None else self.at(seconds), plate_id)

    def beneath_picture(self, plate_path: str, grid: Grid) -> Picture:
        plate = self.shot.plate(owner_id(plate_path))
        assert plate is not None
        with self.unseen():
            return beneath_of(self, plate, grid).on(grid)

    def members_picture(self, plate_path: str, grid: Grid) -> Picture:
        return stack_over(self, stacked(self, owner_id(plate_path)), grid, (0.0, 0.0, 0.0, 0.0))


def seen_moment(engine: Engine, shot: Shot, frame: Frames) -> Moment:
    """Return a shot's moment for what is shown at once: sounds that are not decoded yet are silent."""
    return moment_in(engine, shot, frame, lambda plate, at: Job(engine, shot, at).tracked(plate), waits=False)


def seen_world(engine: Engine, shot: Shot) -> ShotWorld:
    """Return what moving values of a shot ask, for what is shown at once."""
    return engine.world(shot, lambda plate, at: Job(engine, shot, at).tracked(plate), waits=False)


__all__ = ["Engine", "Job", "Problem", "ShotWorld", "moment_of", "seen_moment", "seen_world"]
