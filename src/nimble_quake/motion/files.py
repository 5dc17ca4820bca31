"""Values of operators as files hold them: still, or moving.

{"keys": [...]}   {"rate": ...}   {"formula": "..."}   {"driver": "wave", "base": ..., "amount": ..., "settings": ...}
{"first": any of these or a still value, "over": [drivers]}   {"first": …, "times": a factor that moves}
"""

from __future__ import annotations

import msgspec

from nimble_quake.conventions import Json, Value
from nimble_quake.errors import NimbleQuakeError, ShotError
from nimble_quake.motion.driver import drivers
from nimble_quake.motion.formula_moved import renamed_formula
from nimble_quake.motion.kinds import Motion, motions
from nimble_quake.motion.reading import Note, Reading
from nimble_quake.params.base import Rename
from nimble_quake.params.kinds import Param, shown


def decoded_value(param: Param, raw: Json, note: Note = lambda words: None) -> Value:
    """Return a clean value or motion; what lies beyond its limits is held there, and noted. Raises ShotError."""
    reading = Reading(note, lambda of, part: decoded_value(of, part, note))
    if not isinstance(raw, dict):
        return reading.still(param, raw)
    kind = next((motion for motion in motions() if motion.word in raw), None)
    moves = param.takes_keys if kind is not None and kind.any_value else param.animatable and bool(param.size)
    if not moves:
        raise ShotError("this value cannot move", cure="give it one still value")
    if kind is None:
        cure = "use " + ", ".join(f'"{motion.word}"' for motion in motions())
        raise ShotError(f"expected a value or a motion, got {shown(raw)}", cure=cure)
    return kind.decoded(param, raw, reading)


def encoded_value(param: Param, value: Value) -> Json:
    """Return a value or motion as JSON holds it."""
    return value.encoded(param) if isinstance(value, Motion) else param.encode(value)


def renamed_text(text: str, rename: Rename) -> str:
    """Return a value as JSON text with what it refers to in the shot under new names."""

    def renamed(raw: Json) -> Json:
        if not isinstance(raw, dict):
            return raw
        out = {key: renamed(value) for key, value in raw.items()}
        kind, settings = drivers().get(str(raw.get("driver"))), raw.get("settings")
        if kind is not None and isinstance(settings, dict):
            out["settings"] = {
                name: _renamed(kind.declared.get(name), value, rename) for name, value in settings.items()
            }
        if isinstance(raw.get("formula"), str):
            out["formula"] = renamed_formula(str(raw["formula"]), rename)
        over = raw.get("over")
        if isinstance(over, list):
            out["over"] = [renamed(each) for each in over]
        return out

    return msgspec.json.encode(renamed(msgspec.json.decode(text))).decode()


def _renamed(param: Param | None, value: Json, rename: Rename) -> Json:
    found: Json = value if param is None else param.renamed(value, rename)
    return found


def as_text(param: Param, value: object) -> str:
    """Return a value, still or moving, as JSON text."""
    return msgspec.json.encode(encoded_value(param, value)).decode()


def from_text(param: Param, text: str) -> object:
    """Return the value that JSON text holds; the default where it makes no sense."""
    try:
        return decoded_value(param, msgspec.json.decode(text))
    except (NimbleQuakeError, ValueError):
        return param.default
