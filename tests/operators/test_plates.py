"""Plates that are made here: shapes, numbers, patterns."""

from __future__ import annotations

import math
from fractions import Fraction
from typing import Any

import numpy as np
import pytest
from PIL import ImageFont

from helpers import flat_map, noise_map, rendered
from nimble_quake.media.drawing.faces import FONTS
from nimble_quake.media.drawing.type import TextLook, text_box
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import Stop
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.raster.sampling.cropping import bars_of
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.services import frame_job
from nimble_quake.shot.model import Map, Plate, Shot

W, H = 320, 180
WHITE: dict[str, Any] = {"colour": (1.0, 1.0, 1.0, 1.0)}


def drawn(kind: str, maps: tuple[Map, ...] = (), frame: int = 0, scale: float = 1.0, **values: Any) -> np.ndarray:
    plate = Plate(id="p", kind=kind, values=values)
    shot = Shot(width=W, height=H, rate=Fraction(24), length=96, ground=(0, 0, 0, 0), plates=(plate,), maps=maps)
    return rendered(shot, frame=frame, scale=scale)


def area(picture: np.ndarray) -> float:
    return float(picture[..., 3].sum())


class TestShape:
    """Areas by the textbook formulas of plane figures."""

    @pytest.mark.parametrize(
        ("values", "wanted"),
        [
            ({"form": "ellipse", "width": 120.0, "height": 80.0}, math.pi * 60 * 40),
            ({"form": "rectangle", "width": 120.0, "height": 80.0}, 120 * 80),
            ({"form": "rectangle", "width": 120.0, "height": 80.0, "round": 20.0}, 120 * 80 - (4 - math.pi) * 400),
            ({"form": "polygon", "width": 120.0, "height": 120.0, "corners": 6}, 1.5 * math.sqrt(3) * 60**2),
            (
                {"form": "star", "width": 120.0, "height": 120.0, "corners": 5, "notch": 0.5},
                10 * 0.5 * 60 * 30 * math.sin(math.pi / 5),
            ),
            (
                {"form": "free", "width": 100.0, "height": 100.0, "points": ((-0.5, -0.5), (0.5, -0.5), (0.5, 0.5))},
                5000,
            ),
        ],
    )
    def test_areas(self, values, wanted):
        assert area(drawn("shape", **WHITE, **values)) == pytest.approx(wanted, rel=0.004)

    def test_a_stroke_is_half_inside_half_outside(self):
        ring = drawn("shape", form="ellipse", width=100.0, height=100.0, fill="none", stroke="flat", thick=10.0)
        assert area(ring) == pytest.approx(math.pi * (55**2 - 45**2), rel=0.01)

    @pytest.mark.parametrize(("begin", "end", "shift"), [(0.0, 0.25, 0.0), (0.5, 0.75, 0.0), (0.4, 0.65, 0.5)])
    def test_a_line_draws_itself(self, begin, end, shift):
        values: dict[str, Any] = {
            "form": "ellipse",
            "width": 100.0,
            "height": 100.0,
            "fill": "none",
            "stroke": "flat",
            "thick": 10.0,
        }
        whole, part = drawn("shape", **values), drawn("shape", **values, begin=begin, end=end, shift=shift)
        assert area(part) == pytest.approx(area(whole) / 4, rel=0.02)
        assert area(drawn("shape", **values, end=0.0)) == 0

    def test_dashes_cover_their_share(self):
        line: dict[str, Any] = {
            "form": "line",
            "width": 240.0,
            "stroke": "flat",
            "thick": 8.0,
            "dash": 12.0,
            "gap": 4.0,
        }
        assert area(drawn("shape", **line)) == pytest.approx(240 * 8 * 0.75, rel=0.02)

    def test_a_gradient_runs_from_edge_to_edge(self):
        stops = (Stop(0.0, (1.0, 0.0, 0.0, 1.0)), Stop(1.0, (0.0, 0.0, 1.0, 1.0)))
        got = drawn("shape", form="rectangle", width=200.0, height=60.0, fill="linear", stops=stops, fill_turn=0.0)
        row = got[90, 60:260]
        share = (np.arange(200) + 0.5) / 200
        assert np.abs(row[:, 2] - share).max() < 0.006
        assert np.abs(row[:, 0] - (1 - share)).max() < 0.006

    def test_a_stroke_is_coloured_along_and_across(self):
        stops = (Stop(0.0, (1.0, 0.0, 0.0, 1.0)), Stop(1.0, (0.0, 0.0, 1.0, 1.0)))
        line: dict[str, Any] = {"form": "line", "width": 200.0, "thick": 40.0, "ink_stops": stops}
        along = drawn("shape", **line, stroke="along")
        assert along[90, 62, 0] > 0.97
        assert along[90, 257, 2] > 0.97
        assert along[90, 160, 0] == pytest.approx(0.5, abs=0.03)
        assert area(along) == pytest.approx(8000, rel=0.02)  # no seams
        across = drawn("shape", **line, stroke="across")
        assert across[71, 160, 0] > 0.9
        assert across[90, 160, 2] > 0.9

    def test_copies(self):
        one: dict[str, Any] = {"form": "rectangle", "width": 20.0, "height": 20.0, "position": (40.0, 40.0)} | WHITE
        got = drawn("shape", **one, copies=5, offset=(30.0, 10.0))
        assert area(got) == pytest.approx(5 * 400, rel=0.001)
        assert got[80, 160, 3] == pytest.approx(1.0)  # the fifth
        smaller = drawn("shape", **one, copies=3, offset=(60.0, 0.0), copy_scale=0.5, fade=0.5)
        assert area(smaller) == pytest.approx(400 + 100 / 2 + 25 / 4, rel=0.02)

    def test_half_size_is_the_full_one_made_smaller(self):
        values: dict[str, Any] = {"form": "star", "width": 100.0, "height": 90.0, "stroke": "along", "thick": 9.0}
        values |= {"copies": 3, "offset": (70.0, 12.0), "turn": 15.0}
        full, small = drawn("shape", **values), drawn("shape", scale=0.5, **values)
        means = full.reshape(H // 2, 2, W // 2, 2, 4).mean(axis=(1, 3))
        assert np.abs(means - small).mean() < 0.006

    def test_what_is_wild_is_defined(self):
        wild: tuple[dict[str, Any], ...] = (
            {"form": "free", "points": ((0.0, 0.0),) * 5, "round": 50.0, "stroke": "along"},
            {"copies": 500, "copy_scale": 20.0, "offset": (0.0, 0.0)},
            {"form": "line", "stroke": "across", "thick": 5000.0, "dash": 0.1, "gap": 0.1, "begin": 0.9, "end": 0.1},
        )
        for values in wild:
            assert np.isfinite(drawn("shape", **values)).all()


class TestNumber:
    """Formats: common practice, no source; clock with frames as in SMPTE ST 12 (non-drop)."""

    @pytest.mark.parametrize(
        ("values", "seconds", "wanted"),
        [
            ({"value": 1234567.891, "places": 2, "thousands": "comma", "digits": 1}, 0, "1,234,567.89"),
            ({"value": 1234567.891, "places": 1, "thousands": "point", "digits": 1}, 0, "1.234.567,9"),
            ({"value": 7.0, "digits": 4}, 0, "0007"),
            ({"value": 7.0, "digits": 5, "thousands": "comma"}, 0, "00,007"),
            ({"value": -0.4, "digits": 1}, 0, "0"),
            ({"value": -12.0, "digits": 1, "before": "N ", "after": " m"}, 0, "N \u221212 m"),
            ({"form": "clock"}, 75, "1:15"),
            ({"form": "clock", "clock": "hms"}, 3661, "1:01:01"),
            ({"form": "clock", "clock": "hmsf"}, 3661.5, "01:01:01:12"),
            ({"form": "clock", "clock": "tenths", "begins": 10.0, "speed": -1.0}, 2.5, "0:07.5"),
            ({"form": "clock", "begins": 1.0, "speed": -1.0}, 3, "\u22120:02"),
        ],
    )
    def test_formats(self, values, seconds, wanted):
        made = registry().get("plate", "number").with_defaults(W, H, **values)
        assert made.text(Moment(seconds * 24, Fraction(24), 10_000, W, H)) == wanted

    def test_random_signs_change_at_their_rate_and_stay_when_looked_at_alone(self):
        made = registry().get("plate", "number").with_defaults(W, H, form="figures", often=6.0, digits=8)
        texts = [made.text(Moment(frame, Fraction(24), 96, W, H)) for frame in range(24)]
        assert all(len(text) == 8 and text.isdigit() for text in texts)
        assert [len(set(texts[n : n + 4])) for n in range(0, 24, 4)] == [1] * 6
        assert len(set(texts)) == 6
        assert made.text(Moment(13, Fraction(24), 96, W, H)) == texts[13]

    def test_labels_are_strewn_inside_their_area(self):
        got = drawn("number", form="letters", labels=12, area=(200.0, 100.0), size=18.0, digits=3)
        _rows, columns = np.nonzero(got[..., 3] > 0.5)
        assert columns.min() > 30
        assert columns.max() < 290
        assert len(np.unique(columns // 20)) > 6


class TestPattern:
    def test_a_map_is_a_picture(self):
        stops = (Stop(0.0, (0.0, 0.0, 0.0, 1.0)), Stop(1.0, (1.0, 0.5, 0.0, 1.0)))
        noise = noise_map("m", size_x=80.0, size_y=80.0)
        got = drawn("pattern", (noise,), map="m", ramp=stops)
        shot = Shot(width=W, height=H, maps=(noise,))
        value = np.clip(map_field(frame_job(Engine(), shot, 0), noise, frame_grid(W, H))[..., 0], 0, 1)
        assert np.abs(got[..., 0] - value).max() < 1e-3
        assert np.abs(got[..., 1] - value / 2).max() < 1e-3
        assert (got[..., 3] == 1).all()

    def test_it_can_be_placed_and_seen_through(self):
        half = drawn("pattern", (flat_map(0.5, "m"),), map="m", alpha="value", scale_x=0.5, scale_y=0.5)
        assert half[90, 160, 3] == pytest.approx(0.5, abs=1e-3)
        assert half[90, 10, 3] == pytest.approx(0.5, abs=1e-3)  # a map goes on beyond the frame
        assert drawn("pattern").max() == 0


class TestCrop:
    """Areas by plane geometry; common practice, no source."""

    def test_sides_are_cut_by_shares(self):
        box: dict[str, Any] = {"form": "rectangle", "width": 200.0, "height": 100.0} | WHITE
        got = drawn("shape", **box, crop_sides=(0.25, 0.1), crop_ends=(0.0, 0.5))
        assert area(got) == pytest.approx(200 * 0.65 * 100 * 0.5, rel=0.005)
        rows, columns = np.nonzero(got[..., 3] > 0.5)
        assert (columns.min(), columns.max()) == (110, 239)
        assert (rows.min(), rows.max()) == (40, 89)

    def test_soft_edges_fade_inwards(self):
        box: dict[str, Any] = {"form": "rectangle", "width": 200.0, "height": 100.0} | WHITE
        got = drawn("shape", **box, crop_sides=(0.1, 0.0), crop_soft=40.0)
        row = got[90, :, 3]
        assert row[80 + 20] == pytest.approx(0.5, abs=0.03)
        assert row[75] == 0
        assert row[79] < 0.03
        assert row[125] == 1
        assert row[258] == 1  # a side that is not cut is not faded

    def test_letters_keep_what_reaches_over_their_box(self):
        plain, cut = (drawn("text", words="JAY", size=60.0, crop_ends=(0.0, end)) for end in (0.0, 0.4))
        low = plain[100:]
        assert np.array_equal(plain[:80], cut[:80])
        assert (cut[100:] != low).any()

    def test_baked_in_bars_are_found(self):
        picture = np.zeros((100, 200, 4), np.float32)
        picture[..., 3] = 1
        picture[12:90, 30:180, :3] = 0.4
        assert bars_of(picture) == pytest.approx((0.15, 0.1, 0.12, 0.1))
        assert bars_of(picture * 0) == (0, 0, 0, 0)


class TestLettering:
    def test_lines_are_wrapped_at_a_width(self):
        """The advances of the font file, as FreeType reads them, say how much fits into a line."""
        words = "NIGHT MARKET BY THE WATER"
        one, wrapped = (TextLook(words, "Bungee", 30.0, width=width) for width in (0.0, 220.0))
        longest, high = text_box(one)
        assert longest > 400
        wide, tall = text_box(wrapped)
        assert wide == 220
        assert tall == pytest.approx(high * math.ceil(tall / high))
        assert tall >= 2 * high
        own = ImageFont.truetype(FONTS / "Bungee-Regular.ttf", 1000).getlength("NIGHT") / 1000 * 30
        assert text_box(TextLook("NIGHT", "Bungee", 30.0))[0] == pytest.approx(own, rel=0.03)

    def test_outlined_letters_are_hollow(self):
        filled = drawn("text", words="I", size=140.0)
        hollow = drawn("text", words="I", size=140.0, outlined=4.0)
        assert filled[90, 160, 3] == 1
        assert hollow[90, 160, 3] == 0
        assert 0 < area(hollow) < area(filled)
