"""Kits that could be bought: held against trying everything, and against what a person would say."""

from __future__ import annotations

import itertools
import json
import math
from pathlib import Path

import pytest

from verve.cli import main
from verve.core.catalogue import catalogue
from verve.core.connections import Rated, problem_of
from verve.core.demo import demo_session
from verve.core.kits import Kit, kits_of, models_of
from verve.core.kits import Pass as KitPass
from verve.core.kits._things import (
    beside,
    cable_key,
    device_thing,
    needs_stand,
    owned_beside,
    owned_cables,
    runs_of,
    stand,
    thing,
    thread,
)
from verve.core.session import Brief, Computer, KitItem, Part, Pass, Session, Shopping, Wish, save

ENTRIES = catalogue()


def part(name: str, sound: str | None, plug: str | None, capture: str, who: str = "") -> Part:
    return Part(
        id=name.lower(),
        name=name,
        performer=who,
        sound=None if sound is None else ENTRIES.sources[sound].figures,  # type: ignore[arg-type]
        plug=None if plug is None else ENTRIES.sources[plug].figures,
        capture=capture,  # type: ignore[arg-type]
    )


def wanting(*parts: Part, **more: object) -> Session:
    one = Pass(id="one", name="One", parts=tuple(p.id for p in parts))
    return Session(brief=Brief(parts=parts, passes=(one,)), **more)  # type: ignore[arg-type]


VOICE = part("Voice", "voice_singing", None, "microphone", "Mara")
BASS = part("Bass", None, "bass_pickup", "plug", "Ilo")
FLUTE = part("Flute", "flute", None, "microphone", "Ilo")


def tried_all(session: Session) -> float:
    """The price of the cheapest kit, by trying every combination of ways."""
    (item,) = session.brief.passes
    problem = problem_of(session, item, with_more=True)
    people = len({p.performer for p in session.brief.parts_of(item) if p.performer}) or 1
    best = (math.inf, math.inf)
    for recorder in problem.stock.recorders:
        columns = [
            [r for r in problem.connections[signal.id] if r.connection.recorder.id == recorder.id]
            for signal in problem.signals
        ]
        for chosen in itertools.product(*columns):
            flaws = sum(r.flaws for r in chosen)
            if flaws <= best[0] and _is_possible(chosen):
                best = min(best, (flaws, _price(session, chosen, people)))
    return best[1]


def _is_possible(chosen: tuple[Rated, ...]) -> bool:
    for inputs in {r.connection.inputs.id: r.connection.inputs for r in chosen}.values():
        using = [r for r in chosen if r.connection.inputs.id == inputs.id]
        powers = {r.connection.power for r in using}
        if len(using) > len(inputs.names) or (inputs.switch and {"needs", "never"} <= powers):
            return False
    drawn = sum(r.connection.current_ma for r in chosen)
    budget = chosen[0].connection.recorder.figures.phantom_supply_ma()
    return budget is None or drawn <= budget


def _price(session: Session, chosen: tuple[Rated, ...], people: int) -> float:
    total = 0.0
    recorder = chosen[0].connection.recorder
    if recorder.count < 1:
        total += device_thing(session, recorder.item).price
    needed: dict[str, list[float]] = {}

    def more(key: str, price: float, owned: int) -> None:
        row = needed.setdefault(key, [price, float(owned), 0.0])
        row[2] += 1.0

    for rated in chosen:
        for box in rated.connection.boxes:
            made = device_thing(session, box.item)
            more(box.id, made.price, made.owned)
        for run in runs_of(rated):
            key, owned = cable_key(run), owned_cables(session.kit, run)
            more(key, thing(session, key, owned).price, owned)
        if needs_stand(rated):
            more("stand", stand(session).price, stand(session).owned)
    if any(map(needs_stand, chosen)) and not thread(session).owned:
        total += thread(session).price
    total += sum(max(0.0, count - owned) * price for price, owned, count in needed.values())
    for key, count in beside(session, chosen, people).items():
        owned = owned_beside(session, key)
        total += max(0, count - owned) * thing(session, key, owned).price
    return total


@pytest.mark.parametrize(
    "session",
    [
        wanting(VOICE),
        wanting(BASS),
        wanting(VOICE, BASS),
        wanting(VOICE, FLUTE),
        wanting(VOICE, computer=Computer(sockets=("usb_a",))),
        wanting(
            VOICE,
            BASS,
            kit=(
                KitItem(
                    id="mine",
                    name="My condenser",
                    device=ENTRIES.devices["condenser_large"].figures,
                ),
                KitItem(id="lead", name="Lead", cable=ENTRIES.cables["balanced_5"].figures),
                KitItem(id="foot", name="Stand", accessory="stand_boom"),
            ),
        ),
    ],
    ids=["voice", "bass", "voice and bass", "voice and flute", "usb a", "with a kit"],
)
def test_the_cheapest_is_the_cheapest_of_all(session: Session) -> None:
    least = kits_of(session).offers[0].kit
    assert least.price == pytest.approx(tried_all(session), abs=0.01)
    assert least.low <= least.price <= least.high
    assert sum(one.count * one.thing.price for one in least.bought) == pytest.approx(least.price)


