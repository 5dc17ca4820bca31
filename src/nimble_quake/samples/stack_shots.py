"""Sample shots of the stack: keys and mattes, shapes and patterns, tracked points, finishes. See `make_shots`."""

from __future__ import annotations

import msgspec

from nimble_quake.conventions import Value
from nimble_quake.motion.kinds import Formula
from nimble_quake.params.kinds import Stop
from nimble_quake.samples.pieces import MEDIA, clip, emblem, keys, map_of, night, plate, sample, shot, step, title
from nimble_quake.shot.model import Node, Plate, Shot

TEAL, ROSE = (0.35, 0.85, 0.8, 1.0), (1.0, 0.36, 0.5, 1.0)


def walker(*effects: Node, **values: Value) -> Plate:
    """The walking figure, clear round it."""
    return plate("clip", "walker", "Walker", *effects, file=str(MEDIA / "walker.webm"), fit="contain", **values)


@sample("glass-figure")
def glass_figure() -> Shot:
    """A walking figure as a cut-out of the street behind it, bent and coloured at its rims."""
    figure = map_of("figure", "Figure", step("picture", plate="walker", take="alpha"), step("blur", radius=14.0))
    street = clip(
        "lanterns",
        step(
            "slope",
            map="figure",
            height=260.0,
            smooth=4.0,
            depth=110.0,
            edge="mirror",
            split=True,
            split_red=-0.25,
            split_blue=0.25,
        ),
        matte="walker",
    )
    street = plate("clip", "glass", "Glass figure", *street.effects, **street.values)
    street = msgspec.structs.replace(street, inside="cut")
    cut = plate("group", "cut", "Cut out", step("rim_light", width=7.0, power=0.9), isolated=True)  # after the matte
    hidden = walker(
        scale_x=1.1, scale_y=1.1, position=keys((0, (380.0, 380.0)), (95, (900.0, 380.0)), after="straight")
    )
    hidden = Plate(id=hidden.id, kind="clip", name=hidden.name, on=False, values=hidden.values)
    return shot("Glass figure", 96, [cut, street, hidden, clip("lanterns")], [figure], playhead=44)


@sample("shockwave")
def shockwave() -> Shot:
    """A ring that is seen and that pushes: one shape, its map follows it."""
    grow = keys((24, 0.02), (36, 1.0), (44, 1.5), after="eased")
    ring = plate(
        "shape",
        "ring",
        "Ring",
        step("glow", radius=22.0, power=0.9),
        form="ellipse",
        width=820.0,
        height=820.0,
        fill="none",
        stroke="across",
        thick=90.0,
        ink_stops=(Stop(0.0, (1.0, 0.5, 0.25, 0.0)), Stop(1.0, (1.0, 0.9, 0.7, 0.85))),
        position=(640.0, 400.0),
        scale_x=grow,
        scale_y=grow,
        blend="plus-lighter",
        opacity=keys((23, 0.0), (24, 1.0), (36, 0.8), (46, 0.0)),
    )
    front = map_of("front", "Front", step("picture", plate="ring", take="alpha"), step("blur", radius=10.0))
    hit = step(
        "push",
        map="front",
        mode="out",
        centre=(640.0, 400.0),
        reach_x=140.0,
        rest_by="one",
        edge="mirror",
        split=True,
        split_red=-0.35,
        split_blue=0.35,
    )
    beneath = clip("crowd", hit)
    alone = msgspec.structs.replace(hit, values={**hit.values, "edge": "empty"})  # letters are not repeated beyond
    return shot("Shockwave", 72, [ring, title("BOOM", alone, size=260.0), beneath], [front], playhead=33)


@sample("cloth-stripes")
def cloth_stripes() -> Shot:
    """Blinds pushed by footage; choked, they become cloth."""
    blinds = map_of("blinds", "Blinds", step("pattern", form="stripes", size_x=40.0, size_y=40.0, turn=90.0))
    folds = map_of("folds", "Folds", step("picture", plate="crowd"), step("blur", radius=10.0))
    red = (0.8, 0.24, 0.2, 0.0)
    ramp = (Stop(0.0, red), Stop(0.5, red), Stop(0.501, (0.86, 0.3, 0.24, 1.0)), Stop(1.0, (0.95, 0.55, 0.4, 1.0)))
    cloth = plate(
        "pattern",
        "cloth",
        "Cloth",
        step("push", map="folds", reach_x=26.0, reach_y=60.0, edge="wrap"),
        step("choke", blur=4.0, shrink=5.0, softness=4.0),
        step("drop_shadow", distance=8.0, blur=6.0),
        map="blinds",
        ramp=ramp,
    )
    return shot(
        "Cloth stripes", 96, [cloth, clip("crowd", step("saturation", saturate=0.4))], [blinds, folds], playhead=40
    )


