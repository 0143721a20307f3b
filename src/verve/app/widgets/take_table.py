"""The figures of a take as a table; a row pressed says where its numbers come from."""

from __future__ import annotations

from PyQt6.QtCore import Qt

from verve.app.advising import AT_ONCE
from verve.app.widgets.table import Table
from verve.core.assess import Assessment
from verve.core.session import Take
from verve.core.sheets import take_rows

_HEAD = ("Signal", "Peak", "computed", "RMS", "Noise A", "computed", "Clipped", "What to change")


class TakeTable(Table):
    """One row for each recorded line: measured beside computed, and what to change."""

    def __init__(self, *, with_advice: bool) -> None:
        last = len(_HEAD) - 1
        super().__init__(
            _HEAD,
            "Measured figures of the take",
            empty="What is measured of a take is listed here, beside what was computed.",
            numbers=range(1, last),
            stretched=(last if with_advice else 0,),
            wraps=with_advice,
        )
        self._with_advice = with_advice
        self.setColumnHidden(last, not with_advice)
        if not with_advice:
            # The page it stands on scrolls; the table is as wide and as high as its numbers.
            self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    def show_take(self, take: Take | None, assessment: Assessment) -> None:
        """Draw a take; nothing without one. Of what to change, a long take says what has been worked out."""
        if take is None:
            self.show_rows(())
            return
        asked = assessment if self._with_advice else None
        self.show_rows(take_rows(take, asked, at_hand=len(take.tracks) > AT_ONCE))
