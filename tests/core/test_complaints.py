"""What validation finds wrong is a message with a code, placed in the user's words."""

from __future__ import annotations

from typing import Annotated, Any

import pytest
from pydantic import AfterValidator, BaseModel, ConfigDict, Field, ValidationError

from endurant.core.complaints import carrying, complaint, message_of
from endurant.core.departures import Departure, in_sentences
from endurant.core.messages import Message
from endurant.core.refusals import Conflict, Invalid, NeedsReason


def _even(number: int) -> int:
    if number % 2:
        raise complaint("cutting.gap")
    return number


class Sheet(BaseModel):
    """A model with every kind of field that the table knows."""

    model_config = ConfigDict(extra="forbid", strict=True)

    width_mm: float = Field(1.0, gt=0, lt=100, allow_inf_nan=False)
    spares: int = Field(1, ge=1, le=9)
    name: str = Field("a", min_length=1, max_length=3)
    plies: list[int] = Field([1], min_length=1, max_length=2)
    moulded: bool = False
    pieces: Annotated[int, AfterValidator(_even)] = 2


def message_for(given: dict[str, Any], where: str = "Width") -> Message:
    with pytest.raises(ValidationError) as error:
        Sheet.model_validate(given)
    return message_of(error.value.errors()[0], where)


@pytest.mark.parametrize(
    ("given", "code", "sentence"),
    [
        ({"width_mm": 0.0}, "field.too-low", "Width is 0.0. Enter a value greater than 0."),
        ({"width_mm": 100.0}, "field.too-high", "Width is 100.0. Enter a value less than 100."),
        ({"width_mm": "wide"}, "field.number-expected", "Width is “wide”. Enter a number."),
        ({"width_mm": None}, "field.number-expected", "Width is empty. Enter a number."),
        ({"width_mm": [1]}, "field.number-expected", "Width is a list. Enter a number."),
        ({"width_mm": {}}, "field.number-expected", "Width is an object. Enter a number."),
        ({"spares": 0}, "field.below-min", "Width is 0. Enter 1 or more."),
        ({"spares": 10}, "field.above-max", "Width is 10. Enter 9 or less."),
        ({"spares": 1.5}, "field.whole-number-expected", "Width is 1.5. Enter a whole number."),
        ({"name": ""}, "field.empty", "Width is empty. Enter a value."),
        ({"name": "abcd"}, "field.too-long", "Width is too long. Enter at most 3 characters."),
        ({"name": 4}, "field.text-expected", "Width is 4. Enter text."),
        ({"plies": []}, "field.too-few", "Width has too few entries. Enter at least 1."),
        ({"plies": [1, 2, 3]}, "field.too-many", "Width has too many entries. Enter at most 2."),
        ({"plies": 3}, "field.list-expected", "Width is 3. Enter a list."),
        ({"moulded": "yes"}, "field.yes-or-no-expected", "Width is “yes”. Enter true or false."),
        ({"colour": 1}, "field.unknown", "Width is not a known field. Check its name."),
    ],
)
def test_each_kind_of_mistake_has_its_message(
    given: dict[str, Any], code: str, sentence: str
) -> None:
    message = message_for(given)
    assert (message.code, message.text) == (code, sentence)


def test_a_message_of_ours_is_carried_and_placed() -> None:
    message = message_for({"pieces": 3}, "gap_mm")
    assert message.code == "cutting.gap"
    assert message.text.startswith("gap_mm: The gap is")
    assert message_for({"pieces": 3}, "").text.startswith("The gap is")


def test_a_refusal_passes_through_a_validator_with_its_code() -> None:
    refusal = Invalid("moves.none", expected="to break at 50")

    def refuse(_: str) -> str:
        raise carrying(refusal.message, "moves") from refusal

    class Run(BaseModel):
        moves: Annotated[str, AfterValidator(refuse)]

    with pytest.raises(ValidationError) as error:
        Run.model_validate({"moves": ""})
    first = error.value.errors()[0]
    assert first["ctx"]["field"] == "moves"
    assert message_of(first, "moves").code == "moves.none"


def test_departures_are_said_once_each_and_keep_their_code() -> None:
    late = Departure.of("too-young", hours=2.0, event="vulcanising", min=16.0)
    cold = Departure.of("not-conditioned", sentence="departure.not-conditioned", enclosure=None)
    assert in_sentences([late, cold, late]) == (
        "The specimen was tested 2 h after vulcanising. The minimum is 16 h. "
        "The specimen was not conditioned."
    )
    assert (late.code, late.message.code) == ("too-young", "departure.too-young")
    assert late.message.plain_params() == {"hours": 2.0, "event": "vulcanising", "min": 16.0}


def test_a_refusal_survives_its_way_between_processes() -> None:
    import pickle

    refusal = NeedsReason("bench.held", rule="Preheat", field="why", specimen="L1")
    back = pickle.loads(pickle.dumps(refusal.message))
    assert back == refusal.message
    again = Conflict(back, field=refusal.field, specimen=refusal.specimen)
    assert (again.code, again.sentence) == (refusal.code, refusal.sentence)
    copy = pickle.loads(pickle.dumps(refusal))
    assert (copy.field, copy.specimen, copy.sentence) == ("why", "L1", refusal.sentence)
