"""How the level at the recorder comes about, step by step, each with its origin."""

from __future__ import annotations

import math
from collections.abc import Sequence

from verve.core.explain import _words as words
from verve.core.explain._pictures import noise_parts
from verve.core.kind import wording
from verve.core.line import sound_at_microphone_db
from verve.core.network import CapsuleResponse, Column, LineState, Part
from verve.core.stages import Amplifier, Cable, Converter, Microphone, Sound
from verve.core.words import Fact, FactOrigin, Origin, capital, fill, level_text, percent_text


def _source_facts(state: LineState, part: Part) -> list[Fact]:
    figures = state.route.source.figures
    levels = state.levels
    assert levels is not None
    if isinstance(part.stage, Sound):
        assert state.staged is not None
        sound, response = part.stage, state.staged.response
        level = sound_at_microphone_db(sound) - response.change_db
        step = state.route.steps[0]
        distance_m = float(step.controls["distance_m"].value or 0.0)
        how = figures.fall_words(sound.distance_m, sound.reference_distance_m)
        label = fill(words.SOUND_AT, distance_cm=distance_m * 100)
        facts = [
            Fact(
                label=label,
                text=fill(words.SPL, level_db_spl=level),
                origin=figures.origin,
                how=how,
            )
        ]
        if abs(response.response_db) >= 0.05:
            facts.append(
                Fact(
                    label=words.RESPONSE,
                    text=level_text(response.response_db, "dB"),
                    origin=step.figures.origin,
                    how=words.RESPONSE_HOW,
                )
            )
        return facts + _room_facts(response)
    opened = levels.open_peak_dbu[0]
    if opened is None:
        return []
    how = words.SOURCE_HOW
    label = state.route.source.name
    return [Fact(label=label, text=level_text(opened, "dBu"), origin=figures.origin, how=how)]


def _room_facts(response: CapsuleResponse) -> list[Fact]:
    """What the side does that a microphone stands on, and what else it hears there."""
    if not response.columns:
        return []
    facts = []
    facing_db = response.change_db + response.own_db - response.response_db
    if abs(facing_db) >= 0.05:
        text = level_text(facing_db, "dB")
        how = words.FACING_HOW
        facts.append(Fact(label=words.FACING, text=text, origin="typical", how=how))
    if response.own_db <= -0.05:
        own, *rest = response.columns
        straight = [
            (column.name, _against_db(own, [column])) for column in rest if not column.is_room
        ]
        them = [
            fill(words.BESIDE_STRAIGHT, name=name, against_db=against)
            for name, against in sorted(straight, key=lambda item: -item[1])
        ]
        around = [column for column in rest if column.is_room]
        if around:
            them.append(fill(words.BESIDE_ROOM, against_db=_against_db(own, around)))
        facts.append(
            Fact(
                label=words.BESIDE,
                text=level_text(-response.own_db, "dB"),
                origin="computed",
                how=fill(words.BESIDE_HOW, them=", ".join(them)),
            )
        )
    return facts


def _against_db(own: Column, others: Sequence[Column]) -> float:
    power = math.fsum(math.fsum(column.powers) for column in others)
    return 10.0 * math.log10(power / math.fsum(own.powers))


def _owner_origin(state: LineState, part: Part) -> Origin:
    if part.step_index is None:
        return state.route.source.figures.origin
    step = state.route.steps[part.step_index]
    if part.role == "cable":
        return step.cable.origin if step.cable is not None else "assumed"
    return step.figures.origin


def _gain_fact(state: LineState, part: Part) -> Fact:
    stage = part.stage
    assert isinstance(stage, Amplifier)
    assert part.step_index is not None
    step = state.route.steps[part.step_index]
    controls = step.controls
    is_set = "gain_db" in controls or part.role in {"fader", "bus"}
    name = capital(step.port_name) if part.role == "input" else step.name
    if part.role in {"channel", "fader", "bus"}:
        name = f"{step.name}, {part.role}"
    how = words.GAIN_SET if is_set else words.GAIN_FIXED
    pad = controls.get("pad_db")
    if pad is not None and pad.value:
        how += fill(words.LESS_PAD, pad_db=float(pad.value))
    origin: FactOrigin = "set" if is_set else step.figures.origin
    return Fact(label=name, text=level_text(stage.gain_db, "dB"), origin=origin, how=how)


