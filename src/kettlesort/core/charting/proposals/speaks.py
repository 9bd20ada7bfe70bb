"""How much a passage speaks of a data item: by its words, their stems and what they mean."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Sequence
from functools import lru_cache
from math import log
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from kettlesort.core.charting.proposals.items import Asked
from kettlesort.core.charting.proposals.terms import short_forms, who_took_part, written_out
from kettlesort.core.text.meaning import meanings
from kettlesort.core.text.words import stem_of, words_of

_CONCEPTS = """
die died death deaths dead mortality fatality fatal loss losses
alive survive survived survival survivor survivors living
dropout withdraw withdrew withdrawn withdrawal attrition discontinued discontinuation stopped lost traced contacted missing exclude excluded
altitude elevation asl height
blind blinded blinding mask masked masking unaware unblinded open-label
conceal concealed concealment envelope envelopes sealed opaque foresee
fund funded funding funder grant grants sponsor sponsored sponsorship supported financed financial paid pay
country nation location located setting conducted carried took site part recruited place
follow-up followup followed duration length weeks months period lasted
randomise randomised randomized randomisation randomization randomize random allocated allocate assigned assign assignment allocation sequence allotted lots
enrol enrolled enroll recruit recruited recruitment enrolment enrollment included inclusion
sample size randomised randomized randomly recruited enrolled included participated took
random randomly randomised toss coin dice lots lottery
participants participant patients patient subjects cohort people persons individuals sample hives colonies plots animals pupils students infants infant newborns neonates babies children adolescents adults volunteers respondents households families cases eyes teeth mice rats cows
adverse harm harms side-effect complications complication unwanted event events hurt harmed injured injury injuries
register registered registration registry protocol prospectively
age aged years old
female females women woman girls girl sex gender
male males men man boys boy sex gender
dose dosage dosing daily administered
site sites centre centres center centers hospital hospitals clinics multicentre
primary main principal endpoint outcome outcomes
weight mass body
baseline start beginning entry
industry industrial manufacturer maker company commercial pharmaceutical firm
consent ethics ethical committee approval approved board
power powered size calculation
analysed analyzed analysis analyses leaving remained remaining completed
previous previously earlier prior former past
open available public publicly accessible shared repository
lowest minimum youngest least smallest shortest
highest maximum oldest most largest longest
frequency often times
cultivar variety hybrid strain breed
seed seeds seeding sow sown sowing sowed drilled
replicate replicates replication replications replicated
harm adverse side-effect toxicity
intention-to-treat itt assigned
compliance adherence adherent adhered
control controls comparator comparison
begin began start started first opened
missing imputation imputed imputing carried
provider providers delivered deliver therapist therapists
exclusion exclude excluded excluding ineligible
inclusion include included eligible eligibility
end ended finish finished last closed until
cost costs price expense expenses
yield harvest harvested
design trial parallel crossover cross-over factorial cluster
conflict conflicts competing interests interest
software package program version
statistical statistics regression anova variance wilcoxon mann-whitney mixed-effects
satisfied satisfaction
pain ache
relapse recurrence recurred relapsed
heal healed healing closure closed
infection infections infected
readmission readmitted rehospitalised
respond responded response responder responders remission
"""
_CONTRARY = (("died", "alive"), ("fail", "succeed"), ("increase", "decrease"), ("gain", "loss"), ("better", "worse"))
"""Words of which the one is not the other: whoever asks for those alive is not told of those that died."""
_TIME = re.compile(
    r"(\d+|one|two|three|four|six|eight|ten|twelve|eighteen|twenty-four)[\s-]*(day|week|month|year|hour|minute|wk|mo|yr|d|h)s?\b|\b(day|week|month|year|hour)s?\s+(\d+)\b",
    re.I,
)
BASELINE = re.compile(
    r"\b(?:baseline|before treatment|at entry|pre-?\w*treatment|at the start|at inclusion|before (?:the )?(?:\w+ )?(?:programme|program|intervention|treatment|training|study|trial|surgery|operation))\b",
    re.I,
)
_NAMED = {"one": 1, "two": 2, "three": 3, "four": 4, "six": 6, "eight": 8, "ten": 10, "twelve": 12, "eighteen": 18, "twenty-four": 24}
_PLAIN = {"wk": "week", "mo": "month", "yr": "year", "d": "day", "h": "hour"}
_GENERAL = frozenset(
    [
        "number",
        "numbers",
        "of",
        "total",
        "n",
        "report",
        "reported",
        "give",
        "given",
        "state",
        "stated",
        "record",
        "as",
        "in",
        "article",
        "what",
        "which",
        "how",
        "many",
        "much",
        "was",
        "were",
        "did",
        "does",
        "value",
        "values",
        "per",
        "each",
        "group",
        "arm",
        "arms",
        "mean",
        "median",
        "sd",
        "standard",
        "deviation",
        "percent",
        "percentage",
        "proportion",
        "count",
        "counts",
        "first",
        "second",
        "two",
        "three",
        "between",
        "during",
        "after",
        "before",
        "study",
        "studies",
        "trial",
        "trials",
        "article",
        "paper",
        "authors",
        "describe",
        "described",
        "e.g.",
        "eg",
        "any",
        "all",
        "only",
        "other",
        "whether",
        "criteria",
        "criterion",
    ]
)


@lru_cache(maxsize=1)
def _concepts() -> dict[str, set[int]]:
    out: dict[str, set[int]] = {}
    for k, line in enumerate(_CONCEPTS.strip().splitlines()):
        for word in line.split():
            for stem in stems_of(word):
                out.setdefault(stem, set()).add(k)
    return out


def kin(stem: str) -> set[int]:
    """The concepts of the trade that a stem belongs to, by number: two stems that share one mean nearly the same.

    >>> bool(kin("surviv") & kin("aliv")), kin("hat")
    (True, set())
    """
    return _concepts().get(stem, set())


@lru_cache(maxsize=1)
def _method_lines() -> frozenset[int]:
    """The concepts of how a study was done, of which a name speaks first of all: blinding before assessors, funding before source."""
    concepts = _concepts()
    words = ["blind", "conceal", "fund", "randomise", "register", "consent", "itt", "power", "conflict"]
    return frozenset(min(concepts[stem]) for word in words for stem in stems_of(word) if stem in concepts)


@lru_cache(maxsize=1)
def _anybody() -> frozenset[str]:
    """Words for whoever takes part in a study, whichever that is."""
    return frozenset(
        stem
        for word in ("participants", "patients", "subjects", "individuals", "people", "sample", "persons", "cohort", "animals")
        for stem in stems_of(word)
    )


def stems_of(text: str) -> list[str]:
    """The stems of a text's words in order, without the common ones; the words of negation and number stay.

    >>> stems_of("Deaths at 12 weeks in the foam-wrapped hives")
    ['death', '12', 'week', 'foam', 'wrap', 'hive']
    """
    return list(_stems_of(text))


@lru_cache(maxsize=8192)
def _stems_of(text: str) -> tuple[str, ...]:
    return tuple(stem for word in words_of(text) if (stem := stem_of(word, "en") or (word if word.isdigit() else "")))


@lru_cache(maxsize=100_000)
def stem_of_word(word: str) -> str:
    """The stem of one word as it stands in a text; empty for a common word. A figure is itself.

    >>> stem_of_word("Colonies"), stem_of_word("the"), stem_of_word("3")
    ('coloni', '', '3')
    """
    return next(iter(stems_of(word)), "")


def word_stem(word: str) -> str:
    """The stem of a word; of words that deny, which may be all that an option says, these themselves."""
    return stem_of_word(word) or (word.lower() if word.lower() in ("no", "not", "none") else "")


def word_stems(text: str) -> list[str]:
    """The stems of a text's words as they stand there, without those of no word."""
    return [stem for word in words_of(text) if (stem := word_stem(word))]


