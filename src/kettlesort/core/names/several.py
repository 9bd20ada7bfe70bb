"""Several names in one value: the pieces that it has if its people are parted in one way or another."""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import lru_cache

from kettlesort.core.names.one import GROUP, QUOTED, is_degree, is_initials, is_suffix, name_of

_OTHERS = re.compile(
    r"(?:\b(?:and|und|et|y|e)\s+)?\b(?:et\s+al|et\.?\s?al|and\s+others|and\s+colleagues|u\.\s?a|et\s+coll|y\s+otros|others)\b\.?$|(?:…|\.\.\.)$",
    re.I,
)
_APART = " \t\n,;|&"
_MARKS = re.compile(
    r"[\u00b9\u00b2\u00b3\u2070-\u2079*†‡§¶]+|(?<=[^\W\d_.])\d+(?:\s*,\s*\d+)*(?=[\s,;|]|$)|\s*[(\[][^()\[\]]{0,80}[\d@][^()\[\]]{0,80}[)\]]|\s*\((?:eds?|editors?|authors?|corresponding(?: author)?|orcid)\.?\)|[\w.+-]{1,64}@[\w-]{1,64}\.[\w.-]{1,64}|\s*<[^<>]*>",
    re.I,
)
SIGNS: dict[str, re.Pattern[str]] = {
    ";": re.compile(r"\s*(?:;|；)+\s*"), "|": re.compile(r"\s*[|¦]+\s*"), "line": re.compile(r"\s*\n\s*"), "/": re.compile(r"\s*/+\s*"),
    "@": re.compile(r"\s*@+\s*"), "#": re.compile(r"\s*#+\s*"), "•": re.compile(r"\s*[•·●]\s*"), "、": re.compile(r"\s*[、，]\s*"), "+": re.compile(r"\s*\+\s*"), "_": re.compile(r"\s*__?\s*"),
    "^": re.compile(r"\s*\^+\s*"), "~": re.compile(r"\s*~+\s*"), ":": re.compile(r"\s*:+\s*"), "-": re.compile(r"\s+[-–—]+\s+"), "tab": re.compile(r"\s*\t\s*"),
    "and": re.compile(r"\s*(?:\band\b|&|\bund\b)\s*", re.I), "number": re.compile(r"(?:^|[\s,;]+)[(\[]?\d{1,3}[.)\]]\s*"),
    "spaces": re.compile(r"\s{2,}"),
}  # fmt: skip
"""What parts people by a sign of its own."""
MANNERS = ("one", *SIGNS, "comma", "pairs", "initials", "first")
"""How people may be parted: one a value; by a sign; by commas, each part a person; by commas, family and given name in turn; by
nothing, each name ending in initials; by commas, where only the first has the family name before its comma."""
JOINED = re.compile(r"\s*,?\s+(?:and|&|und|et|y|e|og|och|en|i|и)\s+|\s*,?\s*&\s*", re.I)
_LISTED = re.compile(r"""\[\s*(['"])(.*)\1\s*\]""", re.S)
_BLANKS = re.compile(r"\s{3,}")
_BY = re.compile(r"^by:?\s+", re.I)
_AND = re.compile(r"\s+(?:and|und|et|&)\s+|\s*&\s*", re.I)
_LEAD = re.compile(r"^(?:and|&|und|et)\s+|^&\s*", re.I)


def cleaned(text: str) -> str:
    """A value without marks of affiliations, numbers of people, and "et al."; what is in quotes stays."""
    text = _BLANKS.sub(lambda found: "\n" if "\n" in found[0] else "   ", text)
    listed = _LISTED.fullmatch(text)
    if listed:
        return "\n".join(re.split(rf"{listed[1]}\s*,\s*{listed[1]}", listed[2]))
    if '"' in text:
        return text
    text = _BY.sub("", text)
    text = _MARKS.sub("", text) if not text.isalpha() else text
    end = text[-40:].rstrip(_APART)
    while (cut := _OTHERS.sub("", end)) != end:
        text = (text[:-40] + cut).rstrip(_APART)
        end = text[-40:]
    return text


