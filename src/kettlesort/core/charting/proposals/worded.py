"""Choices, yes or no, and texts, from sentences and from tables."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from kettlesort.core.charting.proposals.candidates import Asking, Candidate, nearness, of_cell, of_sentence
from kettlesort.core.charting.proposals.items import Asked
from kettlesort.core.charting.proposals.passages import of_sentences, of_words
from kettlesort.core.charting.proposals.speaks import stem_of_word, stems_of
from kettlesort.core.text.countries import countries_in, names_countries
from kettlesort.core.text.words import words_of

_WORD = re.compile(r"[^\W_]+")
_NEGATION = re.compile(
    r"\b(?:not|no|none|never|neither|nor|without|lack(?:ed|ing)?|absence|absent|cannot|could\s?n[o']t|wasn't|weren't|did\s?n[o']t|nobody|impossible|infeasible|fail(?:ed|ure)?\s+to|un(?:blinded|masked|concealed|registered|funded|available)|non-?\w+)\b",
    re.I,
)
_NO_NEGATION = re.compile(
    r"\b(?:not only|no (?:significant|statistically|clear|marked) \w+|no longer|no (?:conflicts?|competing)|whether or not)\b", re.I
)
_OPPOSITES = {
    "blind": re.compile(r"\b(?:open[- ]label|open trial|unblinded|unmasked|knew|aware of)\b", re.I),
    "mask": re.compile(r"\b(?:open[- ]label|open trial|unblinded|unmasked|knew|aware of)\b", re.I),
    "conceal": re.compile(r"\b(?:alternat\w+|open list|odd and even|date of birth|unconcealed)\b", re.I),
    "random": re.compile(r"\b(?:non-?randomi[sz]ed|alternat\w+|quasi-?\w*)\b", re.I),
}
_OPPOSITES |= dict.fromkeys(
    ("intention", "itt"),
    re.compile(r"\b(?:per[- ]protocol|as[- ]treated|on[- ]treatment analys\w+|complete[- ]cases?|completers|only (?:those|participants|patients|people) who (?:completed|finished))\b", re.I),
)  # fmt: skip
_AFFIRMS = {
    "blind": re.compile(
        r"\b(?:(?:not|never) (?:know|told|aware|learn|informed)|unaware|without know\w+|ignorant of|kept the code)\b", re.I
    ),
    "mask": re.compile(r"\b(?:(?:not|never) (?:know|told|aware|learn|informed)|unaware|without know\w+|ignorant of)\b", re.I),
}
_NOBODY = re.compile(r"\b(?:neither|nobody|no one|none(?: of)?|no \w+)\b[^.;]*$", re.I)
_AGENTS = tuple(
    re.compile(rf"\b(?:{words})", re.I)
    for words in (
        r"participants?\b|patients?\b|subjects?\b|pupils?\b|students?\b|children\b|parents?\b|volunteers?\b|women\b|men\b|mothers?\b|owners?\b",
        r"(?:outcome )?assess|rater|evaluat|examiner|observer|measurer|judge|reader|radiologist|patholog|interviewer|who(?:ever)? (?:count|weigh|measur|assess|judg)",
        r"therapist|clinician|physician|doctor|surgeon|nurse|carer|caregiver|care provider|provider|personnel|staff|teacher|trainer|investigator|researcher|keeper",
        r"statistician|analyst|data analy",
    )
)
"""Those who may be kept from knowing: who takes part, who measures, who treats, who analyses."""
_NEW_CLAUSE = re.compile(
    r"[,;:.]\s|\b(?:and|but|while|whereas|which|who)\s+(?:was|were|is|are|had|has|have|they|it|we|the|kept|been)\b|\b(?:but|although|whereas|which)\b"
)
_UNSAID = re.compile(r"\bnot (?:reported|stated|described|mentioned|specified|clear|known)\b|\bunclear\b", re.I)


def choices(asking: Asking, item: Asked) -> Iterator[Candidate]:
    """What may be the option of a choice; the options of a list of choices that one passage names."""
    options = _Options(asking, item)
    read = [sentence.text for sentence in asking.passages.sentences] + [cell.text for cell in asking.passages.cells]
    exact = Counter(named.option for text in read for named in options.named(text) if named.covered >= 0.99 and not named.negated)
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


class _Options:
    """The options of an item, looked for in sentences."""

    def __init__(self, asking: Asking, item: Asked) -> None:
        self._asking = asking
        stems = [frozenset(_own_stems(option)) for option in item.options]
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
        words = [(match.start(), match.end(), stem) for match in _WORD.finditer(text) if (stem := _stem(match[0]))]
        out = []
        for option, wanted, letters in self._options:
            exact = _letters_at(text, letters)
            if exact:
                out.append(_Named(option, 1.0, *exact, _negated(text, *exact), 0.0))
                continue
            if not wanted:
                continue
            best: dict[str, tuple[float, int, int]] = {}
            for begin, end, stem in words:
                for one in wanted:
                    like = self._asking.speech.likeness(one, (stem,)) if one != stem else 1.0
                    if like > best.get(one, (0.0, 0, 0))[0]:
                        best[one] = (like, begin, end)
            covered = sum(like for like, _, _ in best.values()) / len(wanted)
            if covered >= 0.6:
                places = [(begin, end) for like, begin, end in best.values() if like >= 0.5]
                begin, end = min(a for a, _ in places), max(b for _, b in places)
                out.append(
                    _Named(option, covered, begin, end, _negated(text, begin, end), min(1.0, max(0, end - begin - len(option)) / 60))
                )
        return [
            each
            for each in out
            if not any(
                o is not each and o.covered >= each.covered and _inside(each.option, o.option) and o.begin <= each.begin < o.end
                for o in out
            )
        ]


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


def _own_stems(text: str) -> list[str]:
    return [stem for word in words_of(text) if (stem := _stem(word))]


def _stem(word: str) -> str:
    """The stem of a word; of words that deny, which may be all that an option says, these themselves."""
    return stem_of_word(word) or (word.lower() if word.lower() in ("no", "not", "none") else "")


def _negated(text: str, begin: int, end: int) -> bool:
    """Whether what stands at a place is denied: a negation before it in its clause, or close after it."""
    before = _NO_NEGATION.sub(" ", text[max(0, begin - 70) : begin])
    before = before[max((match.end() for match in _NEW_CLAUSE.finditer(before)), default=0) :]
    after = re.match(r"[^,;:.]{0,25}?\b(?:not|never|nor|impossible|infeasible|lacking|absent)\b", text[end:])
    return bool(_NEGATION.search(before) or after or _NEGATION.fullmatch(text[begin:end].split()[0] if text[begin:end].strip() else ""))


def yesno(asking: Asking, item: Asked) -> Iterator[Candidate]:
    """Whether a report says that something is so, or that it is not."""
    asked = f"{item.name} {item.instructions}"
    opposites = [pattern for stem, pattern in _OPPOSITES.items() if re.search(rf"\b{stem}", asked, re.I)]
    affirms = [pattern for stem, pattern in _AFFIRMS.items() if re.search(rf"\b{stem}", asked, re.I)]
    item_negated = bool(re.search(r"\b(?:not|without|absence of|no)\b", item.name, re.I))
    for k, sentence in enumerate(asking.passages.sentences):
        whole = of_sentence(asking, item, k)
        for start, text in _clauses(sentence.text):
            signs = whole
            against = next((at for pattern in opposites if (at := pattern.search(text))), None)
            pro = next((at for pattern in affirms if (at := pattern.search(text))), None)
            if against and _NOBODY.search(text[: against.start()]):  # nobody knew is not to know
                against, pro = None, against
            opposed, affirmed = bool(against), bool(pro)
            spoken = against or pro
            said_by = text[: spoken.start()] if spoken else text  # who knew, or did not, stands before that
            if ((signs["name"] < 0.25 and signs["instructions"] < 0.4) or signs["key"] < 0.6) and not (opposed or affirmed):
                continue
            if opposed or affirmed:  # said in other words than the item's
                signs = {**signs, "key": 1.0, "name": max(0.6, signs["name"])}
            if signs["key"] >= 0.8:  # another word for the same
                signs = {**signs, "key": 1.0}
            begin, end, near = _place(asking, item, text)
            last = _last(asking, item, text) or (begin, end)
            denied = not affirmed and (_negated(text, *last) or _UNSAID.search(text) is not None)
            if quote := of_sentences(asking.passages, k, k, start + begin):
                yield Candidate(
                    item.id, None, (not (denied or opposed)) != item_negated, quote,
                    {**signs, "near": near, "denied": float(denied), "opposed": float(opposed), "affirmed": float(affirmed), "unsaid": float(bool(_UNSAID.search(text))), "first": 1 / (1 + k / 20), **_agent(asked, said_by)},
                )  # fmt: skip
    for k, cell in enumerate(asking.passages.cells):
        said = re.match(r"^(yes|no|true|false|y|n|done|not done|✓|✗|reported|not reported|adequate|inadequate)\b", cell.text, re.I)
        if said:
            signs = of_cell(asking, item, k)
            if signs["label"] > 0.3 and (quote := of_words(asking.passages, cell.table.page, cell.words())):
                yield Candidate(
                    item.id,
                    None,
                    bool(re.match(r"y|t|done|✓|rep|ade", said[1], re.I)),
                    quote,
                    {**signs, "near": signs["label"], "plainly": 1.0},
                )


_PARTS = re.compile(r";\s+|,\s+(?:but|whereas|while|although|though)\s+")


def _clauses(text: str) -> Iterator[tuple[int, str]]:
    """The clauses of a sentence that may say different things of different people, each with where it begins."""
    begin = 0
    for part in _PARTS.finditer(text):
        yield begin, text[begin : part.start()]
        begin = part.end()
    yield begin, text[begin:]


def _agent(asked: str, text: str) -> dict[str, float]:
    """Whether a sentence speaks of those whom an item asks about, of participants or assessors, or of others only."""
    wanted, said = ({k for k, pattern in enumerate(_AGENTS) if pattern.search(one)} for one in (asked, text))
    return {"agent": float(bool(wanted & said)), "other agent": float(bool(wanted and said and not wanted & said))}


def _place(asking: Asking, item: Asked, text: str) -> tuple[int, int, float]:
    """Where in a text the words of an item stand closest together: its most telling word, and how near the others are."""
    wanted = {stem: asking.speech.weight(stem) for stem in stems_of(item.name)} or dict.fromkeys(stems_of(item.instructions), 1.0)
    best: tuple[float, int, int] = (0.0, 0, 0)
    for word in _WORD.finditer(text):
        stem = _stem(word[0])
        if stem:
            worth = max((weight * asking.speech.likeness(one, (stem,)) for one, weight in wanted.items()), default=0.0)
            if worth > best[0]:
                best = (worth, word.start(), word.end())
    return best[1], best[2], nearness(asking, item, text, best[1], best[2])


def _last(asking: Asking, item: Asked, text: str) -> tuple[int, int] | None:
    """Where the last of an item's words stands in a text: what is said of it, or denied, as a rule stands there."""
    wanted = frozenset(stems_of(item.name))
    found = [
        word
        for word in _WORD.finditer(text)
        if (stem := _stem(word[0])) and any(asking.speech.likeness(one, (stem,)) >= 0.7 for one in wanted)
    ]
    return (found[-1].start(), found[-1].end()) if found else None


