"""Whether an instrument may be used, what an enclosure was set to, and who settles a parameter."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

import pytest

from endurant.core.methods import find_method
from endurant.core.refusals import Invalid
from endurant.store.equipment import ReferenceCheck
from endurant.store.tables import Enclosure, Instrument
from endurant.work.facts.instrument_status import due_of, instrument_status
from endurant.work.facts.set_points import (
    atmosphere_id_at,
    atmosphere_in,
    has_own_point,
    requested_in_words,
)
from endurant.work.facts.test_settings import (
    missing_set_up,
    requested_parameters,
    set_up_names,
    with_set_up,
)
from tests.work.rows import NOW, a_job


def instrument(**changes: Any) -> Instrument:
    row = Instrument(
        name="Load cell",
        serial="LC-1",
        calibrated_at=NOW - timedelta(days=300),
        calibration_due_at=NOW + timedelta(days=65),
    )
    for name, value in changes.items():
        setattr(row, name, value)
    return row


def check(verdict: str, days_ago: float = 1, wording: str = "it read 21.0 N") -> ReferenceCheck:
    return ReferenceCheck(
        serial="LC-1",
        title="20 N mass",
        every_days=7,
        since=NOW - timedelta(days=60),
        last_at=NOW - timedelta(days=days_ago),
        last_verdict=verdict,
        last_message=wording,
    )


def test_an_instrument_in_order_is_good() -> None:
    assert instrument_status(instrument(), [check("good")], NOW) == ("good", "")


@pytest.mark.parametrize(
    ("changes", "checks", "status", "wording"),
    [
        ({"retired_at": NOW}, [], "retired", "retired on 02 Mar 2026"),
        (
            {"out_since": NOW, "out_reason": "dropped"},
            [],
            "out",
            "out of service since 02 Mar 2026: dropped",
        ),
        ({}, [check("out")], "out", "it read 21.0 N. Out of service until a check passes"),
        ({"calibration_due_at": NOW - timedelta(days=1)}, [], "overdue", "was due on 01 Mar 2026"),
        ({}, [check("good", days_ago=8)], "overdue", "20 N mass was due on 01 Mar 2026"),
        ({}, [check("watch")], "watch", "20 N mass: it read 21.0 N"),
    ],
)
def test_the_worst_decides(
    changes: dict[str, Any], checks: list[ReferenceCheck], status: str, wording: str
) -> None:
    found, wording = instrument_status(instrument(**changes), checks, NOW)
    assert found == status
    assert wording in wording


def test_a_failed_check_weighs_more_than_a_late_calibration() -> None:
    row = instrument(calibration_due_at=NOW - timedelta(days=90))
    assert instrument_status(row, [check("watch"), check("out")], NOW)[0] == "out"


def test_a_check_that_was_never_read_is_due_from_its_beginning() -> None:
    row = check("good")
    row.last_at = None
    assert due_of(row) == NOW - timedelta(days=53)


def room(**changes: Any) -> Enclosure:
    row = Enclosure(id=1, name="Textile room", atmosphere="textile-20-65")
    for name, value in changes.items():
        setattr(row, name, value)
    return row


def test_a_room_is_at_the_atmosphere_that_it_is_set_to() -> None:
    usual = atmosphere_in(room())
    assert (usual.temperature_c, usual.humidity_percent) == (20, 65)
    own = {"temperature_c": 23.0, "temperature_tolerance_c": 1.0}
    assert atmosphere_in(room(set_point=own)).temperature_c == 23
    assert atmosphere_in(room(), least_minutes=90).least_minutes == 90


def test_what_was_set_before_holds_for_the_time_before() -> None:
    before = {
        "until": (NOW - timedelta(hours=5)).isoformat(),
        "atmosphere": "plastics-23-50",
        "own": False,
        "point": {"temperature_c": 23.0, "humidity_percent": 50.0},
    }
    row = room(earlier_settings=[before], set_point={"temperature_c": 21.0})
    then = NOW - timedelta(hours=6)
    assert (atmosphere_id_at(row, then), atmosphere_id_at(row, NOW)) == (
        "plastics-23-50",
        "textile-20-65",
    )
    assert (has_own_point(row, then), has_own_point(row, NOW)) == (False, True)
    assert atmosphere_in(row, at=then).temperature_c == 23
    assert atmosphere_in(row, at=NOW).temperature_c == 21


def test_a_set_point_that_waits_is_said_with_its_reason() -> None:
    assert requested_in_words(room()) == ""
    waits = {"point": {"temperature_c": 24.0}, "by": "Ines", "reason": "the new standard"}
    wording = requested_in_words(room(requested_setting=waits))
    assert wording.startswith("24")
    assert wording.endswith("requested by Ines: the new standard")


def test_set_up_may_be_open_at_the_counter_and_nothing_else() -> None:
    method = find_method("astm-d638")
    assert "gauge_length_mm" in set_up_names(method)
    plain = requested_parameters(method, {"specimens_wanted": 5})
    assert plain["specimens_wanted"] == 5
    with pytest.raises(Invalid):
        requested_parameters(method, {"specimens_wanted": "many"})


def test_what_is_missing_at_the_bench_is_named_and_set_there() -> None:
    test = a_job().tests[0]
    assert missing_set_up(test) == []
    after = with_set_up(test, {"gauge_length_mm": 200.0})
    assert after["gauge_length_mm"] == 200
    assert after["specimens_wanted"] == test.parameters["specimens_wanted"]


def test_what_client_and_method_settle_is_not_set_at_the_bench() -> None:
    test = a_job().tests[0]
    with pytest.raises(Invalid, match="set-up.not-a-set-up-value"):
        with_set_up(test, {"specimens_wanted": 9})
