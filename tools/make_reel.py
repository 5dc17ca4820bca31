"""Make the sample reel, as a person does it in the window: `python tools/make_reel.py`.

Five clips of the market in a row, a recording under them, its beats, and a crossing at each cut, strongest on a beat.
"""

from __future__ import annotations

from fractions import Fraction

from nimble_quake.samples import FOLDER, REELS, crossing_path
from nimble_quake.samples.draw_sound import FILE as DRUMS
from nimble_quake.session.state import Session
from nimble_quake.session.crossings import laying
from nimble_quake.session.verbs import bars, sounds
from nimble_quake.session.work import Work
from nimble_quake.shot.crossings import with_strongest
from nimble_quake.shot.edits.set_value import set_field
from nimble_quake.shot.edits.settings import set_shot
from nimble_quake.shot.model import Shot
from nimble_quake.shot.paths import id_of
from nimble_quake.shotfile.files import read_shot, write_shot

CLIPS = ("stall", "crowd", "lanterns", "rain", "windows")
CUTS = ("light-bar", "ring-at-the-cut", "swept-reveal", "through-black")
EVERY = 4
"""Beats from one cut to the next."""
HALF = 8
"""Frames that a crossing lasts before its strongest moment, and after."""


def market_reel() -> Shot:
    """Return the reel."""
    session = Session()
    session.take(Shot(name="Market reel", width=1280, height=720, rate=Fraction(24), length=24))
    paths = bars.in_a_row(session, [FOLDER / "media" / f"{name}.mp4" for name in CLIPS])
    sounds.add_sound(session, str(DRUMS))
    sounds.decode(session.engine.recordings, [str(DRUMS)])
    found = sounds.find_beats(session, session.shot, "", "", Work("Beats", sounds.STEPS))
    assert found is not None
    sounds.keep_beats(session, found, hits=False)
    beats = session.shot.beats
    cuts = [0, *(round(beats[EVERY * (n + 1)]) for n in range(len(CUTS)))]
    length = cuts[-1] + round(beats[EVERY] - beats[0])
    shot = session.shot
    for path, start, end in zip(paths, cuts, (*cuts[1:], length), strict=True):
        shot = set_field(shot, path, start=start, end=end)
    session.edit("Cut on the beats", set_shot(shot, length=length))
    for number, name in enumerate(CUTS):
        pair = id_of(paths[number]), id_of(paths[number + 1])
        starter = read_shot(crossing_path(name))
        laying.lay_crossing(session, starter, starter.name, pair)
        path, cut = session.selection.plate, cuts[number + 1]
        session.edit("On its beat", set_field(session.shot, path, start=cut - HALF, end=cut + HALF))
        session.edit("Strongest on it", with_strongest(session.shot, path, cut))
    return set_shot(session.shot, playhead=cuts[1])


if __name__ == "__main__":
    REELS.mkdir(exist_ok=True)
    write_shot(market_reel(), REELS / "market-reel.nquake", backup=False)
