"""What may be the value of an item: a value, where it stands, and what speaks for it."""

from __future__ import annotations

import re
from functools import lru_cache
from math import exp
from typing import Any, NamedTuple

from kettlesort.core.charting.proposals.amounts import Amount, amounts
from kettlesort.core.charting.proposals.items import Asked
from kettlesort.core.charting.proposals.passages import CellAt, Passages, Quote
from kettlesort.core.charting.proposals.speaks import BASELINE, Speech, contrary, stem_of_word, stems_of, times_of

_WORD = re.compile(r"[^\W_]+")
_OTHERS = re.compile(
    r"^Others\b|\b(?:et al|previous(?:ly)?|earlier (?:trial|study|work|report)s?|others? (?:have|found|reported)|in contrast to|a (?:recent|former) (?:review|trial|study)|reported by (?:others|previous|earlier|\w+ et al)|according to|literature|meta-analysis|assum(?:ed|ing)|expected|anticipated|would need|to detect|power of|planned|intended to|(?:was|were) (?:needed|required) to|to estimate a)\b|\b(?:further|future|prospective|larger|more|randomi[sz]ed)\b[^.;]{0,60}\b(?:needed|warranted|required|awaited)\b",
    re.I,
)
_CITES = re.compile(
    r"\[\d{1,3}(?:\s?[,–-]\s?\d{1,3})*\]|\((?:[A-Z][\w'’-]+(?: et al\.?| and [A-Z][\w'’-]+)?,? (?:19|20)\d\d[a-z]?(?:; )?)+\)"
)


class Candidate(NamedTuple):
    """A value that may be an item's, for an arm or none, with its quote and what speaks for and against it by name."""

    item: str
    arm: str | None
    value: Any
    quote: Quote
    signs: dict[str, float]


class Asking(NamedTuple):
    """A report and what is asked of it."""

    passages: Passages
    speech: Speech


def speaks_of_others(text: str) -> bool:
    """Whether a sentence speaks of other studies, or of what was planned."""
    return any(_others_and_cites(text))


@lru_cache(maxsize=8192)
def _others_and_cites(text: str) -> tuple[bool, bool]:
    return _OTHERS.search(text) is not None, _CITES.search(text) is not None


def of_sentence(asking: Asking, item: Asked, k: int) -> dict[str, float]:
    """What a sentence as a whole says for being about an item."""
    sentence = asking.passages.sentences[k]
    spoken = asking.speech.of(item, k)
    others, cites = _others_and_cites(sentence.text)
    return {
        "name": spoken.name,
        "instructions": spoken.instructions,
        "sense": spoken.sense,
        "key": spoken.key,
        "unheard": asking.speech.unheard(item),
        "abstract": float(sentence.section in ("abstract", "title")),
        "methods": float(sentence.section == "methods"),
        "results": float(sentence.section == "results"),
        "discussion": float(sentence.section in ("discussion", "introduction")),
        "contrary": float(contrary(item.name, sentence.text)),
        "others": float(others),
        "cites": float(cites),
        **of_time(item, sentence.text),
    }


def of_time(item: Asked, text: str) -> dict[str, float]:
    """Whether a text speaks of the time that an item asks for, or of another."""
    wanted, said = times_of(f"{item.name} {item.instructions}"), times_of(text)
    return {
        "same time": float(bool(wanted & said)),
        "other time": float(bool(wanted and said and not wanted & said)),
        "baseline": _same_baseline(item, text),
    }


def of_cell(asking: Asking, item: Asked, k: int, label: str | None = None) -> dict[str, float]:
    """What the labels around a cell say for being about an item; ``label``: that which names what is measured, as a rule that of the row."""
    at: CellAt = asking.passages.cells[k]
    own = asking.speech.of(item, asking.passages.of_cell(k))
    whole = asking.speech.of(item, asking.passages.of_cell(k, caption=True))
    labels = f"{at.table.caption} {at.about}"
    return {
        "table": 1.0,
        "name": own.name,
        "instructions": whole.instructions,
        "sense": own.sense,
        "key": whole.key,
        "unheard": asking.speech.unheard(item),
        "with caption": whole.name - own.name,
        "contrary": float(contrary(item.name, at.about)),
        "label": _covered(asking, item, f"{at.group} {at.label}" if label is None else label),
        **of_time(item, labels),
    }


def _covered(asking: Asking, item: Asked, label: str) -> float:
    """The share of a label's words that the item has too."""
    own = [stem for stem in stems_of(label) if not stem.isdigit()]
    wanted = frozenset(stems_of(f"{item.name} {item.instructions}"))
    total = sum(asking.speech.weight(stem) for stem in own)
    return sum(asking.speech.weight(stem) * asking.speech.likeness(stem, wanted) for stem in own) / total if total else 0.0


def _same_baseline(item: Asked, text: str) -> float:
    """1 where both speak of the start, -1 where only the text does; whoever is asked may leave it unsaid."""
    asked, said = bool(BASELINE.search(f"{item.name} {item.instructions}")), bool(BASELINE.search(text))
    return 1.0 if asked and said else -1.0 if said else -0.3 if asked else 0.0


def nearness(asking: Asking, item: Asked, text: str, begin: int, end: int) -> float:
    """How near to a place of a text the words of an item stand: from 0 to 1.

    A word weighs as its likeness, a third of it 70 characters away; one of the instructions less than half of one of the name.
    """
    wanted = {stem: 0.4 * asking.speech.weight(stem) for stem in stems_of(item.instructions)} | {
        stem: asking.speech.weight(stem) for stem in stems_of(item.name)
    }
    total = sum(wanted.values())
    if not total:
        return 0.0
    best = dict.fromkeys(wanted, 0.0)
    for word in _WORD.finditer(text):
        stem = stem_of_word(word[0])
        if not stem:
            continue
        gap = max(0, begin - word.end(), word.start() - end)
        near = exp(-gap / 70)
        for one in wanted:
            if (like := asking.speech.likeness(one, (stem,))) * near > best[one]:
                best[one] = like * near
    return sum(weight * best[stem] for stem, weight in wanted.items()) / total


def amounts_of(asking: Asking, k: int) -> list[Amount]:
    """The amounts of a sentence."""
    passages = asking.passages
    return amounts(passages.sentences[k].text, passages.commas, passages.numbers[k])
