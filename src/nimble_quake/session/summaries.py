"""Short words for what operators are set to: a folding section in one line, an effect in a few letters."""

from __future__ import annotations

from nimble_quake.params.kinds import Choice, MapRef, Number, Param, PlateRef, Toggle, When
from nimble_quake.session.state import Session
from nimble_quake.shot.paths import value_path

MOST = 3


def switch_of(params: list[Param]) -> Toggle | None:
    """Return the toggle that switches a section on and off: its first parameter, where the others wait for it."""
    first = params[0] if params else None
    if isinstance(first, Toggle) and any(p.shown_when == When(first.name) for p in params):
        return first
    return None


def is_shown(session: Session, path: str, param: Param) -> bool:
    """Return whether a parameter counts now: what it waits for is so, and counts itself."""
    if param.shown_when is None:
        return True
    at = value_path(path, param.shown_when.name)
    other = session.param(at)
    return other is not None and is_shown(session, path, other) and param.shown_when.holds(session.shown(at))


def section_summary(session: Session, path: str, params: list[Param]) -> str:
    """Return a section in one line: what differs from the defaults first, else its first two values."""
    switch = switch_of(params)
    if switch is not None and not session.shown(value_path(path, switch.name)):
        return "off"
    if any(
        isinstance(p, Number) and p.nothing_at is not None and session.shown(value_path(path, p.name)) == p.nothing_at
        for p in params
    ):
        return "off"
    counting = [param for param in params if param is not switch and is_shown(session, path, param)]
    changed = [param for param in counting if session.raw(value_path(path, param.name)) is not None]
    notify = [word for param in changed or counting[:2] if (word := value_word(session, path, param))]
    return " · ".join(notify[:MOST])


def section_acts(session: Session, path: str, params: list[Param]) -> bool:
    """Return whether a section does anything: it is switched on, or holds what is not at its default."""
    switch = switch_of(params)
    if switch is not None:
        return bool(session.shown(value_path(path, switch.name)))
    return any(session.raw(value_path(path, param.name)) is not None for param in params)


def value_word(session: Session, path: str, param: Param) -> str:
    """Return a value in a word or two; empty where there is nothing to say."""
    value = session.shown(value_path(path, param.name))
    if isinstance(param, Choice):
        return param.label_of(str(value)).lower()
    if isinstance(param, Toggle):
        return param.label.lower() if value else ""
    if isinstance(param, Number):
        unit = f" {param.unit}" if param.unit and param.unit != "°" else param.unit
        return f"{param.label.lower()} {value * param.factor:.4g}{unit}"
    if isinstance(param, MapRef | PlateRef):
        return f"by {session.name_of(param.path_of(str(value))) or value}" if value else ""
    return ""


def effect_summary(session: Session, path: str) -> str:
    """Return how strong an effect is, in a few letters."""
    operator = session.operator_now(path)
    if operator is None:
        return ""
    if operator.summary():
        return str(operator.summary())
    main = main_value(session, path)
    if main is None:
        return ""
    value = session.shown(value_path(path, main.name))
    return f"{value * main.factor:.3g} {main.unit}".strip()


def step_summary(session: Session, path: str) -> str:
    """Return a step's most telling values: how it is combined first ("add 38 %"), else its first two."""
    operator = session.operator(path)
    if operator is None:
        return "not known here"
    combine, opacity = session.shown(value_path(path, "combine")), session.shown(value_path(path, "opacity"))
    words = [str(combine)] if combine not in (None, "over") else []
    if opacity is not None and opacity < 1:
        words.append(f"{opacity:.0%}".replace("%", " %"))
    for name, param in operator.declared.items():
        if len(words) >= 2:
            break
        if name in ("combine", "opacity") or param.section or not is_shown(session, path, param):
            continue
        value = session.shown(value_path(path, param.name))
        if isinstance(param, Choice):
            words.append(param.label_of(str(value)).lower())
        elif isinstance(param, Number):
            words.append(f"{value * param.factor:.4g} {param.unit}".strip())
        elif isinstance(param, MapRef | PlateRef) and value:
            words.append(value_word(session, path, param).removeprefix("by "))
    return ", ".join(words)


def main_value(session: Session, path: str) -> Number | None:
    """Return the number that tells most of an operator: the first it declares."""
    operator = session.operator(path) if path else None
    params = operator.declared.values() if operator else ()
    return next((param for param in params if isinstance(param, Number) and is_shown(session, path, param)), None)
