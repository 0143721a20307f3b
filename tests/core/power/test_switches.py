"""Phantom switches with what hangs on each: in words, with the voltage that arrives."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from tests.conftest import figures_changed
from verve.core.catalogue import catalogue
from verve.core.gear import InterfaceFigures
from verve.core.kind import is_device_figures
from verve.core.power import SwitchRow, switch_rows
from verve.core.session import Session, insert_device, replace_device

Put = Callable[..., Session]


def row_of(session: Session, line: str) -> SwitchRow:
    return next(row for row in switch_rows(session.setup) if line in row.lines)


def test_who_needs_bears_or_must_not_get_it(mended: Session) -> None:
    assert row_of(mended, "Harp left").notes == ("Condenser left needs it: 39 V arrive",)
    assert row_of(mended, "Baritone guitar").notes == (
        "Passive DI box does not need it, harmless",
        "Passive DI box blocks it to Baritone guitar",
    )
    ribbon = replace_device(
        mended, "harp_mic_left", catalogue().devices["ribbon"].figures, "Ribbon"
    )
    row = row_of(ribbon, "Harp left")
    assert row.notes == ("Ribbon must not get it",)


def test_the_voltage_stands_against_the_least_it_wants(mended: Session) -> None:
    known = figures_changed(mended, "harp_mic_left", phantom_current_ma=2.0, phantom_least_v=44.0)
    # 48 V − 6,810 Ω × 2 mA ÷ 2.
    assert row_of(known, "Harp left").notes == (
        "Condenser left needs it: 41 V of at least 44 V arrive",
    )


def test_a_switch_that_is_off_says_who_waits(demo: Session) -> None:
    row = row_of(demo, "Voice")
    assert row.control.value is False
    assert row.notes == (
        "Inline preamp needs it",
        "Inline preamp blocks it to Moving coil, low output",
    )


def test_an_input_that_gives_none_is_not_listed(mended: Session) -> None:
    lines = {line for row in switch_rows(mended.setup) for line in row.lines}
    assert "Cello bridge" not in lines
    assert "Reed organ left" not in lines


def test_a_shared_switch_is_one_row(mended: Session) -> None:
    interface = next(d for d in mended.setup.devices if d.id == "interface")
    assert isinstance(interface.figures, InterfaceFigures)
    shared = tuple(
        item.model_copy(update={"phantom_switch": "1-4"}) if item.name in "1234" else item
        for item in interface.figures.inputs
    )
    row = row_of(figures_changed(mended, "interface", inputs=shared), "Voice")
    assert row.is_shared
    assert row.lines == ("Voice", "Harp left", "Harp right", "Baritone guitar")


@pytest.mark.parametrize(
    ("port", "says"),
    [
        ("direct", ("Splitter does not need it, harmless", "Condenser left needs it: 39 V arrive")),
        (
            "isolated",
            ("Splitter does not need it, harmless", "Splitter blocks it to Condenser left"),
        ),
    ],
)
def test_a_splitter_is_told_by_its_output(
    mended: Session, port: str, says: tuple[str, ...]
) -> None:
    link = next(x.id for x in mended.setup.links if x.start.startswith("harp_mic_left:"))
    figures = catalogue().devices["splitter"].figures
    assert is_device_figures(figures)
    assert row_of(insert_device(mended, link, figures, "Splitter", port), "Harp left").notes == says