_COPULA = re.compile(
    r"\b(?:was|were|is|are|being|included|comprised|consisted of|defined as|namely|measured as|used|uses|employed|chose|chosen|had|called)\b\s+|[:=–—]\s+",
    re.I,
)
_PREPOSITION = re.compile(
    r"\b(?P<how>by means of|by|using|with|via|through|according to|from|based on)\s+|\b(?P<where>in|at|across|within|near|on|throughout)\s+(?=(?:the\s+)?(?:[A-ZÀ-Þ]|\w+\s+(?:hospitals?|clinics?|schools?|centres?|centers?|sites?|farms?|apiaries|universit)))|\b(?P<to>of|to|for|as|against|than|received|given|called|named)\s+",
    re.I,
)
_CLAUSE = re.compile(
    r"\s*(?:[;:.!?](?:\s|$)|,\s+(?:and|but|which|who|with|while|whereas|where|so|as|defined|measured|because|although|after|before|at|in|by|from|for|on|using)\b|\s[(\[]|\band\s+(?:was|were|had|the|no|is|it|they|we)\b|\b(?:who|which|that|while|whereas|because|although|when|if|between)\b|\s[–—]\s)"
)
_NARROW = re.compile(
    r"\s+(?:in|at|on|by|from|for|with|after|before|during|to|using|via|as|over|until|and|was|were|is|are|had|has)\s+|,\s+|\s*[(\[;.]"
)
_PROPER = re.compile(
    r"(?:[A-ZÀ-Þ][\w’'.&-]*|\d{4,})(?:\s+(?:(?:of|for|the|and|de|du|van|von|on|in|&)\s+)*[A-ZÀ-Þ][\w’'&-]*)*(?:\s+v?\d+(?:\.\d+)+)?"
)
_CALENDAR = re.compile(
    r"(?:One|Two|Three|Four|Five|Six|Seven|Eight|Nine|Ten|Eleven|Twelve|All|Both|Most|Some|Several|Between|We|In|At|From|This|These|Those|There|After|During|Before|January|February|March|April|May|June|July|August|September|October|November|December|Monday|Tuesday|Wednesday|Thursday|Friday|Saturday|Sunday|and|to|\d+)"
)
_NO_ANSWER = re.compile(
    r"^(?:not\s+|also\s+|all\s+)?(?:\w+ly\s+)?\w+(?:ed|en|wn|ne|ught)(?:\s+(?:by|under|with|in|at|from|as|for|on|to|over|between|during)\b.*)?$",
    re.I,
)
_NUMBERED = re.compile(r"\b([A-Za-z]{3,})\s+(?:\d+|[IVX]+\b)(?:\s*(?:,|and|to|or|[-–/])\s*(?:\d+|[IVX]+\b))*")
"""A word with its numbers: grades 7 and 8, phase III."""
_LABEL = re.compile(r"[A-ZÀ-Þ][\w ,&/-]{2,45}(?::\s+|\.\s+(?=[A-ZÀ-Þ]))")
"""A word or a few before a colon, or set apart by a full stop: Setting: two hospitals."""
_ID = re.compile(r"\b(?:[A-Z]{2,}[A-Z0-9]*[-/ ]?\d{3,}(?:[-/]\d+)*|[A-Z]+[A-Z0-9]*(?:[-/][A-Z0-9]*\d[A-Z0-9]*)+|\d{4,}-\d{3,}(?:-\d+)*)\b")
_WHERE = re.compile(
    r"\b(?:where|country|countries|location|place|region|city|setting|site|sites|town|district|area|province|state)\b", re.I
)
_COUNTRY = re.compile(r"\b(?:country|countries|nation)\b", re.I)
_WHO = re.compile(
    r"\b(?:who|fund\w*|sponsor\w*|institution|manufacturer|maker|company|author\w*|software|program|package|committee|organi[sz]ation|supplier|contact)\b",
    re.I,
)
_HOW = re.compile(
    r"\b(?:how|method\w*|technique|procedure|approach|sequence|generation|tool|instrument|scale|device|means|analysis|test|model|measured)\b",
    re.I,
)
_WHICH_ID = re.compile(r"\b(?:regist\w+|identifier|id|grant|protocol number|accession|licen[cs]e|approval number|reference number)\b", re.I)


