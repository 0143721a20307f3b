"""All ways to record one part side by side, and what becomes possible with a purchase."""

from __future__ import annotations

import math

import pytest
from pydantic import ValidationError

from verve.core.assess import assess
from verve.core.catalogue import catalogue, part_of, takes_for
from verve.core.connections import NoSuggestion, suggest_connections
from verve.core.demo import demo_session
from verve.core.gain import settled
from verve.core.kits import kits_of, purchases_worth, ways_of
from verve.core.sensitivity import Purchase, worth_of
from verve.core.session import (
    Brief,
    KitItem,
    Part,
    Pass,
    Session,
    Setup,
    Shopping,
    Source,
    Wish,
    from_json,
    put_in_set,
    remove_wish,
    to_json,
)
from verve.core.shop import rows_of, totals_of

ENTRIES = catalogue()
DEMO = demo_session()


def named(key: str, take: str, name: str, who: str = "") -> Part:
    made = part_of(ENTRIES, key, take, name=name, performer=who)
    return made.model_copy(update={"id": name.lower()})


def wanting(*parts: Part, kit: tuple[KitItem, ...] = (), **more: object) -> Session:
    one = Pass(id="one", name="One", parts=tuple(p.id for p in parts))
    return Session(brief=Brief(parts=parts, passes=(one,)), kit=kit, **more)  # type: ignore[arg-type]


GUITAR = named("acoustic_guitar", "microphone", "Guitar", "Ilo")
VOICE = named("voice_singing", "microphone", "Voice", "Mara")
KEYS = named("keyboard_controller", "computer", "Keys", "Nuri")


def test_a_pickup_only_where_there_is_one() -> None:
    guitar, voice = (ENTRIES.sources[k].figures for k in ("acoustic_guitar", "voice_singing"))
    assert takes_for(ENTRIES, guitar) == ("microphone", "pair", "both", "plug")
    assert takes_for(ENTRIES, voice) == ("microphone", "pair")
    alone = part_of(ENTRIES, "acoustic_guitar", "plug")
    assert alone.plug == ENTRIES.sources["piezo_with_preamp"].figures
    with_own = takes_for(ENTRIES, voice, has_pickup=True)
    assert "both" in with_own, "who has put one in keeps it"


@pytest.mark.parametrize("session", [Session(), DEMO], ids=["nothing", "demo"])
def test_every_way_is_what_its_patch_gives(session: Session) -> None:
    ways = ways_of(session, GUITAR)
    assert [way.inputs for way in ways] == [1, 2, 2, 1, 1]
    for way in ways:
        # The kit that the way reckons with, patched and assessed as a whole session.
        kit = list(session.kit)
        one = Pass(id="one", name="One", parts=(way.part.id,))
        chosen = next(iter(way.kit.chosen.values()))
        for rated in chosen.values():
            for box in (*rated.connection.boxes, rated.connection.recorder):
                if box.count < len(chosen):
                    kit.append(KitItem(id=f"more_{len(kit)}", name=box.name, device=box.figures))
        bare = session.model_copy(
            update={
                "kit": tuple(kit),
                "brief": Brief(parts=(way.part,), passes=(one,)),
                "setup": Setup(room=session.setup.room, audio=session.setup.audio),
            }
        )
        found = suggest_connections(bare, one)
        assert not isinstance(found, NoSuggestion)
        lines = assess(settled(found.session)).lines
        assert len(lines) == way.inputs
        best = min(line.snr_db or 0.0 for line in lines)
        # The routing weighs more than noise: what it takes is at most a little worse than the way, or better.
        assert best >= way.snr_db - 12.0


def test_the_room_and_the_delay_of_a_way_are_its_own() -> None:
    ways = {way.name: way for way in ways_of(Session(), GUITAR)}
    straight, both = ways["direct, into the input"], ways["microphone and pickup"]
    assert straight.room_db is None
    assert straight.late_ms is None
    assert both.late_ms == pytest.approx(1000.0 * 0.3 / 343.0)
    air = ways["one microphone"]
    assert air.room_db is not None
    room = Session().setup.room
    louder = Session(setup=Setup(room=room.model_copy(update={"noise_dba": room.noise_dba + 20.0})))
    noisy = next(way for way in ways_of(louder, GUITAR) if way.name == "one microphone")
    assert noisy.room_db is not None
    # 20 dB more room raise its part of the noise by 20 dB, as powers.
    assert noisy.room_db == pytest.approx(air.room_db + 20.0, abs=1.5)
    assert noisy.snr_db < air.snr_db - 10.0


