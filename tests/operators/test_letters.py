"""Text line by line and letter by letter, against the font file's own metrics."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import skia

from nimble_quake.media.drawing import type as type_module
from nimble_quake.media.drawing.faces import FONTS
from nimble_quake.media.drawing.letters import Move, draw_letters, letters_of, lines_coverage, lines_of
from nimble_quake.media.drawing.type import TextLook, begin_text, draw_text
from nimble_quake.motion.kinds import Key, Keys
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.shot.model import Plate, Shot

LOOK = TextLook("LAMP\nON", "Bungee", 100.0)


def advances(words: str) -> float:
    """The sum of advances in the font file's own hmtx table, px at size 100 (OpenType)."""
    face = skia.Typeface.MakeFromFile(str(next(FONTS.glob("Bungee*.ttf"))))
    table, head = (bytes(face.getTableData(int.from_bytes(name, "big"))) for name in (b"hmtx", b"head"))
    units = int.from_bytes(head[18:20], "big")
    glyphs = face.unicharsToGlyphs([ord(sign) for sign in words]) if words else []
    return sum(int.from_bytes(table[4 * glyph : 4 * glyph + 2], "big") for glyph in glyphs) / units * 100


def test_letters_stand_where_the_face_says():
    """hmtx advances; Bungee has no kerning between these."""
    letters = letters_of(TextLook("NON", "Bungee", 100.0))
    assert [letter.sign for letter in letters] == list("NON")
    for n, letter in enumerate(letters):
        assert letter.left == pytest.approx(advances("NON"[:n]), abs=1.0)


def test_each_line_lies_as_it_is_told():
    look = TextLook("WIDEST LINE\nON\nON", "Bungee", 60.0, aligns=("left", "right", "left"))
    (_, a, _), (_, b, _), (_, c, _) = lines_of(look)
    assert a == c == 0
    assert b > 100
    coverage, margin = lines_coverage(look, 1.0, 1.0)
    ink = np.flatnonzero(coverage[int(margin + 90) : int(margin + 110)].max(axis=0) > 127)
    assert ink.min() > margin + b - 2


def test_letters_at_their_places_are_the_text():
    plain, margin = draw_text(LOOK, 1.0, 1.0)
    still = tuple(Move() for _ in letters_of(LOOK))
    found, own = draw_letters(LOOK, 1.0, 1.0, still)
    assert own == margin
    assert found.shape == plain.shape
    assert np.abs(found - plain).mean() < 0.004


def test_a_letter_moves_alone():
    moves = [Move() for _ in letters_of(LOOK)]
    moves[0] = Move(x=-300.0)
    found, margin = draw_letters(LOOK, 1.0, 1.0, tuple(moves))
    plain, before = draw_text(LOOK, 1.0, 1.0)
    first = letters_of(LOOK)[0]
    column = int(margin + first.x - 300)
    assert found[int(margin) : int(margin) + 100, column - 20 : column + 20, 3].max() > 0.9
    assert found[..., 3].sum() == pytest.approx(plain[..., 3].sum(), rel=0.02)
    gone = draw_letters(LOOK, 1.0, 1.0, (Move(alpha=0.0), *moves[1:]))[0]
    assert gone[..., 3].sum() < plain[..., 3].sum() * 0.95
    assert before < margin


def shot(**values: object) -> Shot:
    plate = Plate(id="t", kind="text", values={"words": "LAMP", "size": 60.0, **values})
    return Shot(width=320, height=120, length=60, plates=(plate,))


def picture(shot: Shot, frame: float = 0, engine: Engine | None = None, scale: float = 1.0) -> np.ndarray:
    return frame_picture(frame_job(engine or Engine(), shot, frame), scale)


def test_astray_by_nothing_is_the_plain_text_bit_for_bit():
    assert np.array_equal(picture(shot(astray=0.0, strewn=(90.0, 90.0))), picture(shot()))
    assert not np.array_equal(picture(shot(astray=1.0)), picture(shot()))


def test_half_size_is_the_whole_made_smaller():
    values = {"astray": 1.0, "tumbled": 40.0, "strewn": (20.0, 10.0), "grown": 0.4}
    whole, half = picture(shot(**values)), picture(shot(**values), scale=0.5)
    smaller = whole.reshape(60, 2, 160, 2, 4).mean(axis=(1, 3))
    assert np.abs(smaller - half).mean() < 0.01


