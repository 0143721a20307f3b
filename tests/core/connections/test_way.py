"""Finding a way in: complete, allowed, and as good as trying everything."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.connections.builders import ENTRIES, brute_force, is_allowed, kit, part, session_of
from verve.core.assess import assess
from verve.core.connections import (
    Answer,
    NoSuggestion,
    Suggestion,
    cost_of,
    flaw_weight,
    problem_of,
    solve,
    suggest_connections,
)
from verve.core.errors import CancelledError
from verve.core.gear import AcousticFigures, InterfaceFigures, MicrophoneFigures
from verve.core.session import (
    KitItem,
    Line,
    Session,
    add_kit,
    check_setup,
    from_json,
    to_json,
    with_setup,
)

BAND = {
    "moving_coil_low": 1,
    "moving_coil": 2,
    "condenser_small": 2,
    "inline_preamp": 1,
    "active_di": 1,
    "interface_eight": 1,
    "balanced_5": 6,
    "balanced_short": 1,
    "instrument_3": 4,
}


def suggested(session: Session) -> Suggestion:
    found = suggest_connections(session, session.brief.passes[0])
    assert isinstance(found, Suggestion), found
    return found


def test_every_signal_gets_a_way_and_the_patch_is_sound() -> None:
    parts = [
        part("voice_singing", performer="Mara"),
        part("violin", capture="pair"),
        part("bass_pickup"),
        part("keyboard_output", capture="stereo"),
    ]
    found = suggested(session_of(parts, BAND))
    assert [choice.signal.name for choice in found.choices] == [
        "Singing voice",
        "Violin left",
        "Violin right",
        "Electric bass, passive pickup",
        "Keyboard output left",
        "Keyboard output right",
    ]
    session = found.session
    check_setup(session.setup)
    assert from_json(to_json(session), "x") == session
    assessment = assess(session)
    assert [f for f in assessment.findings if f.severity != "know"] == []
    assert all(item.route.is_complete and item.is_alive for item in assessment.lines)
    assert {line.pair is not None for line in session.setup.lines} == {True, False}
    assert [p.name for p in session.setup.performers] == ["Mara"]
    assert found.missing == ()
    assert found.gap_db == 0.0


def test_no_socket_and_no_cable_is_used_twice() -> None:
    parts = [part("voice_singing"), part("violin"), part("cello"), part("flute")]
    session = suggested(session_of(parts, BAND)).session
    ends = [link.end for link in session.setup.links]
    assert len(ends) == len(set(ends))
    used: dict[str, int] = {}
    for link in session.setup.links:
        if link.kit_item is not None:
            used[link.kit_item] = used.get(link.kit_item, 0) + 1
    for item in session.kit:
        assert used.get(item.id, 0) <= item.quantity
    boxes: dict[str, int] = {}
    for device in session.setup.devices:
        assert device.kit_item is not None
        boxes[device.kit_item] = boxes.get(device.kit_item, 0) + 1
    for item in session.kit:
        assert boxes.get(item.id, 0) <= max(1, item.quantity)


SOUNDS = st.sampled_from(["voice_singing", "violin", "hand_drum", "trumpet"])
PLUGS = st.sampled_from(["bass_pickup", "double_coil", "piezo_bridge", "keyboard_output"])
SMALL_KITS = st.fixed_dictionaries(
    {
        "moving_coil": st.integers(0, 2),
        "ribbon": st.integers(0, 1),
        "condenser_small": st.integers(0, 2),
        "inline_preamp": st.integers(0, 1),
        "active_di": st.integers(0, 1),
        "passive_di": st.integers(0, 1),
        "interface_two": st.integers(0, 1),
        "interface_two_shared": st.integers(0, 1),
        "interface_one": st.integers(0, 1),
    }
)


@settings(max_examples=25)
@given(sound=SOUNDS, second=st.one_of(SOUNDS, PLUGS), counts=SMALL_KITS, pair=st.booleans())
def test_it_is_as_good_as_trying_everything(
    sound: str, second: str, counts: dict[str, int], pair: bool
) -> None:
    parts = [part(sound, name="One", capture="pair" if pair else None)]
    if not pair:
        parts.append(part(second, name="Two"))
    session = session_of(parts, counts)
    problem = problem_of(session, session.brief.passes[0], with_more=False)
    answer = solve(problem)
    best = brute_force(problem)
    assert (answer is None) == (best is None)
    if answer is not None:
        chosen = [answer.chosen[signal.id] for signal in problem.signals]
        assert is_allowed(problem, chosen)
        weight = flaw_weight(problem)
        assert sum(cost_of(r, weight) for r in chosen) == pytest.approx(best, abs=1e-6)


def test_a_shared_phantom_switch_keeps_what_must_not_get_it_apart() -> None:
    # One switch for both: the ribbon and the condenser cannot be on it together.
    parts = [part("violin", principle="ribbon"), part("flute", principle="condenser")]
    counts = {"ribbon": 1, "condenser_small": 1, "interface_two": 1}
    found = suggest_connections(
        session_of(parts, counts), session_of(parts, counts).brief.passes[0]
    )
    assert isinstance(found, Suggestion)
    assert found.missing, "with the kit alone there is no way"
    apart = session_of(parts, {**counts, "interface_four": 1})
    assert suggested(apart).missing == ()


def test_what_is_missing_is_the_fewest_things() -> None:
    parts = [part("voice_singing"), part("violin"), part("flute")]
    session = session_of(parts, {"moving_coil": 2, "interface_eight": 1})
    found = suggested(session)
    (missing,) = found.missing
    assert missing.count == 1
    assert isinstance(missing.item.device, MicrophoneFigures)
    # One more of a kind that others use too, or one of another kind for somebody alone.
    assert missing.signals
    more, _ = add_kit(session, missing.item.model_copy(update={"quantity": 1}))
    assert suggested(more).missing == ()


def test_from_nothing_it_says_everything_that_is_needed() -> None:
    found = suggested(session_of([part("bass_pickup")], {}))
    (missing,) = found.missing
    assert isinstance(missing.item.device, InterfaceFigures)


def test_a_pass_that_nothing_bears_says_for_whom() -> None:
    figures = ENTRIES.sources["trumpet"].figures
    assert isinstance(figures, AcousticFigures)
    loud = figures.model_copy(
        update={"peak_spl": figures.peak_spl.model_copy(update={"hardest_db": 190.0})}
    )
    one = part("trumpet").model_copy(update={"sound": loud, "principle": "condenser"})
    session = session_of([one], BAND)
    found = suggest_connections(session, session.brief.passes[0])
    assert isinstance(found, NoSuggestion)
    assert found.signals == ("Trumpet",)


def test_what_is_fixed_stays_fixed() -> None:
    parts = [part("voice_singing"), part("violin")]
    first = suggested(session_of(parts, BAND)).session

    def fixed(line: Line) -> Line:
        return line.model_copy(update={"is_fixed": line.name == "Singing voice"})

    session = with_setup(first, lines=tuple(fixed(line) for line in first.setup.lines))
    before = next(line for line in session.setup.lines if line.is_fixed)
    second = session.model_copy(
        update={
            "brief": session_of([*parts, part("flute"), part("cello")], BAND).brief,
        }
    )
    after = suggested(second).session
    kept = next(line for line in after.setup.lines if line.is_fixed)
    assert kept == before
    links = {link.id: link for link in after.setup.links}
    assert links[kept.first_link] == next(
        link for link in session.setup.links if link.id == kept.first_link
    )
    assert len(after.setup.lines) == 4
    assert sum(isinstance(d.figures, InterfaceFigures) for d in after.setup.devices) == 1


def test_a_microphone_and_a_plug_of_one_instrument() -> None:
    one = part("acoustic_guitar", plug="piezo_with_preamp", capture="both", name="Guitar")
    found = suggested(session_of([one], BAND))
    assert [choice.signal.name for choice in found.choices] == ["Guitar microphone", "Guitar plug"]
    assert len(found.session.setup.sources) == 2


def test_a_mixer_takes_two_lines_apart_on_its_two_sides() -> None:
    # Line inputs for two, but only through the mixer would there be... one interface with one socket each.
    parts = [part("keyboard_output", name="Keys", capture="stereo")]
    counts = {"small_mixer": 1, "interface_old": 1, "instrument_3": 4}
    found = suggested(session_of(parts, counts))
    assert found.missing == ()
    assert len(found.session.setup.lines) == 2


def test_the_reason_names_the_next_best_and_what_keeps_a_better_one() -> None:
    parts = [part("voice_singing"), part("violin")]
    found = suggested(session_of(parts, BAND))
    for choice in found.choices:
        assert choice.reason.endswith(".")
        assert "dB" in choice.reason
        assert choice.alternatives
        assert all(alternative.why_not for alternative in choice.alternatives)


def test_it_can_be_called_off_and_tells_how_far_it_is() -> None:
    session = session_of([part("voice_singing")], BAND)
    shares: list[float] = []
    suggest_connections(session, session.brief.passes[0], progress=shares.append)
    assert shares[-1] == 1.0
    with pytest.raises(CancelledError):
        suggest_connections(session, session.brief.passes[0], is_cancelled=lambda: True)


def test_an_empty_pass_is_no_problem() -> None:
    session = session_of([], BAND)
    found = suggested(session)
    assert found.choices == ()
    assert isinstance(solve(problem_of(session, session.brief.passes[0], with_more=False)), Answer)


def test_kit_items_are_one_thing() -> None:
    with pytest.raises(ValueError, match="must be one of device"):
        KitItem(id="x", name="X")
    assert kit({"balanced_5": 2})[0].quantity == 2


def test_what_is_proposed_weighs_price_and_fragility_beside_the_noise() -> None:
    """For one voice no ribbon and no sixteen inputs, though both would be quieter."""
    session = session_of((part("voice_singing", name="Voice"),), {})
    found = suggest_connections(session, session.brief.passes[0])
    assert isinstance(found, Suggestion)
    (choice,) = found.choices
    connection = choice.rated.connection
    assert len(connection.recorder.figures.input_ports()) <= 2
    capsules = [
        box.figures for box in connection.boxes if isinstance(box.figures, MicrophoneFigures)
    ]
    assert [one.principle for one in capsules] != ["ribbon"]
