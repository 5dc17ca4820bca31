"""The files of a job: found by what they hold, kept by it, and nothing else is opened."""

from __future__ import annotations

from pathlib import Path

import cv2
import msgspec
import numpy as np
import pytest

from helpers import speckled, write_png
from nimble_quake.errors import MediaError
from nimble_quake.farm import media
from nimble_quake.farm.media import Job, items_of
from nimble_quake.motion.files import as_text
from nimble_quake.render.engine import Engine
from nimble_quake.render.values.exceptions import param_at
from nimble_quake.shot.model import Plate, Shot


@pytest.fixture(autouse=True)
def home(tmp_path, monkeypatch):
    monkeypatch.setenv("NIMBLE_QUAKE_HOME", str(tmp_path / "kept"))


def shot_of(*files):
    plates = tuple(Plate(id=f"s{n}", kind="still", values={"file": str(file)}) for n, file in enumerate(files))
    return Shot(width=64, height=48, length=2, plates=plates)


def job_of(shot):
    return Job("job-0123456789abcdef", msgspec.Raw(b"{}"), items_of(shot, Engine()), ())


def test_a_file_is_found_where_it_lies_or_where_it_was_sent(tmp_path):
    file = write_png(tmp_path / "a.png", speckled(8, 8))
    job, data = job_of(shot_of(file)), file.read_bytes()
    assert media.missing(job) == []
    assert media.places(job) == {str(file): str(file)}
    write_png(file, speckled(9, 9))  # another picture under the same name
    (held,) = job.items[0].files
    assert media.missing(job) == [held.digest]
    with pytest.raises(MediaError, match="is not on this machine"):
        media.places(job)
    with pytest.raises(MediaError, match="came damaged"):
        media.keep_sent(held, data[:-1])
    media.keep_sent(held, data)
    assert media.missing(job) == []
    assert media.places(job) == {str(file): str(media.kept_file(held))}


def test_numbered_files_keep_their_numbers(tmp_path):
    files = [write_png(tmp_path / f"n_{n:03d}.png", speckled(8 + n, 8)) for n in (2, 3, 5)]
    job = job_of(Shot(plates=(Plate(id="c", kind="clip", values={"file": str(tmp_path / "n_###.png")}),)))
    data = {held.digest: Path(held.path).read_bytes() for held in job.items[0].files}
    for file in files:
        file.unlink()
    for held in job.items[0].files:
        media.keep_sent(held, data[held.digest])
    place = Path(media.places(job)[str(tmp_path / "n_###.png")])
    assert place.name == "n_###.png"
    assert sorted(file.name for file in place.parent.iterdir()) == ["n_002.png", "n_003.png", "n_005.png"]


def test_nothing_is_opened_that_is_not_part_of_the_job(tmp_path):
    """A shot that names a file of the worker's disk sees nothing of it: only what its sender holds itself."""
    mine, secret = write_png(tmp_path / "a.png", speckled(8, 8)), write_png(tmp_path / "secret.png", speckled(20, 20))
    job = job_of(shot_of(mine))
    engine = media.engine_of(job, media.places(job))
    assert engine.media.open(str(mine)).width == 8
    for reading in (engine.media.open, engine.recordings.read, engine.media.data, engine.media.there):
        with pytest.raises(MediaError, match="is not part of the job"):
            reading(str(secret))
    assert engine.media.stamp(str(secret)) == (str(secret), 0, 0)
    assert engine.tracks.find(str(secret)) is None


def test_files_that_only_an_exception_of_a_live_copy_names_belong_to_it(tmp_path):
    a, b = (write_png(tmp_path / name, speckled(8, 8)) for name in ("a.png", "b.png"))
    shot = shot_of(a)
    text = as_text(param_at(shot, "plates/s0/file"), str(b))
    copy = Plate(id="c", kind="copy", values={"of": "s0", "exceptions": (("plates/s0/file", text),)})
    both = Shot(plates=(*shot.plates, copy))
    assert [item.path for item in items_of(both, Engine())] == [str(a), str(b)]


def test_a_file_that_is_not_there_is_missing_everywhere(tmp_path):
    job = job_of(shot_of(tmp_path / "lost.png"))
    assert media.missing(job) == []
    assert media.places(job) == {str(tmp_path / "lost.png"): ""}
    with pytest.raises(MediaError):
        media.engine_of(job, media.places(job)).media.open(str(tmp_path / "lost.png"))


def test_digests_follow_the_file(tmp_path):
    file = tmp_path / "a.png"
    cv2.imwrite(str(file), np.zeros((4, 4, 3), np.uint8))
    before = media.digest_of(str(file))
    cv2.imwrite(str(file), np.full((40, 4, 3), 9, np.uint8))
    assert media.digest_of(str(file)) != before
