"""Plain text tables and levels, aligned on the decimal point."""

from __future__ import annotations

from collections.abc import Container, Sequence


def level(value: float | None) -> str:
    """A level with one decimal and a true minus; a dash where there is none."""
    return "—" if value is None else f"{value:.1f}".replace("-", "−")


def table(head: Sequence[str], rows: Sequence[Sequence[str]], *, numbers: Container[int]) -> str:
    """Columns padded to their widest cell; those in `numbers` to the right."""
    widths = [max(len(row[i]) for row in (head, *rows)) for i in range(len(head))]
    return "\n".join(
        "  ".join(
            cell.rjust(width) if i in numbers else cell.ljust(width)
            for i, (cell, width) in enumerate(zip(row, widths, strict=True))
        ).rstrip()
        for row in (head, *rows)
    )
