"""Verdicts and what follows from them."""

from __future__ import annotations


def mark(first: str, fulltext: str, second: str) -> str:
    """The verdict that a record shows: that of the second pass once its full text was obtained and judged, else that of the first."""
    return second if first == "include" and fulltext == "obtained" and second != "open" else first


def in_words(first: str, fulltext: str, second: str, reason: str = "") -> str:
    """Where a record stands in words; ``reason`` is the criterion that it failed."""
    why = f": {reason}" if reason else ""
    if first != "include":
        return {"open": "not decided", "unsure": "unsure", "differs": "verdicts differ", "exclude": f"excluded{why}", "aside": "set aside"}[
            first
        ]
    if fulltext != "obtained":
        return {"sought": "full text sought", "missing": "full text not obtained"}[fulltext]
    return {"include": "included", "exclude": f"full text excluded{why}", "differs": "verdicts on the full text differ"}.get(
        second, "full text to be decided"
    )
