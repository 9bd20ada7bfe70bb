"""Which group of a study a passage speaks of: by the codebook's words, by the report's own names for it, and by what is left."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from kettlesort.core.charting.items import COUNTED
from kettlesort.core.charting.proposals.items import Arm
from kettlesort.core.charting.proposals.speaks import stem_of_word, stems_of
from kettlesort.core.text.words import stem_of, words_of

_GENERAL = frozenset(
    stem
    for word in [
        "group",
        "groups",
        "arm",
        "arms",
        "treatment",
        "treated",
        "therapy",
        "hives",
        "colonies",
        "patients",
        "participants",
        "plots",
        "only",
        "plus",
        "with",
        "the",
    ]
    for stem in stems_of(word)
)
_CONTROL = frozenset(
    stem
    for word in [
        "control",
        "controls",
        "placebo",
        "usual",
        "standard",
        "comparator",
        "comparison",
        "untreated",
        "sham",
        "conventional",
        "none",
        "without",
        "plain",
        "ordinary",
        "routine",
        "no",
        "waiting",
    ]
    for stem in [stem_of(word, "en") or word]
)
_ACTIVE = frozenset(
    stem for word in ["intervention", "treatment", "treated", "experimental", "active", "test", "exposed"] for stem in stems_of(word)
)
_ALSO_IN_TEXT = frozenset(
    stem
    for word in ["control", "placebo", "sham", "untreated", "intervention", "experimental", "unsupplemented"]
    for stem in stems_of(word)
)
_DENIES = re.compile(r"\s*(?:no|without|not)\b", re.I)
_WITHOUT = re.compile(r"\bwithout\s+(?:(?:an?|the|any|such)\s+)?\Z", re.I)
_BARE_WITH = re.compile(r"\bwith(?=\s*(?:,|\(|and\b|or\b|but\b|against\b|versus\b|vs\b|than\b|compared\b))", re.I)
"""A "with" whose noun stands behind the "without" that follows."""
_WORD = re.compile(r"[^\W_]+(?:['’][^\W_]+)?")
_GROUP_BEHIND = re.compile(rf"\s+(?:groups?|arms?|{COUNTED})\b", re.I)
_SHORT = re.compile(
    r"\(\s*(?:the\s+)?[“\"']?([A-Z][A-Za-z0-9+-]{0,9}|[a-z]+(?:\s[a-z]+)?)[”\"']?(?:\s+(?:group|arm))?\s*(?:[,;:]\s*n\s*=\s*\d+)?\s*\)"
)


_NAME = r"((?:[A-Za-z][\w-]*\s+){0,2}?[A-Za-z][\w-]*)"
_SIZED = r"(?:\s*[(\[,]\s*n\s*=\s*\d+\s*[)\]]?)?"
_PAIRS = (
    re.compile(rf"\b(?:the|in|of)\s+{_NAME}\s+and\s+(?:the\s+)?{_NAME}\s+(?:groups?|arms?)\b", re.I),
    re.compile(
        rf"\bto\s+(?:either\s+|receive\s+)?(?:the\s+)?{_NAME}(?:\s+(?:group|arm))?{_SIZED},?\s+(?:or|and)\s+(?:\d+\s+)?(?:to\s+)?(?:the\s+)?{_NAME}(?:\s+(?:group|arm)|{_SIZED}|[.,;])",
        re.I,
    ),
    re.compile(rf"\b{_NAME}\s+(?:group|arm)?{_SIZED},?\s+(?:versus|vs\.?|compared\s+with|against)\s+(?:the\s+)?{_NAME}\b", re.I),
)
_ALONE = (
    re.compile(rf"\b(?:the|in)\s+{_NAME}\s+(?:group|arm)\b", re.I),
    re.compile(rf"\b{_NAME}(?:\s+(?:group|arm))?\s*[(\[,]\s*n\s*=\s*\d+", re.I),
)
_NO_NAME = frozenset(
    [
        "two",
        "three",
        "both",
        "other",
        "same",
        "each",
        "first",
        "second",
        "whole",
        "entire",
        "total",
        "all",
        "third",
        "age",
        "sex",
        "one",
        "either",
        "respect",
        "compar",
        "versu",
        "random",
        "assign",
        "alloc",
        "were",
        "was",
        "receiv",
        "given",
        "mean",
        "median",
        "sd",
        "n",
        "p",
    ]
)


def _names_of(text: str) -> Iterator[tuple[str, ...]]:
    """Names of groups in a text: two that stand beside each other, or one."""
    for pattern in (*_PAIRS, *_ALONE):
        for one in pattern.finditer(text):
            yield one.groups()


class Mention(NamedTuple):
    """Where a text speaks of an arm, and how surely."""

    begin: int
    end: int
    arm: int
    sure: float


class Arms:
    """The arms of an item, and what this report calls them. Words of the item itself, and those for all who take part, name no arm, but in an arm's whole name."""

    def __init__(self, arms: Sequence[Arm], texts: Sequence[str], item: frozenset[str] = frozenset()) -> None:
        self.arms = arms
        own = [frozenset(stem for phrase in arm.phrases if not _DENIES.match(phrase) for stem in _stems(phrase)) for arm in arms]
        self._own = [
            frozenset(
                stem
                for stem in mine
                if stem not in _GENERAL and stem not in item and not any(stem in other for k, other in enumerate(own) if k != at)
            )
            for at, mine in enumerate(own)
        ]
        self._phrases = [frozenset(phrase.lower() for phrase in arm.phrases if len(phrase) > 1) for arm in arms]
        self._sequences = sorted(
            ((stems, k) for k, arm in enumerate(arms) for phrase in arm.phrases if (stems := _named(phrase))),
            key=lambda pair: -len(pair[0]),
        )
        self._sequences = [
            (stems, k) for stems, k in self._sequences if sum(other == stems and j != k for other, j in self._sequences) == 0
        ]
        self._capitals = frozenset(p.lower() for arm in arms for p in arm.phrases if 2 <= len(p) <= 5 and p.isalpha() and p.isupper())
        self._role = [_role(arm) for arm in arms]
        self._aliases: list[dict[str, float]] = [{} for _ in arms]
        self._found: dict[tuple[str, bool, bool], list[Mention]] = {}
        self._learn(texts)
        self._found.clear()  # what was found before all names were learnt
        self.order: list[Mention] | None = None
        """The order in which the report names the arms, once it is known."""

    def _learn(self, texts: Sequence[str]) -> None:
        """The report's own names: an abbreviation in brackets after an arm was named, and the words of its role."""
        for role, words in (("control", _CONTROL), ("active", _ACTIVE)):
            if self._role.count(role) == 1:
                for stem in words:
                    self._aliases[self._role.index(role)].setdefault(stem, 0.6)
        for text in texts:
            for match in _SHORT.finditer(text):
                before = text[max(0, match.start() - 45) : match.start()]
                near = [m for m in self.mentions(before, aliases=False) if re.fullmatch(r"[\w\s-]{0,25}", before[m.end :])]
                name = match[1].lower()
                if near and not name.isdigit() and name not in ("n", "sd", "table", "figure", "p", "yes", "no"):
                    stems = _stems(name)
                    if stems and not any(stem in own for own in self._own for stem in stems):
                        for stem in stems:
                            if stem not in _GENERAL:
                                self._aliases[near[-1].arm][stem] = 0.9
        self._learn_names(texts)
        taken = [frozenset(aliase) for aliase in self._aliases]
        for at, alias in enumerate(self._aliases):
            for stem in list(alias):
                if any(stem in one for k, one in enumerate(taken) if k != at and self._aliases[k].get(stem, 0) >= alias[stem]):
                    del alias[stem]

    def _learn_names(self, texts: Sequence[str]) -> None:
        """Names of groups that the report uses and the codebook does not: those that stand beside a known arm's name are the other arm's."""
        known: set[int] = set()
        unknown: Counter[tuple[int | None, tuple[str, ...]]] = Counter()
        pairs: Counter[tuple[tuple[str, ...], tuple[str, ...]]] = Counter()
        for text in texts:
            for names in _names_of(text):
                called = [tuple(s for s in _named(name) if s not in _NO_NAME and not s.isdigit() and s != "a") for name in names]
                found = [named[0] if (named := self.one_of(name)) else None for name in names]
                known |= {arm for arm in found if arm is not None}
                beside = next((arm for arm in found if arm is not None), None)
                for its, arm in zip(called, found, strict=True):
                    if arm is None and its:
                        unknown[beside if len(names) == 2 else None, its] += 1
                if len(names) == 2 and found == [None, None] and all(called):
                    pairs[called[0], called[1]] += 1
        left = [k for k in range(len(self.arms)) if k not in known]
        for (beside, its), _ in unknown.most_common():
            free = (
                left
                if len(left) == 1
                else [k for k in range(len(self.arms)) if k != beside]
                if beside is not None and len(self.arms) == 2
                else []
            )
            if len(free) == 1:
                for stem in its:
                    if not any(stem in own for own in self._own):
                        self._aliases[free[0]].setdefault(stem, 0.85)
        if not known and pairs and len(self.arms) == 2 and sorted(self._role) == ["active", "control"]:
            for its, role in zip(pairs.most_common(1)[0][0], ("active", "control"), strict=True):
                for stem in its:
                    self._aliases[self._role.index(role)].setdefault(stem, 0.55)

    def mentions(self, text: str, aliases: bool = True, label: bool = False) -> list[Mention]:
        """Where a text speaks of arms, in order; one arm said in several words beside each other is one mention.

        In a label, other than in a sentence, words such as "standard" and "treated" name an arm too.
        """
        at = (text, aliases, label)
        if at not in self._found:
            self._found[at] = self._mentions(*at)
        return list(self._found[at])

    def _mentions(self, text: str, aliases: bool, label: bool) -> list[Mention]:
        out: list[Mention] = []
        words = list(_WORD.finditer(text))
        stems = [
            "" if word[0].lower() in self._capitals and not word[0].isupper() else _own_stem(word[0]) for word in words
        ]  # OR is not or
        until = 0
        for at, (word, stem) in enumerate(zip(words, stems, strict=True)):
            if at < until:
                continue
            found: tuple[int, float] | None = None
            end = word.end()
            for sequence, k in self._sequences:
                if stem == sequence[0] and (last := _runs_to(sequence, stems, at)) is not None:
                    found, until = (k, 1.0), last + 1
                    end = words[last].end()
                    break
            if found is None:
                for k, own in enumerate(self._own):
                    if stem in own:
                        found = (k, 1.0)
                if found and stem in ("no", "without") and not self._goes_on(found[0], text[word.end() : word.end() + 30]):
                    continue
            if found is None and aliases:
                options = [
                    (sure, k)
                    for k, alias in enumerate(self._aliases)
                    if (sure := alias.get(stem, 0.0))
                    and (label or sure > 0.6 or stem in _ALSO_IN_TEXT or _GROUP_BEHIND.match(text, word.end()))
                ]
                if options:
                    found = (max(options)[1], max(options)[0])
            if found is None or (out and out[-1].arm != found[0] and text[out[-1].end : word.start()] == "-"):
                continue  # a compound is named by its first part
            if (
                out
                and out[-1].arm == found[0]
                and word.start() - out[-1].end <= 14
                and not re.search(r"[;.\d]", text[out[-1].end : word.start()])
            ):
                out[-1] = Mention(out[-1].begin, end, found[0], max(out[-1].sure, found[1]))
            else:
                out.append(Mention(word.start(), end, *found))
        return out if len(self.arms) != 2 else self._with_and_without(text, out)

    def _with_and_without(self, text: str, mentions: list[Mention]) -> list[Mention]:
        """Of two arms those without the one are the other: "47 years with and 48 years without a reminder"."""
        out: list[Mention] = []
        for mention in mentions:
            denied = _WITHOUT.search(text, 0, mention.begin)
            if denied is None or any(re.match(r"(?:no|without)\b", phrase) for phrase in self._phrases[mention.arm]):
                out.append(mention)
                continue
            bare = [one for one in _BARE_WITH.finditer(text, 0, denied.start()) if not out or one.start() >= out[-1].end]
            if bare:
                out.append(Mention(bare[-1].start(), bare[-1].end(), mention.arm, mention.sure))
            out.append(Mention(denied.start(), mention.end, 1 - mention.arm, mention.sure))
        return out

    def _goes_on(self, arm: int, after: str) -> bool:
        """Whether a "no" is that of an arm's name: the next words are of it."""
        own = {stem for phrase in self.arms[arm].phrases for stem in _stems(phrase)} - {"no", "without"}
        return any(_own_stem(word) in own for word in after.split()[:2])

    def one_of(self, text: str) -> tuple[int, float] | None:
        """The one arm that a label speaks of, and how surely; None if it speaks of none, or of several alike."""
        exact = [k for k, phrases in enumerate(self._phrases) if _bare(text) in phrases]
        if len(exact) == 1:
            return exact[0], 1.0
        begun = [
            k
            for k, phrases in enumerate(self._phrases)
            if any(re.match(rf"{re.escape(phrase)}(?!\w)", text.strip(), re.I) for phrase in phrases)
        ]
        if len(begun) == 1 and not self._own[begun[0]]:
            return begun[0], 0.9  # > 2 hours, whose words are those of the other arm too
        score = [0.0] * len(self.arms)
        for mention in self.mentions(text, label=True):
            score[mention.arm] += mention.sure
        best = max(range(len(score)), key=lambda k: score[k], default=None)
        if best is None or not score[best] or sorted(score)[-1] - (sorted(score)[-2] if len(score) > 1 else 0) < 0.25:
            return None
        others = sum(score) - score[best]
        return best, min(1.0, score[best]) if not others else 0.5

    def assign(self, labels: Sequence[str]) -> dict[int, tuple[int, float]]:
        """Which of some labels (of columns, of rows) stands for which arm: label → arm and how surely. What is left goes to the arm that is left."""
        found = {k: arm for k, label in enumerate(labels) if not _NO_GROUP_AT_END.search(label) and (arm := self.one_of(label))}
        for k, label in enumerate(labels):
            if k not in found and k - 1 in found and _STATISTIC.fullmatch(label.strip()):
                found[k] = found[k - 1]
        taken = {arm for arm, _ in found.values()}
        free = [k for k in range(len(self.arms)) if k not in taken]
        left = [k for k, label in enumerate(labels) if k not in found and _is_group(label)]
        if len(free) == 1 and left and found:
            for k in left if len(left) == 1 else []:
                found[k] = (free[0], 0.6)
        return found