def test_letters_come_one_after_another_and_a_dragged_pin_is_never_stale():
    engine = Engine()
    found = []
    for late in (1.0, 0.2, 1.0):
        keys = Keys((Key(frame=0, value=late, after="straight"), Key(frame=10, value=0.0)))
        moving = shot(astray=keys, sunk=200.0, strewn=(0.0, 0.0), lag=10.0)
        found.append(picture(moving, 12, engine).copy())
    assert np.array_equal(found[0], found[2])
    assert not np.array_equal(found[0], found[1])
    keys = Keys((Key(frame=0, value=1.0, after="straight"), Key(frame=10, value=0.0)))
    settled = picture(shot(astray=keys, sunk=500.0, strewn=(0.0, 0.0), lag=10.0), 12)
    inked = np.flatnonzero(settled[..., 0].max(axis=0) > 0.5)
    plain = np.flatnonzero(picture(shot())[..., 0].max(axis=0) > 0.5)
    assert inked.min() == pytest.approx(plain.min(), abs=1)
    assert inked.max() < plain.max() - 60, "only the first letter is there"


@pytest.mark.parametrize("align", ["left", "centre", "right"])
@pytest.mark.parametrize(
    "words",
    [
        "PAPER LAMPS ABOVE THE STALLS",
        "A B C D E F G H I J K L M N",
        "ONE\nTWO THREE FOUR FIVE\n\nSIX",
        "TEA  HOUSE   OPEN",
        "NIGHTMARKETNIGHTMARKETNIGHTMARKET ON",
    ],
)
def test_wrapped_letters_stand_where_the_layout_puts_them(words, align):
    """Within a pixel: the layout puts whole lines between pixels by less."""
    look = TextLook(words, "Bungee", 40.0, align=align, width=260.0)
    plain, margin = draw_text(look, 1.0, 1.0)
    found, own = draw_letters(look, 1.0, 1.0, tuple(Move() for _ in letters_of(look)))
    assert own == margin
    assert found.shape == plain.shape
    tall = len(plain) - 2 * margin
    lines = lines_of(look)
    for n, (line, _, top) in enumerate(lines):
        rows = slice(int(margin + top) + 4, int(margin + tall * (n + 1) / len(lines)) - 4)
        ends = [np.flatnonzero(picture[rows, :, 3].max(axis=0) > 0.5)[[0, -1]] for picture in (plain, found) if line]
        assert not line or np.abs(ends[0] - ends[1]).max() <= 1


def test_wrapped_letters_of_a_plate_go_astray():
    values = {"words": "PAPER LAMPS ABOVE THE STALLS", "size": 30.0, "wrap": 200.0}
    pictures = [
        frame_picture(
            frame_job(
                Engine(),
                Shot(
                    width=320,
                    height=180,
                    plates=(Plate(id="t", kind="text", values={**values, "astray": astray, "sunk": 40.0}),),
                ),
                0,
            ),
            1.0,
        )
        for astray in (0.0, 1.0)
    ]
    assert np.abs(pictures[0] - pictures[1]).max() > 0.5


def test_a_text_that_is_drawn_again_has_its_own_colour_and_size(monkeypatch):
    drawn = []
    monkeypatch.setattr(type_module, "begin_text", lambda *a, **k: (drawn.append(a), begin_text(*a, **k))[1])
    look = TextLook("ONCE DRAWN", "Bungee", 61.0)
    one, _ = draw_text(look, 1.0, 1.0)
    red, _ = draw_text(replace(look, rgba=(1.0, 0.0, 0.0, 0.5)), 1.0, 1.0)
    assert len(drawn) == 1
    np.testing.assert_allclose(red, one * (0.5, 0.0, 0.0, 0.5), atol=1e-6)
    half, _ = draw_text(look, 0.5, 0.5)
    other, _ = draw_text(replace(look, words="TWICE"), 1.0, 1.0)
    assert len(drawn) == 3
    assert half.shape[0] == (one.shape[0] + 1) // 2
    assert other.shape != one.shape
    for n in range(20):  # no more than a few are held
        draw_text(replace(look, words=str(n)), 1.0, 1.0)
    before = len(drawn)
    draw_text(replace(look, words="19"), 1.0, 1.0)
    assert len(drawn) == before, "the last ones are held"
    draw_text(look, 1.0, 1.0)
    assert len(drawn) == before + 1
    assert np.array_equal(draw_text(look, 1.0, 1.0)[0], one)
