"""Make the sample shots of single effects: `python -m nimble_quake.samples.make_shots [FOLDER]`.

Each function is one shot of *Lantern Row*, as short as its effect can be said. The files beside this one were made by
it; the longer samples (the opener, the sign, the stall) were built in the window.
"""

from __future__ import annotations

import sys
from pathlib import Path

from nimble_quake.samples import FOLDER, glass_shots, sound_shots, stack_shots
from nimble_quake.samples.front_tables import FRONTS, fronted
from nimble_quake.samples.pieces import (
    MEDIA,
    SHOTS,
    clip,
    emblem,
    keys,
    map_of,
    night,
    plate,
    sample,
    shot,
    step,
    title,
)
from nimble_quake.shot.model import Marker, Node, Shot
from nimble_quake.shotfile.files import read_shot, write_shot


@sample("arrive-from-clouds")
def arrive_from_clouds() -> Shot:
    clouds = map_of("clouds", "Clouds", step("noise", size_x=260.0, size_y=200.0, octaves=4, churn=0.4, contrast=1.4))
    come = keys((0, 420.0), (30, 0.0), anchor="start")
    return shot(
        "Arrive from clouds",
        72,
        [
            emblem(
                step("push", map="clouds", reach_x=come, linked=True),
                step("soften", map="clouds", radius=keys((0, 26.0), (30, 0.0), anchor="start"), rest_by="two"),
                scale_x=0.9,
                scale_y=0.9,
                opacity=keys((0, 0.0), (16, 1.0), anchor="start"),
            ),
            night(),
        ],
        [clouds],
        playhead=12,
    )


@sample("text-ripple")
def text_ripple() -> Shot:
    swell = map_of("swell", "Swell", step("noise", size_x=420.0, size_y=150.0, octaves=2, churn=0.45))
    blocks = map_of(
        "blocks", "Blocks", step("blocks", size_x=150.0, size_y=70.0, rate=6.0, density=0.35), step("blur", radius=2.0)
    )
    return shot(
        "Text ripple",
        96,
        [
            title("LANTERN\nROW", step("push", map="swell", reach_x=34.0, reach_y=26.0), line_spacing=0.95),
            clip("crowd", step("push", map="blocks", reach_x=60.0, reach_y=0.0, edge="mirror")),
        ],
        [swell, blocks],
        playhead=40,
    )


@sample("ribbed-glass")
def ribbed_glass() -> Shot:
    ribs = map_of("ribs", "Ribs", step("ribs", size=40.0))
    return shot(
        "Ribbed glass",
        120,
        [
            plate(
                "lens",
                "pane",
                "Pane",
                step(
                    "push",
                    map="ribs",
                    reach_x=51.0,
                    reach_y=-7.0,
                    edge="mirror",
                    light=True,
                    light_brightness=0.12,
                    light_from=180.0,
                    light_depth=14.0,
                ),
                step("grade", map="ribs", brighten=0.08, grain=0.25),
                shape="rectangle",
                width=620.0,
                height=720.0,
                position=keys((0, (420.0, 360.0)), (119, (860.0, 360.0))),
            ),
            clip("lanterns"),
        ],
        [ribs],
        playhead=50,
    )


@sample("glass-lens")
def glass_lens() -> Shot:
    way = keys((0, (330.0, 380.0)), (40, (640.0, 330.0)), (80, (940.0, 390.0)), (119, (640.0, 360.0)), after="smooth")
    return shot(
        "Glass lens",
        120,
        [
            plate(
                "lens",
                "glass",
                "Glass",
                step(
                    "bulge",
                    centre=way,
                    radius=170.0,
                    amount=0.85,
                    soft=0.0,
                    split=True,
                    split_red=-0.05,
                    split_blue=0.05,
                    split_form="radial",
                    split_centre=way,
                ),
                step("glow", radius=30.0, power=0.25),
                shape="ellipse",
                width=336.0,
                height=336.0,
                soft=3.0,
                position=way,
            ),
            title("LANTERN ROW", size=150.0),
            clip("lanterns"),
        ],
        [],
        playhead=48,
    )


@sample("puddle-rings")
def puddle_rings() -> Shot:
    groups = [
        step(
            "rings",
            f"rings-{n}",
            centre=centre,
            first=n * 5 / 24,
            count=3,
            stagger=5 / 24,
            again=1.6,
            width=70.0,
            speed=430.0,
            life=1.5,
            combine="over" if n == 0 else "add",
        )
        for n, centre in enumerate(((420.0, 430.0), (900.0, 300.0), (760.0, 560.0)))
    ]
    return shot(
        "Puddle rings",
        96,
        [
            clip(
                "rain",
                step(
                    "slope",
                    map="rings",
                    height=110.0,
                    smooth=7.0,
                    bends_by="water",
                    depth=90.0,
                    edge="wrap",
                    light=True,
                    light_brightness=0.22,
                ),
            )
        ],
        [map_of("rings", "Rings", *groups)],
        playhead=20,
    )


