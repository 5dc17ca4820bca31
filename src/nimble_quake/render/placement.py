"""Where a plate lies: the map from its own pixels to shot pixels."""

from __future__ import annotations

from dataclasses import dataclass

from nimble_quake.conventions import Affine
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.raster import affine
from nimble_quake.raster.place import fit_scale


@dataclass(frozen=True)
class Placement:
    """`place`: own pixels -> shot pixels. `pose`: the plate's turn and scale alone, without its fit."""

    box: tuple[float, float]
    place: Affine
    pose: Affine


def placement(plate: PlateKind, box: tuple[float, float], frame: tuple[float, float]) -> Placement:
    """Return where a plate with its own size `box` lies in the frame; one that fills everything lies over it."""
    if plate.endless:
        return Placement(box, affine.IDENTITY, affine.IDENTITY)
    fit = fit_scale(getattr(plate, "fit", "centre"), box, frame) if plate.fits else (1.0, 1.0)
    pose = affine.then(affine.stretch(plate.scale_x, plate.scale_y), affine.turn(plate.turn))
    to_anchor = affine.shift(-plate.anchor[0] * box[0], -plate.anchor[1] * box[1])
    place = affine.then(affine.then(to_anchor, affine.stretch(*fit)), pose)
    return Placement(box, affine.then(place, affine.shift(*plate.position)), pose)
