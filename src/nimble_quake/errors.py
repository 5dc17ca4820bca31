"""What can go wrong, told in one line: what happened, where, what to do.

NimbleQuakeError
├── BadInput            the command line exits with 2
│   ├── ShotError       a shot file, or a value in it
│   │   └── OutOfLimits     a value beyond its limits
│   ├── MediaError      a picture, clip, artwork or font
│   ├── MotionError     a value that cannot move as it is told to
│   │   └── FormulaError    a formula that cannot be read or gives no number
│   └── LimitError      more than we are willing to compute
└── FailedWork          the command line exits with 1
    ├── SaveFailed      the disk would not take it
    └── Cancelled       somebody asked us to stop
"""

from __future__ import annotations

import difflib
from collections.abc import Iterable
from typing import TYPE_CHECKING, Self

if TYPE_CHECKING:  # a help page needs no NumPy
    from nimble_quake.conventions import Value

LONGEST_LINE = 300
"""Characters of a message; what a file brings in may be longer."""


def one_line(text: str, cure: str = "") -> str:
    """Return a message as one line that any screen and terminal can show, its cure whole at the end."""
    text, cure = _plain(text), _plain(cure)
    room = LONGEST_LINE - (len(cure) + 3 if cure else 0)
    if len(text) > room:
        half = max(20, (room - 3) // 2)
        text = f"{text[:half]} … {text[-max(0, room - half - 3) :]}" if room > half + 3 else text[:half]
    return (f"{text} - {cure}" if cure else text)[:LONGEST_LINE]


MOST_CHOICES = 8


def one_of(choices: Iterable[str], given: str = "") -> str:
    """Return a cure that names what may be used: the nearest to what was given first, and no more than a few."""
    known = list(choices)
    near = difflib.get_close_matches(given, known, MOST_CHOICES, 0.5) if given else []
    shown = [*near, *(each for each in known if each not in near)][: max(len(near), MOST_CHOICES)]
    more = f" and {len(known) - len(shown)} more" if len(known) > len(shown) else ""
    return f"use one of {', '.join(shown)}{more}"


def _plain(text: str) -> str:
    """Without line breaks, control characters, and bytes that are no text."""
    text = text.encode("utf-8", "replace").decode("utf-8")
    return " ".join("".join(letter if letter.isprintable() else " " for letter in text).split())


class NimbleQuakeError(Exception):
    """One clear line: `what`, the `where` (an item's path or a file) and the `cure`."""

    exit_code = 1

    def __init__(self, what: str, *, where: str = "", cure: str = "") -> None:
        self.what, self.where, self.cure = what, where, cure
        self.all: list[NimbleQuakeError] = []
        """Every error that was found where this one is the first of several."""
        super().__init__(self.line())

    def anew(self) -> Self:
        """Return the same error, not raised yet.

        What is kept to be raised again is kept so: a raised one holds all that was under way when it came up, and more
        each time it is raised.
        """
        found = type(self).__new__(type(self), self.line())
        found.__dict__.update(self.__dict__)
        return found

    def line(self) -> str:
        """The whole message in one line."""
        head = f"{self.where}: {self.what}" if self.where else self.what
        return one_line(head, self.cure)


class BadInput(NimbleQuakeError):
    """What was handed in cannot be used."""

    exit_code = 2


class ShotError(BadInput):
    """A shot file, or a value in it, does not make sense."""


class OutOfLimits(ShotError):
    """A value of the right sort that lies beyond its limits; `clamped` is the nearest one that does not."""

    def __init__(self, what: str, clamped: Value, *, where: str = "", cure: str = "") -> None:
        super().__init__(what, where=where, cure=cure)
        self.clamped = clamped


class MediaError(BadInput):
    """A picture, clip, artwork or font cannot be read."""


class MotionError(BadInput):
    """A value cannot move as it is told to: what it follows is not there, or follows it."""


class FormulaError(MotionError):
    """A formula cannot be read, or gave no number."""


class LimitError(BadInput):
    """More was asked than we are willing to compute."""


class FailedWork(NimbleQuakeError):
    """The input was good; the work could not be finished."""


class SaveFailed(FailedWork):
    """A file could not be written; what was there before is still there."""


class Cancelled(FailedWork):
    """The work was stopped on request; nothing half-made is left."""
