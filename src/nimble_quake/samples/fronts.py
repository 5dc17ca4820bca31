"""What of each sample is brought to the front: its slots, and the dials a stranger may turn."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import msgspec

from nimble_quake.operators.front.bringing import with_behind, with_front, with_slot
from nimble_quake.params.base import Pair
from nimble_quake.params.drives import Drive
from nimble_quake.params.refit import Value
from nimble_quake.shot.edits.set_value import set_field
from nimble_quake.shot.model import Shot
from nimble_quake.shot.paths import found_node, value_name


@dataclass(frozen=True)
class Dial:
    """A value brought to the front under a name, with others that go along. A plate's path makes it a slot."""

    name: str
    path: str
    also: tuple[str, ...] = ()
    span: Pair | None = None
    """Its range; None: the usual one of the value."""
    like: Value = None
    """What it says at first, of a value that moves."""
    tip: str = ""
    heading: str = ""
    fit: str = "over"
    """How what is put in lies where the example lay."""
    mine: bool = False
    """Put on a picture, the whole starter goes round it: the picture comes into this slot."""


def brought(shot: Shot, dials: tuple[Dial, ...]) -> Shot:
    """Return a shot with these at its front. Raises ShotError where there is no such value."""
    for dial in dials:
        shot, path = _with(shot, dial)
        for other in dial.also if value_name(dial.path) else ():
            found = with_behind(shot, path, other)
            shot = shot if found is None else found
            assert found is not None, f"{other} does not go with {dial.name}"
        values: dict[str, Value] = {"tip": dial.tip, "heading": dial.heading}
        if not value_name(dial.path):
            values["drives"] = tuple(Drive(plate) for plate in (dial.path, *dial.also))
            values["takes_mine"] = dial.mine or ""
        if dial.span is not None:
            values |= {"low": dial.span[0], "high": dial.span[1]}
        kept = {name: value for name, value in values.items() if value != ""}
        shot = set_field(shot, path, values={**found_node(shot, path).values, **kept})
    return shot


def _with(shot: Shot, dial: Dial) -> tuple[Shot, str]:
    found_node(shot, dial.path)
    if value_name(dial.path):
        shot, path = with_front(shot, dial.path, dial.name, "", dial.like)
    else:
        shot, path = with_slot(shot, dial.path, dial.name, "", dial.fit)
    assert path, f"{dial.path} cannot be a dial"
    return shot, path


def fronted(shot: Shot, name: str) -> Shot:
    """Return a sample with its front."""
    return brought(msgspec.structs.replace(shot, front=()), FRONTS.get(name, ()))


def _sizes(map: str, step: str = "noise") -> tuple[str, str]:
    return f"maps/{map}/steps/{step}/size_x", f"maps/{map}/steps/{step}/size_y"


def _title(id: str = "title") -> tuple[Dial, ...]:
    return Dial("Words", f"plates/{id}/words"), Dial("Colour", f"plates/{id}/colour")


