"""The layers of an OpenEXR file, and the maps of a shot, are listed where one is named; any name can be typed."""

from __future__ import annotations

import numpy as np
import OpenEXR
import pytest
from PyQt6.QtCore import Qt

from driving import arrived, named, press, type_text
from nimble_quake.desktop.widgets.chooser import Chooser
from nimble_quake.samples import sample_path
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shotfile.files import read_shot
from nimble_quake.shotfile.layers import layer_names

LAYER = "plates/p/layer"


def written(file, *more):
    """Light at 0.2, a depth of 0.75, a mask, and more channels."""
    header = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
    light, depth = np.full((90, 160), 0.2, np.float32), np.full((90, 160), 0.75, np.float32)
    channels = {"R": light, "G": light, "B": light, "depth.Z": depth, "mask.Y": 1 - depth, **dict.fromkeys(more, light)}
    OpenEXR.File(header, channels).write(str(file))
    return file


@pytest.fixture
def exr(tmp_path):
    return written(tmp_path / "passes.exr")


def test_layers_and_maps_are_named(exr, tmp_path):
    assert layer_names(str(exr)) == ("depth", "mask")
    exr.rename(tmp_path / "p_0001.exr")
    assert layer_names(str(tmp_path / "p_####.exr")) == ("depth", "mask")
    assert layer_names(str(sample_path())) == tuple(map.name for map in read_shot(sample_path()).maps)
    (tmp_path / "broken.exr").write_bytes(b"v/1\x01no")
    for nothing in ("", str(exr), str(tmp_path / "broken.exr"), str(tmp_path / "q_##.exr"), __file__):
        assert layer_names(nothing) == ()


def test_a_layer_is_chosen_or_typed_kept_and_seen(exr, opened, qtbot, tmp_path):
    window = opened()
    plate = Plate(id="p", kind="still", values={"file": str(exr), "fit": "stretch"})
    window.session.take(Shot(width=160, height=90, plates=(plate,)))
    window.session.select(plate="plates/p")
    arrived(window, qtbot)
    box = named(window.picture_bay, "Layer", Chooser)
    assert [box.itemText(n) for n in range(box.count())] == ["The picture", "depth", "mask"]
    assert box.currentText() == "The picture"
    box.setFocus()
    press(Qt.Key.Key_Down)
    assert window.session.shown(LAYER) == "depth"
    arrived(window, qtbot)
    assert abs(int(window.frames.last.picture[45, 80, 0]) - round(0.75 * 255)) <= 1
    window.session.save(tmp_path / "s.nquake")
    assert read_shot(tmp_path / "s.nquake").plates[0].values["layer"] == "depth"
    window.session.undo()
    assert window.session.shown(LAYER) == ""
    assert box.currentText() == "The picture"
    box.lineEdit().selectAll()
    type_text("not yet there")
    press(Qt.Key.Key_Return)
    assert window.session.shown(LAYER) == "not yet there"
    arrived(window, qtbot)
    assert any("no layer" in problem.what for problem in window.frames.last.problems)
    box.setFocus()
    press(Qt.Key.Key_Up)
    press(Qt.Key.Key_Home)
    box.lineEdit().selectAll()
    press(Qt.Key.Key_Delete)
    press(Qt.Key.Key_Return)
    assert window.session.shown(LAYER) == "", "no name is the picture again"
    written(exr, "haze.Y")
    box.showPopup()
    assert [box.itemText(n) for n in range(box.count())] == ["The picture", "depth", "haze", "mask"], "saved meanwhile"
    box.hidePopup()
