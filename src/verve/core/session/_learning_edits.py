"""Edits that keep what was learnt: how loud somebody really plays, where a knob stands, how it is bent."""

from __future__ import annotations

from pydantic import ValidationError

from verve.core.errors import EditError, from_validation_error
from verve.core.kind import (
    ChannelSettings,
    FrozenDict,
    PlayingRange,
    SourceFigures,
    check_dial,
)
from verve.core.session._comparisons import Comparison, checked_comparison
from verve.core.session._edits import Change, find_control, put_settings, with_setup
from verve.core.session._models import Session
from verve.core.session._setup import Source

LONGEST_SAID = 200


def set_playing(
    session: Session,
    source_id: str,
    playing: PlayingRange,
    said: str,
    *,
    over_test_db: float | None = None,
) -> Session:
    """How loud a source is played, as measured; `said` tells when and in which take. `over_test_db` is how far its
    player goes over the hardest of a test; None leaves that as it is.

    raises: EditError for an unknown source, or levels that cannot be
    """
    old = next((one for one in session.setup.sources if one.id == source_id), None)
    if old is None:
        raise EditError(f"{source_id}: must be a source of this session")
    if not playing.softest_db <= playing.typical_db <= playing.hardest_db:
        raise EditError(f"{old.name}: its levels must rise from softest to hardest")
    figures, name = old.figures, old.figures.level_figure
    changes = {
        name: playing,
        "origins": FrozenDict({**figures.origins, name: "measured"}),
        "wordings": FrozenDict({**figures.wordings, name: said[:LONGEST_SAID]}),
    }
    new = old.model_copy(
        update={
            "figures": figures.model_copy(update=changes),
            "over_test_db": old.over_test_db if over_test_db is None else over_test_db,
        }
    )
    return _with_source(session, new)


def _with_source(session: Session, new: Source) -> Session:
    sources = tuple(new if one.id == new.id else one for one in session.setup.sources)
    return with_setup(session, sources=sources)


def set_hour(session: Session, owner: str, channel: str, hour: float | None) -> Session:
    """Say where a gain knob stands, 7 to 17 o'clock; None for nobody has looked.

    raises: EditError for what is no gain knob, or an hour that no knob has
    """
    control = find_control(session.setup, owner, channel, "gain_db")
    if not control.is_dial:
        raise EditError(f"{control.label}: must be a knob that is turned")
    try:
        checked = ChannelSettings(hour=hour)
    except ValidationError as error:
        raise EditError(str(from_validation_error(error, control.label))) from error
    change = Change(owner=owner, channel=channel, name="gain_db", value=control.value)
    return put_settings(session, change, {"hour": checked.hour})


def learn_dial(
    session: Session, owner: str, channel: str, dial: tuple[tuple[float, float], ...] | None
) -> Session:
    """Keep what takes have taught of a gain knob: hours and gains in dB, both rising; None forgets it.

    raises: EditError for what is no gain knob, or a table that does not rise
    """
    control = find_control(session.setup, owner, channel, "gain_db")
    if not control.is_dial:
        raise EditError(f"{control.label}: must be a knob that is turned")
    if dial is not None:
        try:
            check_dial(dial)
        except ValueError as error:
            raise EditError(str(error)) from error
    change = Change(owner=owner, channel=channel, name="gain_db", value=control.value)
    return put_settings(session, change, {"dial": dial})


def log_comparison(session: Session, comparison: Comparison) -> Session:
    """Keep what was compared and chosen, the newest last.

    raises: EditError for one that cannot be so
    """
    taken = {one.id for one in session.comparisons}
    number = len(taken) + 1
    while f"comparison_{number}" in taken:
        number += 1
    new = checked_comparison(comparison.model_copy(update={"id": f"comparison_{number}"}))
    return session.model_copy(update={"comparisons": (*session.comparisons, new)})


def remove_comparison(session: Session, comparison_id: str) -> Session:
    """Take a comparison off the log; its recordings stay.

    raises: EditError if there is none
    """
    left = tuple(one for one in session.comparisons if one.id != comparison_id)
    if len(left) == len(session.comparisons):
        raise EditError(f"{comparison_id}: must be a comparison of this session")
    return session.model_copy(update={"comparisons": left})


def with_playing_of(figures: SourceFigures, learnt: SourceFigures) -> SourceFigures:
    """Figures with the levels that were measured of the same source."""
    name = figures.level_figure
    if learnt.kind != figures.kind or learnt.origins.get(name) != "measured":
        return figures
    return figures.model_copy(
        update={
            name: learnt.playing(),
            "origins": FrozenDict({**figures.origins, name: "measured"}),
            "wordings": FrozenDict({**figures.wordings, name: learnt.wordings.get(name, "")}),
        }
    )
