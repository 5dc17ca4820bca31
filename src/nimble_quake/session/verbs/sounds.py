"""Sounds of the open shot: adding them, bands and beats; decoding and analysis are done aside."""

from __future__ import annotations

from pathlib import Path

import msgspec
import numpy as np

from nimble_quake.analysis.beats import Found, found_in
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.media.sound import Recording, Recordings
from nimble_quake.operators.registry import registry
from nimble_quake.render.heard import Placed, may_sound, own_sound, placed, sound_files
from nimble_quake.render.services import seen_moment
from nimble_quake.render.values.resolving import resolved
from nimble_quake.session.state import Session
from nimble_quake.session.work import Work
from nimble_quake.shot.edits.add import with_sound
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.edits.settings import set_shot
from nimble_quake.shot.model import Node, Shot
from nimble_quake.shot.paths import fresh_id, id_of, path_in, plate_path, value_path

STEPS = 100
"""Parts that the search for beats is counted in."""


def add_sound(session: Session, file: str) -> str:
    """Add a sound that begins at the shot's start; returns its path. It is decoded aside."""
    shot, path = with_sound(session.shot, file)
    session.edit(f"Add the sound {Path(file).stem[:60]}", shot)
    session.select(sound=path)
    return path


def add_clip_sound(session: Session, path: str) -> None:
    """Make the sound of the clip that a plate shows a sound of its own, beginning where the plate does."""
    file = str(session.shown(value_path(path, "file")) or "") if session.param(value_path(path, "file")) else ""
    plate = session.shot.plate(id_of(path))
    if not file or plate is None:
        session.message.emit("Choose a plate with a clip, then take its sound")
        return
    shot, added = with_sound(session.shot, file, **({"start": float(plate.start)} if plate.start else {}))
    if own_sound(plate):
        shot = set_value(shot, value_path(path, "heard"), None)
    session.edit(f"Take the sound of {session.name_of(path)}", shot)
    session.select(sound=added)


def hear_clips(session: Session) -> None:
    """Let the selected clips' own sounds be heard along their bars; or none of them, where all of them are."""
    chosen = [session.shot.plate(id_of(path)) for path in sorted({session.selection.plate, *session.selection.marked})]
    clips = [plate for plate in chosen if plate is not None and may_sound(plate)]
    if not clips:
        session.message.emit("Select clips first, to hear their own sounds")
        return
    shot, on = session.shot, not all(own_sound(plate) for plate in clips)
    for plate in clips:
        shot = set_value(shot, value_path(plate_path(plate.id), "heard"), on)
    whose = session.name_of(plate_path(clips[0].id)) if len(clips) == 1 else f"{len(clips)} clips"
    session.edit(f"{'Hear' if on else 'Silence'} {whose}", shot)


def add_band(session: Session, low: float = 40.0, high: float = 120.0) -> str:
    """Add a band of the selected sound, or of all; returns its path."""
    chosen = session.selection.sound
    of = id_of(chosen) if chosen.startswith("sounds/") else ""
    name = band_name(low, high)
    id = fresh_id(name, {band.id for band in session.shot.bands})
    values = {"low": low, "high": high} | ({"of": of} if of else {})
    node = Node(id=id, kind="band", name=name, values=values)
    session.edit(f"Add a band: {name}", set_shot(session.shot, bands=(*session.shot.bands, node)))
    session.select(sound=path_in("bands", id))
    return path_in("bands", id)


def band_name(low: float, high: float) -> str:
    """Return what a band is called until it gets a name of its own."""
    middle = (low * high) ** 0.5
    return "Low band" if middle < 200 else "Middle band" if middle < 2500 else "High band"


def sounds_missing(session: Session) -> list[str]:
    """Return the files of sounds that are not decoded yet, and have not failed."""
    recordings = session.engine.recordings
    return [f for f in sound_files(session.shot) if recordings.known(f) is None and not recordings.failed(f)]


def decode(recordings: Recordings, files: list[str]) -> list[str]:
    """Decode sounds; returns what went wrong, a line each. For a thread of its own."""
    wrong = []
    for file in files:
        try:
            recordings.read(file)
        except NimbleQuakeError as failed:
            wrong.append(failed.line())
    return wrong


def heard(session: Session) -> list[tuple[Placed, Recording]]:
    """Return the sounds that are decoded, placed."""
    return list(placed(session.shot, session.engine.recordings.known))


# Beats


