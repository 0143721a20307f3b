"""Broken files by the hundred thousand: refused in words or read, in limited memory and time.

Every case is made from its number alone, so that each can be done again.
"""

from __future__ import annotations

import contextlib
import io
import json
import os
import random
import resource
import signal
import subprocess
import sys
import tempfile
import warnings
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import soundfile
from tests.fuzz import NUMBERS, TEXTS, broken

from prove.report import Tally
from verve.core.assess import assess
from verve.core.datasheet import (
    FORMS,
    OwnEntry,
    OwnGear,
    entry_of,
    gear_from_csv,
    gear_from_json,
    gear_to_json,
    understand,
    with_entry,
)
from verve.core.demo import demo_session
from verve.core.errors import InputError, VerveError
from verve.core.session import (
    Snapshot,
    Take,
    add_take,
    controls_of,
    from_json,
    kit_from_json,
    kit_to_json,
    routes,
    to_json,
)
from verve.core.sheets import assessment_text
from verve.core.soundfiles import measure_file
from verve.core.takes import differences
from verve.core.verify import read_cases, run_cases

LARGEST_BYTES = 2_000_000_000
LONGEST_S = 5
_BATCH = 250


class _HungError(Exception):
    """A case took too long."""


# ── what is broken ────────────────────────────────────────────────────────────────────────────
def _session_text() -> str:
    session = demo_session()
    take = Take(
        id="take_1",
        name="Take 1",
        recorded_at="2026-05-04T20:15:00+02:00",
        seconds=60.0,
        play="phrase",
        tracks=(),
        setup=Snapshot.of(session.setup),
    )
    return to_json(add_take(session, take))


def _good_entries() -> Iterator[OwnEntry]:
    """A piece of each kind of which the name and a few figures are enough."""
    for kind, form in FORMS.items():
        texts = {field.key: field.example for field in form.fields}
        with contextlib.suppress(InputError):
            yield entry_of(kind, {**texts, "name": f"Own {kind}"})


class Material:
    """Good files, to be broken."""

    def __init__(self, cases: Path) -> None:
        self.session = _session_text()
        self.kit = kit_to_json(demo_session().kit)
        gear = OwnGear()
        for entry in _good_entries():
            gear = with_entry(gear, entry)
        self.gear = gear_to_json(gear)
        self.cases = cases.read_text(encoding="utf-8")
        tone = 0.3 * np.sin(np.arange(4_800) * 0.1)
        self.wav = _wav(tone)


def _wav(samples: np.ndarray) -> bytes:
    out = io.BytesIO()
    soundfile.write(out, samples, 48_000, format="WAV", subtype="PCM_24")
    return out.getvalue()


_FIGURES = (
    "20 mV/Pa", "1e999 dB", "-∞", "0 Ω", "1e-300 Ω", "10-60 dB", "+4 dBu", "½", "150 Ω", "12 V", "2.5 kHz", "0 dB",
    "−10 dBV", "20 dB, 40 dB", "48 V", "yes", "no", "140 dB SPL", "7 µV", "cardioid", "100 Ω – 1 MΩ", "1.000,5 Ω",
)  # fmt: skip
"""As sheets print them, and as no sheet should."""


def _figure(rng: random.Random) -> str:
    return rng.choice(
        [rng.choice(_FIGURES), rng.choice(_FIGURES), rng.choice(TEXTS), str(rng.choice(NUMBERS))]
    )


def _broken_sheet(rng: random.Random, kind: str) -> dict[str, str]:
    """A sheet of a kind in which some figures may be any, and some are missing."""
    found = {field.key: field.example for field in FORMS[kind].fields}
    for key in rng.sample(list(found), rng.randint(0, min(4, len(found)))):
        found[key] = _figure(rng)
    for key in rng.sample(list(found), rng.choice([0, 0, 1, 5]) % len(found)):
        del found[key]
    return found


