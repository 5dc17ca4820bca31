"""Every field of the document, by the table in `shot/model.py`: what is set is written, read, described and noticed."""

from fractions import Fraction

import jsonschema
import msgspec
import pytest

from nimble_quake.samples import sample_path, samples
from nimble_quake.session.limits import clamped
from nimble_quake.shot import fields
from nimble_quake.shot.changes import changes
from nimble_quake.shot.fields import defaults_of, fields_of
from nimble_quake.shot.model import ITEMS, Map, Marker, Node, Plate, Shot, State
from nimble_quake.shotfile.codec import decoded, encoded
from nimble_quake.shotfile.schema import schema

ANOTHER = {
    fields.Text: "Lantern",
    fields.Reference: "lamp",
    fields.Id: "other",
    fields.OneOf: "B",
    fields.Switch: True,
    fields.Whole: 7,
    fields.Rate: Fraction(24000, 1001),
    fields.FlatColour: (1.0, 0.0, 0.0, 1.0),
    fields.Range: (3, 9),
    fields.Fades: (2, 4),
    fields.Moments: (1.0, 2.5),
    fields.Lines: (-20.0, 300.5),
}
"""A value of each kind of field that is no field's default."""
PARTS: tuple[type[msgspec.Struct], ...] = (Shot, *dict.fromkeys(ITEMS.values()))
BEYOND = {fields.Text: "x" * 300, fields.Whole: 10**9, fields.Range: (-(10**9), 10**9), fields.Fades: (-3, 10**9)}
"""Values no file may hold."""


def holding(struct, **more):
    """Return a shot that holds one part of this kind."""
    kinds = {Node: "push", Plate: "fill"}
    named = {"id": "it"} if "id" in fields_of(struct) else {}
    part = struct(**{**named, **({"kind": kinds[struct]} if struct in kinds else {}), **more})
    if struct is Node:
        return Shot(plates=(Plate(id="p", kind="fill", effects=(part,)),))
    if struct is Shot:
        return part
    return msgspec.structs.replace(
        Shot(), **{{Plate: "plates", Map: "maps", Marker: "markers", State: "states"}[struct]: (part,)}
    )


def rows():
    for struct in PARTS:
        for name, field in fields_of(struct).items():
            if type(field) in ANOTHER and name != "kind":
                usual = defaults_of(struct).get(name)
                value = (not usual) if isinstance(field, fields.Switch) else ANOTHER[type(field)]
                yield pytest.param(struct, name, value, id=f"{struct.__name__}.{name}")


@pytest.fixture(scope="module")
def described():
    return jsonschema.Draft202012Validator(schema())


@pytest.mark.parametrize(("struct", "name", "value"), rows())
def test_what_is_set_is_written_read_described_and_noticed(struct, name, value, described):
    before, after = holding(struct), holding(struct, **{name: value})
    raw = encoded(after)
    assert decoded(raw) == after
    assert not list(described.iter_errors(raw))
    assert changes(before, after) or name in ("playhead", "version")


@pytest.mark.parametrize(("struct", "name", "value"), rows())
def test_what_lies_beyond_is_brought_to_what_can_be_opened_again(struct, name, value):
    field = fields_of(struct)[name]
    if type(field) not in BEYOND:
        pytest.skip("it has no bounds")
    held = clamped(Shot(), holding(struct, **{name: BEYOND[type(field)]}))
    assert decoded(encoded(held)) == held


def test_every_kind_of_field_is_tried():
    tried = set(ANOTHER) | {fields.OperatorValues, fields.Items}
    assert {type(field) for struct in (Shot, *ITEMS.values()) for field in fields_of(struct).values()} == tried


def test_a_field_without_a_kind_is_refused():
    class Odd(msgspec.Struct):
        colour: str

    with pytest.raises(TypeError, match="colour has no kind"):
        fields_of(Odd)


def test_the_samples_are_as_the_schema_says(described):
    """Outside check: jsonschema's reading of JSON Schema draft 2020-12."""
    for sample in samples():
        wrong = [
            error.json_path for error in described.iter_errors(msgspec.json.decode(sample_path(sample).read_bytes()))
        ]
        assert not wrong, sample