def names(kit: Kit) -> set[str]:
    return {one.thing.name for one in kit.bought}


def test_for_one_voice_a_plain_microphone_and_a_small_interface() -> None:
    kit = kits_of(wanting(VOICE)).offers[0].kit
    (rated,) = kit.chosen["One"].values()
    assert len(rated.connection.recorder.figures.input_ports()) <= 2
    assert "ribbon" not in " ".join(box.name.lower() for box in rated.connection.boxes)
    # Complete: down to stand, shield, cable, headphones and their adapters.
    wanted = {"shield", "headphones", "adapter", "cable", "stand"}
    assert all(any(word in name.lower() for name in names(kit)) for word in wanted)


def test_what_is_there_is_not_bought_and_a_typed_price_wins() -> None:
    figures = ENTRIES.devices["moving_coil"].figures
    mine = KitItem(id="mine", name="My microphone", device=figures)
    kit = kits_of(wanting(VOICE, kit=(mine,))).offers[0].kit
    assert not any(
        "microphone" in name.lower() and "input" not in name.lower()
        for name in names(kit) - {"Boom stand"}
    )
    dear = Wish(
        id="w",
        name="Shield",
        item=KitItem(id="s", name="Shield", accessory="shield_fabric"),
        price=99.0,
    )
    priced = kits_of(wanting(VOICE, shopping=Shopping(wishes=(dear,)))).offers[0].kit
    shield = next(one for one in priced.bought if one.thing.key == "shield_fabric")
    assert (shield.thing.price, shield.thing.origin) == (99.0, "typed")


def test_a_budget_is_a_limit() -> None:
    session = wanting(VOICE, FLUTE)
    least = kits_of(session).offers[0].kit
    short = kits_of(session, least.price - 1.0)
    assert "No complete kit costs so little" in short.said
    for budget in (least.price, least.price * 1.5, 2000.0):
        found = kits_of(session, budget)
        assert not found.said
        within = [o.kit for o in found.offers if "worthwhile" not in o.name]
        assert all(kit.price <= budget + 0.01 for kit in within)
        steps = [o.kit for o in found.offers if "worthwhile" in o.name]
        assert all(kit.quality_db >= within[-1].quality_db + 3.0 - 1e-6 for kit in steps)


def test_two_passes_share_what_is_bought() -> None:
    one, two = (Pass(id=key, name=key, parts=(p.id,)) for key, p in (("a", VOICE), ("b", FLUTE)))
    apart = Session(brief=Brief(parts=(VOICE, FLUTE), passes=(one, two)))
    kit = kits_of(apart).offers[0].kit
    together = kits_of(wanting(VOICE, FLUTE)).offers[0].kit
    assert set(kit.chosen) == {"a", "b"}
    assert kit.price < together.price
    stands = next(b for b in kit.bought if "stand" in b.thing.name.lower())
    assert stands.count == 1


def test_every_price_of_the_catalogue_is_a_range() -> None:
    tables = (
        ENTRIES.devices,
        ENTRIES.cables,
        ENTRIES.headphones,
        ENTRIES.loudspeakers,
        ENTRIES.accessories,
    )
    for table in tables:
        for key, entry in table.items():
            assert entry.price is not None, key
            assert 0.0 < entry.price[0] < entry.price[1], key


def test_the_commands(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path, out = tmp_path / "s.verve.json", tmp_path / "out.verve.json"
    save(wanting(VOICE, BASS), path)
    assert main(["kit", str(path), "--budget", "5000", "--json"]) == 0
    data = json.loads(capsys.readouterr().out)
    assert data["offers"][0]["price_low"] < data["offers"][0]["price"] <= 5000.0
    assert main(["kit", str(path), "--budget", "10"]) == 1
    assert "No complete kit costs so little" in capsys.readouterr().out
    assert main(["connect", str(path), "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["missing"]
    save(
        demo_session(),
        path,
    )
    assert main(["connect", str(path), "--layer", "Finale with the drum", "-o", str(out)]) == 0
    assert "Frame drum" in capsys.readouterr().out
    assert out.exists()
    assert main(["connect", str(path), "--layer", "nobody's"]) == 2
    assert "must be a layer of the brief (The songs" in capsys.readouterr().err


def test_a_model_of_nothing_is_none() -> None:
    assert kits_of(Session()).offers == ()
    item = Pass(id="one", name="One", parts=("voice",))
    problem = problem_of(wanting(VOICE), item, with_more=True)
    models = models_of(wanting(VOICE), [KitPass(name="One", problem=problem, people=1)])
    assert all(model.solve(most=1.0) is None for model in models)
