"""The fronts of all samples: here those made for clips and maps, beside those of titles."""

from __future__ import annotations

from collections.abc import Mapping

import msgspec

from nimble_quake.samples.front_titles import CLIP, FIGURE, LOGO, TITLES, sizes, title
from nimble_quake.samples.fronts import Dial, brought
from nimble_quake.shot.model import Shot


def fronted(shot: Shot, name: str) -> Shot:
    """Return a sample with its front."""
    return brought(msgspec.structs.replace(shot, front=()), FRONTS.get(name, ()))


FRONTS: Mapping[str, tuple[Dial, ...]] = {
    **TITLES,
    "beat-rings": (
        Dial(CLIP, "plates/rain"),
        Dial(
            "Sound",
            "sounds/market-drums/file",
            tip="Its beats drop the rings: find them anew with Sound › Find the beats",
        ),
        Dial(
            "Depth",
            "plates/rain/effects/slope/height",
            span=(0, 400),
            tip="How steep the rings are: how far the picture bends",
        ),
        Dial("Glint", "plates/rain/effects/slope/light_brightness", span=(0, 1), tip="How bright light lies on them"),
        Dial("Ring width", "maps/rings/steps/rings/width", span=(10, 240), tip="How wide each ring is"),
        Dial("Speed", "maps/rings/steps/rings/speed", span=(50, 1500), tip="How fast they run out"),
        Dial("Centre", "maps/rings/steps/rings/centre"),
        Dial("Spread", "maps/rings/steps/rings/spread", span=(0, 1280), tip="How far from the centre drops may fall"),
    ),
    "cloth-stripes": (
        Dial(FIGURE, "plates/crowd", mine=True),
        Dial("Folds", "plates/cloth/effects/push/reach_y", span=(0, 200), tip="How deep the figure lies in the cloth"),
        Dial(
            "Sideways",
            "plates/cloth/effects/push/reach_x",
            span=(-100, 100),
            tip="How far the stripes give way sideways",
        ),
        Dial(
            "Stripe",
            sizes("blinds", "pattern")[0],
            also=sizes("blinds", "pattern")[1:],
            span=(8, 120),
            tip="How wide the stripes are",
        ),
        Dial("Direction", "maps/blinds/steps/pattern/turn", span=(-180, 180)),
        Dial("Soft folds", "maps/folds/steps/blur/radius", span=(0, 60), tip="How soft the folds are"),
        Dial("Shadow", "plates/cloth/effects/drop-shadow/distance", span=(0, 40)),
    ),
    "drips-on-glass": (
        Dial(CLIP, "plates/lanterns"),
        Dial("Bend", "plates/glass/effects/slope/height", span=(0, 600), tip="How strongly the drops bend the picture"),
        Dial("Glint", "plates/glass/effects/slope/light_brightness", span=(0, 1)),
        Dial("Behind the glass", "plates/lanterns/effects/blur/radius", span=(0, 60), tip="How blurred the picture is"),
        Dial("Drop size", "maps/drips/steps/drips/radius", span=(6, 80)),
        Dial("Speed", "maps/drips/steps/drips/speed", span=(0, 2000), tip="How fast the drops run"),
        Dial("Trails", "maps/drips/steps/drips/streak", span=(0, 2000), tip="How long what they leave behind is"),
        Dial("Wander", "maps/drips/steps/drips/wander", span=(0, 80), tip="How far they stray sideways"),
        Dial("Layers", "maps/drips/steps/drips/layers", span=(1, 6), tip="How many rows of drops lie over each other"),
    ),
    "glass-figure": (
        Dial("Ground", "plates/lanterns", also=("plates/glass",), mine=True),
        Dial(FIGURE, "plates/walker", fit="inside"),
        Dial("Bend", "plates/glass/effects/slope/height", span=(0, 600), tip="How thick the glass figure is"),
        Dial("Soft", "maps/figure/steps/blur/radius", span=(0, 60), tip="How far in from its edge the glass is round"),
        Dial("Rim", "plates/cut/effects/rim-light/power", span=(0, 3), tip="How bright its edge is"),
        Dial("Rim width", "plates/cut/effects/rim-light/width", span=(0, 40)),
        Dial(
            "Colours red",
            "plates/glass/effects/slope/split_red",
            span=(-1, 1),
            tip="How far red is bent more than green",
        ),
        Dial(
            "Colours blue",
            "plates/glass/effects/slope/split_blue",
            span=(-1, 1),
            tip="How far blue is bent more than green",
        ),
    ),
    "glass-lens": (
        Dial("Ground", "plates/lanterns"),
        *title(),
        Dial("Strength", "plates/glass/effects/bulge/amount", span=(-1, 2), tip="How much the ball enlarges"),
        Dial(
            "Size",
            "plates/glass/effects/bulge/radius",
            also=("plates/glass/width", "plates/glass/height"),
            span=(40, 400),
            tip="How large the ball is",
        ),
        Dial("Edge", "plates/glass/effects/bulge/soft", span=(0, 1), tip="How soft its edge is"),
        Dial("Glow", "plates/glass/effects/glow/power", span=(0, 2)),
        Dial("Title size", "plates/title/size", span=(40, 300)),
    ),
    "lights-pulled-away": (
        Dial(CLIP, "plates/lanterns", also=("plates/lamps",), mine=True),
        Dial(
            "From how bright", "plates/lamps/effects/brightness-key/low", span=(0, 1), tip="What is brighter is a light"
        ),
        Dial("Softness", "plates/lamps/effects/brightness-key/softness", span=(0, 0.5)),
        Dial("Pull", "plates/lamps/effects/bulge/amount", span=(-2, 2), tip="How far the lights are drawn together"),
        Dial("Reach", "plates/lamps/effects/bulge/radius", span=(50, 1200)),
        Dial("Glow", "plates/lamps/effects/glow/power", span=(0, 4)),
        Dial("Glow size", "plates/lamps/effects/glow/radius", span=(0, 120)),
        Dial("Night", "plates/lanterns/effects/exposure/warmth", span=(-1, 1), tip="How cold the rest gets"),
    ),
    "line-ripple": (
        Dial("Lines", "plates/lines", fit="inside"),
        Dial("Height", "plates/lines/effects/push/reach_y", span=(0, 300), tip="How far the lines are lifted"),
        Dial("Swell width", "maps/swells/steps/shape/width", span=(40, 800)),
        Dial("Soft", "maps/swells/steps/shape/soft", span=(0, 200)),
        Dial("Trails", "plates/lines/effects/echo/copies", span=(0, 8), tip="How many fading copies follow"),
        Dial("Trail time", "plates/lines/effects/echo/delay", span=(0, 1)),
        Dial("Ground", "plates/night/colour"),
    ),
    "moving-water": (
        Dial("Picture", "plates/canal"),
        Dial(
            "Where the water is",
            "plates/canal/effects/slope/mask",
            tip="A mask: draw your own with Effect › Draw a mask",
        ),
        Dial("Waves", "plates/canal/effects/slope/height", span=(0, 400), tip="How high the waves are"),
        Dial("Wave width", "maps/water/steps/noise/size_x", span=(40, 1000)),
        Dial("Wave length", "maps/water/steps/noise/size_y", span=(10, 300)),
        Dial("Pace", "maps/water/steps/noise/churn", span=(0, 3)),
        Dial("Current", "maps/water/steps/noise/drift", tip="How fast, and whither, the water runs"),
        Dial("Soft shore", "maps/canal/steps/drawn-mask/feather", span=(0, 200)),
    ),
    "plastic-pixels": (
        Dial(LOGO, "plates/emblem", fit="inside", mine=True),
        Dial(
            "Blocks",
            sizes("clouds", "pixelate")[0],
            also=sizes("clouds", "pixelate")[1:],
            span=(8, 160),
            tip="How large the blocks are",
        ),
        Dial(
            "Clouds",
            sizes("clouds")[0],
            also=sizes("clouds")[1:],
            span=(80, 1200),
            tip="How large the patches of colour are",
        ),
        Dial("Pace", "maps/clouds/steps/noise/churn", span=(0, 2)),
        Dial("Height", "plates/blocks/effects/relief/depth", span=(0, 200), tip="How high the blocks stand"),
        Dial("Shine", "plates/blocks/effects/relief/shine", span=(0, 1)),
        Dial("Light from", "plates/blocks/effects/relief/bearing", span=(-180, 180)),
        Dial("Colours", "plates/blocks/ramp"),
    ),
    "puddle-rings": (
        Dial(CLIP, "plates/rain"),
        Dial("Depth", "plates/rain/effects/slope/height", span=(0, 400), tip="How far the rings bend the picture"),
        Dial("Glint", "plates/rain/effects/slope/light_brightness", span=(0, 1)),
        Dial("First drop", "maps/rings/steps/rings-0/centre", heading="Where they fall"),
        Dial("Second drop", "maps/rings/steps/rings-1/centre", heading="Where they fall"),
        Dial("Third drop", "maps/rings/steps/rings-2/centre", heading="Where they fall"),
        Dial(
            "Ring width",
            "maps/rings/steps/rings-0/width",
            also=tuple(f"maps/rings/steps/rings-{n}/width" for n in (1, 2)),
            span=(10, 240),
            heading="How they run",
        ),
        Dial(
            "Speed",
            "maps/rings/steps/rings-0/speed",
            also=tuple(f"maps/rings/steps/rings-{n}/speed" for n in (1, 2)),
            span=(50, 1500),
            heading="How they run",
        ),
        Dial(
            "Last",
            "maps/rings/steps/rings-0/life",
            also=tuple(f"maps/rings/steps/rings-{n}/life" for n in (1, 2)),
            span=(0.2, 5),
            tip="How long a ring is seen",
            heading="How they run",
        ),
    ),
    "ribbed-glass": (
        Dial(CLIP, "plates/lanterns"),
        Dial("Rib", "maps/ribs/steps/ribs/size", span=(6, 160), tip="How wide a rib is"),
        Dial("Bend", "plates/pane/effects/push/reach_x", span=(0, 200), tip="How far each rib shifts the picture"),
        Dial("Up and down", "plates/pane/effects/push/reach_y", span=(-60, 60)),
        Dial("Shine", "plates/pane/effects/push/light_brightness", span=(0, 1)),
        Dial("Grain", "plates/pane/effects/grade/grain", span=(0, 1)),
        Dial("Lighter", "plates/pane/effects/grade/brighten", span=(-0.5, 0.5)),
        Dial("Pane width", "plates/pane/width", span=(40, 1280)),
        Dial("Pane height", "plates/pane/height", span=(40, 720)),
    ),
    "stall-haze": (
        Dial(CLIP, "plates/stall"),
        *title(),
        Dial("Heat", "plates/stall/effects/haze/reach_y", span=(0, 40), tip="How far the air lifts the picture"),
        Dial("Sideways", "plates/stall/effects/haze/reach_x", span=(0, 20)),
        Dial(
            "Ripples",
            sizes("rising-heat")[0],
            also=sizes("rising-heat")[1:],
            span=(10, 300),
            tip="How large the ripples of air are",
        ),
        Dial("Rising", "maps/rising-heat/steps/noise/drift", tip="How fast, and whither, the air goes"),
        Dial("Shimmer", "maps/rising-heat/steps/noise/churn", span=(0, 4)),
        Dial("Where it ends", "maps/rising-heat/steps/pots/start", tip="Up there the air is calm", heading="Where"),
        Dial("Where it is hottest", "maps/rising-heat/steps/pots/end", heading="Where"),
    ),
    "stall-through-haze": (
        Dial(CLIP, "plates/stall"),
        Dial(
            "Where",
            "plates/stall/effects/push/mask",
            also=("plates/stall/effects/soften/mask",),
            tip="A mask over what is hot",
        ),
        Dial("Heat", "plates/stall/effects/push/reach_y", like=5.0, span=(0, 40)),
        Dial("Blur", "plates/stall/effects/soften/radius", span=(0, 30), tip="How blurred hot air makes it"),
        Dial("Ripples", sizes("heat")[0], also=sizes("heat")[1:], span=(10, 300)),
        Dial("Shimmer", "maps/heat/steps/noise/churn", span=(0, 4)),
        Dial("Rising", "maps/heat/steps/noise/drift"),
        Dial("Soft border", "maps/pots/steps/drawn-mask/feather", span=(0, 500)),
    ),
    "swept-line-drawing": (
        Dial(CLIP, "plates/stall", also=("plates/lines",), mine=True),
        Dial("Line", "plates/lines/effects/line-drawing/width", span=(0.5, 12)),
        Dial(
            "How many lines",
            "plates/lines/effects/line-drawing/threshold",
            span=(0, 0.3),
            tip="Lower: fainter edges are drawn too",
        ),
        Dial("Light", "plates/lines/effects/tube-light/colour"),
        Dial("Spread", "plates/lines/effects/tube-light/spread", span=(0, 120)),
        Dial("Power", "plates/lines/effects/tube-light/power", span=(0, 3)),
        Dial("Sweep width", "maps/sweep/steps/drawn-mask/width", span=(40, 1200)),
        Dial("Soft sweep", "maps/sweep/steps/drawn-mask/feather", span=(0, 800)),
        Dial("Slant", "maps/sweep/steps/drawn-mask/turn", span=(-90, 90)),
        Dial("Darkness", "plates/stall/effects/exposure/stops", span=(-4, 1)),
    ),
    "tracked-squares": (
        Dial("Walker", "plates/walker", fit="inside"),
        Dial("Squares", "maps/marks/steps/tracked-points/size", span=(8, 160), tip="How large a square is"),
        Dial("Stretch", "maps/marks/steps/tracked-points/stretch", span=(0.2, 6)),
        Dial("Unlike", "maps/marks/steps/tracked-points/vary", span=(0, 1), tip="How much they differ"),
        Dial("Streaks", "maps/marks/steps/streaks/length", span=(0, 500)),
        Dial("Push", "plates/street/effects/push/reach_x", span=(0, 300)),
        Dial("Labels", "plates/labels/labels", span=(0, 60), tip="How many squares have a number"),
        Dial("Label size", "plates/labels/size", span=(6, 60)),
        Dial("Label colour", "plates/labels/colour"),
    ),
}