@lru_cache(maxsize=8192)
def times_of(text: str) -> frozenset[tuple[int, str]]:
    """The points and lengths of time that a text names; the start is (0, "start").

    >>> sorted(times_of("at 12 weeks, and on day 3"))
    [(3, 'day'), (12, 'week')]
    """
    out = {(0, "start")} if BASELINE.search(text) else set()
    for match in _TIME.finditer(text):
        number, unit = (match[1], match[2]) if match[1] else (match[4], match[3])
        unit = unit.lower()
        out.add((_NAMED.get(number.lower()) or int(number) if number.isdigit() or number.lower() in _NAMED else 0, _PLAIN.get(unit, unit)))
    return frozenset(out)


def contrary(asked: str, said: str) -> bool:
    """Whether a text speaks of the contrary of what is asked, and not of that itself.

    >>> contrary("Colonies alive in spring", "12 of 40 colonies died"), contrary("Survival", "12 of 40 survived, 28 died")
    (True, False)
    """
    wanted, told = (_concepts_of(text) for text in (asked, said))
    return any((a & wanted and b & told and not a & told) or (b & wanted and a & told and not b & told) for a, b in _contraries())


def _concepts_of(text: str) -> set[object]:
    concepts = _concepts()
    return {one for stem in stems_of(text) for one in (stem, *concepts.get(stem, ()))}


@lru_cache(maxsize=1)
def _contraries() -> list[tuple[set[object], set[object]]]:
    return [(_concepts_of(a), _concepts_of(b)) for a, b in _CONTRARY]


class Spoken(NamedTuple):
    """How much a passage speaks of an item, each from 0 to 1: the share of its name's words and of its instructions' words, the likeness of sense, and whether its most telling word is there."""

    name: float
    instructions: float
    sense: float
    key: float


