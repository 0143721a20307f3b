"""Prices as typed, pairs and pieces, two packages."""

from __future__ import annotations

import csv
import io

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.connections.builders import kit
from verve.core.errors import EditError, InputError
from verve.core.session import (
    Package,
    Session,
    Shopping,
    Wish,
    add_wish,
    from_json,
    set_shopping,
    to_json,
)
from verve.core.sheets import shopping_csv, shopping_html
from verve.core.shop import parse_price, price_text, rows_of, totals_of


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("129", 129.0),
        ("129,50", 129.5),
        ("129.50 €", 129.5),
        ("1.234,50", 1234.5),
        ("1,234.50", 1234.5),
        ("1 234,5", 1234.5),
        ("1.234", 1234.0),
        ("1.234.567", 1234567.0),
        ("0.125", 0.125),
        ("12,", 12.0),
        ("", None),
    ],
)
def test_a_price_with_comma_or_point(text: str, value: float | None) -> None:
    assert parse_price(text) == value


@pytest.mark.parametrize("text", ["free", "-5", "1,2,3.4.5", "12-3", "9" * 40])
def test_what_is_no_price_is_refused(text: str) -> None:
    with pytest.raises(InputError, match="Price"):
        parse_price(text)


@given(st.text(max_size=12))
def test_no_text_breaks_it(text: str) -> None:
    try:
        value = parse_price(text)
    except InputError:
        return
    assert value is None or value >= 0.0


def wish(name: str, quantity: int, price: float | None, **more: object) -> Wish:
    return Wish(id="wish", name=name, quantity=quantity, price=price, **more)  # type: ignore[arg-type]


def session_with(*wishes: Wish, tax: float = 0.0) -> Session:
    session = Session(shopping=Shopping(tax_percent=tax))
    for one in wishes:
        session, _ = add_wish(session, one)
    return session


def test_per_pair_and_per_piece() -> None:
    session = session_with(
        wish("Pair", 3, 100.0, per_pair=True),
        wish("Piece", 3, 10.0),
        wish("Unknown", 1, None),
        tax=20.0,
    )
    rows = rows_of(session)
    assert [row.total for row in rows] == [200.0, 30.0, None]
    assert "one is left over" in rows[0].how
    enough, lasting = totals_of(rows, session.shopping)
    assert (enough.net, enough.tax, enough.total, enough.unknown) == (230.0, 46.0, 276.0, 1)
    assert lasting.total == 276.0


def test_packages_differ_and_what_is_owned_costs_nothing() -> None:
    (cable,) = kit({"balanced_5": 2})
    session = session_with(
        wish("Cable", 3, 20.0, item=cable.model_copy(update={"quantity": 1})),
        wish("Small", 1, 100.0, package="enough"),
        wish("Large", 1, 400.0, package="lasting"),
    ).model_copy(update={"kit": (cable,)})
    rows = rows_of(session)
    assert (rows[0].owned, rows[0].to_buy, rows[0].total) == (2, 1, 20.0)
    assert [t.total for t in totals_of(rows, session.shopping)] == [120.0, 420.0]
    borrowed = session.model_copy(
        update={"kit": (cable.model_copy(update={"status": "borrowed"}),)}
    )
    assert rows_of(borrowed)[0].to_buy == 3


def test_the_list_as_table_and_as_page() -> None:
    session = session_with(wish("A <b> & co", 1, 1234.5, package="lasting", shop="Market"))
    rows = list(csv.reader(io.StringIO(shopping_csv(session))))
    assert rows[1][:4] == ["A <b> & co", "1", "0", "1"]
    assert rows[1][7:] == ["not in it", price_text(1234.5, "€")]
    assert "A &lt;b&gt; &amp; co" in shopping_html(session)
    assert from_json(to_json(session), "x") == session


def test_quantities_below_one_are_refused() -> None:
    session = session_with(wish("A", 1, 1.0))
    one = session.shopping.wishes[0]
    for changed in (
        one.model_copy(update={"quantity": -1}),
        one.model_copy(update={"price": -1.0}),
    ):
        with pytest.raises(EditError):
            set_shopping(session, session.shopping.model_copy(update={"wishes": (changed,)}))


def test_both_packages_have_names() -> None:
    packages: tuple[Package, ...] = ("enough", "lasting")
    assert [t.package for t in totals_of((), Shopping())] == list(packages)