def _runs_to(sequence: Sequence[str], stems: Sequence[str], at: int) -> int | None:
    """Where the last of some stems stands that follow each other from a place on, with at most one common word between two; None where they do not."""
    for wanted in sequence[1:]:
        at += 1 if at + 1 < len(stems) and stems[at + 1] else 2
        if at >= len(stems) or stems[at] != wanted:
            return None
    return at


_NO_GROUP = re.compile(
    r"\b(?:p|p[- ]values?|difference|ratio|ci|95|total|all|overall|mean difference|effect|unit|test|estimate|outcome|variable|characteristic|statistic)\b",
    re.I,
)


_NO_GROUP_AT_END = re.compile(r"(?:\bp(?:[- ]?values?)?|\bdifference|\bratio|\bci)\W*$", re.I)
_STATISTIC = re.compile(r"\(?(?:sd|s\.d\.|se|sem|n|no\.?|%|range|iqr|min\w*|max\w*|total|mean|median|95\s?% ?ci)\)?", re.I)


def _is_group(label: str) -> bool:
    return bool(label.strip()) and not _NO_GROUP.search(label)


def _bare(label: str) -> str:
    """A label without the size of its group and the words for a group.

    >>> _bare("Foam wrap group (n = 40)")
    'foam wrap'
    """
    return re.sub(r"\s*(?:[(\[,]?\s*n\s*[=:]\s*[\d\s,]+[)\]]?|\b(?:group|arm)\b)", "", label, flags=re.I).strip(" ,;:").lower()


def _own_stem(word: str) -> str:
    """The stem of a word, or the word itself where it is a common one that may name a group."""
    return stem_of_word(word) or next(iter(words_of(word)), "")


def _stems(phrase: str) -> list[str]:
    """The stems of a name; of one that is made of common words only, such as "before", these."""
    words = words_of(phrase)
    told = [
        stem
        for word in words
        if (stem := stem_of(word, "en") or (word if word in ("no", "without", "a", "b", "c", "x", "y") or word in _CONTROL else ""))
    ]
    return told or words


def _named(phrase: str) -> tuple[str, ...]:
    """The stems of a name, without the words for any group."""
    return tuple(stem for stem in _stems(phrase) if stem not in _GENERAL)


def _role(arm: Arm) -> str:
    stems = {stem for phrase in arm.phrases for stem in _stems(phrase)}
    if stems & _CONTROL:
        return "control"
    return "active"
