"""A report's own words: the short forms that it explains, and what it calls those who take part."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable

from kettlesort.core.charting.proposals.numbers import numbers
from kettlesort.core.charting.units import DIMENSIONS, of_unit

_IN_BRACKETS = re.compile(r"\(\s*(?P<short>[A-Za-z][A-Za-z0-9-]{1,9})\s*[);,]")
_OF_THE_TRADE = {
    "BMI": "body mass index", "BP": "blood pressure", "SBP": "systolic blood pressure", "DBP": "diastolic blood pressure", "QoL": "quality of life",
    "HRQoL": "health-related quality of life", "AE": "adverse events", "AEs": "adverse events", "SAE": "serious adverse events", "SAEs": "serious adverse events",
    "RCT": "randomised controlled trial", "ICU": "intensive care unit", "LOS": "length of stay", "VAS": "visual analogue scale", "Hb": "haemoglobin",
    "cv": "cultivar variety", "asl": "above sea level altitude elevation",
}  # fmt: skip
_ABOVE_SEA = re.compile(r"\ba\.\s?s\.\s?l\b\.?", re.I)
_RATIO = re.compile(r"\ba?(?:OR|HR|RR)\b(?=\s*(?:[=:,(]|of|was)?\s*\d)")
_RATIOS = {"OR": "odds ratio", "HR": "hazard ratio", "RR": "risk ratio relative risk"}
_ADJUSTED = re.compile(r"a(?=OR$|HR$|RR$)")
_JOINED = r"(?:enrol\w*|randomi[sz]ed|recruited|included|allocated|assigned|analy[sz]ed|followed|screened|studied|examined|divided|invited|treated|surveyed|interviewed|sampled|ringed|tested)"
_NOUNS = r"(?P<who>(?:(?!(?:in|of|at|from|on|with|and|to|or|by|for|the)\b)[a-z-]+\s+){0,3}?[a-z]{3,})"
_COUNTED = re.compile(
    rf"\s*{_NOUNS}(?=\s*(?:[,.;()]|(?:in|at|from|on|of|with|who|were|was|had|and|fell|died|did|to|born|aged|whose|which|treated|undergoing|receiving|living|attending|registered|admitted)\b))",
    re.I,
)
_THEN_JOINED = re.compile(
    rf"\s*{_NOUNS}(?:\s+(?:in|at|from|on|of)\s+[^.;()]{{1,50}}?)?(?:\s*\([^)]*\))?,?\s+(?:(?:were|was|had been)\s+(?:\w+ly\s+)?{_JOINED}|took\s+part|participated|agreed|consented|completed)\b",
    re.I,
)
_JOINED_BEFORE = re.compile(rf"\b{_JOINED}\s+(?:a\s+total\s+of\s+)?$", re.I)
_NOBODY = re.compile(
    r"(?:days|weeks|months|years|hours|minutes|seconds|times|units|others|homes|practices|pharmacies|herds|villages|communities|classes|pens|cases|events|patients-years|beds|groups|arms|sites|centres|centers|hospitals|clinics|schools|countries|items|questions|studies|trials|points|visits|doses|samples|records|articles|the|for|per|into|cent|females|males|boys|girls|sessions|modules|meetings|lessons|questionnaires|interviews|contacts|measurements|copies|packs|tablets|capsules|injections|cycles|courses)$",
    re.I,
)

_PLURAL = ("s", "men", "people", "children", "sheep", "fish", "mice", "cattle", "poultry")


def short_forms(texts: Iterable[str]) -> dict[str, str]:
    """What short forms stand for: as texts explain them in brackets (Schwartz and Hearst 2003, Pacific Symposium on Biocomputing), or else as the trade uses them.

    >>> short_forms(["The itch severity score (ISS) was taken weekly."])["ISS"]
    'itch severity score'
    """
    out = {}
    for text in texts:
        for found in _IN_BRACKETS.finditer(text):
            short = found["short"]
            if sum(sign.isupper() for sign in short) >= 2 and short not in out:
                before = " ".join(text[: found.start()].split()[-min(len(short) + 5, 2 * len(short)) :])
                if long := _long_form(short, before):
                    out[short] = long
    return _OF_THE_TRADE | out


def _long_form(short: str, before: str) -> str:
    """The shortest end of a text that holds the signs of a short form in order, the first at the beginning of a word; empty if there is none."""
    at = len(before)
    for k in range(len(short) - 1, -1, -1):
        if not short[k].isalnum():
            continue
        at -= 1
        while at >= 0 and (before[at].lower() != short[k].lower() or (k == 0 and at > 0 and before[at - 1].isalnum())):
            at -= 1
        if at < 0:
            return ""
    return before[at:] if len(before) - at > len(short) else ""


_NUTRIENTS = {"N": "nitrogen", "P": "phosphorus", "K": "potassium", "S": "sulphur", "C": "carbon"}
_NUTRIENT = re.compile(r"\b(kg|g|mg|t|kilograms?|grams?|tonnes?)\s([NPKSC])(?=\s?(?:/|per\b|ha\b|m[-−–⁻²2]|in\b|as\b|from\b|[,.;)]))")


def written_out(text: str) -> str:
    """A text with "a.s.l." as one word, ratios by name, and nutrients that stand behind a mass.

    >>> written_out("at 480 m a.s.l., adjusted OR 1.92, 90 kg N per ha")
    'at 480 m asl, adjusted odds ratio 1.92, 90 kg nitrogen per ha'
    """
    text = _NUTRIENT.sub(lambda found: f"{found[1]} {_NUTRIENTS[found[2]]}", text)
    return _RATIO.sub(lambda found: _RATIOS[found[0][-2:]], _ABOVE_SEA.sub("asl", text))


def ratio_of(word: str) -> str:
    """The word that tells a ratio from others, for its letters; any other word is itself.

    >>> ratio_of("aOR"), ratio_of("hive")
    ('odds', 'hive')
    """
    return _RATIOS.get(_ADJUSTED.sub("", word), word).split()[0]


def who_took_part(texts: Iterable[str]) -> frozenset[str]:
    """What a report calls those who take part in it: the one or two nouns, in small letters, that most often stand beside a number and a verb of joining.

    >>> sorted(who_took_part(["Sixty recreational runners were randomised.", "We followed 12 runners for 3 weeks."]))
    ['runners']
    """
    told: Counter[str] = Counter()
    for text in texts:
        for number in numbers(text):
            joined = _THEN_JOINED.match(text, number.end)
            if found := joined or _COUNTED.match(text, number.end):
                who = found["who"].lower().split()[-1]
                if not _NOBODY.search(who) and of_unit(who)[0] not in DIMENSIONS and who.endswith(_PLURAL):
                    told[who] += 3 if joined or _JOINED_BEFORE.search(text[: number.begin]) else 1
    return frozenset(word for word, _ in told.most_common(2))
