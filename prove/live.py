"""Real sound devices, through a virtual server: ten minutes of eight channels, of which nothing may be lost."""

from __future__ import annotations

import tempfile
from pathlib import Path

from tests.virtual_server import carried, virtual_server, why_not

from prove.report import Tally

_SECONDS = 600


def long_takes(share: float, seed: int) -> list[Tally]:
    """So much of ten minutes, recorded in one take and compared frame by frame with what was played."""
    tally = Tally("recorded from a sound device")
    if why := why_not():
        tally.outcomes[f"left out: it {why}"] += 1
        return [tally]
    seconds = max(10, round(_SECONDS * share))
    with (
        tempfile.TemporaryDirectory(dir="/var/tmp") as folder,
        virtual_server(Path(folder)) as server,
    ):
        found = carried(server, seconds, seed)
    for number in range(found.seconds):
        if number < found.wrong:
            tally.fault(f"{found.wrong} seconds of {found.seconds} are not what was played")
        else:
            tally.note("seconds as played")
    if found.take.notes or found.take.ended != "whole":
        tally.fault(f"{found.take.ended}: {found.take.reason} {found.take.notes}")
    return [tally]
