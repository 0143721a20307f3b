"""Whatever is missing from a session, everything can be asked of it, and nothing breaks."""

from __future__ import annotations

from hypothesis import given, settings
from hypothesis import strategies as st

from verve.core.assess import Assessment, assess
from verve.core.certificates import certificates
from verve.core.demo import demo_session
from verve.core.diagnosis import causes_of
from verve.core.errors import InputError
from verve.core.gain import optimum
from verve.core.power import change_sheet, set_up_sheet, tear_down_sheet
from verve.core.sensitivity import influences
from verve.core.session import Session, Setup, check_setup, split_port
from verve.core.sheets import derivation_text, patch_html, tracks_csv

WHOLE = demo_session()


def without(setup: Setup, links: set[str], sources: set[str]) -> Setup | None:
    """A setup without some cables and sources; a line that began with one begins with what is left behind."""
    kept = tuple(
        link
        for link in setup.links
        if link.id not in links and split_port(link.start)[0] not in sources
    )
    onward = {split_port(link.start)[0]: link.id for link in kept}
    ends = {link.id: split_port(link.end)[0] for link in setup.links}
    lines = []
    for line in setup.lines:
        first: str | None = line.first_link
        while first is not None and first not in {link.id for link in kept}:
            first = onward.get(ends[first])
        if first is not None:
            lines.append(line.model_copy(update={"first_link": first}))
    changed = setup.model_copy(
        update={
            "links": kept,
            "lines": tuple(lines),
            "sources": tuple(s for s in setup.sources if s.id not in sources),
        }
    )
    try:
        check_setup(changed)
    except (InputError, ValueError):
        return None
    return changed


@st.composite
def torn(draw: st.DrawFn) -> Session:
    """The demo session with cables pulled and sources gone."""
    setup = WHOLE.setup
    links = draw(st.sets(st.sampled_from([link.id for link in setup.links]), max_size=5))
    sources = draw(st.sets(st.sampled_from([source.id for source in setup.sources])))
    changed = without(setup, links, sources)
    return WHOLE if changed is None else WHOLE.model_copy(update={"setup": changed})


def everything(assessment: Assessment) -> None:
    """Ask it all that a window asks."""
    session = assessment.session
    assert assessment.next.sentence
    for item in assessment.lines:
        assert derivation_text(item)
        assert item.spans is not None
        assert causes_of(assessment, item.line.id) is not None
        assert influences(session, item.line.id) is not None
    assert patch_html(assessment)
    assert tracks_csv(assessment)
    set_up_sheet(session.setup)
    tear_down_sheet(session.setup)
    for item in assessment.lines:
        change_sheet(session.setup, item.line.id)
    optimum(session)


@settings(max_examples=30)
@given(torn())
def test_a_torn_session_is_assessed_and_asked_everything(session: Session) -> None:
    assessment = assess(session)
    everything(assessment)
    for item in assessment.lines:
        if item.route.has_source:
            continue
        assert [f.rule for f in item.findings] == ["not_connected"]
        assert item.state.levels is None


def test_nothing_but_cables_is_assessed() -> None:
    changed = without(WHOLE.setup, set(), {source.id for source in WHOLE.setup.sources})
    assert changed is not None
    assert changed.lines
    session = WHOLE.model_copy(update={"setup": changed})
    everything(assess(session))
    assert certificates(session) == ()