@sample("tracked-squares")
def tracked_squares() -> Shot:
    """Squares that stick to a street push it; labels flicker over it."""
    marks = map_of(
        "marks",
        "Marks",
        step("tracked_points", plate="street", size=46.0, vary=0.6, stretch=1.6),
        step("streaks", length=140.0),
    )
    street = plate(
        "clip",
        "street",
        "Street",
        step(
            "push",
            map="marks",
            reach_x=90.0,
            reach_y=14.0,
            edge="mirror",
            split=True,
            split_red=-0.2,
            split_blue=0.2,
            strength=keys((0, 0.0), (24, 1.0), (72, 1.0), (95, 0.0)),
        ),
        file=str(MEDIA / "windows.mp4"),
        fit="cover",
    )
    labels = plate(
        "number",
        "labels",
        "Labels",
        form="figures",
        digits=6.0,
        labels=14.0,
        rides="street",
        size=18.0,
        colour=TEAL,
        often=8.0,
        blend="plus-lighter",
        opacity=0.85,
    )
    return shot("Tracked squares", 96, [labels, walker(scale_x=0.95, scale_y=0.95), street], [marks], playhead=48)


@sample("text-on-water")
def text_on_water() -> Shot:
    """A title lies on water, then spreads, sinks and fades while the water takes it."""
    water = map_of("water", "Water", step("noise", size_x=340.0, size_y=70.0, octaves=3, churn=0.5, drift=(20.0, 16.0)))
    laid = step("perspective", by="turns", tilt=46.0, depth=1000.0)
    name = title(
        "STILL WATER",
        step("blur", radius=keys((60, 0.0), (95, 7.0), anchor="end")),
        laid,
        step(
            "push",
            map="water",
            reach_x=keys((0, 10.0), (60, 16.0), (95, 90.0), anchor="both"),
            reach_y=keys((0, 8.0), (60, 12.0), (95, 60.0), anchor="both"),
        ),
        size=132.0,
        letter_spacing=keys((56, 6.0), (95, 60.0), anchor="end"),
        blend="screen",
        position=keys((56, (640.0, 540.0)), (95, (640.0, 620.0)), anchor="end"),
        opacity=keys((0, 0.0), (12, 0.55), (60, 0.55), (94, 0.0), anchor="both"),
    )
    canal = plate(
        "artwork",
        "canal",
        "Canal",
        step("push", map="water", reach_x=9.0, reach_y=6.0, edge="mirror"),
        file=str(MEDIA / "canal.svg"),
        fit="cover",
    )
    return shot("Text on water", 96, [name, canal], [water], playhead=50)


@sample("lights-pulled-away")
def lights_pulled_away() -> Shot:
    """The lamps of a street, keyed by brightness, drawn off by a lens on a zigzag."""
    way = keys(
        (12, (640.0, 300.0)),
        (22, (360.0, 220.0)),
        (32, (900.0, 180.0)),
        (42, (300.0, 120.0)),
        (60, (1500.0, -400.0)),
        after="smooth",
    )
    lamps = clip(
        "lanterns",
        step("brightness_key", low=0.52, softness=0.16, shrink=-2.0, blur=2.0),
        step("bulge", centre=way, radius=460.0, amount=-0.9, strength=keys((8, 0.0), (20, 1.0))),
        step("glow", radius=34.0, power=1.4),
        blend="plus-lighter",
    )
    lamps = plate("clip", "lamps", "Lamps", *lamps.effects, **lamps.values)
    street = clip("lanterns", step("exposure", stops=keys((8, 0.0), (60, -1.6)), warmth=-0.25))
    return shot("Lights pulled away", 84, [lamps, street], [], playhead=34)


@sample("swept-line-drawing")
def swept_line_drawing() -> Shot:
    """Neon lines of a street, revealed by a wide soft mask that sweeps across."""
    way = keys((0, (-400.0, 360.0)), (84, (1680.0, 360.0)), after="straight")
    sweep = map_of(
        "sweep",
        "Sweep",
        step("drawn_mask", form="rectangle", width=420.0, height=1200.0, feather=360.0, turn=14.0, place=way),
    )
    lines = clip(
        "stall",
        step("line_drawing", width=3.0, threshold=0.03, smooth=0.1, colour=(1.0, 0.86, 0.9, 1.0)),
        step("tube_light", colour=ROSE, spread=26.0, flat=False, power=0.9),
        mask="sweep",
        blend="plus-lighter",
    )
    lines = plate("clip", "lines", "Lines", *lines.effects, **lines.values)
    return shot("Swept line drawing", 90, [lines, clip("stall", step("exposure", stops=-1.2))], [sweep], playhead=42)


@sample("plastic-pixels")
def plastic_pixels() -> Shot:
    """Noise as a picture, in blocks, lit as if moulded."""
    clouds = map_of(
        "clouds",
        "Clouds",
        step("noise", size_x=420.0, size_y=420.0, octaves=3, churn=0.25, contrast=1.5),
        step("pixelate", size_x=40.0, size_y=40.0),
    )
    blocks = plate(
        "pattern",
        "blocks",
        "Blocks",
        step("relief", depth=70.0, smooth=3.0, shine=0.35, bearing=-120.0),
        step("vignette", amount=0.7),
        map="clouds",
        ramp=(
            Stop(0.0, (0.07, 0.06, 0.24, 1.0)),
            Stop(0.45, (0.55, 0.14, 0.42, 1.0)),
            Stop(0.7, (0.95, 0.45, 0.3, 1.0)),
            Stop(1.0, (1.0, 0.88, 0.6, 1.0)),
        ),
    )
    mark = emblem(
        step("drop_shadow", distance=18.0, blur=10.0), scale_x=0.7, scale_y=0.7, turn=Formula("4 * sin(t * 1.5)")
    )
    return shot("Plastic pixels", 96, [mark, blocks, night()], [clouds], playhead=30)