def find_beats(session: Session, shot: Shot, sound: str, band: str, work: Work) -> Found | None:
    """Find the beats of a sound (all of them where it is empty), or of a band of it, in frames of the shot.

    None where it was stopped or there is nothing to hear. For a thread of its own.
    """
    recordings = session.engine.recordings
    low, high = _limits(session, shot, band)
    hits: list[float] = []
    beats: list[float] = []
    tempo = 0.0

    def read(file: str) -> Recording | None:
        try:
            return recordings.read(file)
        except NimbleQuakeError:
            return None

    parts = [part for part in placed(shot, read) if not sound or part[0].id == sound]
    for number, (at, recording) in enumerate(parts):

        def step(fraction: float, number: int = number) -> bool:
            work.done = int((number + fraction) / len(parts) * work.total)
            return not work.stopped

        first, last = (round(s * recording.rate) for s in (at.first, at.first + at.lasts * at.speed))
        mono = np.ascontiguousarray(recording.samples[first:last].mean(axis=1))
        found = found_in(mono, recording.rate, low, high, step)
        tempo = tempo or found.tempo
        rate = float(shot.rate)
        beats += [(at.begins + beat / at.speed) * rate for beat in found.beats]
        hits += [(at.begins + hit / at.speed) * rate for hit in found.hits]
    if work.stopped or not parts:
        return None
    return Found(tempo, tuple(sorted(beats)), tuple(sorted(hits)))


def _limits(session: Session, shot: Shot, band: str) -> tuple[float, float]:
    """Between which frequencies a band listens at the playhead, Hz; everything where there is no such band."""
    node = next((node for node in shot.bands if node.id == band), None)
    kind = registry().get("sound", node.kind) if node is not None else None
    if node is None or kind is None:
        return 0.0, 1e9
    moment = seen_moment(session.engine, shot, session.frame)
    values = resolved(kind, node, moment, path_in("bands", band), lambda where, wrong: None).values
    return float(values["low"]), float(values["high"])


def keep_beats(session: Session, found: Found, *, hits: bool) -> None:
    """Make what was found the shot's beats: the steady beats, or every hit."""
    frames = found.hits if hits or not found.beats else found.beats
    inside = tuple(round(frame, 3) for frame in frames if 0 <= frame < session.shot.length)
    if not inside:
        session.message.emit("No beats were found: it may be silent, or have no hits in this band")
        return
    steady = f", {found.tempo:.1f} a minute" if found.tempo and not hits else ""
    session.edit(f"Find {len(inside)} beats", set_shot(session.shot, beats=inside))
    session.message.emit(f"{len(inside)} beats found{steady}")


def tap_beat(session: Session) -> None:
    """Set a beat at the playhead, or take the one there away."""
    here = float(session.frame)
    near = [beat for beat in session.shot.beats if abs(beat - here) < 0.5]
    beats = [beat for beat in session.shot.beats if beat not in near]
    label = "Take a beat away" if near else "Tap a beat"
    session.edit(label, set_shot(session.shot, beats=tuple(sorted(beats if near else [*beats, here]))))


def move_beats(session: Session, frames: float) -> None:
    """Move all beats by frames."""
    beats = tuple(beat + frames for beat in session.shot.beats if beat + frames >= 0)
    session.edit("Move the beats", set_shot(session.shot, beats=beats))


def halve_beats(session: Session) -> None:
    """Leave every other beat out."""
    session.edit("Every other beat", set_shot(session.shot, beats=session.shot.beats[::2]))


def double_beats(session: Session) -> None:
    """Put a beat between every two."""
    beats = session.shot.beats
    between = [(a + b) / 2 for a, b in zip(beats, beats[1:], strict=False)]
    session.edit("Twice as many beats", set_shot(session.shot, beats=tuple(sorted([*beats, *between]))))


def steady_beats(session: Session) -> None:
    """Make the beats steady: those taps come nearest to, over the whole shot (least squares)."""
    beats = session.shot.beats
    if len(beats) < 2:
        session.message.emit("Tap two beats at least: the steady ones go on from there")
        return
    gaps = np.diff(beats)
    period = float(np.median(gaps))
    numbers = np.concatenate([[0], np.cumsum(np.maximum(1, np.rint(gaps / period)))])
    period, first = (float(n) for n in np.polyfit(numbers, beats, 1))
    count = int((session.shot.length - first) / period) + 1
    before = int(first / period)
    whole = tuple(
        round(first + n * period, 3) for n in range(-before, count) if first + n * period < session.shot.length
    )
    tempo = 60 * float(session.shot.rate) / period
    session.edit(f"Steady beats: {tempo:.1f} a minute", set_shot(session.shot, beats=whole))
    session.message.emit(f"{len(whole)} steady beats, {tempo:.1f} a minute")


def clear_beats(session: Session) -> None:
    """Take all beats away."""
    session.edit("Take all beats away", set_shot(session.shot, beats=()))


def mute(session: Session, path: str) -> None:
    """Mute a sound, or let it be heard again."""
    row = session.shot.sounds
    sounds = tuple(msgspec.structs.replace(s, on=not s.on) if s.id == id_of(path) else s for s in row)
    session.edit("Mute or hear a sound", set_shot(session.shot, sounds=sounds))


def level_now(session: Session, path: str) -> float:
    """Return how loud a band is at the playhead, 0...1."""
    try:
        return session.answers().level(id_of(path), session.frame / float(session.shot.rate), 0.0, 0.0)
    except NimbleQuakeError:
        return 0.0
