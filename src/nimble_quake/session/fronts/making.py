"""A shot made from a starter: another size, rate or length, its slots filled, its dials turned."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path

from nimble_quake.conventions import MAX_FRAMES, MAX_SIDE, Seconds, Value
from nimble_quake.errors import BadInput, NimbleQuakeError
from nimble_quake.media.sound import seconds_of
from nimble_quake.operators.front.turning import front_kind
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import Number
from nimble_quake.render.engine import Engine
from nimble_quake.session.fronts.filling import filled, named, shown_as, with_dial
from nimble_quake.session.fronts.typed import value_of
from nimble_quake.shot.edits.add import with_sound
from nimble_quake.shot.model import Node, Shot
from nimble_quake.shot.refit import Change, refitted

TIMES = ("stretch", "keep")
"""What becomes of times where the length is another one: stretched to it, or kept at their seconds."""
SHAPES = ("fit", "fill", "keep")
BY_SOUND = "sound"
"""A length that is its sound's."""


@dataclass(frozen=True)
class Measures:
    """What a shot is to have; None: as the starter has it. size: px. times: one of TIMES. shape: one of SHAPES.

    sound: a file that it gets as a recording, from its start; by_sound: it is as long as its sound.
    """

    size: tuple[int, int] | None = None
    rate: Fraction | None = None
    length: Seconds | None = None
    times: str = "stretch"
    shape: str = "fit"
    sound: str = ""
    by_sound: bool = False


def size_of(text: str) -> tuple[int, int]:
    """Return the size of "1080x1350", px. Raises BadInput."""
    found = re.fullmatch(r"\s*(\d{1,5})\s*[x×,]\s*(\d{1,5})\s*", text)
    wide, tall = (int(found.group(1)), int(found.group(2))) if found else (0, 0)
    if not (1 <= wide <= MAX_SIDE and 1 <= tall <= MAX_SIDE):
        raise BadInput(f'"{text[:40]}" is no size', cure=f"write it as 1080x1350, up to {MAX_SIDE} px a side")
    return wide, tall


def rate_of(text: str) -> Fraction:
    """Return the rate of "25", "23.976" or "24000/1001", frames a second. Raises BadInput."""
    try:
        rate = Fraction(text.strip()).limit_denominator(100_000)
    except (ValueError, ZeroDivisionError):
        rate = Fraction(0)
    if not Fraction(1, 10) <= rate <= 1000:
        raise BadInput(f'"{text[:40]}" is no frame rate', cure='use "25" or "24000/1001"')
    return rate


def measured(shot: Shot, measures: Measures) -> Shot:
    """Return a shot of another size, rate and length, with what is in it going along. Raises BadInput."""
    width, height = measures.size or (shot.width, shot.height)
    rate = measures.rate or shot.rate
    seconds = shot.length / float(shot.rate) if measures.length is None else measures.length
    length = round(seconds * float(rate))
    if not 1 <= length <= MAX_FRAMES:
        raise BadInput(f"{seconds:g} s is no length", cure="use seconds, such as 6 or 2.5")
    if (width, height, rate, length) == (shot.width, shot.height, shot.rate, shot.length):
        return shot
    stretches = measures.times == "stretch" and measures.length is not None
    change = Change(width, height, rate, length, shape=measures.shape, stretches=stretches)
    return refitted(shot, change, registry().get)


def made(shot: Shot, values: Mapping[str, Value], measures: Measures, engine: Engine | None = None) -> Shot:
    """Return a starter's shot in these measures with its slots filled and its dials set, by their names.

    Slots come first, in the order of the front. Raises NimbleQuakeError that names the dial or slot.
    """
    if measures.by_sound:
        measures = replace(measures, length=_seconds_of_sound(shot, values, measures), by_sound=False)
    shot, engine = measured(shot, measures), engine or Engine()
    wanted = {named(shot, name).id: value for name, value in values.items()}
    for node in sorted(shot.front, key=lambda node: not _is_slot(node)):
        if node.id in wanted:
            shot = with_given(shot, node, wanted[node.id], engine)
    return with_sound(shot, str(Path(measures.sound).absolute()))[0] if measures.sound else shot


def _seconds_of_sound(shot: Shot, values: Mapping[str, Value], measures: Measures) -> Seconds:
    """How long the sound lasts that it will have: the one it gets, else its first. Raises BadInput, MediaError."""
    file = measures.sound
    if not file:
        files = [str(node.values.get("file") or "") for node in made(shot, values, Measures()).sounds if node.on]
        file = next((each for each in files if each), "")
    if not file:
        raise BadInput("it has no sound to be as long as", cure="give it one, or a length in seconds")
    return seconds_of(file)


def length_of(text: str) -> tuple[Seconds | None, bool]:
    """Return the seconds of "6" or "2.5s", and whether it is as long as its sound: "sound". Raises BadInput."""
    if text.strip().casefold() == BY_SOUND:
        return None, True
    try:
        return float(text.strip().removesuffix("s")), False
    except ValueError:
        raise BadInput(f'"{text[:40]}" is no length', cure="use seconds, such as 6 or 2.5, or: sound") from None


def with_given(shot: Shot, node: Node, value: Value, engine: Engine) -> Shot:
    """Return the shot with a dial or slot set to a value, or to what words stand for. Raises NimbleQuakeError."""
    kind, param = front_kind(node), shown_as(shot, node)
    try:
        if kind is not None and kind.slot and not isinstance(param, Number):
            return filled(shot, node, value, engine)
        given = value_of(param, value) if isinstance(value, str) and param is not None else value
        return with_dial(shot, node, given)
    except NimbleQuakeError as wrong:
        raise type(wrong)(wrong.what, where=node.name or node.id, cure=wrong.cure) from wrong


def _is_slot(node: Node) -> bool:
    kind = front_kind(node)
    return kind is not None and kind.slot
