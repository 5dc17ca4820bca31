"""Dial of a choice."""

from __future__ import annotations

from dataclasses import replace

from nimble_quake.conventions import Values
from nimble_quake.operators.front.base import Front, Note
from nimble_quake.params.kinds import Choice as Chosen
from nimble_quake.params.kinds import Param, Words


class Choice(Front):
    """One of what the value behind it can be."""

    title = "Choice"
    help = "One of a few"
    rank = 35

    value = Words(label="Value", help="What is chosen", most=100)
    standard = Note(label="Standard", help="What it goes back to", most=100)

    @classmethod
    def takes(cls, param: Param) -> bool:
        return isinstance(param, Chosen)

    @classmethod
    def shown_as(cls, values: Values, label: str, behind: Param | None) -> Param:
        """The choices are those of the value behind it; words where that is gone."""
        if not isinstance(behind, Chosen):
            return super().shown_as(values, label, behind)
        tip = values.get("tip") or behind.help
        return replace(behind, name="value", label=label, help=tip, default=cls.at_standard(values), joined=None)
