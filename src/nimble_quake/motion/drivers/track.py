"""Track."""

from __future__ import annotations

from nimble_quake.conventions import Value, Values
from nimble_quake.motion.driver import Driver
from nimble_quake.motion.timing import Moment
from nimble_quake.params.kinds import Choice, Number, PlateRef, When, options
from nimble_quake.params.refit import PLAIN, Refit, Scaling


class Track(Driver):
    """Goes where tracked points of a clip go, or turns and grows as they do."""

    title = "Track"
    help = "Goes where a tracked point of a clip goes, or as two of them turn and grow"
    rank = 60
    amount = ("Times", "What the motion is multiplied by")
    base = ("From", "The value it begins with")
    factor = True
    asks_shot = True

    plate = PlateRef(label="Clip", help="A tracked clip", tracked=True)
    point = Number(
        label="Point", help="The number of the point", default=0, hard=(0, 1e6), usual=(0, 200), whole=True, decimals=0
    )
    second = Number(
        label="And",
        help="The number of a second point, for scale and turn",
        default=1,
        hard=(0, 1e6),
        usual=(0, 200),
        whole=True,
        decimals=0,
        shown_when=When("takes", "turn", "scale"),
    )
    takes = Choice(
        label="Takes",
        help="What of the points it takes",
        default="place",
        options=options(
            place="Place: x and y, in px",
            x="Across, in px",
            y="Down, in px",
            turn="Turn, in degrees",
            scale="Scale, as a share",
        ),
    )
    since = Number(
        label="As at",
        help="The frame at which it is what it begins with",
        default=0,
        hard=(0, 1e6),
        usual=(0, 240),
        whole=True,
        decimals=0,
        unit="f",
    )

    def course(self, moment: Moment, number: int, size: int) -> float:
        points = (int(self.point), int(self.second)) if self.takes in ("turn", "scale") else (int(self.point),)
        found = moment.tracked_motion(self.plate, points, self.since)
        if self.takes == "place":
            return found[min(number, 1)]
        return found[("x", "y", "turn", "scale").index(self.takes)]

    def refit_course(self, by: Refit) -> Scaling:
        return by.length() if self.takes in ("place", "x", "y") else PLAIN

    def said(self) -> str:
        return f"point {self.point:g}, {self.takes}"

    @classmethod
    def begun(cls, base: Value, usual: tuple[float, float], size: int) -> tuple[Value, Value, Values]:
        takes = {"takes": "place" if size > 1 else "x"}
        return base, (1.0,) * size if size > 1 else 1.0, takes
