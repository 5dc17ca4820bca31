"""The crossings that come with the program: each a shot of two clips that meet, made with the ordinary tools."""

from __future__ import annotations

from nimble_quake.motion.drivers.follow import Follow
from nimble_quake.motion.kinds import Driven
from nimble_quake.samples.crossing_pieces import (
    ACROSS,
    MIRROR,
    SLANTED,
    SOFT,
    STRENGTH,
    TARGET,
    amount,
    cross,
    follow,
    grown,
)
from nimble_quake.samples.crossing_shots_torn import blown, clouds, flowing, heat, shuffled, signal, torn
from nimble_quake.samples.fronts import Dial
from nimble_quake.samples.pieces import map_of, step
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile.files import write_shot


def plain() -> dict[str, Shot]:
    """One becomes the other, evenly or along a map."""
    return {
        "dissolve": cross("Dissolve", dials=(Dial("Ease", "plates/crossing/ease"),), ease="eased"),
        "through-black": cross(
            "Through black", dials=(Dial("Colour", "plates/crossing/colour"),), through=True, ease="eased"
        ),
        "swept-reveal": cross("Swept reveal", maps=(SLANTED,), dials=(SOFT,), by="slanted", soft=0.6),
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
    }


def rings() -> dict[str, Shot]:
    """A ring that grows from the cut."""
    return {
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
                strength=STRENGTH,
                **MIRROR,
            ),
            step("grade", map="ring", rest_by="one", brighten=0.7, strength=STRENGTH),
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
                strength=STRENGTH,
                **MIRROR,
            ),
            step("glow", radius=30.0, power=follow("strength", 1.2)),
            maps=(grown("ring", "Ring", 260.0, 140.0),),
            ease="late",
            dials=(
                Dial("Reach", amount("push", "reach_x"), span=(-500, 500)),
                Dial("Glow", amount("glow", "radius"), span=(0, 120)),
            ),
        ),
    }


def bursts() -> dict[str, Shot]:
    """Bent about a centre."""
    return {
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
                strength=STRENGTH,
                **MIRROR,
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
        "lens-pull": cross(
            "Lens pull",
            step("bulge", centre=(640.0, 360.0), radius=700.0, amount=follow("strength", -1.6), soft=0.4, **MIRROR),
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
        "twirl": cross(
            "Twirl",
            step("twirl", centre=(640.0, 360.0), radius=760.0, angle=follow("strength", 540.0), **MIRROR),
            ease="eased",
            dials=(
                Dial("Turn", amount("twirl", "angle"), like=540.0, span=(-1440, 1440)),
                Dial("Centre", amount("twirl", "centre")),
                Dial("Radius", amount("twirl", "radius"), span=(100, 1400)),
            ),
        ),
    }


def light() -> dict[str, Shot]:
    """A bar of light; ribbed glass."""
    return {
        "light-bar": cross(
            "Light bar",
            step("grade", map="bar", rest_by="one", brighten=0.9, strength=STRENGTH),
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
        "ribbed-slide": cross(
            "Ribbed glass slides over",
            step("push", map="ribs", reach_x=120.0, reach_y=0.0, strength=STRENGTH, **MIRROR),
            maps=(ACROSS, map_of("ribs", "Ribs", step("ribs", size=64.0))),
            by="across",
            soft=0.35,
            dials=(
                Dial("Bend", amount("push", "reach_x"), span=(0, 400)),
                Dial("Rib", "maps/ribs/steps/ribs/size", span=(10, 200)),
                SOFT,
            ),
        ),
    }


def all_shots() -> dict[str, Shot]:
    """Return every crossing by the name of its file."""
    parts = (plain, rings, bursts, light, clouds, heat, signal, shuffled, torn, blown, flowing)
    return {name: made for part in parts for name, made in part().items()}


if __name__ == "__main__":
    TARGET.mkdir(exist_ok=True)
    for file, made in all_shots().items():
        write_shot(made, TARGET / f"{file}.nquake", backup=False)
        print(file)
