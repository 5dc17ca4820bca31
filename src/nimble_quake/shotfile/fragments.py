"""Fragments as text: pieces of a shot on the clipboard, or in a mail."""

from __future__ import annotations

import msgspec

from nimble_quake.errors import ShotError
from nimble_quake.params.kinds import shown
from nimble_quake.shot.fragment import Fragment
from nimble_quake.shot.model import FORMAT
from nimble_quake.shot.paths import find, kind_of
from nimble_quake.shotfile.codec import decoded, encoded

MARK = "nimble_quake_fragment"
MOST_CHARACTERS = 20_000_000
MOST_PICKED = 2000
SORTS = ("plate", "effect", "step", "map")
CLIPBOARD = "the clipboard"


def fragment_text(fragment: Fragment) -> str:
    """Return a fragment as text; media keep their absolute names."""
    found = {MARK: FORMAT, "picked": list(fragment.picked), "frame": fragment.frame, "shot": encoded(fragment.shot)}
    return msgspec.json.format(msgspec.json.encode(found), indent=1).decode()


def fragment_from(text: str) -> Fragment:
    """Return the fragment in a text. Raises ShotError, in one line that says what the clipboard holds instead."""
    cure = "copy plates, effects, steps or maps first"
    if len(text) > MOST_CHARACTERS:
        raise ShotError("it holds too much text", where=CLIPBOARD, cure=cure)
    try:
        raw = msgspec.json.decode(text) if text.lstrip().startswith("{") else None
    except (msgspec.DecodeError, RecursionError, UnicodeError):
        raw = None
    if not isinstance(raw, dict) or MARK not in raw:
        raise ShotError("it holds nothing of a shot", where=CLIPBOARD, cure=cure)
    picked, frame = raw.get("picked"), raw.get("frame", 0)
    if not isinstance(picked, list) or len(picked) > MOST_PICKED or not all(isinstance(path, str) for path in picked):
        raise ShotError(f"expected paths of what was picked, got {shown(picked)}", where=CLIPBOARD, cure=cure)
    try:
        shot = decoded(raw.get("shot"))
    except ShotError as wrong:
        raise ShotError(wrong.what, where=f"{CLIPBOARD}: {wrong.where}".rstrip(": "), cure=wrong.cure) from wrong
    there = tuple(path for path in picked if kind_of(path) in SORTS and find(shot, path) is not None)
    if not there or len({kind_of(path) for path in there}) > 1:
        raise ShotError("what was picked is not in it", where=CLIPBOARD, cure=cure)
    whole = isinstance(frame, int) and not isinstance(frame, bool) and abs(frame) < 2**31
    return Fragment(shot, there, frame if whole else 0)
