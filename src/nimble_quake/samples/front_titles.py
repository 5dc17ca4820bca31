"""The fronts of samples made for titles and logos."""

from __future__ import annotations

from collections.abc import Mapping

from nimble_quake.samples.fronts import Dial

FIGURE, LOGO, CLIP = "Figure", "Logo", "Clip"


def sizes(map: str, step: str = "noise") -> tuple[str, str]:
    return f"maps/{map}/steps/{step}/size_x", f"maps/{map}/steps/{step}/size_y"


def title(id: str = "title") -> tuple[Dial, ...]:
    return Dial("Words", f"plates/{id}/words"), Dial("Colour", f"plates/{id}/colour")


TITLES: Mapping[str, tuple[Dial, ...]] = {
    "lantern-row": (
        Dial(CLIP, "plates/lanterns"),
        Dial(LOGO, "plates/emblem", fit="inside"),
        *title(),
        Dial(
            "Shake",
            "plates/title/effects/push/reach_x",
            span=(0, 160),
            tip="How far the title is torn while it comes; then it settles",
        ),
        Dial("Swim", "plates/title/effects/push/reach_y", span=(0, 60), tip="How far its letters swim up and down"),
        Dial(
            "Waves",
            sizes("heat-columns")[0],
            also=sizes("heat-columns")[1:],
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
            sizes("clouds")[0],
            also=sizes("clouds")[1:],
            span=(40, 800),
            tip="Small: dust; large: billows",
        ),
        Dial("Billow", "maps/clouds/steps/noise/churn", span=(0, 3), tip="How fast the clouds change"),
        Dial("Place", "plates/emblem/position"),
        Dial("Ground", "plates/night/colour"),
    ),
    "assemble-and-leave": (
        *title(),
        Dial("Size", "plates/title/size", span=(40, 400)),
        Dial("From how far", "plates/title/effects/push/reach_x", span=(0, 2000), tip="How far off the strips begin"),
        Dial("Strips", "maps/bands/steps/bands/count", span=(2, 60), tip="Into how many strips it is cut"),
        Dial("Direction", "maps/bands/steps/bands/turn", span=(-180, 180), tip="How the strips lie"),
        Dial("Ground", "plates/night/colour"),
    ),
    "endless-loop": (
        Dial(LOGO, "plates/emblem", fit="inside"),
        *title(),
        Dial(
            "Shake",
            "plates/title/effects/push/reach_x",
            also=("plates/title/effects/push/reach_y",),
            like=40.0,
            span=(0, 160),
        ),
        Dial("Waves", sizes("swell")[0], also=sizes("swell")[1:], span=(40, 800)),
        Dial("Size", "plates/title/size", span=(40, 300)),
        Dial("Ground", "plates/night/colour"),
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
        *title(),
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
        *title("sign"),
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
        *title(),
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
    "stretched-letters": (
        Dial(CLIP, "plates/stall"),
        *title(),
        Dial("Stretch", "plates/title/effects/cut-lines/stretch", span=(1, 12), tip="How long the cut part gets"),
        Dial("Where", "plates/title/effects/cut-lines/place"),
        Dial("Cuts", "plates/title/effects/cut-lines/lines", span=(1, 12)),
        Dial("Apart", "plates/title/effects/cut-lines/apart", span=(0, 200), tip="How far the cuts lie apart"),
        Dial("Size", "plates/title/size", span=(40, 400)),
        Dial("Behind", "plates/stall/effects/blur/radius", span=(0, 60), tip="How blurred the clip is"),
    ),
    "text-on-water": (
        Dial("Picture", "plates/canal"),
        *title(),
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
        *title(),
        Dial(
            "Ripple",
            "plates/title/effects/push/reach_x",
            also=("plates/title/effects/push/reach_y",),
            span=(0, 160),
            tip="How far the letters sway",
        ),
        Dial("Waves", sizes("swell")[0], also=sizes("swell")[1:], span=(40, 1000)),
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
        *title(),
        Dial("Size", "plates/title/size", span=(40, 300)),
        Dial("Late", "plates/title/effects/delay/seconds", span=(0, 4), tip="How much later the last slice is"),
        Dial("Slices", "maps/slices/steps/bands/count", span=(2, 80)),
        Dial("Direction", "maps/slices/steps/bands/turn", span=(-180, 180)),
        Dial("Wave", "plates/title/effects/wave/amplitude", span=(0, 200), tip="How high the wave in the letters is"),
        Dial("Wave length", "plates/title/effects/wave/length", span=(40, 2000)),
        Dial("Ground", "plates/night/colour"),
    ),
}
