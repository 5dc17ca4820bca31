"""Typefaces: which style of a family is drawn, variable fonts, fonts of one's own, and files that are none.

Names, weights and axes are read with fontTools beside ours; styles are matched as CSS Fonts Level 4, 5.2, says.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from fontTools.fontBuilder import FontBuilder
from fontTools.pens.ttGlyphPen import TTGlyphPen
from fontTools.ttLib import TTFont
from fontTools.ttLib.tables.TupleVariation import TupleVariation

from helpers import rendered
from nimble_quake.media.drawing import faces
from nimble_quake.media.drawing.faces import FONTS, Style, members, styles_of, typeface
from nimble_quake.media.drawing.type import TextLook, draw_text
from nimble_quake.motion.kinds import Key, Keys
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.shot.model import Plate, Shot

UNITS = 1000


def bar(width: int) -> object:
    """A glyph that is one upright bar, UNITS high."""
    pen = TTGlyphPen(None)
    for n, point in enumerate(((0, 0), (0, UNITS), (width, UNITS), (width, 0))):
        (pen.moveTo if n == 0 else pen.lineTo)(point)
    pen.closePath()
    return pen.glyph()


def font(
    file: Path, family: str, weight: int = 400, *, italic: bool = False, wide: int = 400, axes: bool = False
) -> Path:
    """A font whose only sign, A, is a bar; with axes, wght 100...900 makes it up to 800 units wider, XTRA up to 200."""
    made = FontBuilder(UNITS, isTTF=True)
    made.setupGlyphOrder([".notdef", "A"])
    made.setupCharacterMap({65: "A"})
    made.setupGlyf({".notdef": bar(1), "A": bar(wide)})
    made.setupHorizontalMetrics({".notdef": (1200, 0), "A": (1200, 0)})
    made.setupHorizontalHeader(ascent=UNITS, descent=-200)
    style = ("Italic" if italic else "Regular") if weight == 400 else f"W{weight}" + (" Italic" if italic else "")
    made.setupNameTable({"familyName": family, "styleName": style})
    made.setupOS2(usWeightClass=weight, fsSelection=1 if italic else 64, sTypoAscender=UNITS, usWinAscent=UNITS)
    made.setupPost(italicAngle=-12 if italic else 0)
    if italic:
        made.font["head"].macStyle |= 2
    if axes:
        made.setupFvar([("wght", 100, 100, 900, "Weight"), ("XTRA", 0, 0, 100, "Extra")], [])
        right = [(0, 0), (0, 0), (800, 0), (800, 0), *((0, 0),) * 4]
        made.setupGvar(
            {
                "A": [
                    TupleVariation({"wght": (0, 1, 1)}, right),
                    TupleVariation({"XTRA": (0, 1, 1)}, [(x // 4, y) for x, y in right]),
                ]
            }
        )
    made.save(file)
    return file


@pytest.fixture
def own(tmp_path: Path) -> Iterator[Path]:
    """A folder of fonts of one's own: a family of five, a variable one, and files that are no fonts."""
    folder = tmp_path / "fonts"
    folder.mkdir()
    for weight in (300, 400, 700):
        font(folder / f"Lantern-{weight}.ttf", "Lantern", weight, wide=weight)
    for weight in (400, 700):
        font(folder / f"Lantern-{weight}i.ttf", "Lantern", weight, italic=True, wide=weight + 50)
    font(folder / "Row.ttf", "Row Variable", 100, wide=100, axes=True)
    (folder / "broken.ttf").write_bytes(b"no font")
    (folder / "cut.otf").write_bytes((folder / "Row.ttf").read_bytes()[:300])
    faces.look_in(folder)
    yield folder
    faces.forget_folder(folder)


def ink(look: TextLook) -> float:
    """How wide the bar of an A is, in thousandths of the size."""
    picture, _ = draw_text(look, 1.0, 1.0)
    return float(picture[..., 3].sum(axis=1).max()) / look.size * 1000


def test_styles_are_those_that_font_tools_reads(own):
    read = set()
    for file in own.glob("Lantern*.ttf"):
        with TTFont(file) as opened:
            weight = float(opened["OS/2"].usWeightClass)
            read.add(((weight, weight), bool(opened["OS/2"].fsSelection & 1)))
            assert opened["name"].getDebugName(1).startswith("Lantern")
    assert set(styles_of("Lantern")) == read
    assert styles_of("Row Variable") == (((100.0, 900.0), False),)
    with TTFont(own / "Row.ttf") as opened:
        assert faces.axis_tags("Row Variable") == tuple(axis.axisTag for axis in opened["fvar"].axes)


@pytest.mark.parametrize(
    ("asked", "found"),
    [  # CSS Fonts Level 4, 5.2, with 300, 400 and 700 there
        (100, 300), (350, 300), (400, 400), (450, 400), (500, 400), (501, 700), (600, 700), (900, 700),
    ],
)  # fmt: skip
def test_the_weight_that_fits_best_is_drawn(own, asked, found):
    assert typeface(Style("Lantern", asked)).fontStyle().weight() == found
    assert ink(TextLook("A", "Lantern", 100.0, weight=asked)) == pytest.approx(found, abs=12)


def test_the_slant_comes_first(own):
    assert ink(TextLook("A", "Lantern", 100.0, weight=300, italic=True)) == pytest.approx(450, abs=12)
    assert ink(TextLook("A", "Row Variable", 100.0, weight=100, italic=True)) == pytest.approx(100, abs=12)


@pytest.mark.parametrize(
    ("weight", "extra", "wide"), [(100, 0, 100), (500, 0, 500), (900, 0, 900), (1000, 0, 900), (500, 100, 700)]
)
def test_a_variable_font_has_all_weights_and_its_axes(own, weight, extra, wide):
    look = TextLook("A", "Row Variable", 100.0, weight=weight, axes=(("XTRA", float(extra)),))
    assert ink(look) == pytest.approx(wide, abs=12)


def test_what_is_no_font_is_passed_over(own):
    assert not faces.read_font(own / "broken.ttf")
    assert {member.file.name for member in members("Row Variable")} == {"Row.ttf"}


def test_weight_moves_and_missing_things_are_said(own):
    def shot(**values: object) -> Shot:
        text = Plate(id="t", kind="text", values={"words": "A", "size": 100.0, "face": "Row Variable", **values})
        return Shot(width=240, height=160, length=10, plates=(text,))

    moving = Keys((Key(frame=0.0, value=100.0), Key(frame=8.0, value=900.0, after="linear")))
    thin, thick = (rendered(shot(weight=moving), frame)[..., 0].sum() for frame in (0, 8))
    assert thick > 5 * thin
    for values, said in (
        ({"italic": True}, "has no italic"),
        ({"axes": "SLNT 3"}, "has no axis 'SLNT'"),
        ({"axes": "heavy"}, "no axis is named"),
        ({"words": "B"}, "has no 'B'"),
        ({"face": "Nowhere Sans"}, "is not installed"),
    ):
        job = frame_job(Engine(), shot(**values), 0)
        frame_picture(job)
        assert any(said in what for _, what in job.problems), (values, job.problems)


def test_ours_keep_their_names_and_heights():
    for path in FONTS.glob("*.ttf"):
        with TTFont(path) as opened:
            name, head = opened["name"].getDebugName(1), opened["hhea"]
            height = (head.ascent - head.descent + head.lineGap) / opened["head"].unitsPerEm
        assert name in faces.faces()
        assert faces.own_height(Style(name)) == pytest.approx(height, abs=0.002)
