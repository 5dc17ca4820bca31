"""The crossings that come with the program: each a shot of two clips that meet, made with the ordinary tools."""

from __future__ import annotations

import msgspec

from nimble_quake.motion.drivers.follow import Follow
from nimble_quake.motion.kinds import Driven
from nimble_quake.params.kinds import Stop
from nimble_quake.params.refit import Value
from nimble_quake.samples import FOLDER
from nimble_quake.samples.fronts import Dial, brought
from nimble_quake.samples.pieces import clip, map_of, plate, shot, step
from nimble_quake.shot.crossings import with_courses
from nimble_quake.shot.model import Map, Node, Shot
from nimble_quake.shotfile.files import write_shot

START, END, LENGTH = 24, 48, 72
"""Frames: the crossing lasts a second in the middle of three."""
TARGET = FOLDER / "crossings"


def follow(what: str, amount: float, base: float = 0.0) -> Driven:
    """A number that goes with the crossing's progress, strength or mix."""
    return Driven(base, amount, Follow({"path": f"plates/crossing/{what}"}))


def cross(
    name: str,
    *effects: Node,
    maps: tuple[Map, ...] = (),
    sides: tuple[tuple[Node, ...], tuple[Node, ...]] = ((), ()),
    clips: tuple[str, str] = ("stall", "lanterns"),
    dials: tuple[Dial, ...] = (),
    **values: Value,
) -> Shot:
    """A shot in which two clips cross. sides: effects of the first and of the second that belong to the crossing."""
    first, second = (clip(file) for file in clips)
    first = msgspec.structs.replace(first, end=END, effects=tuple(map(_belongs, sides[0])))
    second = msgspec.structs.replace(second, start=START, effects=tuple(map(_belongs, sides[1])))
    made = plate("crossing", "crossing", name, *effects, before=clips[0], after=clips[1], **values)
    made = with_courses(msgspec.structs.replace(made, start=START, end=END))
    found = shot(name, LENGTH, [made, second, first], list(maps), playhead=(START + END) // 2)
    slots = (Dial("From", f"plates/{clips[0]}"), Dial("To", f"plates/{clips[1]}"))
    return brought(found, (*slots, *dials, Dial("Strongest", "plates/crossing/strongest", span=(0, 1))))


def _belongs(effect: Node) -> Node:
    return msgspec.structs.replace(effect, inside="crossing", span=(START, END))


def ramp(id: str, start: tuple[float, float], end: tuple[float, float], *more: Node) -> Map:
    stops = (Stop(0.0, (0.0, 0.0, 0.0, 1.0)), Stop(1.0, (1.0, 1.0, 1.0, 1.0)))
    return map_of(id, id.title(), step("gradient", stops=stops, start=start, end=end), *more)


ACROSS = ramp("across", (0.0, 360.0), (1280.0, 360.0))
SLANTED = ramp("slanted", (180.0, 0.0), (1100.0, 720.0))
NOISE = map_of("clouds", "Clouds", step("noise", size_x=320.0, size_y=220.0, octaves=4, churn=0.6, contrast=1.3))
SOFT = Dial("Softness", "plates/crossing/soft", span=(0, 1.5), tip="How soft the border between them is")


def grown(id: str, name: str, rim: float, soft: float) -> Map:
    """A ring, or a disc, that grows with the progress."""
    size, middle = follow("progress", 1900.0), 0.0 if rim else 1.0
    look: dict[str, Value] = {"rim": rim, "soft": soft, "middle": middle, "spin": 0.0}
    return map_of(id, name, step("shape", form="ellipse", width=size, height=size, **look))


def amount(effect: str, value: str) -> str:
    return f"plates/crossing/effects/{effect}/{value}"


def all_shots() -> dict[str, Shot]:
    """Return every crossing by the name of its file."""
    by = {"edge": "mirror"}
    strength = follow("strength", 1.0)
    return {
        "dissolve": cross("Dissolve", dials=(Dial("Ease", "plates/crossing/ease"),), ease="eased"),
        "through-black": cross(
            "Through black", dials=(Dial("Colour", "plates/crossing/colour"),), through=True, ease="eased"
        ),
        "swept-reveal": cross("Swept reveal", maps=(SLANTED,), dials=(SOFT,), by="slanted", soft=0.6),
        "ring-at-the-cut": cross(
            "Ring at the cut",
            step(
                "push",
                map="ring",
                mode="out",
                reach_x=60.0,
                rest_by="one",
                split=True,
                split_red=-0.3,
                split_blue=0.3,
                strength=strength,
                **by,
            ),
            step("grade", map="ring", rest_by="one", brighten=0.7, strength=strength),
            maps=(grown("disc", "Disc", 0.0, 60.0), grown("ring", "Ring", 130.0, 60.0)),
            by="disc",
            turned=True,
            soft=0.4,
            dials=(
                Dial("Reach", amount("push", "reach_x"), span=(-300, 300), tip="How far the ring pushes"),
                Dial("Light", amount("grade", "brighten"), span=(0, 1), tip="How bright the ring is"),
                Dial("Ring width", "maps/ring/steps/shape/rim", span=(10, 400)),
                Dial("Ring", amount("push", "map"), also=(amount("grade", "map"),)),
                SOFT,
            ),
        ),
        "shockwave-cut": cross(
            "Shockwave",
            step(
                "push",
                map="ring",
                mode="out",
                reach_x=220.0,
                rest_by="one",
                split=True,
                split_red=-0.4,
                split_blue=0.4,
                strength=strength,
                **by,
            ),
            step("glow", radius=30.0, power=follow("strength", 1.2)),
            maps=(grown("ring", "Ring", 260.0, 140.0),),
            ease="late",
            dials=(
                Dial("Reach", amount("push", "reach_x"), span=(-500, 500)),
                Dial("Glow", amount("glow", "radius"), span=(0, 120)),
            ),
        ),
        "lens-pull": cross(
            "Lens pull",
            step("bulge", centre=(640.0, 360.0), radius=700.0, amount=follow("strength", -1.6), soft=0.4, **by),
            step("blur", form="centre", amount=follow("strength", 0.25), centre=(640.0, 360.0)),
            ease="eased",
            dials=(
                Dial(
                    "Pull",
                    amount("bulge", "amount"),
                    like=-1.6,
                    span=(-4, 4),
                    tip="Below 0 drawn away, above 0 enlarged",
                ),
                Dial("Centre", amount("bulge", "centre"), also=(amount("blur", "centre"),)),
                Dial("Lens size", amount("bulge", "radius"), span=(100, 1400)),
            ),
        ),
        "light-bar": cross(
            "Light bar",
            step("grade", map="bar", rest_by="one", brighten=0.9, strength=strength),
            step("glow", radius=40.0, power=follow("strength", 0.3)),
            maps=(
                ACROSS,
                map_of(
                    "bar",
                    "Bar of light",
                    step(
                        "shape",
                        form="rectangle",
                        place=Driven((-200.0, 360.0), (1680.0, 0.0), Follow({"path": "plates/crossing/progress"})),
                        width=120.0,
                        height=1400.0,
                        turn=12.0,
                        soft=90.0,
                        spin=0.0,
                    ),
                ),
            ),
            by="across",
            soft=0.2,
            dials=(
                Dial("Light", amount("grade", "brighten"), span=(0, 1)),
                Dial("Bar width", "maps/bar/steps/shape/width", span=(10, 600)),
                Dial("Slant", "maps/bar/steps/shape/turn", span=(-45, 45)),
                Dial("Glow", amount("glow", "radius"), span=(0, 120)),
                SOFT,
            ),
        ),
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
                        **by,
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
                        **by,
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
        ),
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
                strength=strength,
                **by,
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
        ),
        "block-shuffle": cross(
            "Block shuffle",
            step("push", map="cells", reach_x=180.0, reach_y=100.0, strength=strength, **by),
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
        ),
        "two-way-bands": cross(
            "Two-way bands",
            step("push", map="bands", reach_x=900.0, reach_y=0.0, rest_by="two", strength=strength, **by),
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
            step("push", map="runs", reach_x=0.0, reach_y=90.0, strength=strength, **by),
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
        "ring-burst-cut": cross(
            "Ring burst",
            step(
                "push",
                map="burst",
                mode="out",
                reach_x=260.0,
                split=True,
                split_red=-0.15,
                split_blue=0.15,
                strength=strength,
                **by,
            ),
            maps=(
                map_of("burst", "Burst", step("noise", size_x=140.0, size_y=220.0, octaves=3, rings=True, churn=0.4)),
                grown("disc", "Disc", 0.0, 240.0),
            ),
            by="disc",
            turned=True,
            soft=0.5,
            dials=(
                Dial("Burst", amount("push", "reach_x"), span=(0, 700)),
                Dial("Rays", "maps/burst/steps/noise/size_x", span=(20, 600)),
                SOFT,
            ),
        ),
        "time-slices": cross(
            "Time slices",
            maps=(map_of("slices", "Slices", step("bands", count=18.0, turn=0.0)),),
            by="slices",
            soft=0.12,
            dials=(
                Dial("Slices", "maps/slices/steps/bands/count", span=(2, 80)),
                Dial("Direction", "maps/slices/steps/bands/turn", span=(-90, 90)),
                SOFT,
            ),
        ),
        "twirl": cross(
            "Twirl",
            step("twirl", centre=(640.0, 360.0), radius=760.0, angle=follow("strength", 540.0), **by),
            ease="eased",
            dials=(
                Dial("Turn", amount("twirl", "angle"), like=540.0, span=(-1440, 1440)),
                Dial("Centre", amount("twirl", "centre")),
                Dial("Radius", amount("twirl", "radius"), span=(100, 1400)),
            ),
        ),
        "heat-dissolve": cross(
            "Heat dissolve",
            step("push", map="heat", reach_x=6.0, reach_y=46.0, strength=strength, **by),
            step("soften", map="heat", radius=10.0, rest_by="two", strength=strength),
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
        ),
        "ribbed-slide": cross(
            "Ribbed glass slides over",
            step("push", map="ribs", reach_x=120.0, reach_y=0.0, strength=strength, **by),
            maps=(ACROSS, map_of("ribs", "Ribs", step("ribs", size=64.0))),
            by="across",
            soft=0.35,
            dials=(
                Dial("Bend", amount("push", "reach_x"), span=(0, 400)),
                Dial("Rib", "maps/ribs/steps/ribs/size", span=(10, 200)),
                SOFT,
            ),
        ),
        "dispersal": cross(
            "Dispersal",
            step("scatter", reach=follow("strength", 140.0), grain=3.0, **by),
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
            step("wave", amplitude=follow("strength", 120.0), length=420.0, turn=90.0, speed=600.0, **by),
            maps=(ACROSS,),
            by="across",
            soft=0.7,
            dials=(
                Dial("Height", amount("wave", "amplitude"), like=120.0, span=(0, 400)),
                Dial("Length", amount("wave", "length"), span=(40, 1400)),
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
                **by,
            ),
            ease="eased",
            dials=(
                Dial("Stretch", amount("cut-lines", "stretch"), like=6.0, span=(1, 14)),
                Dial("Cuts", amount("cut-lines", "lines"), span=(1, 12)),
                Dial("Apart", amount("cut-lines", "apart"), span=(10, 300)),
            ),
        ),
    }


if __name__ == "__main__":
    TARGET.mkdir(exist_ok=True)
    for file, made in all_shots().items():
        write_shot(made, TARGET / f"{file}.nquake", backup=False)
        print(file)
