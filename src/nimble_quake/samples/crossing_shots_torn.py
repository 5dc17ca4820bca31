"""More of the crossings that come with the program: clouds, failing signals, strips, dust, a net."""

from __future__ import annotations

import math

from nimble_quake.motion.drivers.follow import Follow
from nimble_quake.motion.kinds import Driven
from nimble_quake.samples.crossing_pieces import ACROSS, MIRROR, NOISE, SOFT, STRENGTH, amount, cross, follow, ramp
from nimble_quake.samples.fronts import Dial
from nimble_quake.samples.pieces import map_of, step
from nimble_quake.shot.model import Shot


def clouds() -> dict[str, Shot]:
    """Into clouds, into hot air."""
    return {
        "into-clouds": cross(
            "Into clouds and out of them",
            maps=(NOISE,),
            sides=(
                (
                    step(
                        "push",
                        "blown",
                        map="clouds",
                        reach_x=follow("progress", 420.0),
                        reach_y=follow("progress", 300.0),
                        **MIRROR,
                    ),
                    step("soften", "dims", map="clouds", radius=follow("progress", 30.0), rest_by="two"),
                ),
                (
                    step(
                        "push",
                        "gathers",
                        map="clouds",
                        reach_x=follow("progress", -420.0, 420.0),
                        reach_y=follow("progress", -300.0, 300.0),
                        **MIRROR,
                    ),
                    step("soften", "clears", map="clouds", radius=follow("progress", -30.0, 30.0), rest_by="two"),
                ),
            ),
            by="clouds",
            soft=0.5,
            dials=(
                Dial("Billow", "maps/clouds/steps/noise/churn", span=(0, 3)),
                Dial(
                    "Cloud size",
                    "maps/clouds/steps/noise/size_x",
                    also=("maps/clouds/steps/noise/size_y",),
                    span=(60, 900),
                ),
                SOFT,
            ),
        )
    }


def heat() -> dict[str, Shot]:
    """Into hot air."""
    return {
        "heat-dissolve": cross(
            "Heat dissolve",
            step("push", map="heat", reach_x=6.0, reach_y=46.0, strength=STRENGTH, **MIRROR),
            step("soften", map="heat", radius=10.0, rest_by="two", strength=STRENGTH),
            maps=(
                map_of(
                    "heat", "Heat", step("noise", size_x=110.0, size_y=80.0, octaves=3, churn=1.0, drift=(0.0, -160.0))
                ),
            ),
            by="heat",
            soft=0.8,
            ease="eased",
            dials=(
                Dial("Heat", amount("push", "reach_y"), span=(0, 200)),
                Dial("Ripples", "maps/heat/steps/noise/size_x", also=("maps/heat/steps/noise/size_y",), span=(20, 400)),
                Dial("Blur", amount("soften", "radius"), span=(0, 40)),
                SOFT,
            ),
        )
    }


def signal() -> dict[str, Shot]:
    """Torn by a failing signal."""
    return {
        "bad-signal": cross(
            "Bad signal",
            step(
                "push",
                map="lines",
                reach_x=160.0,
                reach_y=0.0,
                split=True,
                split_red=-0.4,
                split_blue=0.4,
                strength=STRENGTH,
                **MIRROR,
            ),
            maps=(
                map_of(
                    "lines",
                    "Lines",
                    step("noise", size_x=620.0, size_y=54.0, octaves=2, churn=14.0, contrast=1.8),
                    step("pixelate", size_x=160.0, size_y=24.0),
                ),
                map_of(
                    "blocks",
                    "Blocks",
                    step("noise", size_x=200.0, size_y=90.0, octaves=2, churn=4.0, contrast=1.6),
                    step("pixelate", size_x=80.0, size_y=40.0),
                ),
            ),
            by="blocks",
            soft=0.02,
            dials=(
                Dial("Tear", amount("push", "reach_x"), span=(0, 500)),
                Dial("Lines", "maps/lines/steps/pixelate/size_y", span=(2, 120)),
                Dial(
                    "Blocks",
                    "maps/blocks/steps/pixelate/size_x",
                    also=("maps/blocks/steps/pixelate/size_y",),
                    span=(8, 200),
                ),
                Dial("Jitter", "maps/lines/steps/noise/churn", span=(0, 40)),
            ),
        )
    }


def shuffled() -> dict[str, Shot]:
    """Blocks thrown about."""
    return {
        "block-shuffle": cross(
            "Block shuffle",
            step("push", map="cells", reach_x=180.0, reach_y=100.0, strength=STRENGTH, **MIRROR),
            maps=(
                map_of(
                    "cells",
                    "Cells",
                    step("noise", size_x=120.0, size_y=120.0, octaves=1, churn=0.3, contrast=2.0),
                    step("pixelate", size_x=80.0, size_y=80.0),
                ),
            ),
            by="cells",
            soft=0.1,
            dials=(
                Dial("Throw", amount("push", "reach_x"), also=(amount("push", "reach_y"),), span=(0, 600)),
                Dial(
                    "Block size",
                    "maps/cells/steps/pixelate/size_x",
                    also=("maps/cells/steps/pixelate/size_y",),
                    span=(10, 240),
                ),
                Dial("Which", "maps/cells/steps/noise/seed", span=(1, 999)),
            ),
        )
    }