def test_what_the_kit_has_costs_nothing() -> None:
    dear = ways_of(Session(), GUITAR)
    own = ways_of(DEMO, GUITAR)
    assert all(way.kit.price > 100.0 for way in dear)
    assert all(way.kit.price < 10.0 for way in own)


# ── instruments inside the computer ───────────────────────────────────────────────────────────
def test_an_instrument_in_the_computer_takes_no_input() -> None:
    session = wanting(KEYS)
    found = suggest_connections(session, session.brief.passes[0])
    assert not isinstance(found, NoSuggestion)
    assert found.choices == ()
    assert kits_of(session).offers == ()
    assert "No part takes an input" in kits_of(session).said
    assert ways_of(session, KEYS) == ()
    assert from_json(to_json(session), "x").brief == session.brief


def test_it_is_taken_in_no_other_way_and_stands_in_no_patch() -> None:
    with pytest.raises(ValidationError, match="capture"):
        Part.model_validate(KEYS.model_dump() | {"capture": "plug"})
    with pytest.raises(ValidationError, match="capture"):
        Part.model_validate(VOICE.model_dump() | {"capture": "computer"})
    assert KEYS.plug is not None
    with pytest.raises(ValidationError, match="figures"):
        Setup(sources=(Source(id="keys", name="Keys", figures=KEYS.plug),))


# ── what is bought ────────────────────────────────────────────────────────────────────────────
def test_what_is_bought_is_told_for_whom_it_is_bought() -> None:
    figures = ENTRIES.devices["condenser_large"].figures
    everyone = Purchase(name="Large", figures=figures)
    for_harp = Purchase(name="Large", figures=figures, parts=("harp",))
    for_drum = Purchase(name="Large", figures=figures, parts=("frame_drum",))
    (anybody,), (harp,), (drum,) = (worth_of(DEMO, [one]) for one in (everyone, for_harp, for_drum))
    assert anybody.best_line
    assert harp.best_line in {"", "Harp left", "Harp right"}
    assert drum.best_line == ""
    assert not drum.has_place
    assert "No signal has a place for it" in drum.sentence()


def test_a_purchase_can_make_a_pass_possible() -> None:
    session = wanting(
        VOICE,
        kit=(KitItem(id="coil", name="Coil", device=ENTRIES.devices["moving_coil"].figures),),
    )
    two = Purchase(name="Two", figures=ENTRIES.devices["interface_two"].figures, price=100.0)
    more = Purchase(name="Ribbon", figures=ENTRIES.devices["ribbon"].figures)
    found = {one.name: one for one in purchases_worth(session, [more, two], lambda: False)}
    assert found["Two"].passes == ("One",)
    assert found["Two"].sentence().startswith("One would be possible")
    assert found["Ribbon"].passes == ()


def test_a_set_counts_once() -> None:
    wishes = (
        Wish(id="a", name="Microphone", price=200.0),
        Wish(id="b", name="Shield", within="a"),
        Wish(id="c", name="Cable", price=10.0),
    )
    session = Session(shopping=Shopping(wishes=wishes))
    rows = rows_of(session)
    assert [row.total for row in rows] == [200.0, 0.0, 10.0]
    assert totals_of(rows, session.shopping)[0].unknown == 0
    alone = remove_wish(session, "a")
    assert [w.within for w in alone.shopping.wishes] == [None, None]
    with pytest.raises(ValidationError, match="within"):
        Shopping(wishes=(*wishes, Wish(id="d", name="D", within="b")))
    again = put_in_set(session, "c", "a")
    assert math.isclose(sum(row.total or 0.0 for row in rows_of(again)), 200.0)
    assert from_json(to_json(again), "x").shopping == again.shopping


def test_monitors_and_software_come_with_a_kit_where_they_are_wanted() -> None:
    plain = kits_of(wanting(VOICE)).offers[0].kit
    more = kits_of(wanting(VOICE), also=("monitors", "software")).offers[0].kit
    bought = {one.thing.key: one.count for one in more.bought}
    assert bought["monitor_small"] == 2
    assert bought["line_balanced_3"] == 2
    assert bought["recording_software"] == 1
    extra = sum(o.count * o.thing.price for o in more.bought) - sum(
        o.count * o.thing.price for o in plain.bought
    )
    assert more.price == pytest.approx(plain.price + extra)
    own = KitItem(id="m", name="Monitors", quantity=2, accessory="monitor_mid")
    has = kits_of(wanting(VOICE, kit=(own,)), also=("monitors",)).offers[0].kit
    assert "monitor_small" not in {one.thing.key for one in has.bought}
