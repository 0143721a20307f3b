"""What is borrowed until a date, and what that means for next week."""

from __future__ import annotations

from datetime import date, timedelta

import pytest

from tests.core.connections.builders import ENTRIES
from verve.core.errors import InputError
from verve.core.needs import leaving, parse_until
from verve.core.session import KitItem, Session, from_json, set_kit, to_json

TODAY = date(2026, 5, 4)


def lent(days: int | None) -> KitItem:
    until = None if days is None else (TODAY + timedelta(days=days)).isoformat()
    figures = ENTRIES.devices["ribbon"].figures
    return KitItem(id="r", name="Ribbon", device=figures, status="borrowed", until=until)


@pytest.mark.parametrize(
    ("days", "said"),
    [
        (None, ""),
        (8, ""),
        (7, "goes back in 7 days, on 2026-05-11"),
        (1, "goes back tomorrow"),
        (0, "goes back today"),
        (-2, "was available until 2026-05-02"),
    ],
)
def test_what_goes_back_within_a_week_is_said(days: int | None, said: str) -> None:
    found = leaving((lent(days),), TODAY)
    assert bool(found) == bool(said)
    assert all(said in one for one in found)


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("2026-12-03", "2026-12-03"),
        ("3.12.2026", "2026-12-03"),
        ("", None),
        (" 03.12.2026. ", "2026-12-03"),
    ],
)
def test_a_date_is_typed_as_people_write_it(text: str, found: str | None) -> None:
    assert parse_until(text) == found


@pytest.mark.parametrize("text", ["soon", "31.2.2026", "2026-13-01", "12/3/2026"])
def test_what_is_no_date_is_refused(text: str) -> None:
    with pytest.raises(InputError, match="must be a date like"):
        parse_until(text)


def test_it_is_kept_in_the_file() -> None:
    session = set_kit(Session(), (lent(3),))
    assert from_json(to_json(session), "x").kit[0].until == "2026-05-07"
