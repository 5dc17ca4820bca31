"""States of the open shot: kept by name, gone back to, compared with what is now."""

from __future__ import annotations

from collections.abc import Container

import msgspec

from nimble_quake.operators.registry import registry
from nimble_quake.session.state import Session
from nimble_quake.shot.model import Node, Shot, State
from nimble_quake.shot.paths import fresh_id, kind_of
from nimble_quake.shot.states import differs, state_of, with_state

MOST = 100


def files_of(path: str, node: Node) -> Container[str]:
    """Return the values of an item that are files: those are no part of a state."""
    operator = registry().get(kind_of(path), node.kind)
    return () if operator is None else operator.file_names


def state(session: Session, id: str) -> State | None:
    """Return the state of this id."""
    return next((each for each in session.shot.states if each.id == id), None)


def unused_name(session: Session) -> str:
    """Return a name for the next state."""
    taken = {each.name for each in session.shot.states}
    return next(name for name in (f"State {n}" for n in range(1, MOST + 2)) if name not in taken)


def keep(session: Session, name: str) -> str:
    """Keep all values as they are now, under a name. Returns the state's id; empty where there are too many."""
    states = session.shot.states
    if len(states) >= MOST:
        session.message.emit(f"A shot keeps {MOST} states: take one away first")
        return ""
    id = fresh_id(name, {each.id for each in states})
    _put(session, f"Keep {name}", (*states, state_of(session.shot, id, name)))
    session.message.emit(f"{name} is kept: all values as they are now, in the shot's file")
    return id


def renew(session: Session, id: str) -> None:
    """Let a state keep the values of now."""
    old = state(session, id)
    if old is not None:
        now = state_of(session.shot, id, old.name)
        _put(session, f"Keep {old.name} anew", tuple(now if each.id == id else each for each in session.shot.states))


def rename(session: Session, id: str, name: str) -> None:
    """Give a state another name."""
    renamed = (msgspec.structs.replace(each, name=name) if each.id == id else each for each in session.shot.states)
    _put(session, "Rename the state", tuple(renamed))


def remove(session: Session, id: str) -> None:
    """Take a state away."""
    _put(session, "Take a state away", tuple(each for each in session.shot.states if each.id != id))


def go_to(session: Session, id: str) -> None:
    """Give the shot the values of a state, as one step that can be undone."""
    found = state(session, id)
    if found is None:
        return
    shot = seen(session, id)
    if shot is session.shot:
        session.message.emit(f"{found.name}: all values are so already")
    else:
        session.edit(f"Go to {found.name}", shot)


def seen(session: Session, id: str) -> Shot:
    """Return the open shot with the values of a state; the very same where nothing differs."""
    found = state(session, id)
    return session.shot if found is None else with_state(session.shot, found, files_of)


def is_now(session: Session, id: str) -> bool:
    """Return whether the shot's values are those of a state."""
    found = state(session, id)
    return found is not None and not differs(session.shot, found, files_of)


def _put(session: Session, label: str, states: tuple[State, ...]) -> None:
    session.edit(label, msgspec.structs.replace(session.shot, states=states))
