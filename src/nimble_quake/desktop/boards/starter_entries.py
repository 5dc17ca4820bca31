"""Starters on the board of effects: each is shown, and tried, on the selected plate."""

from __future__ import annotations

from functools import partial

from nimble_quake.desktop.boards.entries import Entry
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.session.starting import starters
from nimble_quake.session.starting.finding import all_starters
from nimble_quake.session.starting.starters import Starter
from nimble_quake.session.state import Session
from nimble_quake.shot.crossings import span_of
from nimble_quake.shot.model import Shot
from nimble_quake.shot.paths import id_of

TABS = ("starter", "crossing")
CROSSINGS = "Crossings"


def starter_entries(session: Session, tab: str) -> list[Entry]:
    """Return the starters that can be put on the selected plate, or between two, one's own first."""
    if not session.selection.plate:
        return []
    wanted = (each for each in all_starters() if not each.damaged and (each.sort == CROSSINGS) == (tab == "crossing"))
    found = (_entry(session, starter, tab) for starter in wanted)
    return [entry for entry in found if entry is not None]


def _entry(session: Session, starter: Starter, tab: str) -> Entry | None:
    try:
        shot, paths = starters.with_starter(session, starter)
    except NimbleQuakeError:
        return None
    plate = id_of(paths[0]) if paths and paths[0].count("/") == 1 else id_of(session.selection.plate)
    if not paths:
        return None
    crossing = shot.plate(plate) if tab == "crossing" else None
    return Entry(
        key=f"{tab}:{starter.name}",
        title=starter.title,
        help=f"{starter.note[:1].upper()}{starter.note[1:]}, with its maps and dials",
        group=starter.sort,
        shot=shot,
        map_id="",
        tried=partial(_tried, starter=starter),
        take=partial(starters.put_on, starter=starter),
        tab=tab,
        plate_id=plate,
        span=span_of(crossing) if crossing is not None else None,
        called=starter.about.words if starter.about is not None else "",
    )


def _tried(session: Session, starter: Starter) -> Shot:
    return starters.with_starter(session, starter)[0]
