"""An instrument that sounds inside the computer, and the keyboard or pads that play it."""

from __future__ import annotations

from typing import Literal

from verve.core.kind import HostPlug, PlayingRange, SourceFigures
from verve.core.words import Fact

_SAYS = "sounds inside the computer: it takes no input and no microphone"


class ComputerInstrumentFigures(SourceFigures):
    """Sounds inside the computer. `computer_plug` is that of its controller; None where nothing is plugged in."""

    kind: Literal["computer_instrument"] = "computer_instrument"
    computer_plug: HostPlug | None = None

    title = "Instrument in the computer"
    found_as = "in the computer"
    sounds_in_computer = True
    direct_modes = ()
    takes = ("computer",)
    search_words = ("software instrument", "virtual instrument", "plug-in", "MIDI")

    def playing(self) -> PlayingRange:
        return PlayingRange(softest_db=0.0, typical_db=0.0, hardest_db=0.0)

    def socket_of_computer(self) -> HostPlug | None:
        return self.computer_plug

    def says(self) -> str:
        return _SAYS

    def facts(self) -> tuple[Fact, ...]:
        """None: it has no level before the computer."""
        return ()
