"""Starters on the board of effects: each is shown, and tried, on the selected plate."""

from __future__ import annotations

from functools import partial

from nimble_quake.desktop.boards.entries import Entry
from nimble_quake.desktop.time.crossing_drop import packed
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.session.starting import starters
from nimble_quake.session.starting.finding import all_starters
from nimble_quake.session.starting.starters import Starter
from nimble_quake.session.state import Session
from nimble_quake.shot.crossings import span_of
from nimble_quake.shot.model import Shot
from nimble_quake.shot.paths import id_of, kind_of

TABS = ("starter", "crossing")
CROSSINGS = "Crossings"


def starter_entries(session: Session, tab: str) -> list[Entry]:
    """Return the starters that can be put on the selected plate, or between two, one's own first."""
    if not session.selection.plate:
        return []
    wanted = (each for each in all_starters() if not each.damaged and (each.sort == CROSSINGS) == (tab == "crossing"))
    return [_entry(session, starter, tab) for starter in wanted]


def _entry(session: Session, starter: Starter, tab: str) -> Entry:
    return Entry(
        key=f"{tab}:{starter.name}",
        title=starter.title,
        help=f"{starter.note[:1].upper()}{starter.note[1:]}, with its maps and dials",
        group=starter.sort,
        shot=session.shot,
        map_id="",
        tried=partial(_tried, starter=starter),
        take=partial(starters.put_on, starter=starter),
        tab=tab,
        later=_Made(session, starter, tab),
        called=starter.about.words if starter.about is not None else "",
        carried=partial(packed, starter.name) if tab == "crossing" else None,
    )


class _Made:
    """What a starter makes of the selected plate, found once, on the thread that draws its thumbnail."""

    def __init__(self, session: Session, starter: Starter, tab: str) -> None:
        self._session, self._starter, self._tab = session, starter, tab
        self._found: tuple[Shot, str, tuple[int, int] | None] | None = None

    def __call__(self) -> tuple[Shot, str, tuple[int, int] | None]:
        if self._found is None:
            self._found = self._make()
        return self._found

    def _make(self) -> tuple[Shot, str, tuple[int, int] | None]:
        chosen = id_of(self._session.selection.plate)
        try:
            shot, paths = starters.with_starter(self._session, self._starter)
        except NimbleQuakeError:
            return self._session.shot, chosen, None
        plate = id_of(paths[0]) if paths and kind_of(paths[0]) == "plate" else chosen
        crossing = shot.plate(plate) if self._tab == "crossing" else None
        return shot, plate, span_of(crossing) if crossing is not None else None


def _tried(session: Session, starter: Starter) -> Shot:
    return starters.with_starter(session, starter)[0]
