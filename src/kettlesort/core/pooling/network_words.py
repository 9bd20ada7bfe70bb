"""A network of treatments in words, for the methods and the results of a report."""

from __future__ import annotations

from collections.abc import Sequence

from kettlesort.core.pooling.analysis import How
from kettlesort.core.pooling.models import Estimate
from kettlesort.core.pooling.network import Apart, Network
from kettlesort.core.pooling.words import NAMES, Cited, LeftOut, Words, chance, interval_in_words, left_aside


def network_written(
    how: How, item: str, treatments: Sequence[str], k: int, parts: int, found: Network, against_first: Sequence[tuple[str, Estimate]], apart: Sequence[Apart],
    ranking: Sequence[tuple[str, float]], missing: Sequence[str], left_out: LeftOut, version: str,
) -> Words:  # fmt: skip
    """A network in words: ``against_first`` each treatment against the reference, ``ranking`` with P-scores, the best first."""
    cited = Cited()
    way = (
        f"with a common τ² by {'restricted maximum likelihood' if how.model.tau2 == 'REML' else 'the method of DerSimonian and Laird'}"
        if how.model.random
        else "with fixed effects"
    )
    methods = [
        f"{len(treatments)} treatments were compared at once for {item}, by {NAMES[how.measure]}s, with {treatments[0]} as reference.",
        f"The network was fitted by generalised least squares over what each study contrasts, with the covariance that arms of a study share{cited(21)}{cited(22)}, {way}.",
        f"The studies that compare two treatments were set against the network of those that do not{cited(23)}; Q was divided into what is within and between designs{cited(21)}.",
        f"Treatments were ranked by P-scores{cited(24)}, and by their ranks in 20,000 draws from the estimated distribution{cited(25)}.",
        f"Intervals are at {100 * how.model.level:g} %. All was worked out with Kettle Sort {version}.",
    ]
    results = [
        f"The network holds {k} {'study' if k == 1 else 'studies'}"
        + (f"; it falls apart into {parts} parts, and figures are of the one with {treatments[0]}." if parts > 1 else ".")
    ]
    results.append("; ".join(f"{name} against {treatments[0]}: {interval_in_words(one, how)}" for name, one in against_first) + ".")
    spread = [f"Q was {found.q.total:.2f} on {found.q.df} degrees (p {chance(found.q.p)})"]
    if how.model.random:
        spread.append(f"τ² {found.tau2:.3g}")
    if found.between.df:
        spread.append(f"between designs {found.between.total:.2f} on {found.between.df} (p {chance(found.between.p)})")
    results.append(", ".join(spread) + ".")
    differing = [one for one in apart if one.difference and one.difference.p is not None and one.difference.p < 0.05]
    both = [one for one in apart if one.difference]
    if both:
        names = "; ".join(
            f"{treatments[one.a]} and {treatments[one.b]} (p {chance(one.difference.p)})" for one in differing if one.difference
        )
        results.append(
            f"Of {len(both)} comparisons with direct and indirect evidence {len(differing) or 'none'} differed at 5 %{f': {names}' if names else ''}."
        )
    if ranking:
        results.append("By P-score: " + ", ".join(f"{name} {score:.2f}" for name, score in ranking) + ".")
    return Words(" ".join(methods), " ".join(results + left_aside(missing, left_out)), cited.sources)
