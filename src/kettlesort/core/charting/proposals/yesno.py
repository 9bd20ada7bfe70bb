"""Whether a report says that something is so, or that it is not, from sentences and from tables."""

from __future__ import annotations

import re
from collections.abc import Iterator

from kettlesort.core.charting.proposals.candidates import Asking, Candidate, nearness, of_cell, of_sentence
from kettlesort.core.charting.proposals.items import Asked
from kettlesort.core.charting.proposals.negation import negated
from kettlesort.core.charting.proposals.passages import of_sentences, of_words
from kettlesort.core.charting.proposals.speaks import kin, stem_of_word, stems_of, word_stem

_WORD = re.compile(r"[^\W_]+")
_OPPOSITES = {
    "consent": re.compile(
        r"\b(?:consent (?:\w+ ){0,4}(?:waived|not (?:required|needed|obtained))|waive[dr]?|(?:without|no) (?:\w+ )?consent)\b", re.I
    ),
    "ethic": re.compile(r"\b(?:approval (?:\w+ ){0,4}(?:waived|not (?:required|needed))|exempt\w*|no approval|without approval)\b", re.I),
    "conceal": re.compile(r"\b(?:alternat\w+|open list|odd and even|date of birth|unconcealed)\b", re.I),
    "random": re.compile(
        r"\b(?:non-?randomi[sz]ed|alternat\w+|quasi-?\w*)\b|\b(?:by|according to|based on|depending on|at the discretion of)\b[^.;,]{0,40}\b(?:preferences?|choices?|discretion|convenience|wish(?:es)?)\b",
        re.I,
    ),
}
_OPPOSITES |= dict.fromkeys(
    ("intention", "itt"),
    re.compile(r"\b(?:per[- ]protocol|as[- ]treated|on[- ]treatment analys\w+|complete[- ]cases?|completers|only (?:those|participants|patients|people) who (?:completed|finished))\b", re.I),
)  # fmt: skip
_KEPT_FROM_KNOWING = ("blind", "mask")
_OPPOSITES |= dict.fromkeys(
    _KEPT_FROM_KNOWING,
    re.compile(r"\b(?:could not be (?:kept )?(?:unaware|blind\w*|masked|ignorant)|open[- ]label|open trial|unblinded|unmasked|non-?(?:blind|mask)\w*|knew|did know|aware of)\b", re.I),
)  # fmt: skip
_AFFIRMS = {
    "sampl": re.compile(
        r"\b(?:per (?:group|arm) (?:were|was|would be) (?:required|needed)|to (?:detect|show) (?:a|an)\b|power (?:of|calculation)|\d+\s?% power|alpha\s*[=(])",
        re.I,
    ),
}
_COMPANY = r"[A-Z][\w. &-]{1,40}?\b(?:Ltd|Inc|GmbH|AG|AB|Oy|BV|NV|Co|plc|Corp|S\.\s?p\.\s?A|S\.\s?r\.\s?l)\b\.?"
_AFFIRMS |= dict.fromkeys(
    ("industr", "manufactur", "maker", "compan"),
    re.compile(
        rf"free of charge|\bgifts? of [A-Z]|\bdonated the\b|\b(?:donated|provided|supplied|paid for|funded|sponsored) by (?:the )?(?:(?:\w+ )?(?:mak|manufactur|suppl|compan|industr)|{_COMPANY})|{_COMPANY} (?:donated|provided|supplied|paid)"
    ),
)
_AFFIRMS |= dict.fromkeys(
    ("conflict", "compet"),
    re.compile(r"\b(?:shareholders?|holds? shares|stock options|(?:authors?|of us)\b[^;]{0,40}\bemploy(?:ed|ees?)\b|employs (?:one|an|two) (?:of the )?authors?|employees? of|(?:received|receives) (?:\w+ ){0,2}(?:fees|royalties|honoraria|grants)|is president|consult(?:ant|ed|s) (?:for|to)|advisory board|paid (?:lectures|speaker))\b", re.I),
)  # fmt: skip
_AFFIRMS |= dict.fromkeys(
    ("intention", "itt"),
    re.compile(r"\ball (?:\w+ ){0,2}(?:randomi[sz]ed|participants|patients|subjects|people|children|women|animals)\b[^.;]{0,40}\banaly[sz]ed\b|\banaly[sz]ed (?:as|according to|in the groups?) (?:they were |to which they (?:were|had been) )?(?:randomi[sz]|assign|allocat)", re.I),
)  # fmt: skip
_AFFIRMS |= dict.fromkeys(
    _KEPT_FROM_KNOWING,
    re.compile(
        r"\b(?:(?:no|without) (?:any )?(?:knowledge|information)|no access to|(?:not|never) (?:been )?(?:know|told|aware|learn|informed)|unaware|without know\w+|ignorant of|kept the code)\b",
        re.I,
    ),
)
_NO_CONFLICT = re.compile(
    r"\b(?:no|nothing|none|not|without)\b[^.;]{0,40}?\b(?:conflicts?|competing|interests?|disclos\w+|declare)\b|\b(?:conflicts?|interests?)\b[^.;]{0,20}?\bnone\b|\bnothing to (?:declare|disclose)\b",
    re.I,
)
_IN_BRACKETS = re.compile(r"\s*\([^()]*\)")
_OTHERS_HAVE_NONE = re.compile(r"\b(?:the |all )?(?:other|remaining) authors?\b", re.I)
_NOBODY = re.compile(r"\b(?:neither|nobody|no one|none(?: of)?|no \w+)\b[^.;]*$", re.I)
_AGENTS = tuple(
    re.compile(rf"\b(?:{words})", re.I)
    for words in (
        r"participants?\b|patients?\b|subjects?\b|pupils?\b|students?\b|children\b|parents?\b|volunteers?\b|women\b|men\b|mothers?\b|owners?\b",
        r"(?:outcome )?assess|(?:taken|recorded|scored|marked|counted|classified|measured|read|rated|judged|adjudicated|extracted|coded|evaluated)\b[^.;]{0,70}?\bby\b|rater|evaluat|examiner|observer|measurer|judge|reader|radiologist|patholog|interviewer|who(?:ever)? (?:count|weigh|measur|assess|judg)",
        r"therapist|clinician|physician|doctor|surgeon|nurse|carer|caregiver|care provider|provider|personnel|staff|teacher|trainer|investigator|researcher|keeper",
        r"statistician|analyst|data analy",
    )
)
"""Those who may be kept from knowing: who takes part, who measures, who treats, who analyses."""
_BY_CHANCE = re.compile(r"random|\blots?\b|lottery|\bcoin\b|\bdice\b|\bchance\b|alternat|allocat|allotted|assign|\bdrawn?\b|\bdrew\b", re.I)
_UN = re.compile(r"un(?!der|it|iv|til|ion|iq|if)[a-z]{3,}ed\b", re.I)
_UNSAID = re.compile(r"\bnot (?:reported|stated|described|mentioned|specified|clear|known)\b|\bunclear\b", re.I)