def texts(asking: Asking, item: Asked) -> Iterator[Candidate]:
    """What may be the words that an item asks for: what follows its own words in a sentence, a name, an identifier; and the whole sentence."""
    wanted, of_country = _wanted(item), bool(_COUNTRY.search(f"{item.name} {item.instructions}"))
    own_stems = set(stems_of(item.name))
    for k, sentence in enumerate(asking.passages.sentences):
        signs = of_sentence(asking, item, k)
        spans = [(begin, end, "where") for begin, end in countries_in(sentence.text)] if of_country else []
        spans += [(match.start(), match.end(), "own") for match in _NUMBERED.finditer(sentence.text) if stem_of_word(match[1]) in own_stems]
        spans += _spans(sentence.text)
        sorts = {sort for _, _, sort in spans}
        apt = wanted in ("where", "id") and wanted in sorts
        if signs["name"] < 0.12 and signs["instructions"] < 0.2 and signs["sense"] < 0.2 and not apt:
            continue
        text = sentence.text
        headed = _covered_by(asking, item, sentence.heading) if sentence.heading else 0.0
        if wanted == "who" and signs["key"] < 0.5 and headed < 0.5:
            continue
        seen: set[str] = set()
        for begin, end, sort in spans:
            value = _trimmed(text[begin:end])
            if (
                not 2 <= len(value) <= 240
                or value.lower() in seen
                or not re.search(r"\w", value)
                or (sort != "all" and not value[0].isupper() and _NO_ANSWER.match(value))
            ):
                continue
            seen.add(value.lower())
            if not (quote := of_sentences(asking.passages, k, k, begin)):
                continue
            own = frozenset(_own_stems(value))
            repeats = _covered_by(asking, item, value)
            yield Candidate(
                item.id, None, value, quote,
                {
                    **signs, "near": nearness(asking, item, text, begin, end), "headed": headed, f"{wanted}: {sort}": 1.0, "repeats": repeats,
                    "said before": _covered_by(asking, item, text[max(0, begin - 45) : begin]), "said after": _covered_by(asking, item, text[end : end + 45]),
                    "long": min(2.0, len(value.split()) / 12), f"{wanted}: proper": float(bool(_PROPER.fullmatch(value)) and (begin > 0 or " " in value)),
                    "empty": float(not own), "first": 1 / (1 + k / 20), "labelled": _covered_by(asking, item, text[:begin]) if sort == "labelled" else 0.0,
                    "country": float(of_country and names_countries(value)),
                },
            )  # fmt: skip
    for k, cell in enumerate(asking.passages.cells):
        signs = of_cell(asking, item, k)
        if (
            signs["label"] > 0.4
            and signs["name"] > 0.4
            and re.search(r"[A-Za-z]", cell.text)
            and (quote := of_words(asking.passages, cell.table.page, cell.words()))
        ):
            yield Candidate(item.id, None, cell.text, quote, {**signs, "near": signs["label"], "whole": float(len(cell.table.head) == 2)})


