"""Values of dials and slots from words, as a shell or a table gives them."""

from __future__ import annotations

import re

from nimble_quake.conventions import Value
from nimble_quake.errors import BadInput, one_of
from nimble_quake.params.kinds import (
    Choice,
    Colour,
    MapRef,
    MediaFile,
    Number,
    Pairs,
    Param,
    Seed,
    Stops,
    Toggle,
    Words,
)
from nimble_quake.params.lists import Stop
from nimble_quake.params.numbers import parse_hex

YES, NO = ("yes", "true", "on", "1"), ("no", "false", "off", "0")
NUMBER = re.compile(r"\s*([-+]?(?:\d+\.?\d*|\.\d+)(?:e[-+]?\d+)?)\s*([^\d\s].*)?", re.IGNORECASE)


def value_of(param: Param, text: str) -> Value:
    """Return the value that words stand for. Raises BadInput, ShotError.

    Numbers are as the document holds them, or with the unit that is shown: 0.4 and 40% are the same. Pairs are
    separated by a comma or an x, colours are #rrggbb, several colours are separated by commas.
    """
    if isinstance(param, Toggle):
        return _switch(text)
    if isinstance(param, Number | Seed):
        number = _number(param, text)
        return param.check(number if isinstance(param, Number) else round(number))
    if isinstance(param, Pairs):
        parts = re.split(r"[,;x×\s]+", text.strip())
        return param.check([_number(param, part) for part in parts])
    if isinstance(param, Colour):
        return param.check(text.strip())
    if isinstance(param, Choice):
        return _choice(param, text)
    if isinstance(param, Stops):
        return param.check(_stops(text))
    if isinstance(param, MapRef | MediaFile):
        return text.strip()
    if isinstance(param, Words):
        return param.check(text.replace("\\n", "\n"))
    raise BadInput(f"{param.label} cannot be given in words", cure="set it in the window")


def _number(param: Param, text: str) -> float:
    found = NUMBER.fullmatch(text)
    unit = (found.group(2) or "").strip() if found else ""
    if found is None or unit.casefold() not in ("", param.unit.casefold()):
        unit_words = f", or with its unit, {param.unit}" if param.unit else ""
        raise BadInput(f'expected a number, got "{text[:40]}"', cure=f"use a number{unit_words}")
    return float(found.group(1)) / (param.factor if unit else 1.0)


def _switch(text: str) -> bool:
    plain = text.strip().casefold()
    if plain not in (*YES, *NO):
        raise BadInput(f'expected yes or no, got "{text[:40]}"', cure="use yes or no")
    return plain in YES


def _choice(param: Choice, text: str) -> str:
    plain = text.strip().casefold()
    for option in param.options:
        if plain in (option.value.casefold(), option.label.casefold()):
            return option.value
    raise BadInput(f'"{text[:40]}" is no choice', cure=one_of([option.value for option in param.options], text))


def _stops(text: str) -> list[Stop]:
    colours = [parse_hex(part.strip()) for part in text.split(",")]
    return [Stop(n / max(1, len(colours) - 1), colour) for n, colour in enumerate(colours)]
