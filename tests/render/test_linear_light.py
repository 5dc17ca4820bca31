"""Shots in linear light: blending, blur and glow as light adds; maps and point operations as ever."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import numpy as np
import pytest

from helpers import noise_map, rendered
from nimble_quake.operators.registry import registry
from nimble_quake.raster.colour.light import to_encoded, to_linear
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.services import frame_job
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shotfile.codec import decoded, encoded

W, H = 160, 96


def shot(*plates: Plate, linear: bool = True, maps: tuple[Map, ...] = (), **more: Any) -> Shot:
    return Shot(width=W, height=H, rate=Fraction(24), length=48, linear=linear, plates=plates, maps=maps, **more)


def fill(level: float, *effects: Node, **values: Any) -> Plate:
    return Plate(id=f"f{level}", kind="fill", effects=effects, values={"colour": (level, level, level, 1.0), **values})


def node(kind: str, **values: Any) -> Node:
    return Node(id=kind, kind=kind, values=values)


def box(*effects: Node) -> Plate:
    """White on the left half."""
    values = {
        "form": "rectangle",
        "width": 80.0,
        "height": 96.0,
        "position": (40.0, 48.0),
        "colour": (1.0, 1.0, 1.0, 1.0),
    }
    return Plate(id="box", kind="shape", effects=effects, values=values)


class TestConversion:
    def test_against_the_formula_and_back(self):
        """IEC 61966-2-1:1999: 0.5 is 0.21404 in linear light; 0.04045 lies on the knee."""
        levels = np.array([0.0, 0.001, 0.04045, 0.2, 0.5, 0.9, 1.0, 1.7], np.float64)
        picture = np.ones((1, len(levels), 4), np.float32)
        picture[0, :, :3] = levels[:, None]
        wanted = np.where(levels <= 0.04045, levels / 12.92, ((levels + 0.055) / 1.055) ** 2.4)
        assert to_linear(picture)[0, :, 0] == pytest.approx(wanted, abs=2e-6)
        assert to_linear(picture)[0, 4, 0] == pytest.approx(0.21404, abs=1e-5)
        assert to_encoded(to_linear(picture))[0, :, 0] == pytest.approx(levels, abs=3e-6)

    def test_alpha_is_taken_out_first(self):
        half = np.array([[[0.25, 0.25, 0.25, 0.5]]], np.float32)
        assert to_linear(half)[0, 0] == pytest.approx([0.10702] * 3 + [0.5], abs=1e-5)


class TestBlending:
    def test_white_over_black_at_half(self):
        """Half the light of white is coded 0.7354 (IEC 61966-2-1)."""
        plates = (fill(1.0, opacity=0.5), fill(0.0))
        assert rendered(shot(*plates))[0, 0, 0] == pytest.approx(0.7354, abs=1e-3)
        assert rendered(shot(*plates, linear=False))[0, 0, 0] == pytest.approx(0.5, abs=1e-4)

    def test_the_middle_of_a_blurred_edge(self):
        got = rendered(shot(box(node("blur", radius=6.0)), fill(0.0)))
        middle = (got[48, 79, 0] + got[48, 80, 0]) / 2
        assert middle == pytest.approx(0.7354, abs=0.01)

    def test_a_single_plate_is_as_it_was(self):
        assert rendered(shot(fill(0.37)))[0, 0, 0] == pytest.approx(0.37, abs=1e-5)

    def test_the_ground_and_groups_too(self):
        white = fill(1.0, opacity=0.5)
        held = Plate(id="f1.0", kind="fill", inside="g", values=white.values)
        group = Plate(id="g", kind="group", values={"isolated": True})
        assert rendered(shot(group, held, ground=(0, 0, 0, 1)))[0, 0, 0] == pytest.approx(0.7354, abs=1e-3)
        assert rendered(shot(ground=(0.3, 0.3, 0.3, 1)))[0, 0, 0] == pytest.approx(0.3, abs=1e-5)


class TestSteps:
    @pytest.mark.parametrize("kind", ["invert", "levels", "saturation", "tint", "posterise", "vignette"])
    def test_what_works_on_values_gives_the_same(self, kind):
        settings: dict[str, dict[str, Any]] = {
            "levels": {"black": 0.2},
            "posterise": {"levels": 4},
            "vignette": {"amount": 1.0, "size": 0.0, "softness": 0.001},
        }
        values = settings.get(kind, {})
        one, other = (rendered(shot(fill(0.6, node(kind, **values)), linear=linear)) for linear in (True, False))
        assert np.abs(one - other).max() < 2e-4

    def test_colours_of_light_are_linear_too(self):
        """A halo alone, far from what glows, keeps its hue: the colour asked for."""
        glow = node("drop_shadow", distance=0.0, blur=0.0, strength=1.0, alone=True, colour=(0.8, 0.4, 0.2, 1.0))
        got = rendered(shot(box(glow), ground=(0, 0, 0, 1)))
        assert got[48, 20, :3] == pytest.approx([0.8, 0.4, 0.2], abs=1e-3)

    def test_a_glow_is_a_sum_of_light(self):
        """Far inside an even surface the blur is the surface: twice its light at power 1, (IEC 61966-2-1) encoded."""
        got = rendered(shot(fill(0.4, node("glow", radius=4.0, power=1.0, above=0.0))))
        light = ((0.4 + 0.055) / 1.055) ** 2.4
        assert got[48, 80, 0] == pytest.approx(1.055 * (2 * light) ** (1 / 2.4) - 0.055, abs=2e-3)

    def test_maps_never_change(self):
        noise, reads = (
            noise_map("m", size_x=40.0),
            Map(id="r", name="", recipe=(Node(id="p", kind="picture", values={"plate": "f0.6"}),)),
        )
        for map in (noise, reads):
            fields = [
                map_field(
                    frame_job(Engine(), shot(fill(0.6), maps=(noise, reads), linear=linear), 3), map, frame_grid(W, H)
                )
                for linear in (True, False)
            ]
            assert np.abs(fields[0] - fields[1]).max() < 1e-5

    def test_every_effect_is_finite_and_the_cache_knows_the_light(self):
        engine = Engine()
        noise = noise_map("m", size_x=40.0)
        for op in registry().all("effect"):
            values = {"map": "m"} if "map" in op.declared else {}
            plates = (box(node(op.kind, **values)), fill(0.2))
            lit = rendered(shot(*plates, maps=(noise,)), engine=engine)
            plain = rendered(shot(*plates, maps=(noise,), linear=False), engine=engine)
            assert np.isfinite(lit).all(), op.kind
            assert np.array_equal(plain, rendered(shot(*plates, maps=(noise,), linear=False))), op.kind


def test_it_is_kept_in_the_file():
    assert decoded(encoded(shot())).linear
    assert "linear" not in encoded(shot(linear=False))