@lru_cache(maxsize=1 << 15)
def pieces_of(text: str, parted: str) -> tuple[str, ...]:
    """The people in a value if they are parted so."""
    if parted == "one":
        return (text,)
    kept: list[str] = []

    def put_by(found: re.Match[str]) -> str:
        kept.append(found[0])
        return f"\x02{len(kept) - 1}\x03"

    text = QUOTED.sub(put_by, text)
    if parted in SIGNS:
        parts = SIGNS[parted].split(text)
    elif parted == "initials":
        parts = _by_initials(text)
    else:
        parts = _by_commas(text, parted)
    parts = [part.strip() for part in parts if part and re.search(r"[^\W\d_]|\x02", part)]
    if parts and parted not in ("one", "and"):
        parts = [*parts[:-1], *_joined(_LEAD.sub("", parts[-1]))]
    return tuple(re.sub(r"\x02(\d+)\x03", lambda found: kept[int(found[1])], part) for part in parts)


def _joined(text: str) -> list[str]:
    """A last piece, parted at "and" where that makes two people of it."""
    if GROUP.search(text):
        return [text]
    halves = [part for part in JOINED.split(text) if part.strip()]
    if len(halves) > 1 and min(name_of(part).quality for part in halves) > name_of(text).quality:
        return halves
    return [text]


def _by_commas(text: str, parted: str) -> list[str]:
    clauses = _clauses(text, parted)
    whole = [part for clause in clauses for part in clause]
    if parted == "comma":
        return whole
    if parted == "first":
        return [", ".join(whole[:2]), *whole[2:]]
    return [name for clause in clauses for name in _paired(clause)]


def _clauses(text: str, parted: str) -> list[list[str]]:
    """The parts between commas, cut apart where "and" stands; suffixes stay with what they follow, degrees go."""
    clauses: list[list[str]] = [[]]
    for part in text.split(","):
        bare = _LEAD.sub("", part.strip())
        halves = [bare] if GROUP.search(bare) else _AND.split(bare)
        if bare != part.strip() and clauses[-1]:
            clauses.append([])
        for k, half in enumerate(halves):
            half = half.strip()
            if k:
                clauses.append([])
            before = clauses[-1] or (clauses[-2] if len(clauses) > 1 else [])
            if before and is_suffix(half):
                before[-1] += f" {half}"
            elif half and not (before and is_degree(half) and not (parted == "pairs" and is_initials(half))):
                clauses[-1].append(half)
    return clauses


def _paired(whole: Sequence[str]) -> list[str]:
    out: list[str] = []
    k = 0
    while k < len(whole):
        if GROUP.search(whole[k]) or k + 1 == len(whole):
            out.append(whole[k])
            k += 1
        else:
            out.append(f"{whole[k]}, {whole[k + 1]}")
            k += 2
    return out


def _by_initials(text: str) -> list[str]:
    parts: list[list[str]] = [[]]
    before = False
    for token in text.split():
        now = is_initials(token.strip(","))
        if before and not now and not is_suffix(token):
            parts.append([])
        parts[-1].append(token)
        before = now
    return [" ".join(part) for part in parts]


def worth_of(text: str, parted: str) -> float:
    """How much a value is like people if they are parted so, from 0 to 1."""
    pieces = pieces_of(text, parted)
    if not pieces:
        return 0.0
    total = 0.0
    for piece in pieces:
        if QUOTED.fullmatch(piece):
            total += 1.0
        elif re.search(r"[;|\n\t•、，@#]|\s{3,}", piece) or (JOINED.search(piece) and not GROUP.search(piece) and not _spanish(piece)):
            total += 0.05
        else:
            total += name_of(piece).quality
    worth = total / len(pieces)
    return worth * 0.97 if parted in ("first", "initials", "number", "spaces", "_", ":", "-", "+", "/") else worth


def _spanish(piece: str) -> bool:
    found = re.search(r"\s(?:y|e|i)\s", piece)
    return bool(found) and not re.search(r"\s(?:and|&|und|et|og|och|en)\s", piece, re.I)
