"""A starter by its name: shipped, one's own, or in a file."""

from __future__ import annotations

from pathlib import Path

from nimble_quake.errors import BadInput, one_of
from nimble_quake.session.starting.own import own_starters, starter_in
from nimble_quake.session.starting.starters import Starter, shipped
from nimble_quake.shotfile import starter_file
from nimble_quake.shotfile.files import SUFFIX


def all_starters() -> tuple[Starter, ...]:
    """Return every starter there is, one's own first."""
    return (*own_starters(), *shipped())


def find_starter(name: str) -> Starter:
    """Return the starter of a file, of a name, or of the only name that begins so. Raises BadInput, ShotError."""
    if name.endswith((starter_file.SUFFIX, SUFFIX)):
        found = starter_in(Path(name))
        if found.damaged:
            starter_file.about_of(Path(name)) if name.endswith(starter_file.SUFFIX) else found.shot
        return found
    known, plain = all_starters(), name.strip().casefold()
    same = [each for each in known if plain in (each.name.casefold(), each.title.casefold())]
    near = same or [each for each in known if each.name.casefold().startswith(plain) and plain]
    if len({each.name for each in near}) != 1 and not same:
        raise BadInput(f'there is no starter "{name[:60]}"', cure=one_of([each.name for each in known], name))
    return near[0]
