"""The shopping list as table and as paper."""

from __future__ import annotations

import csv
import html
import io

from verve.core.session import Session
from verve.core.sheets._patch import PAPER_STYLE, TABLE
from verve.core.shop import PACKAGES, price_text, rows_of, said_of, totals_of

_HEAD = ("item", "quantity", "owned", "to buy", "price", "per", "shop", *PACKAGES.values())


def _cells(session: Session) -> list[tuple[str, ...]]:
    currency = session.shopping.currency
    found = []
    for row in rows_of(session):
        wish = row.wish
        sides = [
            price_text(row.total_in(package), currency)
            if wish.package in {package, "both"}
            else "not in it"
            for package in PACKAGES
        ]
        found.append(
            (
                said_of(wish, session),
                str(wish.quantity),
                str(row.owned),
                str(row.to_buy),
                "in the set" if wish.within else price_text(wish.price, currency),
                "pair" if wish.per_pair else "piece",
                wish.shop,
                *sides,
            )
        )
    return found


def shopping_csv(session: Session) -> str:
    """One row a thing; the totals of both packages last."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(_HEAD)
    writer.writerows(_cells(session))
    totals = totals_of(rows_of(session), session.shopping)
    currency = session.shopping.currency
    sums = [price_text(total.total, currency) for total in totals]
    writer.writerow(("Together, with tax", "", "", "", "", "", "", *sums))
    return out.getvalue()


def shopping_html(session: Session) -> str:
    """The list as a page with a box to tick for every thing."""

    def e(words: str) -> str:
        return html.escape(words)

    currency = session.shopping.currency
    body = [f"<h1>{e(session.title)}: shopping list</h1>{TABLE}<tr><th></th>"]
    body.append("".join(f"<th>{e(word)}</th>" for word in _HEAD) + "</tr>")
    for cells in _cells(session):
        body.append('<tr><td class="box">☐</td>')
        body.append("".join(f"<td>{e(cell)}</td>" for cell in cells) + "</tr>")
    totals = totals_of(rows_of(session), session.shopping)
    for words, values in (
        ("Together", [t.net for t in totals]),
        (f"Tax {session.shopping.tax_percent:g} %", [t.tax for t in totals]),
        ("With tax", [t.total for t in totals]),
    ):
        sums = "".join(f"<td>{e(price_text(value, currency))}</td>" for value in values)
        body.append(f'<tr><td></td><td class="line" colspan="7">{e(words)}</td>{sums}</tr>')
    unknown = max((total.unknown for total in totals), default=0)
    body.append("</table>")
    if unknown:
        body.append(f"<p>{unknown} without a price are not in the sums.</p>")
    return (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{e(session.title)}</title>'
        f"<style>{PAPER_STYLE}</style></head><body>{''.join(body)}</body></html>"
    )
