"""Sample shots of what is seen through something: drips on glass, a net, haze. See `make_shots`."""

from __future__ import annotations

import msgspec

from nimble_quake.motion.kinds import Formula
from nimble_quake.samples.pieces import clip, emblem, keys, map_of, plate, sample, shot, step
from nimble_quake.shot.model import Marker, Shot


@sample("drips-on-glass")
def drips_on_glass() -> Shot:
    drips = map_of(
        "drips",
        "Drips",
        step("drips", layers=3, lane=130.0, spacing=1500.0, radius=24.0, streak=700.0, speed=420.0, wander=16.0),
        step("blur", radius=5.0),
    )
    plates = [
        plate(
            "lens",
            "glass",
            "Glass",
            step(
                "slope",
                map="drips",
                height=260.0,
                smooth=6.0,
                depth=120.0,
                bends_by="glass",
                edge="mirror",
                light=True,
                light_brightness=0.3,
            ),
        ),
        clip("lanterns", step("blur", radius=18.0, keep=True)),
    ]
    made = shot("Endless drips on glass", 144, plates, [drips], playhead=40)
    return msgspec.structs.replace(made, width=3840, height=2160)


@sample("through-the-net")
def through_the_net() -> Shot:
    """The emblem and the net's strength both *arrive* between the two markers."""
    net = [0.0] * 70  # 7 columns, 5 rows
    for row, column, x, y in (
        (1, 2, 70, -60),
        (2, 2, 120, 40),
        (3, 2, 40, 90),
        (1, 4, -90, -80),
        (2, 4, -140, 10),
        (3, 4, -60, 100),
        (2, 3, 0, -110),
    ):
        net[2 * (7 * row + column) : 2 * (7 * row + column) + 2] = [float(x), float(y)]
    weave = step("mesh", columns=7.0, rows=5.0, net=tuple(net), strength=keys((0, 1.0), (84, 0.0), ease="ease-out"))
    return shot(
        "Through the net",
        120,
        [
            emblem(
                weave,
                scale_x=0.8,
                scale_y=0.8,
                position=keys((0, (1920.0, 360.0)), (84, (640.0, 360.0)), ease="ease-out"),
            ),
            clip("stall"),
        ],
        [],
        playhead=44,
        markers=(Marker(frame=0, name="comes"), Marker(frame=84, name="whole")),
    )


@sample("stall-through-haze")
def stall_through_haze() -> Shot:
    heat = map_of("heat", "Heat", step("noise", size_x=90.0, size_y=60.0, octaves=3, churn=0.8, drift=(0.0, -108.0)))
    pots = map_of(
        "pots", "Over the pots", step("drawn_mask", place=(640.0, 330.0), width=900.0, height=420.0, feather=220.0)
    )
    return shot(
        "Heat haze, push and blur",
        120,
        [
            clip(
                "stall",
                step(
                    "push", map="heat", reach_x=0.0, reach_y=Formula("5 + 2 * sin(t * 1.3)"), mask="pots", edge="hold"
                ),
                step("soften", map="heat", radius=3.0, rest_by="two", mask="pots"),
            )
        ],
        [heat, pots],
        playhead=50,
    )
