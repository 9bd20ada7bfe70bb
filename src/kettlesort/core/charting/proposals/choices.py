"""Choices: which option a report names, from sentences and from tables."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from kettlesort.core.charting.proposals.candidates import Asking, Candidate, nearness, of_cell, of_sentence
from kettlesort.core.charting.proposals.implied import implied_at
from kettlesort.core.charting.proposals.items import Asked
from kettlesort.core.charting.proposals.negation import negated
from kettlesort.core.charting.proposals.passages import of_sentences, of_words
from kettlesort.core.charting.proposals.speaks import stem_of_word, stems_of, word_stem, word_stems

_WORD = re.compile(r"[^\W_]+")


def choices(asking: Asking, item: Asked) -> Iterator[Candidate]:
    """What may be the option of a choice; the options of a list of choices that one passage names."""
    options = _Options(asking, item)
    read = [sentence.text for sentence in asking.passages.sentences] + [cell.text for cell in asking.passages.cells]
    told = [named for text in read for named in options.named(text) if not named.negated]
    exact = Counter(named.option for named in told if named.covered >= 0.99) or Counter(named.option for named in told)
    of_a_sentence = _several_of_sentence if item.kind == "choices" else _each_of_sentence
    before: list[_Named] = []
    for k, sentence in enumerate(asking.passages.sentences):
        found = options.named(sentence.text)
        if found:
            yield from of_a_sentence(asking, item, k, found, exact)
        if item.kind == "choices":
            yield from _of_two_sentences(asking, item, k, before, found, exact)
        before = found
    for k, cell in enumerate(asking.passages.cells):
        if named := [one for one in options.named(cell.text) if not one.negated]:
            yield from _of_choices_cell(asking, item, k, named, exact)


def _where(asking: Asking, item: Asked, k: int) -> dict[str, float]:
    """The signs of a sentence, and how far to the front it stands."""
    section = asking.passages.sentences[k].section
    front = float(section == "title" or (section == "front" and k < 3))
    return {**of_sentence(asking, item, k), "title": front, "first": 1 / (1 + k / 15)}


def _several_of_sentence(asking: Asking, item: Asked, k: int, found: Sequence[_Named], exact: Counter[str]) -> Iterator[Candidate]:
    """The options that a sentence names, as one value."""
    text, named = asking.passages.sentences[k].text, [one for one in found if not one.negated]
    quote = of_sentences(asking.passages, k, k)
    if not named or not quote:
        return
    signs = {
        **_where(asking, item, k),
        "near": max(nearness(asking, item, text, one.begin, one.end) for one in named),
        "covered": max(one.covered for one in named),
        "several": min(1.0, (len(named) - 1) / 2),
        "of all": len(named) / max(len(named), len(exact)),
    }
    yield Candidate(item.id, None, [one.option for one in named], quote, signs)


def _of_two_sentences(
    asking: Asking, item: Asked, k: int, before: Sequence[_Named], found: Sequence[_Named], exact: Counter[str]
) -> Iterator[Candidate]:
    """What two sentences that follow each other name together, where each names what the other does not: a primary outcome, then the secondary ones."""
    sides = [{one.option for one in side if not one.negated and one.covered >= 0.99} for side in (before, found)]
    if not sides[0] - sides[1] or not sides[1] - sides[0]:
        return
    together = sides[0] | sides[1]
    first, second = (_where(asking, item, at) for at in (k - 1, k))
    if quote := of_sentences(asking.passages, k - 1, k):
        signs = {name: max(first[name], second[name]) for name in second}
        near = max(nearness(asking, item, asking.passages.sentences[k].text, one.begin, one.end) for one in found)
        told = {
            "near": near,
            "covered": 1.0,
            "several": min(1.0, (len(together) - 1) / 2),
            "of all": len(together) / max(len(together), len(exact)),
        }
        yield Candidate(item.id, None, [option for option in item.options if option in together], quote, {**signs, **told})


def _each_of_sentence(asking: Asking, item: Asked, k: int, found: Sequence[_Named], exact: Counter[str]) -> Iterator[Candidate]:
    """Each option that a sentence names."""
    text, where = asking.passages.sentences[k].text, _where(asking, item, k)
    for one in found:
        if quote := of_sentences(asking.passages, k, k, one.begin):
            rivals = sum(other.covered >= 0.99 for other in found if other.option != one.option)
            signs = {
                **where,
                "near": nearness(asking, item, text, one.begin, one.end),
                "covered": one.covered,
                "rivals": min(1.0, rivals / 2),
                "negated": float(one.negated),
                "spread": one.spread,
                "exactly": float(one.exact),
                "implied": float(one.implied),
                "of all": exact[one.option] / max(1, exact.total()),
                "only": float(set(exact) == {one.option}),
            }
            yield Candidate(item.id, None, one.option, quote, signs)


def _of_choices_cell(asking: Asking, item: Asked, k: int, named: Sequence[_Named], exact: Counter[str]) -> Iterator[Candidate]:
    """The options that a cell names: each, or as one value of several."""
    cell, signs = asking.passages.cells[k], of_cell(asking, item, k)
    if signs["name"] < 0.3 or not (quote := of_words(asking.passages, cell.table.page, cell.words())):
        return
    signs |= {
        "near": signs["label"],
        "covered": max(one.covered for one in named),
        "rivals": min(1.0, (len(named) - 1) / 2),
        "whole": float(len(cell.table.head) == 2),
        "only": float(len(exact) == 1),
    }
    options = [one.option for one in named]
    for value in [options] if item.kind == "choices" else options:
        yield Candidate(item.id, None, value, quote, signs)


class _Named(NamedTuple):
    option: str
    covered: float
    begin: int
    end: int
    negated: bool
    spread: float
    exact: bool = False
    """Whether its own letters stand there."""
    implied: bool = False
    """Whether it is only said in other words."""


class _Options:
    """The options of an item, looked for in sentences."""

    def __init__(self, asking: Asking, item: Asked) -> None:
        self._asking = asking
        self._own = _numbered_by(item)
        every = [frozenset(word_stems(option)) for option in item.options]
        stems = [frozenset(stem for stem in own if asking.speech.is_telling(stem)) or own for own in every]
        self._options = [
            (
                option,
                frozenset(stem for stem in own if sum(stem in other for other in stems) == 1) or own,
                re.sub(r"[\W_]+", "", option.lower()),
            )
            for option, own in zip(item.options, stems, strict=True)
        ]

    def named(self, text: str) -> list[_Named]:
        """The options that a text names, in the order of the item."""
        words = [(match.start(), match.end(), stem) for match in _WORD.finditer(text) if (stem := word_stem(match[0]))]
        out = []
        for option, wanted, letters in self._options:
            number = _NUMERAL.fullmatch(option)
            exact = self._numeral_at(text, option) if number else _letters_at(text, letters)
            if exact:
                out.append(_Named(option, 1.0, *exact, negated(text, *exact), 0.0, True))
                continue
            if not wanted or number:
                continue
            best: dict[str, tuple[float, int, int]] = {}
            for begin, end, stem in words:
                for one in wanted:
                    like = self._asking.speech.likeness(one, (stem,)) if one != stem else 1.0
                    if like > best.get(one, (0.0, 0, 0))[0]:
                        best[one] = (like, begin, end)
            other_words = False
            for one in wanted:
                if best.get(one, (0.0, 0, 0))[0] < 0.6 and (at := implied_at(one, text)):
                    best[one], other_words = (0.65, *at), True
            covered = sum(like for like, _, _ in best.values()) / len(wanted)
            if covered >= 0.6:
                places = [(begin, end) for like, begin, end in best.values() if like >= 0.5]
                begin, end = min(a for a, _ in places), max(b for _, b in places)
                out.append(
                    _Named(
                        option,
                        covered,
                        begin,
                        end,
                        negated(text, begin, end),
                        min(1.0, max(0, end - begin - len(option)) / 60),
                        False,
                        other_words,
                    )
                )
        return [each for each in out if not any(o is not each and _stands_for(o, each) for o in out)]

    def _numeral_at(self, text: str, option: str) -> tuple[int, int] | None:
        """Where an option that is a figure stands beside a word of the item: phase 2, stage III."""
        value = _numeral(option)
        for match in re.finditer(r"([A-Za-z]+)[\s-]+(\d{1,3}|[IVX]{1,5})\b(?:\s*(?:/|[-–])\s*(?:\d|[IVX]+)\b)?", text):
            if stem_of_word(match[1]) in self._own and _numeral(match[2]) == value:
                return match.start(), match.end(2)
        return None


_NUMERAL = re.compile(r"(?:[A-Za-z]+\s+)?(?:\d{1,3}|[IVX]{1,5})")
_ROMAN = {"I": 1, "V": 5, "X": 10}


def _numeral(text: str) -> int:
    """What a figure says, Arabic or Roman, behind a word or alone: 3 for "phase III"."""
    last = text.split()[-1]
    if last.isdigit():
        return int(last)
    values = [_ROMAN[sign] for sign in last]
    return sum(-value if value < max(values[k:]) else value for k, value in enumerate(values))


def _numbered_by(item: Asked) -> frozenset[str]:
    """The stems of the words that stand before an item's options that are figures: of its name, and of the options."""
    return frozenset(stems_of(f"{item.name} {' '.join(option for option in item.options if ' ' in option)}"))


