"""Slot of a picture or clip."""

from __future__ import annotations

from nimble_quake.operators.front.base import Front
from nimble_quake.params.kinds import Choice, MediaFile, Param, Toggle, options


class Picture(Front):
    """A picture, a logo or a clip that the next user puts in: the plate behind it shows it, with all its effects."""

    title = "Picture"
    help = "A picture, a logo or a clip, put in by whoever uses it next"
    rank = 1
    slot = True
    card = True
    fills_plate = True
    sort = "lagoon"

    value = MediaFile(label="Value", help="The file that was put in; empty: the example is seen", sort="picture")
    fit = Choice(
        label="Fit",
        help="How what is put in lies where the example lay",
        default="inside",
        options=options(
            inside="Inside: as large as lies wholly in the example's box",
            over="Over: as small as covers the example's box",
            own="Its own size: each of its pixels stays one",
        ),
    )

    takes_mine = Toggle(
        label="Takes my picture",
        help="Put on a picture, the whole starter goes round it: the picture comes in here. Else only effects go on it",
    )
    filled = Toggle(label="Filled", help="Somebody has put something in; else the example is seen")

    @classmethod
    def takes(cls, param: Param) -> bool:
        return isinstance(param, MediaFile) and param.sort in ("picture", "still", "clip", "artwork")
