"""An assessment for a terminal and as JSON data."""

from __future__ import annotations

from typing import Any

from verve.core.assess import Assessment, LineAssessment
from verve.core.findings import Finding
from verve.core.sheets._tables import level, table

_MARKS = {"stop": "STOP", "mend": "mend", "know": "know"}


def _line_row(item: LineAssessment) -> list[str]:
    return [
        item.line.name,
        level(item.predicted_peak_dbfs("softest")),
        level(item.predicted_peak_dbfs("typical")),
        level(item.state.peak_dbfs if item.is_alive else None),
        level(item.noise_dbfs_a),
        level(item.snr_db),
        item.verdict,
    ]


def _finding_text(finding: Finding, names: dict[str, str]) -> str:
    where = f"{names[finding.line]}: " if finding.line in names else ""
    return (
        f"{_MARKS[finding.severity]}  {where}{finding.title}.\n"
        f"      {finding.cost}\n      → {finding.advice}"
    )


def assessment_text(assessment: Assessment) -> str:
    """Lines, findings and the next thing, as a person reads them."""
    setup = assessment.session.setup
    names = {line.id: line.name for line in setup.lines}
    head = ["Signal", "quietest", "typical", "loudest", "noise A", "S/N", "how it stands"]
    rows = [_line_row(item) for item in assessment.lines]
    parts = [
        f"{assessment.session.title}  ·  {setup.audio.sample_rate_hz} Hz, "
        f"{setup.audio.bit_depth} bit, {setup.audio.buffer_frames} samples  ·  peaks in dBFS",
        table(head, rows, numbers=range(1, 6)) if rows else "No signals yet.",
        "\n".join(_finding_text(f, names) for f in assessment.findings) or "Nothing is wrong.",
        f"Next: {assessment.next.sentence}",
    ]
    return "\n\n".join(parts)


def assessment_data(assessment: Assessment) -> dict[str, Any]:
    """The same as data; levels are null where there is no finite one."""
    return {
        "title": assessment.session.title,
        "round_trip_ms": assessment.round_trip_ms,
        "lines": [_line_data(item) for item in assessment.lines],
        "findings": [_finding_data(finding) for finding in assessment.findings],
        "next": {
            "sentence": assessment.next.sentence,
            "why": assessment.next.why,
            "step": assessment.next.step,
            "line": assessment.next.line,
        },
    }


def _range_data(item: LineAssessment) -> list[float] | None:
    found = item.predicted_range("hardest")
    return None if found is None else [found.low_dbfs, found.high_dbfs]


def _line_data(item: LineAssessment) -> dict[str, Any]:
    levels = item.state.levels
    stages = []
    if levels is not None and item.state.staged is not None:
        for index, part in enumerate(item.state.staged.parts):
            stages.append(
                {
                    "stage": part.stage.stage,
                    "owner": part.owner,
                    "role": part.role,
                    "peak_dbu": levels.peak_dbu[index],
                    "noise_dba": levels.noise_dba[index],
                    "headroom_db": levels.headroom_db[index],
                    "noise_share": levels.noise_shares[index],
                }
            )
    first = None if levels is None else levels.first_to_clip
    return {
        "id": item.line.id,
        "name": item.line.name,
        "is_alive": item.is_alive,
        "is_complete": item.route.is_complete,
        "peak_dbfs": {
            "softest": item.predicted_peak_dbfs("softest"),
            "typical": item.predicted_peak_dbfs("typical"),
            "hardest": item.predicted_peak_dbfs("hardest"),
        },
        "hardest_peak_range_dbfs": _range_data(item),
        "hardest_peak_unclipped_dbfs": item.state.peak_dbfs,
        "noise_dbfs_a": item.noise_dbfs_a,
        "snr_db": item.snr_db,
        "first_to_clip": None if first is None else stages[first]["owner"],
        "target_dbfs": {
            "lowest": item.target.lowest_dbfs,
            "target": item.target.target_dbfs,
            "highest": item.target.highest_dbfs,
        },
        "verdict": item.verdict,
        "stages": stages,
    }


def _finding_data(finding: Finding) -> dict[str, Any]:
    return {
        "rule": finding.rule,
        "severity": finding.severity,
        "step": finding.step,
        "line": finding.line,
        "title": finding.title,
        "cost": finding.cost,
        "advice": finding.advice,
        "remedy": None if finding.remedy is None else finding.remedy.label,
    }