@sample("line-ripple")
def line_ripple() -> Shot:
    swells = map_of(
        "swells",
        "Swells",
        step(
            "shape",
            width=240.0,
            height=110.0,
            soft=70.0,
            life=1.6,
            grow=2.6,
            again=1.5,
            count=3,
            stagger=0.5,
            spread=620.0,
            spin=0.0,
        ),
        step("blur", radius=14.0),
    )
    lines = plate(
        "artwork",
        "lines",
        "Lines",
        step("push", map="swells", reach_x=0.0, reach_y=120.0),
        step("echo", copies=3, delay=0.16, decay=0.45, meet="lighten"),
        file=str(MEDIA / "lines.svg"),
    )
    return shot("Line ripple", 96, [lines, night()], [swells], playhead=30)


@sample("assemble-and-leave")
def assemble_and_leave() -> Shot:
    bands = map_of("bands", "Bands", step("bands", count=11, order="chance", turn=90.0))
    reach = keys((0, -1400.0), (30, 0.0), (66, 0.0), (95, 1400.0), anchor="both")
    return shot(
        "Assemble and leave",
        96,
        [
            title("TEA  HOUSE", step("push", map="bands", reach_x=reach, reach_y=0.0, rest_by="two"), size=190.0),
            night(),
        ],
        [bands],
        playhead=14,
        markers=(Marker(frame=30, name="whole"), Marker(frame=66, name="leaves")),
    )


@sample("time-sliced-title")
def time_sliced_title() -> Shot:
    """Three gestures between two markers: *leave* for the grey of the bands, *arrive* for the wave and the place."""
    grey = keys((0, 0.0), (72, 0.5), ease="ease-in")
    slices = map_of("slices", "Slices", step("bands", count=18, turn=0.0, first=0.5, last=grey))
    swings = keys((0, 60.0), (72, 0.0), ease="ease-out")
    return shot(
        "Time-sliced title",
        96,
        [
            title(
                "NIGHT MARKET",
                step("wave", amplitude=swings, length=700.0, turn=0.0, speed=900.0),
                step("delay", map="slices", seconds=1.2, rest_by="two"),
                size=150.0,
                position=keys((0, (1920.0, 360.0)), (72, (640.0, 360.0)), ease="ease-out"),
            ),
            night(),
        ],
        [slices],
        playhead=54,
        markers=(Marker(frame=0, name="comes"), Marker(frame=72, name="whole")),
    )


@sample("moving-water")
def moving_water() -> Shot:
    water = map_of(
        "water",
        "Water",
        step("noise", size_x=360.0, size_y=46.0, octaves=3, churn=0.5, drift=(26.0, 10.0)),
        step(
            "perspective",
            top_left=(380.0, 380.0),
            top_right=(900.0, 380.0),
            bottom_right=(1900.0, 720.0),
            bottom_left=(-620.0, 720.0),
            beyond="mirror",
        ),
    )
    shore = ((-0.5, -0.48), (0.5, -0.48), (0.5, 0.55), (-0.5, 0.55))
    canal = map_of(
        "canal",
        "Canal",
        step(
            "drawn_mask", form="polygon", place=(640.0, 550.0), width=1300.0, height=340.0, outline=shore, feather=26.0
        ),
    )
    return shot(
        "Moving water in a still",
        120,
        [
            plate(
                "artwork",
                "canal",
                "Canal",
                step("slope", map="water", height=130.0, smooth=3.0, depth=46.0, mask="canal", edge="mirror"),
                file=str(MEDIA / "canal.svg"),
                fit="cover",
            )
        ],
        [water, canal],
        playhead=30,
    )


@sample("ring-burst")
def ring_burst() -> Shot:
    noise = Node(
        id="noise",
        kind="noise",
        inside="bracket",
        values={"size_x": 90.0, "size_y": 160.0, "octaves": 3, "drift": (0.0, 520.0)},
    )
    burst = map_of("burst", "Burst", step("flat"), step("bracket", space="rings"), noise, step("blur", radius=3.0))
    return shot(
        "Ring burst",
        72,
        [
            emblem(
                step(
                    "push",
                    map="burst",
                    mode="out",
                    reach_x=keys((0, 0.0), (14, 160.0), (60, 0.0)),
                    split=True,
                    split_red=-0.12,
                    split_blue=0.12,
                ),
                scale_x=0.85,
                scale_y=0.85,
            ),
            clip(
                "lanterns",
                step("push", map="burst", mode="out", reach_x=keys((0, 0.0), (14, 60.0), (60, 0.0)), edge="mirror"),
            ),
        ],
        [burst],
        playhead=16,
    )


@sample("stretched-letters")
def stretched_letters() -> Shot:
    pull = keys((0, 1.0), (24, 4.0), (56, 4.0), (84, 1.0))
    return shot(
        "Stretched letters",
        96,
        [
            title(
                "NOODLES",
                step("cut_lines", place=(640.0, 350.0), lines=2.0, apart=34.0, stretch=pull, stays="middle"),
                size=220.0,
            ),
            clip("stall", step("blur", radius=12.0, keep=True)),
        ],
        [],
        playhead=36,
    )


ALSO = (glass_shots, sound_shots, stack_shots)
"""Their shots stand in the same list."""

if __name__ == "__main__":
    target = Path(sys.argv[1]) if len(sys.argv) > 1 else FOLDER
    for file, make in SHOTS.items():
        write_shot(fronted(make(), file), target / f"{file}.nquake", backup=False)
        print(target / f"{file}.nquake")
    for file in FRONTS.keys() - SHOTS.keys():  # made by hand: only their fronts are
        write_shot(fronted(read_shot(FOLDER / f"{file}.nquake"), file), target / f"{file}.nquake", backup=False)
