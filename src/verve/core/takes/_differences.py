"""Two setups compared in words: what was changed between takes, and what has been changed since."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from verve.core.kind import Control, control_text
from verve.core.session import Change, Device, Line, Setup, Source, device_controls, source_controls


@dataclass(frozen=True, slots=True, kw_only=True)
class Difference:
    """One thing that differs, in words; `back` undoes it where one control can."""

    words: str
    subject: str
    back: Change | None = None


_Controls = dict[tuple[str, str, str], tuple[str, Control]]


def _controls(before: Setup, after: Setup) -> tuple[_Controls, _Controls]:
    """Everything that can be set on what is not the same in both."""
    old: _Controls = {}
    new: _Controls = {}
    earlier: tuple[Source | Device, ...] = (*before.sources, *before.devices)
    had = {owner.id: owner for owner in earlier}
    owners: tuple[Source | Device, ...] = (*after.sources, *after.devices)
    for owner in owners:
        was = had.get(owner.id)
        if was is None or was is owner or was == owner:
            continue
        for one, found in ((was, old), (owner, new)):
            controls = source_controls(one) if isinstance(one, Source) else device_controls(one)
            for control in controls:
                found[(control.owner, control.channel, control.name)] = (one.name, control)
    return old, new


def _where(name: str, channel: str) -> str:
    part = channel.split(".", 1)[1] if "." in channel else ""
    return f"{name} {part}".strip()


def _named(items: Sequence[Source | Device | Line]) -> dict[str, str]:
    return {item.id: item.name for item in items}


def differences(before: Setup, after: Setup) -> tuple[Difference, ...]:
    """What is different in `after`, most of it as "Interface 1: gain +34 dB, was +30 dB"."""
    found: list[Difference] = []
    old, new = _controls(before, after)
    for key, (name, control) in new.items():
        if key not in old or old[key][1].value == control.value:
            continue
        was = old[key][1].value
        where = _where(name, control.channel)
        words = (
            f"{where}: {control.said} {control_text(control, control.value)}, "
            f"was {control_text(control, was)}"
        )
        back = Change(owner=control.owner, channel=control.channel, name=control.name, value=was)
        found.append(
            Difference(words=words, subject=where, back=back if control.accepts(was) else None)
        )
    for kind, label in (("sources", "source"), ("devices", "gear"), ("lines", "line")):
        had, has = _named(getattr(before, kind)), _named(getattr(after, kind))
        for identifier in had.keys() - has.keys():
            found.append(Difference(words=f"{label} {had[identifier]} is gone", subject=label))
        for identifier in has.keys() - had.keys():
            found.append(Difference(words=f"{label} {has[identifier]} is new", subject=label))
        for identifier in had.keys() & has.keys():
            if had[identifier] != has[identifier]:
                words = f"{label} {had[identifier]} is now called {has[identifier]}"
                found.append(Difference(words=words, subject=label))
    found += _exchanged(before, after)
    found += _others(before, after)
    return tuple(found)


def _exchanged(before: Setup, after: Setup) -> list[Difference]:
    """Gear that is another piece under the same name; another player, or one who plays otherwise."""
    found = []
    players = {p.id: p.name for setup in (before, after) for p in setup.performers}
    old_sources = {source.id: source for source in before.sources}
    for source in after.sources:
        old = old_sources.get(source.id)
        if old is None:
            continue
        if old.performer != source.performer:
            was, now = (players.get(s.performer or "", "nobody") for s in (old, source))
            words = f"{source.name} is {now}’s now, was {was}’s"
            found.append(Difference(words=words, subject=source.name))
        if old.figures != source.figures:
            found.append(_other_figures(source, old, "sounds"))
    old_devices = {device.id: device for device in before.devices}
    for device in after.devices:
        old_device = old_devices.get(device.id)
        if old_device is not None and old_device.figures != device.figures:
            found.append(_other_figures(device, old_device, "is another"))
    return found


def _other_figures(now: Source | Device, old: Source | Device, otherwise: str) -> Difference:
    kinds = [one.figures.entry.replace("_", " ") if one.figures.entry else "" for one in (now, old)]
    if all(kinds) and kinds[0] != kinds[1]:
        words = f"{now.name}: {kinds[0]}, was {kinds[1]}"
    elif otherwise == "sounds":
        words = f"{now.name} plays or sounds otherwise"
    else:
        words = f"{now.name} is another piece, or has other figures"
    return Difference(words=words, subject=now.name)


def _others(before: Setup, after: Setup) -> list[Difference]:
    found = []
    old_links = {link.id: link for link in before.links}
    new_links = {link.id: link for link in after.links}
    for identifier in sorted(old_links.keys() & new_links.keys()):
        old, new = old_links[identifier], new_links[identifier]
        if (old.start, old.end) != (new.start, new.end):
            words = f"{new.start.replace(':', ' ')} now goes to {new.end.replace(':', ' ')}"
            found.append(Difference(words=words, subject="cable"))
        elif old.cable != new.cable and new.cable is not None:
            words = f"the cable into {new.end.replace(':', ' ')} is now {new.cable.length_m:g} m"
            found.append(Difference(words=words, subject="cable"))
    rows = (
        ("sample rate", before.audio.sample_rate_hz, after.audio.sample_rate_hz, "Hz"),
        ("bit depth", before.audio.bit_depth, after.audio.bit_depth, "bit"),
        ("buffer", before.audio.buffer_frames, after.audio.buffer_frames, "frames"),
        ("room noise", before.room.noise_dba, after.room.noise_dba, "dBA"),
        ("level school", before.school, after.school, ""),
    )
    for label, was, now, unit in rows:
        if was != now:
            words = f"{label} {now} {unit}".strip() + f", was {was} {unit}".rstrip()
            found.append(Difference(words=words, subject=label))
    return found
