"""An analysis in words, for the methods and the results of a report: written from what was pooled, with its figures and sources."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from typing import NamedTuple

from kettlesort.core.pooling.analysis import OF_COUNTS, How
from kettlesort.core.pooling.closer import RESIDUAL, Between, Regression
from kettlesort.core.pooling.models import Estimate, Pooled

NAMES = {
    "OR": "odds ratio", "RR": "risk ratio", "RD": "risk difference", "MD": "mean difference", "SMD": "standardised mean difference", "GEN": "estimate",
}  # fmt: skip
_TAU2 = {
    "REML": ("restricted maximum likelihood", 9), "ML": ("maximum likelihood", 9), "DL": ("the method of DerSimonian and Laird", 5),
    "PM": ("the method of Paule and Mandel", 6), "HE": ("the method of Hedges", 7), "SJ": ("the method of Sidik and Jonkman", 8),
}  # fmt: skip
SOURCES = {
    1: "Hedges LV. J Educ Stat 1981;6:107-128.", 2: "Robins J, Breslow N, Greenland S. Biometrics 1986;42:311-323.", 3: "Greenland S, Robins JM. Biometrics 1985;41:55-68.",
    4: "Yusuf S et al. Prog Cardiovasc Dis 1985;27:335-371.", 5: "DerSimonian R, Laird N. Control Clin Trials 1986;7:177-188.", 6: "Paule RC, Mandel J. J Res Natl Bur Stand 1982;87:377-385.",
    7: "Hedges LV. Psychol Bull 1983;93:388-395.", 8: "Sidik K, Jonkman JN. J R Stat Soc C 2005;54:367-384.", 9: "Viechtbauer W. J Educ Behav Stat 2005;30:261-293.",
    10: "Hartung J, Knapp G. Stat Med 2001;20:3875-3889.", 11: "Higgins JPT, Thompson SG, Spiegelhalter DJ. J R Stat Soc A 2009;172:137-159.", 12: "Higgins JPT, Thompson SG. Stat Med 2002;21:1539-1558.",
    13: "Knapp G, Hartung J. Stat Med 2003;22:2693-2710.", 17: "Thompson SG, Higgins JPT. Stat Med 2002;21:1559-1573.",
    21: "Rücker G. Res Synth Methods 2012;3:312-324.", 22: "Lu G, Ades AE. Stat Med 2004;23:3105-3124.", 23: "Dias S et al. Stat Med 2010;29:932-944.",
    24: "Rücker G, Schwarzer G. BMC Med Res Methodol 2015;15:58.", 25: "Salanti G, Ades AE, Ioannidis JPA. J Clin Epidemiol 2011;64:163-171.",
    26: "Higgins JPT, Eldridge S, Li T. In: Cochrane Handbook for Systematic Reviews of Interventions, 23.3.4.",
}  # fmt: skip
"""The sources of `docs/pooling.md` that methods name, by the number that they have there."""


class About(NamedTuple):
    """What an analysis is about, in words: the item, with its outcome and time, the two sides, and what groups are made by; "" where there is none. ``split``: each
    arm of the first side has its part of the other, and ``studies`` of them make the comparisons that are pooled. ``only``: what studies must have, as in "Design:
    Cohort"."""

    item: str
    one: str = ""
    other: str = ""
    groups: str = ""
    split: bool = False
    only: str = ""
    studies: int | None = None


class LeftOut(NamedTuple):
    """What the team left out: whole studies, and single comparisons of others."""

    studies: int = 0
    parts: int = 0


class Explained(NamedTuple):
    """A meta-regression on moderators by name, of ``k`` studies."""

    names: Sequence[str]
    k: int
    regression: Regression


class Words(NamedTuple):
    """Two paragraphs, and the sources that they name, by number."""

    methods: str
    results: str
    sources: tuple[tuple[int, str], ...]


