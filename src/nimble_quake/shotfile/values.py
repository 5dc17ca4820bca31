"""Values of operators in a file: still, or moving.

{"keys": [...]}   {"rate": ...}   {"formula": "..."}   {"driver": "wave", "base": ..., "amount": ..., "settings": ...}
{"first": any of these or a still value, "over": [drivers]}
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeAlias

from nimble_quake.conventions import Json
from nimble_quake.errors import OutOfLimits, ShotError
from nimble_quake.motion.driver import Driver, drivers
from nimble_quake.motion.formula import parsed
from nimble_quake.motion.kinds import AFTER, EASE_IN_OUT, Driven, Formula, Key, Keys, Layered, Rate
from nimble_quake.params.kinds import MediaFile, Param, shown

MOST_KEYS = 20_000
MOST_LAYERS = 20
FARTHEST = 1e9
"""Frames of keys and speeds lie within this."""


Note: TypeAlias = Callable[[str], None]
"""Is told, in words, what was read otherwise than it stands in the file."""


def decoded_value(param: Param, raw: Json, note: Note = lambda words: None) -> Any:
    """Return a clean value or motion; what lies beyond its limits is held there, and noted. Raises ShotError."""
    if not isinstance(raw, dict):
        return _clean(param, raw, note)
    still = isinstance(param, MediaFile) or (not param.animatable and "keys" not in raw)
    if still or (param.animatable and not param.size and "keys" not in raw):
        raise ShotError("this value cannot move", cure="give it one still value")
    if "keys" in raw:
        return Keys(_keys(param, raw["keys"], note))
    if "rate" in raw and isinstance(raw["rate"], dict):
        rate = raw["rate"]
        speed = _speed(param, rate.get("per_second"))
        return Rate(_clean(param, rate.get("start"), note), speed)
    if "formula" in raw and isinstance(raw["formula"], str):
        parsed(raw["formula"], param.size)
        return Formula(raw["formula"])
    if "driver" in raw:
        return _driven(param, raw, note)
    if isinstance(raw.get("over"), list):
        return _layered(param, raw, note)
    cure = 'use "keys", "rate", "formula", "driver" or "over"'
    raise ShotError(f"expected a value or a motion, got {shown(raw)}", cure=cure)


def _driven(param: Param, raw: dict[str, Json], note: Note, *, over: bool = False) -> Driven:
    """A driven value; one that lies over another has no base of its own."""
    kind = drivers().get(str(raw.get("driver")))
    if kind is None:
        raise ShotError(f"{shown(raw.get('driver'))} drives nothing here", cure="use one of " + ", ".join(drivers()))
    given = raw.get("settings", {})
    if not isinstance(given, dict):
        raise ShotError(f"expected the settings of {kind.kind}, got {shown(given)}")
    settings = {}
    for name, declared in kind.declared.items():
        if name in given:
            try:
                settings[name] = _clean(declared, given[name], note)
            except ShotError as wrong:
                raise ShotError(f"{name} of its {kind.kind}: {wrong.what}", cure=wrong.cure) from wrong
    base = _nothing(param) if over else _speed(param, raw.get("base"))
    return Driven(base, _speed(param, raw.get("amount")), kind(settings))


def _nothing(param: Param) -> Any:
    return (0.0,) * param.size if param.size > 1 else 0.0


def _layered(param: Param, raw: dict[str, Json], note: Note) -> Layered:
    over = raw["over"]
    if not isinstance(over, list) or not 1 <= len(over) <= MOST_LAYERS or not all(isinstance(o, dict) for o in over):
        raise ShotError(f"expected 1 to {MOST_LAYERS} motions laid over it, got {shown(over)}")
    first = raw.get("first")
    if isinstance(first, dict) and "over" in first:
        raise ShotError("motions are laid over one value, not over one another", cure='list them all in "over"')
    parts = tuple(_driven(param, item, note, over=True) for item in over if isinstance(item, dict))
    return Layered(decoded_value(param, first, note), parts)


def _clean(param: Param, raw: Json, note: Note) -> Any:
    try:
        return param.check(raw)
    except OutOfLimits as wrong:
        note(f"{wrong.what}; it was held there")
        return wrong.held


def _speed(param: Param, raw: Json) -> Any:
    items = raw if isinstance(raw, list) else [raw]
    clean = tuple(_number(item) for item in items)
    if len(clean) != param.size:
        raise ShotError(f"expected {param.size} speed(s) per second, got {shown(raw)}")
    return clean[0] if param.size == 1 else clean


def _number(raw: Json) -> float:
    if isinstance(raw, bool) or not isinstance(raw, int | float) or not -FARTHEST <= raw <= FARTHEST:
        raise ShotError(f"expected a number, got {shown(raw)}")
    return float(raw)


def _keys(param: Param, raw: Json, note: Note) -> tuple[Key, ...]:
    if not isinstance(raw, list) or not 1 <= len(raw) <= MOST_KEYS:
        raise ShotError(f"expected 1 to {MOST_KEYS} keys, got {shown(raw)}")
    keys = {key.frame: key for key in (_key(param, item, note) for item in raw)}
    return tuple(keys[frame] for frame in sorted(keys))


def _key(param: Param, raw: Json, note: Note) -> Key:
    if not isinstance(raw, dict):
        raise ShotError(f"expected a key, got {shown(raw)}")
    after = raw.get("after", "smooth")
    if after not in AFTER:
        raise ShotError(f"{shown(after)} is no way to go on", cure="use one of " + ", ".join(AFTER))
    ease = raw.get("ease", list(EASE_IN_OUT))
    if not isinstance(ease, list) or len(ease) != 4:
        raise ShotError(f"expected an ease of four numbers, got {shown(ease)}")
    x1, y1, x2, y2 = (_number(item) for item in ease)
    if not (0 <= x1 <= 1 and 0 <= x2 <= 1):
        raise ShotError("the times of an ease lie from 0 to 1", cure="keep its 1st and 3rd number there")
    value = _clean(param, raw.get("value"), note)
    return Key(frame=_number(raw.get("frame")), value=value, after=after, ease=(x1, y1, x2, y2))


def encoded_value(param: Param, value: Any) -> Json:
    """Return a value or motion as JSON holds it."""
    if isinstance(value, Keys):
        return {"keys": [_encoded_key(param, key) for key in value.keys]}
    if isinstance(value, Rate):
        speed = list(value.per_second) if isinstance(value.per_second, tuple) else value.per_second
        return {"rate": {"start": param.encode(value.start), "per_second": speed}}
    if isinstance(value, Formula):
        return {"formula": value.text}
    if isinstance(value, Driven):
        return {**_encoded_driver(value.driver), "base": _list(value.base), "amount": _list(value.amount)}
    if isinstance(value, Layered):
        over: list[Json] = [{**_encoded_driver(d.driver), "amount": _list(d.amount)} for d in value.over]
        return {"first": encoded_value(param, value.first), "over": over}
    return param.encode(value)


def _encoded_key(param: Param, key: Key) -> Json:
    frame = int(key.frame) if float(key.frame).is_integer() else key.frame
    found = {"frame": frame, "value": param.encode(key.value), "after": key.after}
    if key.after == "eased" or key.ease != EASE_IN_OUT:  # kept for the day it is eased again
        found["ease"] = list(key.ease)
    return found


def _encoded_driver(driver: Driver) -> dict[str, Json]:
    declared = type(driver).declared
    settings = {n: declared[n].encode(v) for n, v in driver.values.items() if v != declared[n].default}
    return {"driver": driver.kind} | ({"settings": settings} if settings else {})


def _list(value: Any) -> Json:
    return list(value) if isinstance(value, tuple) else value
