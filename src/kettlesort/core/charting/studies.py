"""Studies and what they are called."""

from __future__ import annotations


def study_labels(citations: list[str]) -> list[str]:
    """Names for studies from short citations, told apart by a letter where they would be the same.

    >>> study_labels(["Orsel 2019", "Ames 2003", "Orsel 2019"])
    ['Orsel 2019a', 'Ames 2003', 'Orsel 2019b']
    """
    seen: dict[str, int] = {}
    out = []
    for citation in citations:
        if citations.count(citation) == 1:
            out.append(citation)
            continue
        seen[citation] = seen.get(citation, 0) + 1
        out.append(citation + _letters(seen[citation]))
    return out


def _letters(number: int) -> str:
    text = ""
    while number:
        number, rest = divmod(number - 1, 26)
        text = chr(97 + rest) + text
    return text