def written(
    how: How, about: About, pooled: Pooled, groups: Sequence[tuple[str, Pooled]], between: Between | None, missing: Sequence[str], left_out: LeftOut, version: str,
    explained: Explained | None = None,
) -> Words:  # fmt: skip
    """An analysis in words. ``missing``: why studies could not be pooled, once for each; ``left_out``: what the team left out.

    >>> from kettlesort.core.pooling.models import pool
    >>> import numpy as np
    >>> said = written(How("RR"), About("Survived", "Wrapped", "Plain"), pool(np.array([0.1, 0.2]), np.array([0.01, 0.02])), [], None, [], LeftOut(), "1")
    >>> said.results[:72]
    '2 studies gave a risk ratio for Survived of 1.14 (95 % interval 0.97 to '
    """
    cited = Cited()
    methods = [*_effects(how, about, cited), *_pooling(how, cited)]
    if pooled.prediction:
        methods.append(f"The prediction interval has t on k − 2 degrees{cited(11)}.")
    if groups:
        methods.append(f"Studies were grouped by {about.groups}; each group has its own τ², and groups were compared by Q between them.")
    if explained:
        residual = how.model.tau2 if how.model.tau2 in RESIDUAL else "REML"
        way = f", τ² of the residuals by {_TAU2[residual][0]}" if how.model.random else ""
        tested = f", with t and F after Knapp and Hartung{cited(13)}" if how.model.hk else ""
        methods.append(f"Effects were regressed on {_and(explained.names)} with inverse variance weights{cited(17)}{way}{tested}.")
    methods.append(f"All was worked out with Kettle Sort {version}.")
    results = [f"{counted(pooled.k, about.studies)} gave {_a(NAMES[how.measure])} for {about.item} of {_figure(pooled, how)}."]
    if pooled.k > 1:
        spread = f"Q was {pooled.q:.2f} on {pooled.q_df} degrees (p {chance(pooled.q_p)}), I² {pooled.i2:.0f} %, τ² {pooled.tau2:.3g}"
        results.append(f"{spread}{_predicted(pooled, how)}.")
    if groups:
        each = "; ".join(
            f"{name}, {_figure(group, how)} in {counted(group.k, 0 if about.split else None).lower()}" for name, group in groups
        )
        q = between.q if between else None
        test = "" if q is None or between is None else f" Between groups Q was {q:.2f} on {between.q_df} (p {chance(between.q_p)})."
        results.append(f"By {about.groups}: {each}.{test}")
    if explained:
        results.append(_regressed(explained, how))
    return Words(" ".join(methods), " ".join(results + left_aside(missing, left_out)), cited.sources)


class Cited:
    """Sources in the order in which a text names them."""

    def __init__(self) -> None:
        self._named: list[int] = []

    def __call__(self, number: int) -> str:
        """A source of `SOURCES` as the text names it."""
        if number not in self._named:
            self._named.append(number)
        return f" [{self._named.index(number) + 1}]"

    @property
    def sources(self) -> tuple[tuple[int, str], ...]:
        """What was named, numbered."""
        return tuple((k, SOURCES[number]) for k, number in enumerate(self._named, 1))


def _effects(how: How, about: About, cited: Cited) -> list[str]:
    sides = f" of {about.one} against {about.other}" if about.one else ""
    said = [f"Effects are {NAMES[how.measure]}s{sides} for {about.item}{f', of studies with {about.only}' if about.only else ''}."]
    if about.split:
        said.append(f"Each arm of a study is a comparison of its own; the group that they share is divided evenly among them{cited(26)}.")
    if how.measure == "SMD":
        said.append(f"They are Hedges’ g with the exact correction{cited(1)}.")
    if how.measure in OF_COUNTS and how.weights == "iv":
        rest = "got" if how.measure != "RD" else "whose variance would be 0 got, in the variance alone,"
        said.append(f"A study with a zero cell {rest} {how.correction:g} in each of its cells.")
    return said


def _pooling(how: How, cited: Cited) -> list[str]:
    if how.model.random:
        name, number = _TAU2[how.model.tau2]
        said = [f"They were pooled by random effects with inverse variance weights; τ² was estimated by {name}{cited(number)}."]
    elif how.weights == "mh":
        said = [f"They were pooled by fixed effects after Mantel and Haenszel{cited(2 if how.measure == 'OR' else 3)}."]
    elif how.weights == "peto":
        said = [f"They were pooled by fixed effects after Peto{cited(4)}."]
    else:
        said = ["They were pooled by fixed effects with inverse variance weights."]
    kind = f"are those of Hartung and Knapp{cited(10)}" if how.model.hk else "are normal ones"
    said.append(f"Intervals {kind}, at {100 * how.model.level:g} %.")
    said.append(f"Heterogeneity is told by Q and by I² = max(0, (Q − df) / Q){cited(12)}.")
    return said


