"""Sample shots of sound and motion: tiles driven by bands, rings on beats, a loop that closes. See `make_shots`."""

from __future__ import annotations

from nimble_quake.motion.driver import drivers
from nimble_quake.motion.kinds import Driven, Layered, Rate
from nimble_quake.samples.draw_sound import FILE, SECONDS, TEMPO
from nimble_quake.samples.pieces import GOLD, RATE, clip, emblem, map_of, night, sample, shot, step, title
from nimble_quake.shot.model import Node, Shot

LENGTH = round(SECONDS * RATE)
BEATS = tuple(float(round(n * 60 / TEMPO * RATE, 3)) for n in range(round(SECONDS * TEMPO / 60)))
DRUMS = Node(id="market-drums", kind="sound", name="Market drums", values={"file": str(FILE)})
LOW = Node(id="low-band", kind="band", name="Low band", values={"of": "market-drums", "low": 40.0, "high": 120.0})
HUM = Node(id="hum-band", kind="band", name="Hum", values={"of": "market-drums", "low": 200.0, "high": 480.0})
CLAP = Node(id="clap-band", kind="band", name="Claps", values={"of": "market-drums", "low": 1800.0, "high": 6000.0})


def driven(kind: str, base: object, amount: object, **settings: object) -> Driven:
    """A driven value in few words."""
    return Driven(base, amount, drivers()[kind](settings))


def heard() -> dict[str, object]:
    """The drums, their bands and their beats."""
    return {"sounds": (DRUMS,), "bands": (LOW, HUM, CLAP), "beats": BEATS}


@sample("sound-blocks")
def sound_blocks() -> Shot:
    """Blocks that bands of the drums push and turn; the drum hit gates how far the map bends the street."""
    tiles = step(
        "sound_tiles",
        columns=20.0,
        rows=12.0,
        size=84.0,
        thick=90.0,
        tilt=24.0,
        swing=-14.0,
        push=240.0,
        push_by="low-band",
        turn=34.0,
        turn_by="hum-band",
        light=0.5,
        light_by="clap-band",
        grey=0.42,
        ground=0.1,
        lag=0.25,
        eye=1300.0,
    )
    gate = driven("sound", 0.0, 150.0, band="low-band", gate=0.35, release=140.0)
    street = clip(
        "lanterns",
        step(
            "push",
            map="blocks",
            reach_x=gate,
            reach_y=0.0,
            rest_by="picked",
            rest=0.35,
            edge="mirror",
            split=True,
            split_red=-0.3,
            split_blue=0.3,
        ),
    )
    words = title(
        "LANTERN ROW",
        step(
            "push",
            map="blocks",
            reach_x=driven("sound", 0.0, 60.0, band="clap-band"),
            reach_y=driven("follow", 0.0, -0.4, path="plates/title/effects/push/reach_x"),
            rest_by="picked",
            rest=0.35,
        ),
        size=138.0,
        scale_x=driven("beat", 1.0, 0.05, curve="decay", lasts=0.3),
        scale_y=driven("follow", 0.0, 1.0, path="plates/title/scale_x"),
    )
    return shot("Sound blocks", LENGTH, [words, street], [map_of("blocks", "Blocks", tiles)], playhead=37, **heard())


@sample("beat-rings")
def beat_rings() -> Shot:
    """A ring in the puddle at every beat."""
    rings = step("rings", when="beats", centre=(640.0, 430.0), spread=760.0, width=74.0, speed=430.0, life=1.4)
    return shot(
        "Beat rings",
        LENGTH,
        [
            clip(
                "rain",
                step(
                    "slope",
                    map="rings",
                    height=120.0,
                    smooth=7.0,
                    bends_by="water",
                    depth=90.0,
                    edge="wrap",
                    light=True,
                    light_brightness=0.22,
                ),
            )
        ],
        [map_of("rings", "Rings", rings)],
        playhead=41,
        **heard(),
    )


@sample("endless-loop")
def endless_loop() -> Shot:
    """Four seconds that close: all that swings, trembles and turns does so a whole number of times."""
    swell = map_of("swell", "Swell", step("noise", size_x=420.0, size_y=150.0, octaves=2.0, churn=0.5, loop=4.0))
    words = title(
        "OPEN ALL NIGHT",
        step(
            "push",
            map="swell",
            reach_x=driven("wave", 30.0, 26.0, period=2.0),
            reach_y=driven("jitter", 0.0, 16.0, pace=2.0, sort="rough"),
        ),
        size=132.0,
        colour=GOLD,
        position=Layered((640.0, 460.0), (driven("wave", (0.0, 0.0), (46.0, 12.0), period=4.0),)),
    )
    lamp = emblem(turn=Rate(0.0, 90.0), position=(640.0, 185.0), scale_x=0.6, scale_y=0.6)
    return shot("Endless loop", 96, [words, lamp, night()], [swell], playhead=20, seamless=True)