def _broken_csv(rng: random.Random) -> str:
    """A table of gear in which cells, marks and lines are not what they should be."""
    rows = [["name", "kind", "field", "as printed", "understood"]]
    for number in range(rng.randint(1, 4)):
        kind = rng.choice(list(FORMS))
        for key, said in _broken_sheet(rng, kind).items():
            rows.append([f"Piece {number}", kind, key, said, ""])
    for _ in range(rng.choice([0, 0, 1, 3])):
        row = rng.choice(rows)
        row[rng.randrange(len(row))] = rng.choice([*TEXTS, "x" * 131_073, '"', "a,b", "a;b"])
    mark = rng.choice([",", ",", ";", "\t", "|"])
    text = rng.choice(["", "\ufeff"]) + "\n".join(mark.join(row) for row in rows)
    return text if rng.random() < 0.8 else text[: rng.randrange(len(text) + 1)]


_HEADER = ((4, 4), (16, 4), (20, 2), (22, 2), (24, 4), (28, 4), (32, 2), (34, 2), (40, 4))
"""Where a field of the header begins, and its length."""


def _broken_wav(material: Material, rng: random.Random) -> bytes:
    data = bytearray(material.wav)
    kind = rng.random()
    if kind < 0.3:
        return bytes(data[: rng.randrange(len(data))])
    if kind < 0.6:
        # The fields of the header: format, channels, rate, block, bits, and the sizes.
        at, size = rng.choice(_HEADER)
        value = rng.choice([0, 1, 2, 3, 255, 0x7FFF, 0xFFFF, 2**31, 2**32 - 1])
        data[at : at + size] = (value % 2 ** (8 * size)).to_bytes(size, "little")
        return bytes(data)
    if kind < 0.8:
        for _ in range(rng.randint(1, 40)):
            data[rng.randrange(len(data))] = rng.randrange(256)
        return bytes(data)
    out = io.BytesIO()
    strange = np.array([np.nan, np.inf, -np.inf, 1e300, 0.0, 1.5]).repeat(rng.randint(1, 500))
    rate_hz = rng.choice([1, 8_000, 48_000, 655_350])
    soundfile.write(out, strange, rate_hz, format="WAV", subtype="DOUBLE")
    return out.getvalue()


# ── what is tried with it ─────────────────────────────────────────────────────────────────────
def _try_session(material: Material, rng: random.Random, _: Path) -> None:
    session = from_json(broken(material.session, rng), "broken.verve.json")
    assert assessment_text(assess(session))
    for setup in (session.setup, *(take.setup for take in session.takes)):
        if setup is not None:
            for owner in [*(s.id for s in setup.sources), *(d.id for d in setup.devices)]:
                controls_of(setup, owner)
            routes(setup)
            differences(setup, session.setup)
    for take in session.takes:
        assert (take.setup is None) == bool(take.snapshot.fault)
    to_json(session).encode()


def _try_kit(material: Material, rng: random.Random, _: Path) -> None:
    kit_to_json(kit_from_json(broken(material.kit, rng), "kit.json")).encode()


def _try_csv(_: Material, rng: random.Random, __: Path) -> None:
    # As it comes from a file: there are no half letters in it.
    text = _broken_csv(rng).encode("utf-8", errors="replace").decode()
    gear_to_json(gear_from_csv(text, "gear.csv")).encode()


def _try_gear(material: Material, rng: random.Random, _: Path) -> None:
    gear_to_json(gear_from_json(broken(material.gear, rng), "gear.json")).encode()


def _try_sheet(_: Material, rng: random.Random, __: Path) -> None:
    kind = rng.choice(list(FORMS))
    texts = _broken_sheet(rng, kind)
    understand(kind, texts)
    entry_of(kind, texts)


def _try_wav(material: Material, rng: random.Random, folder: Path) -> None:
    file = folder / "broken.wav"
    file.write_bytes(_broken_wav(material, rng))
    assert measure_file(file).seconds >= 0.0


def _try_cases(material: Material, rng: random.Random, folder: Path) -> None:
    file = folder / "cases.json"
    data = json.loads(material.cases)
    # A few of them at a time: all of them take longer to compute than to read.
    data["cases"] = rng.sample(data["cases"], min(3, len(data["cases"])))
    file.write_text(broken(json.dumps(data), rng), encoding="utf-8")
    run_cases(read_cases(file))


TRIES: dict[str, tuple[Callable[[Material, random.Random, Path], None], float]] = {
    "sessions": (_try_session, 0.3),
    "kits": (_try_kit, 0.15),
    "gear files": (_try_gear, 0.1),
    "gear tables (CSV)": (_try_csv, 0.1),
    "data sheets": (_try_sheet, 0.1),
    "sound files": (_try_wav, 0.15),
    "validation files": (_try_cases, 0.1),
}
"""What is tried, and its share of all cases."""


