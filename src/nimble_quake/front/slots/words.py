"""Slot of words."""

from __future__ import annotations

from nimble_quake.operators.front.base import Front, Note
from nimble_quake.params.kinds import Param
from nimble_quake.params.kinds import Words as Text


class Words(Front):
    """Words that the next user types."""

    title = "Words"
    help = "Words, typed by whoever uses it next"
    rank = 2
    slot = True
    sort = "lagoon"

    value = Text(label="Value", help="The words", lines=True)
    standard = Note(label="Example", help="The words of the example", lines=True)

    @classmethod
    def takes(cls, param: Param) -> bool:
        return type(param) is Text
