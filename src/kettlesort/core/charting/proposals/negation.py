"""Whether a text denies what it speaks of."""

from __future__ import annotations

import re

_NEGATION = re.compile(
    r"\b(?:not|no|none|never|neither|nor|without|lack(?:ed|ing)?|absence|absent|cannot|could\s?n[o']t|wasn't|weren't|did\s?n[o']t|nobody|impossible|infeasible|fail(?:ed|ure)?\s+to|un(?:blinded|masked|concealed|registered|funded|available)|non-?\w+)\b",
    re.I,
)
_NO_NEGATION = re.compile(
    r"\b(?:not (?:otherwise |directly )?(?:involved|part of|taking part|participating|connected)|not only|no (?:significant|statistically|clear|marked) \w+|no longer|no (?:conflicts?|competing)|whether or not)\b",
    re.I,
)
_NEW_CLAUSE = re.compile(
    r"[,;:.]\s|\b(?:and|but|while|whereas|which|who)\s+(?:was|were|is|are|had|has|have|they|it|we|the|kept|been)\b|\b(?:but|although|whereas|which)\b"
)


def negated(text: str, begin: int, end: int) -> bool:
    """Whether what stands at a place is denied: a negation before it in its clause, or close after it."""
    before = _NO_NEGATION.sub(" ", text[max(0, begin - 70) : begin])
    before = before[max((match.end() for match in _NEW_CLAUSE.finditer(before)), default=0) :]
    after = re.match(r"[^,;:.]{0,25}?\b(?:not|never|nor|impossible|infeasible|lacking|absent)\b", text[end:])
    return bool(_NEGATION.search(before) or after or _NEGATION.fullmatch(text[begin:end].split()[0] if text[begin:end].strip() else ""))