def yesno(asking: Asking, item: Asked) -> Iterator[Candidate]:
    """Whether a report says that something is so, or that it is not."""
    asked = f"{item.name} {item.instructions}"
    opposites = [pattern for stem, pattern in _OPPOSITES.items() if re.search(rf"\b{stem}", asked, re.I)]
    affirms = [pattern for stem, pattern in _AFFIRMS.items() if re.search(rf"\b{stem}", asked, re.I)]
    own = frozenset(stems_of(item.name))
    of_chance = "random" in item.name.lower()
    of_conflict = bool(kin("conflict") & {k for stem in stems_of(asked) for k in kin(stem)})
    item_negated = bool(re.search(r"\b(?:not|without|absence of|no)\b", item.name, re.I))
    for k, sentence in enumerate(asking.passages.sentences):
        whole = of_sentence(asking, item, k)
        for start, text in _whole_clauses(sentence.text):
            signs = whole
            against = next((at for pattern in opposites if (at := pattern.search(text))), None)
            pro = next((at for pattern in affirms if (at := pattern.search(text))), None)
            if against and _NOBODY.search(text[: against.start()]):  # nobody knew is not to know
                against, pro = None, against
            elif against and pro and pro.start() < against.end() and against.start() < pro.end():
                against, pro = (against, None) if against.start() < pro.start() else (None, pro)  # could not be unaware; was not aware
            opposed, affirmed = bool(against), bool(pro)
            spoken = against or pro
            said_by = text[: spoken.start()] if spoken else text  # who knew, or did not, stands before that
            if of_chance and not _BY_CHANCE.search(text):
                continue  # recruited is not randomised
            if ((signs["name"] < 0.25 and signs["instructions"] < 0.4) or signs["key"] < 0.6) and not (opposed or affirmed):
                continue
            if opposed or affirmed:  # said in other words than the item's
                signs = {**signs, "key": 1.0, "name": max(0.6, signs["name"])}
            if signs["key"] >= 0.8:  # another word for the same
                signs = {**signs, "key": 1.0}
            begin, end, near = _place(asking, item, text)
            last = _last(asking, item, text) or (begin, end)
            denied = not affirmed and (
                any(_UN.match(word) and stem_of_word(word[2:]) in own for word in _WORD.findall(text))
                or negated(text, *last)
                or _UNSAID.search(text) is not None
                or bool(of_conflict and _NO_CONFLICT.search(text) and not _OTHERS_HAVE_NONE.search(text))
            )
            if quote := of_sentences(asking.passages, k, k, start + begin):
                yield Candidate(
                    item.id, None, (not (denied or opposed)) != item_negated, quote,
                    {**signs, "near": near, "denied": float(denied), "opposed": float(opposed), "affirmed": float(affirmed), "unsaid": float(bool(_UNSAID.search(text))), "first": 1 / (1 + k / 20), **_agent(asked, said_by, asking.speech.people)},
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


_ELLIPSIS = re.compile(r"\b(?:was|were|is|are|had|did|could)(?:\s+not)?\.?\s*$", re.I)
_KNOW = re.compile(r"\b(?:did|do|does)\s+not\s+(?P<said>know\b.*)$", re.I)
_KNEW = re.compile(r"\bknew\b(?P<said>.*)$", re.I)
_PREDICATE = re.compile(
    r"\b(?:was|were|is|are|be|been|had)\s+(?:(?:not|never|also|all|both)\s+)*(?P<said>\w+(?:ed|en|wn|ind|ware)\b.*)$", re.I
)


def _whole_clauses(text: str) -> Iterator[tuple[int, str]]:
    """The clauses of a sentence, each with where it begins; what one leaves out is taken from the one before it: "farmers were not blinded, but the staff was"."""
    said = ""
    for begin, clause in _clauses(text):
        if said and _ELLIPSIS.search(clause):
            clause = f"{clause.rstrip('. ')} {said}"
        found, knew = _PREDICATE.search(clause), _KNEW.search(clause)
        know = _KNOW.search(clause)
        said = (
            know["said"].strip(" .")
            if know
            else found["said"].strip(" .")
            if found
            else f"know{knew['said']}".strip(" .")
            if knew
            else said
        )
        yield begin, clause


def _agent(asked: str, text: str, people: frozenset[str] = frozenset()) -> dict[str, float]:
    """Whether a sentence speaks of those whom an item asks about, of participants or assessors, or of others only. ``people``: what the report calls its participants."""
    text = _IN_BRACKETS.sub("", text)
    wanted, said = ({k for k, pattern in enumerate(_AGENTS) if pattern.search(one)} for one in (asked, text))
    if people & set(re.findall(r"[a-z]+", text.lower())):
        said.add(0)
    return {"agent": float(bool(wanted & said)), "other agent": float(bool(wanted and said and not wanted & said))}


def _place(asking: Asking, item: Asked, text: str) -> tuple[int, int, float]:
    """Where in a text the words of an item stand closest together: its most telling word, and how near the others are."""
    wanted = {stem: asking.speech.weight(stem) for stem in stems_of(item.name)} or dict.fromkeys(stems_of(item.instructions), 1.0)
    best: tuple[float, int, int] = (0.0, 0, 0)
    for word in _WORD.finditer(text):
        stem = word_stem(word[0])
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
        if (stem := word_stem(word[0])) and any(asking.speech.likeness(one, (stem,)) >= 0.7 for one in wanted)
    ]
    return (found[-1].start(), found[-1].end()) if found else None