def one_case(kind: str, number: int, material: Material, folder: Path) -> str:
    """Try one case: "read", "refused", or what went wrong."""

    def hung(*_: object) -> None:
        raise _HungError

    signal.signal(signal.SIGALRM, hung)
    signal.alarm(LONGEST_S)
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", RuntimeWarning)
            TRIES[kind][0](material, random.Random(f"{kind} {number}"), folder)
    except VerveError as error:
        return "refused" if len(str(error)) < 1000 else f"a message of {len(str(error))} letters"
    except _HungError:
        return f"longer than {LONGEST_S} s"
    except MemoryError:
        return "more than 2 GB"
    except BaseException as error:
        return f"{type(error).__name__}: {error}"[:200]
    finally:
        signal.alarm(0)
    return "read"


def _batch(kind: str, first: int, count: int, material: Material) -> Tally:
    """Cases in a program of their own, with limits; one that dies is a fault of its case."""
    tally, number = Tally(kind), first
    while number < first + count:
        reading, writing = os.pipe()
        child = os.fork()
        if child == 0:
            os.close(reading)
            resource.setrlimit(resource.RLIMIT_AS, (LARGEST_BYTES, LARGEST_BYTES))
            with tempfile.TemporaryDirectory() as folder, os.fdopen(writing, "w") as out:
                for at in range(number, first + count):
                    out.write(one_case(kind, at, material, Path(folder)).replace("\n", " ") + "\n")
                    out.flush()
            os._exit(0)
        os.close(writing)
        with os.fdopen(reading) as told:
            for line in told:
                outcome = line.rstrip("\n")
                if outcome in {"read", "refused"}:
                    tally.note(outcome)
                else:
                    tally.fault(f"{kind} {number}: {outcome}")
                number += 1
        os.waitpid(child, 0)
        if number < first + count:
            tally.fault(f"{kind} {number}: the program died")
            number += 1
    return tally


def broken_files(count: int, first: int, cases: Path) -> list[Tally]:
    """So many cases of all kinds, in their shares, numbered from `first`."""
    material, found = Material(cases), []
    for kind, (_, share) in TRIES.items():
        tally, wanted = Tally(f"broken {kind}"), max(1, round(count * share))
        for begin in range(0, wanted, _BATCH):
            tally.add(_batch(kind, first + begin, min(_BATCH, wanted - begin), material))
        found.append(tally)
    return found


# ── through the command line ──────────────────────────────────────────────────────────────────
_COMMANDS = {"sessions": "assess", "sound files": "measure", "validation files": "verify"}


def through_the_command_line(count: int, first: int, cases: Path) -> Tally:
    """Broken files given to the commands: an exit code of 0, 1 or 2, and a sentence, never a traceback."""
    tally, material = Tally("broken files through the command line"), Material(cases)
    kinds = list(_COMMANDS)
    with tempfile.TemporaryDirectory() as name:
        for number in range(first, first + count):
            kind = kinds[number % len(kinds)]
            rng, file = random.Random(f"{kind} {number}"), Path(name) / "file"
            if kind == "sessions":
                file.write_text(broken(material.session, rng), encoding="utf-8")
            elif kind == "sound files":
                file.write_bytes(_broken_wav(material, rng))
            else:
                file.write_text(broken(material.cases, rng), encoding="utf-8")
            command = [sys.executable, "-m", "verve", _COMMANDS[kind], str(file)]
            try:
                done = subprocess.run(
                    command, capture_output=True, text=True, timeout=30, check=False
                )
            except subprocess.TimeoutExpired:
                tally.fault(f"{kind} {number}: hangs")
                continue
            said = done.stderr.strip()
            if done.returncode not in {0, 1, 2} or "Traceback" in said or "went wrong" in said:
                tally.fault(f"{kind} {number}: exit {done.returncode}, {said[-200:]}")
            elif done.returncode == 2 and not said.startswith("verve: "):
                tally.fault(f"{kind} {number}: exit 2 and says {said[:100]!r}")
            else:
                tally.note(f"exit {done.returncode}")
    return tally
