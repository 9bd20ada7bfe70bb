"""The value that words which somebody marked in a report state."""

from __future__ import annotations

from kettlesort.core.charting.items import Item
from kettlesort.core.charting.proposals import Asked, candidates
from kettlesort.core.charting.proposals.weights import chance
from kettlesort.core.charting.values import NotAValue, understood, worded
from kettlesort.core.fulltext.article import normal, of_record


def value_in(item: Item, words: str) -> str:
    """The value of an item that some words state, in its normal form: the words themselves if they are one, else the likeliest that stands in them; ""
    where none does.

    >>> value_in(Item("Survived", "counts"), "Of the wrapped colonies, 86 of 106 were alive in spring.")
    '86 / 106'
    """
    words = normal(words)
    try:
        return understood(item, words)
    except NotAValue:
        asked = Asked("marked", item.name, item.kind, item.instructions, item.unit, item.choices)
        said = (
            f"{item.name}: {words}" if item.kind not in ("yesno", "choice", "choices", "text") else words
        )  # figures are marked without what they are of
        found = [one for some in candidates(of_record("", said), [asked]).values() for one in some]
    for candidate in sorted(found, key=lambda one: -chance(item.kind, one.signs)):
        try:
            return worded(item, candidate.value)
        except NotAValue:
            continue
    return ""
