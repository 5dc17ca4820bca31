"""Text set line by line and letter by letter: each line with its own alignment, each letter moved by itself.

Letters keep the face's kerning: a letter stands where the line up to it ends, as the face's own layout measures it.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, replace
from functools import lru_cache

from nimble_quake.conventions import Picture
from nimble_quake.media.drawing.faces import LOCK
from nimble_quake.media.drawing.type import Covered, TextLook, begin_text, once_drawn, paragraph_of, text_margin

MOST_LETTERS = 2000
LIMIT = 6000.0
"""Letters that lie farther from their place than this, px of the text, are not drawn."""


@dataclass(frozen=True)
class Letter:
    """A letter where it stands: its middle, px from the text's top left."""

    sign: str
    x: float
    y: float
    left: float
    top: float


@dataclass(frozen=True)
class Move:
    """How a letter is moved away from its place: px, degrees about its middle, a factor, and how much is seen."""

    x: float = 0.0
    y: float = 0.0
    turn: float = 0.0
    scale: float = 1.0
    alpha: float = 1.0


@lru_cache(maxsize=512)
def _width(look: TextLook, words: str) -> float:
    return float(paragraph_of(replace(look, words=words, width=0.0)).MaxIntrinsicWidth) if words else 0.0


@lru_cache(maxsize=64)
def lines_of(look: TextLook) -> tuple[tuple[str, float, float], ...]:
    """Return the lines of a text with their left ends and tops, px; each lies as its own alignment says."""
    with LOCK:
        lines = [line for words in look.words.split("\n") for line in _broken(look, words)]
        height = float(paragraph_of(look).Height) / len(look.words.split("\n"))
        if look.width > 0:
            height = float(paragraph_of(replace(look, words="x", width=0.0)).Height)
        widths = [_width(look, line) for line in lines]
        whole = look.width or max(widths)
        fractions = {"left": 0.0, "right": 1.0}
        aligns = [look.aligns[n] if n < len(look.aligns) else look.align for n in range(len(lines))]
        return tuple(
            (line, (whole - width) * fractions.get(align, 0.5), n * height)
            for n, (line, width, align) in enumerate(zip(lines, widths, aligns, strict=True))
        )


def _broken(look: TextLook, words: str) -> list[str]:
    """A line broken at its width, as the layout does it: between words, and within one that is too long by itself."""
    if look.width <= 0:
        return [words]
    lines, line = [], ""
    for word in re.findall(r"\S+\s*", words) or [words]:
        if line and _width(look, (line + word).rstrip()) > look.width:
            lines.append(line.rstrip())
            line = ""
        while len(word.rstrip()) > 1 and _width(look, (line + word).rstrip()) > look.width:
            fits = next(
                n for n in range(len(word.rstrip()) - 1, 0, -1) if n == 1 or _width(look, word[:n]) <= look.width
            )
            lines.append(word[:fits])
            word = word[fits:]
        line += word
    return [*lines, line.rstrip()]


@lru_cache(maxsize=64)
def letters_of(look: TextLook) -> tuple[Letter, ...]:
    """Return the letters of a text that are seen, each where it stands, line after line."""
    with LOCK:
        lines = lines_of(look)
        height = float(paragraph_of(look).Height) / max(1, len(lines))  # of each: letters turn about its middle
        found: list[Letter] = []
        for line, left, top in lines:
            for n, sign in enumerate(line):
                if sign.isspace() or len(found) >= MOST_LETTERS:
                    continue
                begins, ends = left + _width(look, line[:n]), left + _width(look, line[: n + 1])
                found.append(Letter(sign, (begins + ends) / 2, top + height / 2, begins, top))
        return tuple(found)


def draw_letters(look: TextLook, zoom_x: float, zoom_y: float, moves: tuple[Move, ...]) -> tuple[Picture, float]:
    """Return the text drawn at a zoom with each letter moved, and its margin on every side (px of the text)."""
    with LOCK:
        letters = letters_of(look)
        far = max((max(abs(m.x), abs(m.y)) for m in moves), default=0.0)
        grown = max((m.scale for m in moves), default=1.0)
        margin = text_margin(look) * max(1.0, grown) + min(far, LIMIT) + look.size * max(0.0, grown - 1)
        right = max((x + _width(look, line) for line, x, _ in lines_of(look)), default=1.0)
        right = max(right, look.width)
        out, canvas, surface = begin_text((right, float(paragraph_of(look).Height)), margin, zoom_x, zoom_y)
        for letter, move in zip(letters, moves, strict=False):
            if move.alpha <= 0 or max(abs(move.x), abs(move.y)) > LIMIT or not math.isfinite(move.scale):
                continue
            r, g, b, a = look.rgba
            own = paragraph_of(replace(look, words=letter.sign, width=0.0, rgba=(r, g, b, a * move.alpha), aligns=()))
            canvas.save()
            canvas.translate(margin + letter.x + move.x, margin + letter.y + move.y)
            canvas.rotate(move.turn)
            canvas.scale(move.scale, move.scale)
            own.paint(canvas, letter.left - letter.x, letter.top - letter.y)
            canvas.restore()
        del canvas, surface
    return out, margin


@once_drawn
def lines_coverage(look: TextLook, zoom_x: float, zoom_y: float) -> Covered:
    """As `type.text_coverage`, each line as its own alignment says."""
    margin = text_margin(look)
    lines = lines_of(look)
    right = max((x + _width(look, line) for line, x, _ in lines), default=1.0)
    height = float(paragraph_of(look).Height)
    coverage, canvas, surface = begin_text((right, height), margin, zoom_x, zoom_y, mask=True)
    for line, left, top in lines:
        if line.strip():
            own = replace(look, words=line, width=0.0, align="left", aligns=())
            paragraph_of(own).paint(canvas, margin + left, margin + top)
    del canvas, surface
    return coverage, margin
