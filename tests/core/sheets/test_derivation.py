"""The whole calculation in words: nothing in it differs from what was computed."""

from __future__ import annotations

import re

import pytest

from verve.core.assess import assess
from verve.core.session import Session
from verve.core.sheets import derivation_text


@pytest.mark.parametrize(
    "line_id", ["voice", "harp_left", "baritone_line", "cello_line", "organ_l"]
)
def test_it_has_every_step_junction_and_origin_of_noise(mended: Session, line_id: str) -> None:
    item = assess(mended).line(line_id)
    assert item is not None
    assert item.state.staged is not None
    text = derivation_text(item)
    for fact in item.why():
        assert fact.text in text
        assert fact.how in text
    for part in item.state.staged.parts:
        assert f"{part.role} (" in text
    for noise in item.noise_parts():
        assert noise.name in text
    assert "Nyquist 1928" in text


def test_only_formulas_of_stages_that_are_there_are_given(mended: Session) -> None:
    assessment = assess(mended)
    voice, cello = assessment.line("voice"), assessment.line("cello_line")
    assert voice is not None
    assert cello is not None
    assert "inverse distance law" in derivation_text(voice)
    assert "inverse distance law" not in derivation_text(cello)
    assert "circuit of a capacitor" in derivation_text(cello)


def test_levels_behind_each_junction_add_up(mended: Session) -> None:
    item = assess(mended).line("baritone_line")
    assert item is not None
    text = derivation_text(item).split("At every junction")[1].split("Whose the noise")[0]
    number = r"(−?\d+\.\d|—)"
    rows = re.findall(rf"\) +{number} +{number} +{number}", text)
    assert len(rows) >= 5
    for opened, lost, loaded in rows:
        values = [float(v.replace("−", "-")) for v in (opened, lost, loaded)]
        assert values[0] + values[1] == pytest.approx(values[2], abs=0.11)


def test_a_line_that_cannot_be_computed_says_so(demo: Session) -> None:
    links = tuple(
        link.model_copy(update={"end": "voice_mic:capsule"})
        if link.id == "baritone_cable"
        else link
        for link in demo.setup.links
        if link.id != "voice_air"
    )
    setup = demo.setup.model_copy(
        update={
            "links": links,
            "lines": tuple(x for x in demo.setup.lines if x.id == "baritone_line"),
        }
    )
    (item,) = assess(demo.model_copy(update={"setup": setup})).lines
    assert "cannot be computed as it stands" in derivation_text(item)