class Speech:
    """Passages of a report, asked how much each speaks of an item."""

    def __init__(self, passages: Sequence[str], asked: Sequence[Asked]) -> None:
        passages = [written_out(text) for text in passages]
        self.people = who_took_part(passages)
        self.people_told = frozenset(stem for word in self.people for stem in stems_of(word))
        self.people_stems = self.people_told | _anybody()
        self._long = {
            stem: tuple(stems_of(long))
            for short, long in short_forms(passages).items()
            if len(stems := stems_of(short)) == 1
            for stem in stems
        }
        self._stems = [frozenset(stems_of(text)) for text in passages]
        often = Counter(stem for one in self._stems for stem in one)
        n = max(1, len(passages))
        self._rare = {stem: log((1 + n) / (1 + times)) + 0.2 for stem, times in often.items()}
        self._unseen = log(1 + n) + 0.2
        self._asked = {item.id: (_wanted(item.name), _wanted(item.instructions) - _wanted(item.name)) for item in asked}
        long = {stem for stems in self._long.values() for stem in stems}
        every = sorted({stem for name, rest in self._asked.values() for stem in name | rest} | set(often) | long)
        self._place = {stem: k for k, stem in enumerate(every)}
        words = [f" {stem}" for stem in every]
        self._vectors = meanings(words) if words else np.zeros((0, 1), np.float32)
        sense = meanings([*(f"{item.name}. {item.instructions}" for item in asked), *passages])
        self._sense: NDArray[np.float32] = sense[: len(asked)] @ sense[len(asked) :].T
        self._row = {item.id: k for k, item in enumerate(asked)}
        self._near: dict[str, dict[str, float]] = {}
        self._unheard: dict[str, float] = {}

    def of(self, item: Asked, passage: int) -> Spoken:
        """How much one passage speaks of an item."""
        name, rest = self._asked[item.id]
        stems = self._stems[passage]
        key = self._key(name)
        sense = max(0.0, float(self._sense[self._row[item.id], passage]))
        return Spoken(self._share(name, stems), self._share(rest, stems), sense, self.likeness(key, stems) if key else 0.0)

    def unheard(self, item: Asked) -> float:
        """How little the report speaks of the most telling word of an item anywhere: 1 where it holds nothing like it."""
        if item.id not in self._unheard:
            telling = [stem for stem in self._asked[item.id][0] if self.is_telling(stem) and not stem.isdigit()]
            self._unheard[item.id] = max((1 - self.likeness(stem, self._rare) for stem in telling), default=0.0)
        return self._unheard[item.id]

    def _key(self, name: frozenset[str]) -> str:
        """The word of a name that must be spoken of: one of how a study was done, or the most telling."""
        concepts = _concepts()
        methods = [stem for stem in sorted(name) if concepts.get(stem, set()) & _method_lines()]
        return max(methods or sorted(name), key=self.weight, default="")

    def likeness(self, wanted: str, stems: Iterable[str]) -> float:
        """How near the nearest of some stems is to a wanted one: 1 the same, 0.85 of one concept, else by sense where that is close."""
        stems = list(stems)
        best = self._nearest(wanted, stems)
        if best < 1 and (long := self._long.get(wanted)):
            best = max(best, 0.95 * sum(self._nearest(one, stems) for one in long) / len(long))
        return best

    def _nearest(self, wanted: str, stems: Iterable[str]) -> float:
        near = self._near.setdefault(wanted, {})
        best = 0.0
        for stem in stems:
            if stem not in near:
                near[stem] = max(self._alike(wanted, stem), *(0.95 * self._alike(wanted, one) for one in self._long.get(stem, ())), 0.0)
            best = max(best, near[stem])
        return best

    def weight(self, stem: str) -> float:
        """How telling a stem is in this report."""
        return (self._rare.get(stem, self._unseen)) * (0.25 if stem in _GENERAL_STEMS else 1.0)

    def is_telling(self, stem: str) -> bool:
        """Whether a stem is not one of the words that stand in any item: number, mean, group."""
        return stem not in _GENERAL_STEMS

    def _alike(self, wanted: str, stem: str) -> float:
        if wanted == stem:
            return 1.0
        if wanted.isdigit() or stem.isdigit():
            return 0.0
        concepts = _concepts()
        if concepts.get(wanted, set()) & concepts.get(stem, set()):
            return 0.85
        if (wanted in self.people_told and stem in _anybody()) or (stem in self.people_told and wanted in _anybody()):
            return 0.85  # runners are this study's participants
        if stem in (f"un{wanted}", f"non{wanted}"):
            return 0.9  # what denies it
        if min(len(wanted), len(stem)) >= 5 and (wanted.startswith(stem) or stem.startswith(wanted)):
            return 0.8
        cosine = (
            float(self._vectors[self._place[wanted]] @ self._vectors[self._place[stem]])
            if stem in self._place and wanted in self._place
            else 0.0
        )
        return max(0.0, min(0.75, (cosine - 0.35) / 0.4))

    def _share(self, wanted: frozenset[str], stems: frozenset[str]) -> float:
        total = sum(self.weight(stem) for stem in wanted)
        return sum(self.weight(stem) * self.likeness(stem, stems) for stem in wanted) / total if total else 0.0


_GENERAL_STEMS = frozenset(stem for word in _GENERAL for stem in stems_of(word)) | _GENERAL


def _wanted(text: str) -> frozenset[str]:
    return frozenset(stem for stem in stems_of(text))