FIGURE, LOGO, CLIP = "Figure", "Logo", "Clip"
FRONTS: Mapping[str, tuple[Dial, ...]] = {
    "lantern-row": (
        Dial(CLIP, "plates/lanterns"),
        Dial(LOGO, "plates/emblem", fit="inside"),
        *_title(),
        Dial(
            "Shake",
            "plates/title/effects/push/reach_x",
            span=(0, 160),
            tip="How far the title is torn while it comes; then it settles",
        ),
        Dial("Swim", "plates/title/effects/push/reach_y", span=(0, 60), tip="How far its letters swim up and down"),
        Dial(
            "Waves",
            _sizes("heat-columns")[0],
            also=_sizes("heat-columns")[1:],
            span=(40, 600),
            tip="How long the waves are",
        ),
        Dial("Pace", "maps/heat-columns/steps/noise/churn", span=(0, 3), tip="How fast they change"),
        Dial(
            "Ground swell",
            "plates/lanterns/effects/push/reach_x",
            also=("plates/lanterns/effects/push/reach_y",),
            span=(0, 60),
            tip="How far the clip beneath sways",
        ),
    ),
    "arrive-from-clouds": (
        Dial(LOGO, "plates/emblem", fit="inside"),
        Dial("Clouds", "plates/emblem/effects/push/map"),
        Dial(
            "Blown away",
            "plates/emblem/effects/push/reach_x",
            span=(0, 500),
            tip="How far it is scattered before it is there",
        ),
        Dial("Out of focus", "plates/emblem/effects/soften/radius", span=(0, 60), tip="How blurred it comes"),
        Dial(
            "Cloud size",
            _sizes("clouds")[0],
            also=_sizes("clouds")[1:],
            span=(40, 800),
            tip="Small: dust; large: billows",
        ),
        Dial("Billow", "maps/clouds/steps/noise/churn", span=(0, 3), tip="How fast the clouds change"),
        Dial("Place", "plates/emblem/position"),
        Dial("Ground", "plates/night/colour"),
    ),
    "assemble-and-leave": (
        *_title(),
        Dial("Size", "plates/title/size", span=(40, 400)),
        Dial("From how far", "plates/title/effects/push/reach_x", span=(0, 2000), tip="How far off the strips begin"),
        Dial("Strips", "maps/bands/steps/bands/count", span=(2, 60), tip="Into how many strips it is cut"),
        Dial("Direction", "maps/bands/steps/bands/turn", span=(-180, 180), tip="How the strips lie"),
        Dial("Ground", "plates/night/colour"),
    ),
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
            _sizes("blinds", "pattern")[0],
            also=_sizes("blinds", "pattern")[1:],
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
    "endless-loop": (
        Dial(LOGO, "plates/emblem", fit="inside"),
        *_title(),
        Dial(
            "Shake",
            "plates/title/effects/push/reach_x",
            also=("plates/title/effects/push/reach_y",),
            like=40.0,
            span=(0, 160),
        ),
        Dial("Waves", _sizes("swell")[0], also=_sizes("swell")[1:], span=(40, 800)),
        Dial("Size", "plates/title/size", span=(40, 300)),
        Dial("Ground", "plates/night/colour"),
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
        *_title(),
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
            _sizes("clouds", "pixelate")[0],
            also=_sizes("clouds", "pixelate")[1:],
            span=(8, 160),
            tip="How large the blocks are",
        ),
        Dial(
            "Clouds",
            _sizes("clouds")[0],
            also=_sizes("clouds")[1:],
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
    "ring-burst": (
        Dial(LOGO, "plates/emblem", fit="inside"),
        Dial(CLIP, "plates/lanterns"),
        Dial(
            "Burst",
            "plates/emblem/effects/push/reach_x",
            also=("plates/lanterns/effects/push/reach_x",),
            span=(0, 400),
            tip="How far it is torn from its middle",
        ),
        Dial("Rings", "maps/burst/steps/noise/size_y", span=(20, 600), tip="How wide the rings are"),
        Dial("Rays", "maps/burst/steps/noise/size_x", span=(20, 600), tip="How wide the rays are"),
        Dial("Colours red", "plates/emblem/effects/push/split_red", span=(-1, 1)),
        Dial("Colours blue", "plates/emblem/effects/push/split_blue", span=(-1, 1)),
        Dial("Size", "plates/emblem/scale_x", also=("plates/emblem/scale_y",), span=(0.1, 2)),
    ),
    "shockwave": (
        Dial(CLIP, "plates/crowd"),
        *_title(),
        Dial(
            "Wave",
            "plates/crowd/effects/push/map",
            also=("plates/title/effects/push/map",),
            tip="A ring that grows; another map works too",
        ),
        Dial(
            "Reach",
            "plates/title/effects/push/reach_x",
            also=("plates/crowd/effects/push/reach_x",),
            span=(-300, 300),
            tip="How far the wave pushes: below 0 it draws in",
        ),
        Dial(
            "Centre",
            "plates/title/effects/push/centre",
            also=("plates/crowd/effects/push/centre", "plates/ring/position"),
            tip="Where it goes off",
        ),
        Dial("Ring width", "plates/ring/thick", span=(10, 300)),
        Dial("Soft", "maps/front/steps/blur/radius", span=(0, 60), tip="How soft the wave is"),
        Dial(
            "Colours",
            "plates/title/effects/push/split",
            also=("plates/crowd/effects/push/split",),
            tip="Red and blue are pushed more and less",
        ),
        Dial("Glow", "plates/ring/effects/glow/radius", span=(0, 120)),
        Dial("Ring seen", "plates/ring/opacity", span=(0, 1), tip="How bright the ring itself is"),
    ),
    "sign-glitch": (
        Dial(CLIP, "plates/rain"),
        *_title("sign"),
        Dial(
            "Burst",
            "plates/sign/effects/burst/reach_x",
            also=("plates/rain/effects/burst/reach_x",),
            span=(0, 400),
            tip="How far lines are torn when the signal fails",
        ),
        Dial(
            "Crumble", "plates/sign/effects/crumble/reach_x", span=(0, 200), tip="How far small blocks of the sign jump"
        ),
        Dial("Lines", "maps/bad-signal/steps/pixelate/size_y", span=(2, 120), tip="How high the torn lines are"),
        Dial(
            "Blocks",
            "maps/fine-blocks/steps/pixelate/size_x",
            also=("maps/fine-blocks/steps/pixelate/size_y",),
            span=(4, 120),
            tip="How large the blocks are",
        ),
        Dial(
            "Jitter",
            "maps/bad-signal/steps/noise/churn",
            also=("maps/fine-blocks/steps/noise/churn",),
            span=(0, 30),
            tip="How fast it changes",
        ),
        Dial("Which", "maps/bad-signal/steps/noise/seed", span=(1, 999), tip="Another failure of the same strength"),
    ),
    "sound-blocks": (
        Dial(CLIP, "plates/lanterns"),
        *_title(),
        Dial("Sound", "sounds/market-drums/file"),
        Dial(
            "Shake",
            "plates/title/effects/push/reach_x",
            like=60.0,
            span=(0, 200),
            tip="How far a loud clap throws the title",
        ),
        Dial("Push", "maps/blocks/steps/sound-tiles/push", span=(0, 600), tip="How far the blocks jump with the bass"),
        Dial("Turn", "maps/blocks/steps/sound-tiles/turn", span=(0, 180), tip="How far they turn with the hum"),
        Dial(
            "Flash", "maps/blocks/steps/sound-tiles/light", span=(0, 2), tip="How much brighter they get with the clap"
        ),
        Dial("Blocks", "maps/blocks/steps/sound-tiles/size", span=(10, 160)),
        Dial("Lag", "maps/blocks/steps/sound-tiles/lag", span=(0, 2), tip="How much later the outer blocks answer"),
    ),
    "stall-haze": (
        Dial(CLIP, "plates/stall"),
        *_title(),
        Dial("Heat", "plates/stall/effects/haze/reach_y", span=(0, 40), tip="How far the air lifts the picture"),
        Dial("Sideways", "plates/stall/effects/haze/reach_x", span=(0, 20)),
        Dial(
            "Ripples",
            _sizes("rising-heat")[0],
            also=_sizes("rising-heat")[1:],
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
        Dial("Ripples", _sizes("heat")[0], also=_sizes("heat")[1:], span=(10, 300)),
        Dial("Shimmer", "maps/heat/steps/noise/churn", span=(0, 4)),
        Dial("Rising", "maps/heat/steps/noise/drift"),
        Dial("Soft border", "maps/pots/steps/drawn-mask/feather", span=(0, 500)),
    ),
    "stretched-letters": (
        Dial(CLIP, "plates/stall"),
        *_title(),
        Dial("Stretch", "plates/title/effects/cut-lines/stretch", span=(1, 12), tip="How long the cut part gets"),
        Dial("Where", "plates/title/effects/cut-lines/place"),
        Dial("Cuts", "plates/title/effects/cut-lines/lines", span=(1, 12)),
        Dial("Apart", "plates/title/effects/cut-lines/apart", span=(0, 200), tip="How far the cuts lie apart"),
        Dial("Size", "plates/title/size", span=(40, 400)),
        Dial("Behind", "plates/stall/effects/blur/radius", span=(0, 60), tip="How blurred the clip is"),
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
    "text-on-water": (
        Dial("Picture", "plates/canal"),
        *_title(),
        Dial("Ripple", "plates/title/effects/push/reach_x", span=(0, 120), tip="How far the letters ripple at first"),
        Dial("Swell", "plates/canal/effects/push/reach_x", also=("plates/canal/effects/push/reach_y",), span=(0, 60)),
        Dial("Wave width", "maps/water/steps/noise/size_x", span=(40, 1000)),
        Dial("Wave length", "maps/water/steps/noise/size_y", span=(10, 400)),
        Dial("Current", "maps/water/steps/noise/drift"),
        Dial(
            "Lies down",
            "plates/title/effects/perspective/tilt",
            span=(0, 80),
            tip="How flat the words lie on the water",
        ),
        Dial("Blur", "plates/title/effects/blur/radius", span=(0, 40), tip="How blurred they come"),
    ),
    "text-ripple": (
        Dial(CLIP, "plates/crowd"),
        *_title(),
        Dial(
            "Ripple",
            "plates/title/effects/push/reach_x",
            also=("plates/title/effects/push/reach_y",),
            span=(0, 160),
            tip="How far the letters sway",
        ),
        Dial("Waves", _sizes("swell")[0], also=_sizes("swell")[1:], span=(40, 1000)),
        Dial("Pace", "maps/swell/steps/noise/churn", span=(0, 3)),
        Dial("Clip blocks", "plates/crowd/effects/push/reach_x", span=(0, 300), tip="How far blocks of the clip jump"),
        Dial(
            "Block size", "maps/blocks/steps/blocks/size_x", also=("maps/blocks/steps/blocks/size_y",), span=(10, 500)
        ),
        Dial("How often", "maps/blocks/steps/blocks/rate", span=(0, 24), tip="How often a second the blocks change"),
    ),
    "through-the-net": (
        Dial(LOGO, "plates/emblem", fit="inside"),
        Dial(CLIP, "plates/stall"),
        Dial(
            "Bent",
            "plates/emblem/effects/mesh/strength",
            span=(-1, 3),
            tip="How bent it comes; it straightens while it comes",
        ),
        Dial("Size", "plates/emblem/scale_x", also=("plates/emblem/scale_y",), span=(0.1, 2)),
        Dial("Place", "plates/emblem/position", like=(640.0, 360.0), tip="Where it comes to rest"),
        Dial("Turn", "plates/emblem/turn", span=(-180, 180)),
    ),
    "time-sliced-title": (
        *_title(),
        Dial("Size", "plates/title/size", span=(40, 300)),
        Dial("Late", "plates/title/effects/delay/seconds", span=(0, 4), tip="How much later the last slice is"),
        Dial("Slices", "maps/slices/steps/bands/count", span=(2, 80)),
        Dial("Direction", "maps/slices/steps/bands/turn", span=(-180, 180)),
        Dial("Wave", "plates/title/effects/wave/amplitude", span=(0, 200), tip="How high the wave in the letters is"),
        Dial("Wave length", "plates/title/effects/wave/length", span=(40, 2000)),
        Dial("Ground", "plates/night/colour"),
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