def _regressed(explained: Explained, how: How) -> str:
    """What a meta-regression came to; a coefficient of a ratio is told as the ratio for one unit more."""
    parts = []
    for name, one in zip(explained.names, explained.regression.coefficients[1:], strict=True):
        low, high = (scaled(end, how, 3) for end in one.ci or (one.estimate, one.estimate))
        parts.append(f"{name}, {scaled(one.estimate, how, 3)} for one more ({low} to {high}; p {chance(one.p)})")
    scale = "a factor of" if how.ratio else "a difference of"
    r2 = "" if explained.regression.r2 is None else f"; R² {explained.regression.r2:.0f} %"
    rest = f"what is left: Q {explained.regression.qe:.2f} on {explained.regression.qe_df} (p {chance(explained.regression.qe_p)})"
    return f"In {counted(explained.k).lower()}, by {scale}: {'; '.join(parts)}{r2}; {rest}."


def left_aside(missing: Sequence[str], left_out: LeftOut) -> list[str]:
    """What is not pooled, in words: why it could not be, and what the team left out."""
    said = []
    if missing:
        whys = "; ".join(f"{why} ({n})" for why, n in Counter(missing).most_common())
        said.append(f"{counted(len(missing))} could not be pooled: {whys}.")
    for n, words in ((left_out.studies, counted(left_out.studies)), (left_out.parts, counted(left_out.parts, 0))):
        if n:
            said.append(f"{words} {'was' if n == 1 else 'were'} left out by the team.")
    return said


def model(how: How) -> str:
    """What a model is called.

    >>> from kettlesort.core.pooling.models import Model
    >>> model(How("OR")), model(How("OR", Model(random=False), "mh"))
    ('Random effects, REML', 'Fixed effects, Mantel-Haenszel')
    """
    if how.model.random:
        return f"Random effects, {how.model.tau2}{', Hartung-Knapp' if how.model.hk else ''}"
    return f"Fixed effects{_WEIGHTS[how.weights]}"


_WEIGHTS = {"iv": "", "mh": ", Mantel-Haenszel", "peto": ", Peto"}


def counted(n: int, studies: int | None = None) -> str:
    """So many studies in words, or so many comparisons that ``studies`` make, where it is more than one for each (0: nobody says of how many).

    >>> counted(1), counted(4), counted(6, 4), counted(1, 0)
    ('One study', '4 studies', '6 comparisons of 4 studies', 'One comparison')
    """
    if studies is None or studies == n:
        return "One study" if n == 1 else f"{n} studies"
    said = "One comparison" if n == 1 else f"{n} comparisons"
    return f"{said} of {counted(studies).lower()}" if studies else said


def _a(name: str) -> str:
    return f"{'an' if name[0] in 'aeiou' else 'a'} {name}"


def _and(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def scaled(value: float, how: How, digits: int = 2) -> str:
    """A figure on the scale of the measure, with a true minus."""
    return f"{math.exp(value) if how.ratio and value < 700 else value:.{digits}f}".replace("-", "−")


def _figure(pooled: Pooled, how: How) -> str:
    return interval_in_words(pooled.pooled, how)


def interval_in_words(estimate: Estimate, how: How) -> str:
    """An estimate with its interval and p, on the scale of the measure."""
    said = scaled(estimate.estimate, how)
    if estimate.ci is None:
        return said
    low, high = (scaled(end, how) for end in estimate.ci)
    return f"{said} ({100 * how.model.level:g} % interval {low} to {high}; p {chance(estimate.p)})"


def _predicted(pooled: Pooled, how: How) -> str:
    if pooled.prediction is None:
        return ""
    low, high = (scaled(end, how) for end in pooled.prediction)
    return f"; a new study would lie between {low} and {high}"


def chance(p: float | None) -> str:
    """A p value as it is written."""
    return "not defined" if p is None else "< 0.001" if p < 0.001 else f"{p:.3f}"
