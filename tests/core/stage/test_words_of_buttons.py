"""What a button says comes from what it does, whatever the gear is called."""

from __future__ import annotations

import pytest

from tests.wiring import wired
from verve.core.assess import _from_finding, assess
from verve.core.findings import Finding
from verve.core.power import change_sheet, set_up_sheet, tear_down_sheet
from verve.core.session import Change, Session, set_control
from verve.core.words import capital

NAMES = [
    "Back up harp mic",
    "Turn it down",
    "Plug Guitar from amp into",
    "Unplug 8, 11 and 18",
    "{name} %s <b>",
    "zebra Eight",
    "an eight-inch hour",
]


def renamed(session: Session, name: str) -> Session:
    setup = session.setup
    return session.model_copy(
        update={
            "setup": setup.model_copy(
                update={
                    "devices": tuple(d.model_copy(update={"name": name}) for d in setup.devices),
                    "sources": tuple(s.model_copy(update={"name": name}) for s in setup.sources),
                    "lines": tuple(x.model_copy(update={"name": name}) for x in setup.lines),
                }
            )
        }
    )


@pytest.fixture
def loud() -> Session:
    """A condenser so near a drum that only its pad helps, and a keyboard that is too soft."""
    session = wired(
        {"drum": "snare_drum", "keys": "keyboard_output"},
        {"mic": "condenser_large", "io": "interface_eight"},
        ["drum:out > mic:capsule", "mic:out > io:in.1", "keys:out > io:in.5"],
        settings={"io:phantom.1": {"phantom": True}, "io:in.5": {"mode": "line"}},
        lines={"drum": 0, "keys": 2},
    )
    for name, value in (("distance_m", 0.05),):
        session = set_control(
            session, Change(owner="mic", channel="capsule", name=name, value=value)
        )
    return session


def labels(session: Session) -> list[tuple[str, str]]:
    found: list[Finding] = list(assess(session).findings)
    return [(f.rule, f.remedy.label) for f in found if f.remedy is not None]


@pytest.mark.parametrize("name", NAMES)
def test_a_name_changes_no_button(loud: Session, demo: Session, name: str) -> None:
    for session in (loud, demo):
        plain = labels(renamed(session, "Plain"))
        named = labels(renamed(session, name))
        assert [(r, x.replace("Plain", name)) for r, x in plain] == named
    assert labels(loud)


@pytest.mark.parametrize("name", NAMES)
def test_names_go_into_sheets_as_they_were_typed(demo: Session, name: str) -> None:
    plain, named = renamed(demo, "Plain"), renamed(demo, name)
    for sheet in (set_up_sheet, tear_down_sheet):
        first = [step.words.replace("Plain", name) for step in sheet(plain.setup)]
        assert first == [step.words for step in sheet(named.setup)]
    first = [s.words.replace("Plain", name) for s in change_sheet(plain.setup, "baritone_line")]
    assert first == [s.words for s in change_sheet(named.setup, "baritone_line")]


@pytest.mark.parametrize("name", NAMES)
def test_names_go_into_findings_as_they_were_typed(demo: Session, name: str) -> None:
    plain, named = assess(renamed(demo, "Plain")), assess(renamed(demo, name))
    for one, other in zip(plain.findings, named.findings, strict=True):
        for part in ("title", "brief", "cost", "advice"):
            assert getattr(one, part).replace("Plain", name) == getattr(other, part)


@pytest.mark.parametrize("name", ["zebra Eight", "iO 8", "éclair"])
def test_a_name_keeps_its_letters_wherever_a_sentence_begins(demo: Session, name: str) -> None:
    """What is asked of a session says a name as it was typed, also at the beginning of a sentence."""
    session = renamed(demo, name)
    for control in (
        Change(owner="interface", channel="in.4", name="mode", value="line"),
        Change(owner="mixer", channel="in.4", name="pan", value=-1.0),
        Change(owner="interface", channel="in.1", name="gain_db", value=60.0),
    ):
        session = set_control(session, control)
    for finding in assess(session).findings:
        thing = _from_finding(finding, {x.id: x for x in session.setup.lines})
        for said in (thing.sentence, thing.why, finding.brief, finding.title):
            wrong = name[:1].swapcase() + name[1:]
            assert wrong not in said, said
        if finding.brief:
            assert capital(finding.brief).count(name) == finding.brief.count(name), finding.brief
