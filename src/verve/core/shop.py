"""The shopping list: prices as typed, per piece or per pair, two packages side by side."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from verve.core.errors import InputError
from verve.core.session import KitItem, Package, Session, Shopping, Wish
from verve.core.words import Fact

PACKAGES: Mapping[Package, str] = {
    "enough": "Enough for now",
    "lasting": "Not outgrown soon",
}
_LARGEST = 1e9


@dataclass(frozen=True, slots=True, kw_only=True)
class ListRow:
    """One thing on the list: how many are still to be bought, and what they cost in each package.

    `to_buy` counts what is owned already as nothing; totals are None where no price was typed.
    """

    wish: Wish
    owned: int
    to_buy: int
    total: float | None
    how: str

    def fact(self) -> Fact:
        """Its total as a number that can say where it comes from."""
        text = "no price" if self.total is None else f"{self.total:.2f}"
        return Fact(label=self.wish.name, text=text, origin="computed", how=self.how)

    def total_in(self, package: Package) -> float | None:
        """Its total if it belongs to a package; 0 if it does not."""
        if self.wish.package not in {package, "both"}:
            return 0.0
        return self.total


@dataclass(frozen=True, slots=True, kw_only=True)
class Totals:
    """What a package costs: without tax, the tax, together; how many prices are still unknown."""

    package: Package
    net: float
    tax: float
    total: float
    unknown: int


def parse_price(text: str) -> float | None:
    """A price as typed, with comma or point: "1.234,50", "1,234.50", "12,5", "12"; None for nothing.

    raises: InputError for anything else, or below zero
    """
    said = re.sub(r"[\s\u00a0']|[^\d.,\-−]", "", text).replace("−", "-")
    if not said and not text.strip():
        return None
    if said.startswith("-"):
        raise InputError("Price", "must be at least 0", text)
    if re.fullmatch(r"[1-9]\d{0,2}(?:\.\d{3})+(?:,\d{0,4})?", said):
        # Points between thousands: "1.234" is a price of a thousand and more.
        said = said.replace(".", "").replace(",", ".")
    elif re.fullmatch(r"[1-9]\d{0,2}(?:,\d{3})+(?:\.\d{0,4})?", said):
        said = said.replace(",", "")
    else:
        said = said.replace(",", ".")
    if re.fullmatch(r"\d{1,12}(?:\.\d{0,4})?", said) is None:
        raise InputError("Price", "must be a number like 129 or 129,50", text)
    value = float(said)
    if value > _LARGEST:
        raise InputError("Price", f"must be at most {_LARGEST:g}", text)
    return value


def price_text(value: float | None, currency: str) -> str:
    """A price with two decimals and its currency; a dash where none was typed."""
    return "—" if value is None else f"{value:,.2f} {currency}".replace(",", "\u202f")


def _owned(wish: Wish, kit: Sequence[KitItem]) -> int:
    """How many of a thing are in the kit and not borrowed; what the list itself put there is not."""
    item = wish.item
    if item is None:
        return 0
    same = [
        x
        for x in kit
        if x.status == "owned"
        and (x.device, x.cable, x.accessory) == (item.device, item.cable, item.accessory)
    ]
    return sum(x.quantity for x in same)


def rows_of(session: Session) -> tuple[ListRow, ...]:
    """The list, line by line."""
    found = []
    names = {wish.id: wish.name for wish in session.shopping.wishes}
    for wish in session.shopping.wishes:
        owned = min(wish.quantity, _owned(wish, session.kit))
        to_buy = wish.quantity - owned
        units = math.ceil(to_buy / 2) if wish.per_pair else to_buy
        if wish.within is not None:
            how = f"its price is in that of {names[wish.within]}: a set has one price"
            found.append(ListRow(wish=wish, owned=owned, to_buy=to_buy, total=0.0, how=how))
            continue
        total = 0.0 if to_buy == 0 else None if wish.price is None else units * wish.price
        kind = "pair" if wish.per_pair else "piece"
        how = f"{to_buy} to buy are {units} × the price for a {kind}"
        if wish.per_pair and to_buy % 2:
            how += "; one is left over"
        if owned:
            how += f"; {owned} owned already cost nothing"
        found.append(ListRow(wish=wish, owned=owned, to_buy=to_buy, total=total, how=how))
    return tuple(found)


def said_of(wish: Wish, session: Session) -> str:
    """What a thing is called on the list: its name, the set it comes in, and whom it is for."""
    names = {other.id: other.name for other in session.shopping.wishes}
    parts = {part.id: part.name for part in session.brief.parts}
    within = f", in the set of {names[wish.within]}" if wish.within in names else ""
    users = ", ".join(parts[key] for key in wish.parts if key in parts)
    return f"{wish.name}{within}{f', for {users}' if users else ''}"


def price_words(wish: Wish) -> str:
    """Its price as it stands in the list; in a set it has none of its own."""
    if wish.within is not None:
        return "in the set"
    return "" if wish.price is None else f"{wish.price:.2f}"


def totals_of(rows: Sequence[ListRow], shopping: Shopping) -> tuple[Totals, ...]:
    """Both packages, with the tax as typed added to every price."""
    found = []
    for package in PACKAGES:
        amounts = [row.total_in(package) for row in rows]
        net = math.fsum(amount for amount in amounts if amount is not None)
        tax = net * shopping.tax_percent / 100.0
        found.append(
            Totals(
                package=package,
                net=net,
                tax=tax,
                total=net + tax,
                unknown=sum(amount is None for amount in amounts),
            )
        )
    return tuple(found)
