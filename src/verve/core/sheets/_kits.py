"""Ways in and kits for a terminal and as JSON data."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from verve.core.connections import NoSuggestion, Picked, Suggestion
from verve.core.kits import Bought, Kits, Offer
from verve.core.needs import plugs_text
from verve.core.session import Shopping
from verve.core.words import fill, number, plural

_REACH = (
    "Records {inputs} at once: {powered} with phantom power, {plugged} for instruments straight in; {left} more "
    "than now."
)
_REACH_FULL = (
    "Records {inputs} at once: {powered} with phantom power, {plugged} for instruments straight in; not one more "
    "than now."
)
_ORIGINS = {"typed": "as typed", "typical": "typical"}


def connections_text(found: Suggestion | NoSuggestion) -> str:
    """The way of each signal with its reason, then what is missing."""
    if isinstance(found, NoSuggestion):
        return f"No connections for {', '.join(found.signals)}. {found.why}"
    parts = [f"{c.signal.name}: {c.rated.connection.words}\n   {c.reason}" for c in found.choices]
    for missing in found.missing:
        parts.append(
            f"Missing: {missing.count} × {missing.item.name}, for {', '.join(missing.signals)}"
        )
    parts += [said for said in (missing_cables_text(found.cables),) if said]
    return "\n".join(parts) or "Nothing needs connections."


def missing_cables_text(cables: Sequence[Picked]) -> str:
    """Which connections of a way in have no cable in the kit, as a sentence; empty where all have."""
    lacking = [picked for picked in cables if picked.item is None]
    if not lacking:
        return ""
    said = ", ".join(
        f"{picked.run.name} ({plugs_text(picked)}, {number(picked.cable.length_m)} m)"
        for picked in lacking
    )
    if len(lacking) == 1:
        return f"One cable of it is not in the kit: {said}."
    return f"{len(lacking)} cables of it are not in the kit: {said}."


def connections_data(found: Suggestion | NoSuggestion) -> dict[str, Any]:
    """The same as data."""
    if isinstance(found, NoSuggestion):
        return {
            "ways": [],
            "missing": [],
            "cables": [],
            "no_way": list(found.signals),
            "why": found.why,
        }
    return {
        "ways": [
            {
                "signal": c.signal.id,
                "name": c.signal.name,
                "boxes": [box.name for box in c.rated.connection.boxes],
                "recorder": c.rated.connection.recorder.name,
                "mode": c.rated.connection.mode,
                "phantom": c.rated.connection.power == "needs",
                "snr_db": c.rated.snr_db,
                "reason": c.reason,
            }
            for c in found.choices
        ],
        "missing": [
            {"name": m.item.name, "count": m.count, "signals": list(m.signals)}
            for m in found.missing
        ],
        "cables": [
            {
                "run": p.run.name,
                "plugs": [p.run.start, p.run.end],
                "length_m": p.cable.length_m,
                "in_kit": p.item is not None,
            }
            for p in found.cables
        ],
        "no_way": [],
        "why": "",
    }


def span_of_price(low: float, high: float, currency: str) -> str:
    """From the least to the most it may cost, with its currency."""
    whole = (
        number(low, 0) if round(low) == round(high) else f"{number(low, 0)} to {number(high, 0)}"
    )
    return f"{whole} {currency}"


def _bought_text(one: Bought, currency: str) -> str:
    users = f", for {', '.join(one.users)}" if one.users else ""
    price = span_of_price(one.count * one.thing.low, one.count * one.thing.high, currency)
    return f"   {one.count} × {one.thing.name}{users}: {price} ({_ORIGINS[one.thing.origin]})"


def _offer_text(offer: Offer, currency: str) -> str:
    kit = offer.kit
    price = span_of_price(kit.low, kit.high, currency)
    head = f"{offer.name}: about {number(kit.price, 0)} {currency} ({price})\n   {offer.why} {reach_says(offer)}"
    rows = [_bought_text(one, currency) for one in kit.bought] or [
        "   Nothing: the kit has it all."
    ]
    ways = [
        f"   {name}, {rated.connection.signal.name}: {rated.connection.words}; "
        f"{number(rated.snr_db, 0)} dB above the noise"
        for name, chosen in kit.chosen.items()
        for rated in chosen.values()
    ]
    return "\n".join([head, *rows, *ways])


def kits_text(found: Kits, shopping: Shopping) -> str:
    """Each answer with what is to be bought and what it gives."""
    parts = [_offer_text(offer, shopping.currency) for offer in found.offers]
    if found.said:
        parts.insert(0, found.said)
    return "\n\n".join(parts)


def kits_data(found: Kits, shopping: Shopping) -> dict[str, Any]:
    """The same as data; prices are what is reckoned with, `price_low` and `price_high` their usual class."""
    return {
        "currency": shopping.currency,
        "said": found.said,
        "offers": [
            {
                "name": offer.name,
                "why": offer.why,
                "records": reach_says(offer),
                "price": round(offer.kit.price, 2),
                "price_low": round(offer.kit.low, 2),
                "price_high": round(offer.kit.high, 2),
                "quality_db": round(offer.kit.quality_db, 2),
                "items": [
                    {
                        "key": one.thing.key,
                        "name": one.thing.name,
                        "count": one.count,
                        "price": round(one.thing.price, 2),
                        "origin": one.thing.origin,
                        "for": list(one.users),
                    }
                    for one in offer.kit.bought
                ],
                "ways": [
                    {
                        "pass": name,
                        "signal": signal,
                        "boxes": [box.name for box in rated.connection.boxes],
                        "recorder": rated.connection.recorder.name,
                        "mode": rated.connection.mode,
                        "snr_db": round(rated.snr_db, 2),
                        "flaws": rated.flaws,
                    }
                    for name, chosen in offer.kit.chosen.items()
                    for signal, rated in chosen.items()
                ],
            }
            for offer in found.offers
        ],
    }


def offer_rows(found: Kits | None) -> tuple[tuple[str, ...], ...]:
    """One row an answer: its name, what it costs about, from and to."""
    return tuple(
        (
            offer.name,
            number(offer.kit.price, 0),
            number(offer.kit.low, 0),
            number(offer.kit.high, 0),
        )
        for offer in (() if found is None else found.offers)
    )


def offer_says(offer: Offer) -> str:
    """Why it is an answer, and how far its signals stand above the noise."""
    levels = [rated.snr_db for ways in offer.kit.chosen.values() for rated in ways.values()]
    low, high = number(min(levels), 0), number(max(levels), 0)
    heard = low if low == high else f"{low} to {high}"
    return f"{offer.why} {reach_says(offer)} Highest peaks {heard} dB above the noise."


def reach_says(offer: Offer) -> str:
    """What a kit can record at once and what it cannot: the inputs of its recorder, and what is left of them."""
    passes = list(offer.kit.chosen.values())
    recorder = next(iter(passes[0].values())).connection.recorder.figures
    ports = recorder.input_ports()
    powered = sum(recorder.phantom_switch(port) is not None for port in ports)
    plugged = sum("instrument" in recorder.modes(port) for port in ports)
    left = len(ports) - max(len(ways) for ways in passes)
    return fill(
        _REACH if left else _REACH_FULL,
        inputs=plural(len(ports), "signal"),
        powered=powered or "none",
        plugged=plugged or "none",
        left=left,
    )


def item_rows(offer: Offer) -> tuple[tuple[str, ...], ...]:
    """One row a thing to buy: how many, what and for whom, its usual class of price."""
    rows = []
    for one in offer.kit.bought:
        low, high = one.count * one.thing.low, one.count * one.thing.high
        price = number(low, 0) if low == high else f"{number(low, 0)} to {number(high, 0)}"
        users = f", for {', '.join(one.users)}" if one.users else ""
        rows.append((str(one.count), f"{one.thing.name}{users}", price))
    return tuple(rows) or (("", "Nothing: the kit has it all.", ""),)
