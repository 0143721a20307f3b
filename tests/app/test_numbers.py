"""Numbers as people type them: comma or point, with the unit or without; what is none stays to be mended."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from PyQt6.QtCore import QLocale
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from verve.app.dialogs.session import SessionDialog
from verve.app.widgets.number import NumberField
from verve.core.demo import demo_session
from verve.core.errors import InputError


@pytest.fixture(params=["en_GB", "de_DE", "fr_FR"])
def locale(request: pytest.FixtureRequest) -> Iterator[str]:
    """The desktop's language must not change what a number is."""
    before = QLocale()
    QLocale.setDefault(QLocale(request.param))
    yield str(request.param)
    QLocale.setDefault(before)


@pytest.mark.usefixtures("locale", "dressed")
@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("0,4", 0.4),
        ("0.4", 0.4),
        ("0,4 s", 0.4),
        ("0.4s", 0.4),
        (" 1 sec ", 1.0),
        ("15.625", 15.625),
        ("", None),
    ],
)
def test_a_number_is_understood(qtbot: QtBot, text: str, value: float | None) -> None:
    field = NumberField("Reverberation", "s", low=0.05, high=20.0, is_needed=False)
    qtbot.addWidget(field)
    field.setText(text)
    assert field.number() == value
    assert not field.is_wrong()


@pytest.mark.usefixtures("locale", "dressed")
@pytest.mark.parametrize("text", ["4..0", "much", "-1", "400", "0,4 kg", "1e5", "0"])
def test_what_is_none_stays_framed_with_the_rule(qtbot: QtBot, text: str) -> None:
    field = NumberField("Reverberation", "s", low=0.05, high=20.0, is_needed=False)
    qtbot.addWidget(field)
    field.setText(text)
    assert field.is_wrong()
    assert field.text() == text
    assert "Reverberation: must be" in field.toolTip()
    with pytest.raises(InputError):
        field.number()


@pytest.mark.usefixtures("locale", "dressed")
def test_the_room_is_typed_with_either_mark(qtbot: QtBot) -> None:
    session = demo_session()
    dialog = SessionDialog(session)
    qtbot.addWidget(dialog)
    dialog.show()
    dialog.reverberation_s.setText("0,4")
    dialog.volume_m3.setText("45.5 m3")
    dialog.noise_dba.setText("loud")
    dialog.accept()
    assert dialog.isVisible(), "it does not close over a number that is none"
    assert dialog.noise_dba.text() == "loud"
    dialog.noise_dba.setText("31,5 dB(A)")
    dialog.accept()
    QApplication.processEvents()
    assert not dialog.isVisible()
    room = dialog.apply(session).setup.room
    assert (room.reverberation_s, room.volume_m3, room.noise_dba) == (0.4, 45.5, 31.5)
