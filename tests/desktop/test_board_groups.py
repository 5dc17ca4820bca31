"""The groups of boards: in the order that operators declare, with no list of them anywhere."""

from __future__ import annotations

from itertools import groupby

import pytest

from nimble_quake.desktop.boards.entries import effect_entries, kinds
from nimble_quake.operators.registry import registry
from nimble_quake.samples import sample_path
from nimble_quake.session.state import Session


@pytest.fixture
def session() -> Session:
    session = Session()
    session.open(sample_path())
    session.select(plate="plates/title")
    return session


@pytest.mark.parametrize("family", ["source", "shaper", "quake", "finish"])
def test_a_group_stands_where_its_first_operator_does(session, family):
    steps = family in ("source", "shaper")
    found = kinds(session, family) if steps else effect_entries(session, family)
    ranks = {op.kind: op.rank for op in registry().playing("step" if steps else "effect")}
    groups = [(group, [ranks[e.key.split(":")[0]] for e in each]) for group, each in groupby(found, lambda e: e.group)]
    names = [name for name, _ in groups]
    assert len(names) == len(set(names)), "a group stands together"
    firsts = [min(own) for _, own in groups]
    assert firsts == sorted(firsts)
    assert all(own == sorted(own) for _, own in groups)


def test_an_operator_of_another_package_brings_its_group_along(session, monkeypatch):
    """A new group needs no edit: it stands by its operator's rank, between those of ours."""
    kind = registry().get("effect", "push")
    monkeypatch.setattr(kind, "group", "Night market")
    monkeypatch.setattr(kind, "rank", 2015)
    names = [group for group, _ in groupby(effect_entries(session, "quake"), lambda e: e.group)]
    assert names.index("Glass") < names.index("Night market") < names.index("Lens")