def walk(state: LineState) -> tuple[Fact, ...]:
    """From the source to dBFS: every gain and loss on the way."""
    staged, levels = state.staged, state.levels
    if staged is None or levels is None:
        return ()
    facts: list[Fact] = []
    for index, part in enumerate(staged.parts):
        stage = part.stage
        if index == 0:
            facts += _source_facts(state, part)
        elif isinstance(stage, Microphone):
            dbv = 20.0 * math.log10(stage.sensitivity_mv_per_pa / 1000.0)
            how = fill(
                words.SENSITIVITY_HOW,
                sensitivity_mv_per_pa=float(f"{stage.sensitivity_mv_per_pa:.4g}"),
            )
            if stage.pad_db:
                how += fill(words.PAD, pad_db=stage.pad_db)
            text = level_text(dbv - stage.pad_db, "dBV/Pa")
            origin = _owner_origin(state, part)
            if capsule := state.route.steps[0].capsule:
                origin = capsule.origin_of("sensitivity_mv_per_pa")
                how += wording(capsule, "sensitivity_mv_per_pa")
            facts.append(Fact(label=words.MICROPHONE, text=text, origin=origin, how=how))
        elif isinstance(stage, Amplifier):
            # The output of a preamp by itself only hisses: it says nothing of the level.
            if stage.gain_db or part.role != "output":
                facts.append(_gain_fact(state, part))
            if index in state.driven_db:
                name = fill(words.ITS_CEILING, device=_device_name(state, part))
                text = level_text(-state.driven_db[index], "dB")
                facts.append(
                    Fact(label=name, text=text, origin="computed", how=words.ITS_CEILING_HOW)
                )
        elif isinstance(stage, Converter):
            facts += _end_facts(state, stage)
        elif not isinstance(stage, Cable):
            before, after = levels.peak_dbu[index - 1], levels.open_peak_dbu[index]
            if before is not None and after is not None:
                name = _device_name(state, part)
                how = words.OUTPUT_LESS_INPUT
                text = level_text(after - before, "dB")
                facts.append(
                    Fact(label=name, text=text, origin=_owner_origin(state, part), how=how)
                )
        lost = _lost_behind(state, index)
        if lost is not None and abs(lost) >= 0.05:
            how = words.LOADING_HOW
            text = level_text(-lost, "dB")
            facts.append(Fact(label=words.LOADING, text=text, origin="computed", how=how))
    return tuple(facts)


def _lost_behind(state: LineState, index: int) -> float | None:
    """What cable and next input take from the open output of a stage; None behind a cable or at the end."""
    assert state.staged is not None
    assert state.levels is not None
    parts, levels = state.staged.parts, state.levels
    if isinstance(parts[index].stage, Sound | Cable | Converter):
        return None
    arrives = index
    while arrives + 1 < len(parts) and isinstance(parts[arrives + 1].stage, Cable):
        arrives += 1
    opened, there = levels.open_peak_dbu[index], levels.peak_dbu[arrives]
    return None if opened is None or there is None else opened - there


def _device_name(state: LineState, part: Part) -> str:
    return (
        state.route.source.name
        if part.step_index is None
        else state.route.steps[part.step_index].name
    )


def _end_facts(state: LineState, stage: Converter) -> list[Fact]:
    assert state.levels is not None
    recorder = state.route.recorder
    assert recorder is not None
    at, peak = state.levels.peak_dbu[-1], state.levels.peak_dbfs
    origin = recorder.figures.origin_of("full_scale_dbu")
    if at is None or peak is None:
        return []
    return [
        Fact(
            label=words.AT_CONVERTER,
            text=level_text(at, "dBu"),
            origin="computed",
            how=words.AT_CONVERTER_HOW,
        ),
        Fact(
            label=words.FULL_SCALE,
            text=level_text(stage.full_scale_dbu, "dBu"),
            origin=origin,
            how=words.FULL_SCALE_HOW + wording(recorder.figures, "full_scale_dbu"),
        ),
        Fact(
            label=words.HARDEST_PEAK,
            text=level_text(peak, "dBFS"),
            origin="computed",
            how=words.PEAK_LESS_FULL_SCALE,
        ),
        *((lamps,) if (lamps := recorder.figures.lamps(peak)) is not None else ()),
    ]


def noise_walk(state: LineState) -> tuple[Fact, ...]:
    """Where the noise at the end comes from, the largest first."""
    how = words.NOISE_HOW
    return tuple(
        Fact(
            label=part.name,
            text=percent_text(part.share),
            origin="computed",
            how=fill(words.NOISE_PART_HOW, how=how, level_dbfs_a=part.level_dbfs_a),
        )
        for part in noise_parts(state)
    )