def _stands_for(one: _Named, other: _Named) -> bool:
    """Whether what names one option only seems to name the other: a longer name that holds it, or its very letters where the other has but the stems."""
    if one.begin <= other.begin < one.end and one.covered >= other.covered and _inside(other.option, one.option):
        return True
    return one.exact and not other.exact and one.begin < other.end and other.begin < one.end


def _inside(option: str, other: str) -> bool:
    return len(other) > len(option) and option.lower() in other.lower()


def _letters_at(text: str, letters: str) -> tuple[int, int] | None:
    """Where an option stands in a text whatever the hyphens and blanks: cross-over, cross over, crossover."""
    if len(letters) < 3:
        found = re.search(rf"(?<![^\W_]){re.escape(letters)}(?![^\W_])", text, re.I)
        return (found.start(), found.end()) if found else None
    places = [k for k, c in enumerate(text) if c.isalnum()]
    at = "".join(text[k].lower() for k in places).find(letters)
    while at >= 0:
        begin, end = places[at], places[at + len(letters) - 1] + 1
        if (begin == 0 or not text[begin - 1].isalnum()) and (
            end == len(text) or not text[end : end + 1].isalnum() or re.match(r"(?:s|es|d|ed|ly|al)\b", text[end:])
        ):
            return begin, end
        at = "".join(text[k].lower() for k in places).find(letters, at + 1)
    return None
