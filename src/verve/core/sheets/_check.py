"""A check as it is shown: the sign that is read from three metres, a row for every signal, and who arrived where."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from verve.core.assess import Assessment, LineAssessment
from verve.core.check import Answer, Explanation, Guide, Measured, Proof, Silence, Who, words
from verve.core.session import Comparison, Take
from verve.core.sheets._tables import level
from verve.core.sheets._takes import moment_text
from verve.core.words import Fact, capital, fill, level_text, listed, plural

Shape = Literal["ring", "tick", "up", "down", "wall", "ear"]
"""What stands beside the word, for who does not read it: listening, well, too loud, too quiet, clips, be quiet."""
_SCREAM_DB_SPL = 115.0
_NOISE_PEAK_DB = 12.0
_COMPRESSOR_DBFS = -20.0
"""Where compressors begin as they come; typical."""
_SHAPES: dict[str, Shape] = {
    "right": "tick", "loud": "up", "quiet": "down", "clips": "wall", "silent": "ring",
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class SignText:
    """One word, one number, what to do in a sentence, and a shape."""

    word: str
    number: str
    says: str
    shape: Shape


def sign_of(
    assessment: Assessment,
    guide: Guide,
    answers: Mapping[str, Answer],
    deeds: str,
) -> SignText:
    """What a check shows just now."""
    name = _names(assessment, guide)
    match guide.phase:
        case "silence":
            left = max(0.0, 3.0 * (1.0 - guide.silence_share))
            return SignText(
                word=words.BE_QUIET, number=f"{left:.0f} s", says=words.BE_QUIET_SAYS, shape="ear"
            )
        case "wait":
            return SignText(word=words.ANYBODY, number="", says=words.ANYBODY_SAYS, shape="ring")
        case "easy":
            return SignText(
                word=words.EASY,
                number=_held(guide),
                says=fill(words.EASY_SAYS, name=name),
                shape="ring",
            )
        case "turn":
            return SignText(
                word=words.TURN,
                number="",
                says=fill(words.TURN_SAYS, name=name, deeds=deeds),
                shape="ring",
            )
        case "loudest":
            return SignText(
                word=words.LOUDEST, number=_held(guide),
                says=_loudest_says(assessment, guide, name), shape="ring",
            )  # fmt: skip
        case "done":
            return _verdict(guide, answers, name)


def _names(assessment: Assessment, guide: Guide) -> str:
    items = (assessment.line(guide.signals[n].line) for n in guide.selected)
    return listed([item.line.name for item in items if item is not None])


def _held(guide: Guide) -> str:
    own = [guide.held_dbfs[n] for n in guide.selected if n < len(guide.held_dbfs)]
    return level_text(max(own), "dBFS", 1) if own else ""


def _loudest_says(assessment: Assessment, guide: Guide, name: str) -> str:
    said = fill(words.LOUDEST_SAYS, name=name)
    lines = [assessment.line(guide.signals[n].line) for n in guide.selected]
    items = [item for item in lines if item is not None]
    if any(
        item.route.has_source
        and item.route.source.figures.player == "voice"
        and item.playing.hardest_db >= _SCREAM_DB_SPL
        for item in items
    ):
        said += words.LOUDEST_SCREAM
    heard = [guide.held_dbfs[n] for n in guide.selected if n < len(guide.held_dbfs)]
    if heard and items and guide.passages:
        by_db = max(heard) - items[0].target.target_dbfs
        way = words.ABOVE if by_db > 0.0 else words.BELOW
        said += " " + fill(words.FROM_TARGET, by_db=abs(by_db), way=way)
    return said


def _verdict(guide: Guide, answers: Mapping[str, Answer], name: str) -> SignText:
    own = [
        answers[guide.signals[n].line] for n in guide.selected if guide.signals[n].line in answers
    ]
    if not own:
        return SignText(word=words.NOT_HEARD, number="", says=name, shape="ring")
    worst = max(
        own, key=lambda one: (one.verdict == "clips", one.verdict != "right", abs(one.off_db))
    )
    says = f"{name}. {worst.deeds}" if worst.deeds else name
    if guide.done >= {one.group for one in guide.signals}:
        says = f"{says} {words.ALL_DONE}"
    return SignText(word=worst.word, number=worst.number, says=says, shape=_SHAPES[worst.verdict])


def check_rows(
    assessment: Assessment,
    lines: Sequence[str],
    silences: Mapping[str, Silence],
    answers: Mapping[str, Answer],
    proofs: Mapping[str, Proof],
    inputs: Mapping[str, int],
) -> tuple[tuple[str, ...], ...]:
    """One row a signal: its name, its input, what silence shows, the loudest, its target, the verdict."""
    rows = []
    for line in lines:
        item = assessment.line(line)
        if item is None:
            continue
        answer, silence = answers.get(line), silences.get(line)
        rows.append(
            (
                item.line.name,
                "" if answer is None else f"{answer.word}, {answer.number}",
                _input_text(inputs.get(line), proofs.get(line)),
                level(None if silence is None else silence.noise_dbfs_a),
                level(None if answer is None else answer.peak_dbfs),
                level(item.target.target_dbfs),
            )
        )
    return tuple(rows)


def _input_text(number: int | None, proof: Proof | None) -> str:
    if number is None:
        return ""
    said = str(number + 1)
    if proof is None:
        return said
    return f"{said}, {words.FOUND[proof.found]}"


def proof_text(assessment: Assessment, proof: Proof, inputs: Mapping[str, int]) -> str:
    """Where one signal arrives, as a sentence; `inputs` are those where each should, counted from 0."""

    def name_of(line: str | None) -> str:
        item = None if line is None else assessment.line(line)
        return "" if item is None else item.line.name

    places = {
        "name": name_of(proof.line),
        "number": "" if proof.channel is None else str(proof.channel + 1),
        "other": name_of(proof.other),
        "wanted": str(inputs.get(proof.line, 0) + 1),
    }
    template = {
        "proven": words.PROVEN,
        "swapped": words.SWAPPED,
        "elsewhere": words.ELSEWHERE if proof.other else words.ELSEWHERE_FREE,
        "on both": words.ON_BOTH,
        "nowhere": words.NOWHERE,
    }[proof.found]
    return fill(template, **places)


def who_sign(assessment: Assessment, who: Who, inputs: Mapping[str, int]) -> SignText:
    """What “Who is it?” shows just now: the signal that should be sounded, and how the one before did."""
    last = proof_text(assessment, who.proofs[-1], inputs) if who.proofs else ""
    if who.is_done:
        off = [one for one in who.proofs if one.found != "proven"]
        word = words.ALL_PROVEN if not off else words.NOT_ALL
        says = " ".join(proof_text(assessment, one, inputs) for one in off) or words.ALL_PROVEN_SAYS
        number = fill(words.SO_MANY, count=len(who.proofs) - len(off), of=str(len(who.expected)))
        return SignText(word=word, number=number, says=says, shape="tick" if not off else "ring")
    asked = who.asked
    if asked is None:
        return SignText(word=words.BE_QUIET, number="", says=words.WAIT_QUIET, shape="ear")
    item = assessment.line(asked.line)
    name = "" if item is None else item.line.name
    says = fill(words.ASKED, name=name)
    return SignText(
        word=capital(name),
        number=fill(words.SO_MANY, count=who.number + 1, of=str(len(who.expected))),
        says=f"{says} {last}".strip(),
        shape="ring",
    )


def devices_text(count: int) -> str:
    """How many inputs a device has, beside its name."""
    return plural(count, "input")


def measured_text(measured: Measured | None) -> str:
    """What was measured beside what was computed, as a sentence; None for a track with nothing to compare."""
    if measured is None:
        return words.NOTHING_TO_COMPARE
    by_db = measured.by_db
    said = fill(
        words.MEASURED_SAYS, measured_dbfs=measured.peak_dbfs, computed_dbfs=measured.predicted_dbfs
    )
    if abs(by_db) >= 0.5:
        said += fill(
            words.MEASURED_BY, by_db=abs(by_db), way=words.LOUDER if by_db > 0.0 else words.QUIETER
        )
    if measured.noise_by_db is not None:
        said += " " + fill(
            words.NOISE_SAYS,
            measured_dbfs=measured.noise_dbfs_a or 0.0,
            computed_dbfs=measured.predicted_noise_dbfs_a or 0.0,
        )
    return (
        said
        if abs(by_db) >= 1.0 or (measured.noise_by_db or 0.0) >= 3.0
        else f"{said} {words.NO_WONDER}"
    )


def explained_text(one: Explanation) -> str:
    """How likely an explanation is, and how much it explains."""
    what = words.OF_NOISE if one.kind in {"room", "hum", "preamp"} else words.OF_LEVEL
    return fill(words.EXPLAINS, share=one.share, explains_db=one.explains_db, what=what)


def learnt_text(take: Take) -> str:
    """How a source says where it was measured."""
    return fill(words.IN_TAKE, take=take.name, day=moment_text(take.recorded_at))


def comparison_text(one: Comparison) -> str:
    """A comparison in the log: what, when, what was chosen and why."""
    names = listed([compared.name for compared in one.compared])
    how = words.COMPARED_BLIND if one.is_blind else words.COMPARED_OPEN
    said = fill(words.COMPARED, title=one.title, day=moment_text(one.at), names=names, how=how)
    if one.chosen is not None:
        best = one.compared[one.chosen]
        said += " " + fill(words.CHOSEN, name=best.name, votes=best.votes)
    return f"{said} {one.reason}".strip()


def watch_sign(seconds: float, marks: int, *, may_tell: bool, stopped: str) -> SignText:
    """What a watch shows: hardly anything while somebody plays, everything when recording has stopped by itself."""
    if stopped:
        return SignText(word=words.STOPPED_WORD, number="", says=stopped, shape="wall")
    if not may_tell:
        return SignText(word=words.WATCHING, number="", says=words.WATCHING_SAYS, shape="ear")
    minutes, rest = divmod(int(seconds), 60)
    number = f"{minutes}:{rest:02d}"
    if not marks:
        return SignText(
            word=words.ALL_CLEAN, number=number, says=words.ALL_CLEAN_SAYS, shape="tick"
        )
    return SignText(
        word=fill(words.MARKED, count=marks), number=number, says=words.MARKED_SAYS, shape="up"
    )


def check_facts(
    item: LineAssessment, answer: Answer | None, silence: Silence | None
) -> tuple[Fact, ...]:
    """Every number of a check of one signal, and what follows from them for a noise gate and a compressor."""
    found: list[Fact] = []

    def measured(label: str, text: str, how: str) -> None:
        found.append(Fact(label=label, text=text, origin="measured", how=how))

    def computed(label: str, text: str, how: str) -> None:
        found.append(Fact(label=label, text=text, origin="computed", how=how))

    peak = None if answer is None else answer.peak_dbfs
    noise = None if silence is None else silence.noise_dbfs_a
    if peak is not None:
        measured(words.FACT_LOUDEST, level_text(peak, "dBFS"), words.FACT_LOUDEST_HOW)
    if answer is not None and answer.expected_dbfs is not None:
        computed(
            words.FACT_EXPECTED, level_text(answer.expected_dbfs, "dBFS"), words.FACT_EXPECTED_HOW
        )
    if noise is not None:
        measured(words.FACT_SILENCE, level_text(noise, "dBFS A"), words.FACT_SILENCE_HOW)
        hum = None if silence is None else silence.hum
        if hum is not None and hum.mains_hz is not None and hum.level_dbfs is not None:
            measured(
                words.FACT_HUM,
                level_text(hum.level_dbfs, "dBFS"),
                fill(words.FACT_HUM_HOW, mains_hz=float(hum.mains_hz)),
            )
    softest = item.predicted_peak_dbfs("softest")
    if noise is not None and softest is not None:
        # Peaks of noise stand about 12 dB above its level.
        closed = noise + _NOISE_PEAK_DB
        text = (
            fill(words.GATE, low_db=closed, high_db=softest)
            if softest > closed + 3.0
            else words.NO_GATE
        )
        computed(words.FACT_GATE, text, words.FACT_GATE_HOW)
    if peak is not None:
        text = (
            words.COMPRESSOR_IDLE
            if peak < _COMPRESSOR_DBFS
            else fill(words.COMPRESSOR, by_db=peak - _COMPRESSOR_DBFS)
        )
        computed(
            words.FACT_COMPRESSOR, text, fill(words.FACT_COMPRESSOR_HOW, at_db=_COMPRESSOR_DBFS)
        )
    if peak is not None and noise is not None:
        raised_db = item.target.target_dbfs - peak
        if raised_db > 0.5:
            computed(
                words.FACT_RAISED,
                level_text(noise + raised_db, "dBFS A"),
                fill(words.FACT_RAISED_HOW, by_db=raised_db),
            )
    return tuple(found)
