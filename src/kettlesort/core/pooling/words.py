"""An analysis in words, for the methods and the results of a report: written from what was pooled, with its figures and sources."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from typing import NamedTuple

from kettlesort.core.pooling.analysis import OF_COUNTS, How
from kettlesort.core.pooling.closer import Between
from kettlesort.core.pooling.models import Pooled

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
}  # fmt: skip
"""The sources of `docs/pooling.md` that methods name, by the number that they have there."""


class About(NamedTuple):
    """What an analysis is about, in words: the item, with its outcome and time, the two sides, and what groups are made by; "" where there is none."""

    item: str
    one: str = ""
    other: str = ""
    groups: str = ""


class Words(NamedTuple):
    """Two paragraphs, and the sources that they name, by number."""

    methods: str
    results: str
    sources: tuple[tuple[int, str], ...]


def written(
    how: How,
    about: About,
    pooled: Pooled,
    groups: Sequence[tuple[str, Pooled]],
    between: Between | None,
    missing: Sequence[str],
    left_out: int,
    version: str,
) -> Words:
    """An analysis in words. ``missing``: why studies could not be pooled, once for each; ``left_out``: how many the team left out.

    >>> from kettlesort.core.pooling.models import pool
    >>> import numpy as np
    >>> said = written(How("RR"), About("Survived", "Wrapped", "Plain"), pool(np.array([0.1, 0.2]), np.array([0.01, 0.02])), [], None, [], 0, "1")
    >>> said.results[:72]
    '2 studies gave a risk ratio for Survived of 1.14 (95 % interval 0.97 to '
    """
    named: list[int] = []

    def cited(number: int) -> str:
        if number not in named:
            named.append(number)
        return f" [{named.index(number) + 1}]"

    sides = f" of {about.one} against {about.other}" if about.one else ""
    methods = [f"Effects are {NAMES[how.measure]}s{sides} for {about.item}."]
    if how.measure == "SMD":
        methods.append(f"They are Hedges’ g with the exact correction{cited(1)}.")
    if how.measure in OF_COUNTS and how.weights == "iv":
        rest = "got" if how.measure != "RD" else "whose variance would be 0 got, in the variance alone,"
        methods.append(f"A study with a zero cell {rest} {how.correction:g} in each of its cells.")
    if how.model.random:
        name, number = _TAU2[how.model.tau2]
        methods.append(f"They were pooled by random effects with inverse variance weights; τ² was estimated by {name}{cited(number)}.")
    elif how.weights == "mh":
        methods.append(f"They were pooled by fixed effects after Mantel and Haenszel{cited(2 if how.measure == 'OR' else 3)}.")
    elif how.weights == "peto":
        methods.append(f"They were pooled by fixed effects after Peto{cited(4)}.")
    else:
        methods.append("They were pooled by fixed effects with inverse variance weights.")
    kind = f"are those of Hartung and Knapp{cited(10)}" if how.model.hk else "are normal ones"
    methods.append(f"Intervals {kind}, at {100 * how.model.level:g} %.")
    methods.append(f"Heterogeneity is told by Q and by I² = max(0, (Q − df) / Q){cited(12)}.")
    if pooled.prediction:
        methods.append(f"The prediction interval has t on k − 2 degrees{cited(11)}.")
    if groups:
        methods.append(f"Studies were grouped by {about.groups}; each group has its own τ², and groups were compared by Q between them.")
    methods.append(f"All was worked out with Kettle Sort {version}.")
    results = [f"{_studies(pooled.k)} gave {_a(NAMES[how.measure])} for {about.item} of {_figure(pooled, how)}."]
    if pooled.k > 1:
        spread = f"Q was {pooled.q:.2f} on {pooled.q_df} degrees (p {chance(pooled.q_p)}), I² {pooled.i2:.0f} %, τ² {pooled.tau2:.3g}"
        results.append(f"{spread}{_predicted(pooled, how)}.")
    if groups:
        each = "; ".join(f"{name}, {_figure(group, how)} in {_studies(group.k).lower()}" for name, group in groups)
        test = (
            f" Between groups Q was {between.q:.2f} on {between.q_df} (p {chance(between.q_p)})."
            if between and between.q is not None
            else ""
        )
        results.append(f"By {about.groups}: {each}.{test}")
    if missing:
        whys = "; ".join(f"{why} ({n})" for why, n in Counter(missing).most_common())
        results.append(f"{_studies(len(missing))} could not be pooled: {whys}.")
    if left_out:
        results.append(f"{_studies(left_out)} {'was' if left_out == 1 else 'were'} left out by the team.")
    return Words(" ".join(methods), " ".join(results), tuple((k, SOURCES[number]) for k, number in enumerate(named, 1)))


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


def _studies(n: int) -> str:
    return "One study" if n == 1 else f"{n} studies"


def _a(name: str) -> str:
    return f"{'an' if name[0] in 'aeiou' else 'a'} {name}"


def _scaled(value: float, how: How) -> str:
    return f"{math.exp(value) if how.ratio and value < 700 else value:.2f}".replace("-", "−")


def _figure(pooled: Pooled, how: How) -> str:
    said = _scaled(pooled.pooled.estimate, how)
    if pooled.pooled.ci is None:
        return said
    low, high = (_scaled(end, how) for end in pooled.pooled.ci)
    return f"{said} ({100 * how.model.level:g} % interval {low} to {high}; p {chance(pooled.pooled.p)})"


def _predicted(pooled: Pooled, how: How) -> str:
    if pooled.prediction is None:
        return ""
    low, high = (_scaled(end, how) for end in pooled.prediction)
    return f"; a new study would lie between {low} and {high}"


def chance(p: float | None) -> str:
    """A p value as it is written."""
    return "not defined" if p is None else "< 0.001" if p < 0.001 else f"{p:.3f}"