def torn() -> dict[str, Shot]:
    """Cut into strips, or run down."""
    return {
        "two-way-bands": cross(
            "Two-way bands",
            step("push", map="bands", reach_x=900.0, reach_y=0.0, rest_by="two", strength=STRENGTH, **MIRROR),
            maps=(map_of("bands", "Bands", step("bands", count=9.0, order="chance", turn=90.0)),),
            ease="late",
            dials=(
                Dial("How far", amount("push", "reach_x"), span=(0, 2000)),
                Dial("Bands", "maps/bands/steps/bands/count", span=(2, 60)),
                Dial("Direction", "maps/bands/steps/bands/turn", span=(-90, 90)),
            ),
        ),
        "drips-wipe": cross(
            "Drips wipe",
            step("push", map="runs", reach_x=0.0, reach_y=90.0, strength=STRENGTH, **MIRROR),
            maps=(
                ramp(
                    "down",
                    (640.0, 0.0),
                    (640.0, 720.0),
                    step("noise", "runs", size_x=60.0, size_y=1400.0, octaves=3, combine="add", opacity=0.5),
                ),
                map_of("runs", "Runs", step("noise", size_x=60.0, size_y=1400.0, octaves=3)),
            ),
            by="down",
            soft=0.06,
            dials=(
                Dial("Runs", amount("push", "reach_y"), span=(0, 300)),
                Dial(
                    "Run width", "maps/down/steps/runs/size_x", also=("maps/runs/steps/noise/size_x",), span=(10, 240)
                ),
                SOFT,
            ),
        ),
        "torn-apart": cross(
            "Torn apart",
            step(
                "cut_lines",
                place=(640.0, 360.0),
                lines=4.0,
                apart=90.0,
                stretch=follow("strength", 5.0, 1.0),
                stays="middle",
                **MIRROR,
            ),
            ease="eased",
            dials=(
                Dial("Stretch", amount("cut-lines", "stretch"), like=6.0, span=(1, 14)),
                Dial("Cuts", amount("cut-lines", "lines"), span=(1, 12)),
                Dial("Apart", amount("cut-lines", "apart"), span=(10, 300)),
            ),
        ),
    }


def blown() -> dict[str, Shot]:
    """Blown away, or carried off by a wave."""
    return {
        "dispersal": cross(
            "Dispersal",
            step("scatter", reach=follow("strength", 140.0), grain=3.0, **MIRROR),
            maps=(
                ramp(
                    "blown",
                    (0.0, 0.0),
                    (1280.0, 200.0),
                    step("noise", "dust", size_x=40.0, size_y=40.0, octaves=3, combine="add", opacity=0.6),
                ),
            ),
            by="blown",
            soft=0.15,
            dials=(
                Dial("How far", amount("scatter", "reach"), like=140.0, span=(0, 500)),
                Dial("Grain", amount("scatter", "grain"), span=(1, 24)),
                SOFT,
            ),
        ),
        "wave-through": cross(
            "Wave through",
            step("wave", amplitude=follow("strength", 120.0), length=420.0, turn=90.0, speed=600.0, **MIRROR),
            maps=(ACROSS,),
            by="across",
            soft=0.7,
            dials=(
                Dial("Height", amount("wave", "amplitude"), like=120.0, span=(0, 400)),
                Dial("Length", amount("wave", "length"), span=(40, 1400)),
                SOFT,
            ),
        ),
    }


def flowing() -> dict[str, Shot]:
    """Through a net that travels."""
    columns, rows, far = 9, 5, 150.0
    inner = [(r, c) for r in range(rows) for c in range(columns)]
    net: list[float] = []
    for row, column in inner:  # its rim is even, so that what it has not reached stands still
        swing = math.sin(math.pi * column / (columns - 1)) ** 2 * far
        net += [round(swing * math.cos(2.4 * row + 2.1 * column), 1), round(swing * math.sin(1.7 * row + 2.9 * column))]
    return {
        "through-the-net": cross(
            "Through the net",
            step(
                "mesh",
                columns=float(columns),
                rows=float(rows),
                net=tuple(net),
                high=1.25,
                place=Driven((-240.0, 360.0), (1760.0, 0.0), Follow({"path": "plates/crossing/progress"})),
                strength=STRENGTH,
                **MIRROR,
            ),
            maps=(ACROSS,),
            by="across",
            soft=0.35,
            dials=(
                Dial("Pull", amount("mesh", "strength"), like=1.0, span=(0, 2.5)),
                Dial("Width", amount("mesh", "wide"), span=(0.3, 3)),
                Dial("Turn", amount("mesh", "turn"), span=(-90, 90)),
                SOFT,
            ),
        )
    }
