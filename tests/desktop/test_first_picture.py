"""The first picture in an empty shot, and what stands in its panel."""

from fractions import Fraction

import numpy as np

from driving import arrived
from helpers import write_clip, write_png
from nimble_quake.session.verbs import items
from nimble_quake.shot.model import Shot


def test_the_first_clip_shapes_the_shot_in_one_click(window, qtbot, tmp_path):
    frames = [np.full((36, 64, 4), 40 + n, np.uint8) for n in range(48)]
    clip = write_clip(tmp_path / "street.mkv", frames, Fraction(24), "ffv1", "bgra")
    window.session.take(Shot())
    items.plate_from_file(window.session, str(clip))
    qtbot.waitUntil(lambda: window.offer.isVisible(), timeout=20_000)
    assert "street is 64 × 36 · 24 fps · 2 s" in window.offer.words.text()
    focus = window.focusWidget()
    window.offer.take_button.click()
    shot = window.session.shot
    assert (shot.width, shot.height, shot.rate, shot.length) == (64, 36, 24, 48)
    assert window.focusWidget() is focus
    assert not window.offer.isVisible()
    window.session.undo()
    assert window.session.shot.width == 1920
    arrived(window, qtbot)
    assert not window.offer.isVisible(), "it is offered once"


def test_a_still_is_offered_by_its_size_and_one_that_fits_is_not(window, qtbot, tmp_path):
    still = write_png(tmp_path / "wide.png", np.full((90, 320, 4), 200, np.uint8))
    window.session.take(Shot(width=320, height=90))
    items.plate_from_file(window.session, str(still))
    arrived(window, qtbot)
    assert not window.offer.isVisible()
    window.session.take(Shot())
    items.plate_from_file(window.session, str(still))
    qtbot.waitUntil(lambda: window.offer.isVisible(), timeout=20_000)
    window.offer.leave_button.click()
    assert window.session.shot.width == 1920


def test_numbered_pictures_offer_their_length_and_keep_the_rate(window, qtbot, tmp_path):
    for number in range(30):
        write_png(tmp_path / f"walk_{number:03d}.png", np.full((36, 64, 4), 90, np.uint8))
    window.session.take(Shot(rate=Fraction(30)))
    path = items.plate_from_file(window.session, str(tmp_path / "walk_000.png"))
    items.as_sequence(window.session, path)
    qtbot.waitUntil(lambda: "30 pictures" in window.offer.words.text(), timeout=20_000)
    window.offer.take_button.click()
    shot = window.session.shot
    assert (shot.width, shot.height, shot.rate, shot.length) == (64, 36, 30, 30)


def test_its_own_figures_stand_in_its_panel(window, qtbot):
    window.session.select(plate="plates/lanterns")
    arrived(window, qtbot)
    window.picture_bay.refresh()
    assert "1280 × 720" in window.picture_bay.kind_label.text()