def _wanted(item: Asked) -> str:
    """What sort of words an item asks for: an identifier, a name, a place, a manner, or any."""
    for text in (item.name, item.instructions):
        for sort, pattern in (("id", _WHICH_ID), ("who", _WHO), ("where", _WHERE), ("how", _HOW)):
            if pattern.search(text):
                return sort
    return "what"


def _covered_by(asking: Asking, item: Asked, text: str) -> float:
    """The share of an item's name that a text says."""
    stems = frozenset(_own_stems(text))
    wanted = {stem: asking.speech.weight(stem) for stem in stems_of(item.name)}
    total = sum(wanted.values())
    return sum(weight * asking.speech.likeness(stem, stems) for stem, weight in wanted.items()) / total if total and stems else 0.0


def _spans(text: str) -> Iterator[tuple[int, int, str]]:
    """Pieces of a sentence that may be an answer, each with what it is; none that ends within a name."""
    names = [(match.start(), match.start() + len(match[0].rstrip(".'’&-"))) for match in _PROPER.finditer(text)]
    return (piece for piece in _pieces(text) if not any(begin < piece[1] < end for begin, end in names))


def _pieces(text: str) -> Iterator[tuple[int, int, str]]:
    """An identifier, what follows a label, a verb, a preposition, a name, what stands before a verb, all."""
    if labelled := _LABEL.match(text):
        yield labelled.end(), len(text), "labelled"
    for match in _ID.finditer(text):
        yield match.start(), match.end(), "id"
    for match in _COPULA.finditer(text):
        yield match.end(), _until(text, match.end(), _CLAUSE), "is"
        yield match.end(), _until(text, match.end(), _NARROW), "is short"
    for match in _PREPOSITION.finditer(text):
        sort = "how" if match["how"] else "where" if match["where"] else "to"
        narrow = _until(text, match.end(), _NARROW)
        if sort == "to" and match["to"].lower() == "of" and _PROPER.fullmatch(text[match.end() : narrow]):
            sort = "where"
        yield match.end(), _until(text, match.end(), _CLAUSE), sort
        yield match.end(), narrow, sort
    for match in _PROPER.finditer(text):
        article = re.match(r"(?:The|A|An|Our|In|At|From)\s+(?=[A-Z])", match[0])
        if (match.start() > 0 or " " in match[0]) and not all(_CALENDAR.fullmatch(word) for word in re.findall(r"\w+", match[0])):
            yield match.start() + (article.end() if article else 0), match.end(), "name"
    subject = re.match(r"[^.;:(]{2,80}?(?=\s+(?:was|were|is|are|paid|funded|supported|served)\b)", text)
    if subject:
        yield 0, subject.end(), "subject"
    yield 0, len(text), "all"


def _until(text: str, begin: int, pattern: re.Pattern[str]) -> int:
    found = pattern.search(text, begin)
    return found.start() if found else len(text)


def _trimmed(text: str) -> str:
    """A piece without the article, the signs at its ends and brackets that it opens only."""
    text = re.sub(r"^(?:(?:the|a|an|our|its|their|either|both)\s+)+", "", text.strip(" ,;:.–—\"“”'"), flags=re.I).strip(' ,;:.–—"“”')
    if text.count("(") != text.count(")"):
        text = text.replace("(", "").replace(")", "").strip()
    return text


def answers(asking: Asking, item: Asked) -> Iterator[Candidate]:
    """What may be the value of an item that asks for words."""
    match item.kind:
        case "choice" | "choices":
            yield from choices(asking, item)
        case "yesno":
            yield from yesno(asking, item)
        case _:
            yield from texts(asking, item)
