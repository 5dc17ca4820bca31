"""Where a front comes from: the starter it was made with, and its version."""

from __future__ import annotations

from nimble_quake.operators.front.base import Front, Note, Steady
from nimble_quake.params.kinds import Words


class Origin(Front):
    """The starter that something was made with. A newer version of it can be taken; nothing changes by itself."""

    title = "Made with"
    help = "The starter it was made with, and its version"
    rank = 99
    apart = True

    value = Words(label="Value", help="Nothing that can be turned", most=1)
    starter = Note(label="Starter", help="The name of the starter", most=200)
    made_with = Steady(
        label="Version",
        help="The version it was made with",
        default=1,
        hard=(1, 1e6),
        usual=(1, 20),
        whole=True,
        decimals=0,
    )
    stays = Steady(
        label="Stays",
        help="The newer version that was left alone",
        hard=(0, 1e6),
        usual=(0, 20),
        whole=True,
        decimals=0,
    )
