"""What a report says of its design without naming it: whoever follows people up has a cohort, whoever draws lots has randomised."""

from __future__ import annotations

import re
from functools import lru_cache

from kettlesort.core.charting.proposals.speaks import stems_of

_SAID = {
    "cohort": r"\b(?:we (?:then )?followed|(?:was|were) followed(?: up)?\b|followed (?:them |up )?(?:for|until|over|from)\b|incident\b|incidence of|person-years|hazard ratio)",
    "case-control": r"\b(?:cases and (?:\w+ )?controls|matched controls|controls were (?:\w+ )?(?:matched|chosen|drawn|selected)|for each case|per case)\b",
    "cross-sectional": r"\b(?:survey(?:ed|s)?\b|prevalence of|at (?:one|a single) (?:point|time)|questionnaires? (?:was|were) (?:sent|handed|mailed|completed))",
    "randomised random": r"\b(?:(?:randomly|at random)\b|by lots?\b|(?:drew|drawn by|drawing of) lots?\b|toss of a coin|coin (?:toss|flip)|random[- ](?:number|sequence|allocation)|were randomi[sz]ed|randomi[sz]ation)",
    "cluster clustered": r"\b(?:homes|schools|wards|villages|practices|clinics|hospitals|herds|farms|classes|units|pens|communities|districts|apiaries) were (?:\w+ )?(?:randomi[sz]ed|allocated|assigned|drawn)\b|unit of (?:randomi[sz]ation|allocation)",
    "crossover cross-over": r"\b(?:wash-?out|crossed over|each \w+ (?:received|had|took) (?:both|all|each)|in (?:random|reversed?|either) order|(?:first|second) period|sequence of (?:the )?treatments)\b",
    "retrospective": r"\b(?:(?:charts?|records?|notes|files) of\b[^.;]{0,140}\b(?:were|was) (?:\w+ )?(?:studied|searched|reviewed|screened|examined|analy[sz]ed)|records? (?:\w+ ){0,3}(?:were|was) (?:searched|reviewed|screened|examined)|(?:chart|records?|notes) review|reviewed (?:the )?(?:\w+ )?(?:charts|records|notes)|from (?:the )?(?:medical|hospital|clinical|theatre) (?:records?|registers?|notes)|searched (?:the|our) \w+ (?:register|database|records))\b",
    "prospective": r"\b(?:we followed|were followed|were (?:enrolled|recruited) (?:from|between))\b",
    "double double-blind": r"\b(?:(?:patients|participants|owners|subjects|runners|mothers|parents)\b[^.;]{0,60}\b(?:and|nor)\b[^.;]{0,60}\b(?:blind(?:ed)?|masked|unaware|knew|aware))",
    "open open-label unblinded": r"\b(?:open[- ]label|(?:not|could not be|nobody was|were not|no one was) (?:\w+ )?(?:blinded|masked)|without (?:blinding|masking)|(?:unblinded|unmasked))\b",
    "parallel": r"\b(?:two|three|four) (?:parallel )?(?:groups|arms)\b",
    "quasi-experimental controlled": r"\b(?:before[- ]and[- ]after|allocated by (?:alternation|date|day))\b",
    "self-selected": r"\b(?:chose|choice of the|own choice|preference of)\b",
    "field": r"\b(?:plots?|field experiment|orchards?|under field conditions)\b",
    "laboratory": r"\b(?:petri|in vitro|climate chambers?|cages?|incubat\w+|laborator\w+)\b",
}


@lru_cache(maxsize=1)
def _patterns() -> dict[str, re.Pattern[str]]:
    return {stem: re.compile(pattern, re.I) for words, pattern in _SAID.items() for word in words.split() for stem in stems_of(word)}


def implied_at(stem: str, text: str) -> tuple[int, int] | None:
    """Where a text says what a stem of the name of a design means, in other words.

    >>> implied_at("cohort", "We followed 6,218 women for a mean of 7.8 years.")
    (0, 11)
    """
    pattern = _patterns().get(stem)
    found = pattern.search(text) if pattern else None
    return (found.start(), found.end()) if found else None
