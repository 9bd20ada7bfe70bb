"""Several treatments compared in one network of studies."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.special import chdtrc, ndtr

from kettlesort.core.pooling.models import Estimate, crossing, interval

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


class Arms(NamedTuple):
    """The arms of one study: numbers of treatments, each once, what is seen in each on the scale of the measure, and its variance."""

    treatments: Ints
    y: Floats
    v: Floats


class Spread(NamedTuple):
    """Cochran's Q, its degrees and p; p None on no degrees."""

    total: float
    df: int
    p: float | None


class Network(NamedTuple):
    """``effects`` (T,) of the treatments against the first, ``covariance`` (T, T), ``tau2``, and Q of all, within and between designs with fixed weights."""

    effects: Floats
    covariance: Floats
    tau2: float
    q: Spread
    within: Spread
    between: Spread

    def against(self, a: int, b: int, level: float) -> Estimate:
        """Treatment a against b."""
        c = self.covariance
        return interval(float(self.effects[a] - self.effects[b]), math.sqrt(max(0.0, c[a, a] + c[b, b] - 2 * c[a, b])), level)


def seen_in(measure: str, events: float, total: float) -> tuple[float, float]:
    """What is seen in an arm and its variance: log odds, log risk or risk. Infinite where a cell is empty (OR, RR)."""
    others = total - events
    if measure == "OR":
        return math.log(events) - math.log(others), 1 / events + 1 / others
    if measure == "RR":
        return math.log(events) - math.log(total), others / (events * total)
    return events / total, events * others / total**3


def all_seen(measure: str, arms: Sequence[Sequence[float]], correction: float = 0.5) -> list[tuple[float, float]] | str:
    """What is seen in each arm of a study, with its variance, on the scale of OR, RR, RD or MD; or why the study can be compared with none.

    An arm is events and total, above 0, or for MD mean, SD and n, above 0. A zero cell adds the ``correction`` to every cell of the study (OR, RR); for RD it enters the
    variance alone, of an arm whose variance is 0.
    """
    if len(arms) < 2:
        return "has one arm, and nothing to compare it with"
    if measure == "MD":
        if any(sd == 0 for _, sd, _ in arms):
            return "has an arm with an SD of 0"
        return [(mean, sd**2 / n) for mean, sd, n in arms]
    cells = [(events, total - events) for events, total in arms]
    if measure in ("OR", "RR") and all(events == 0 for events, _ in cells):
        return "has no event"
    if measure == "OR" and all(others == 0 for _, others in cells):
        return "has events in everybody"
    more = correction if measure != "RD" and any(0 in pair for pair in cells) else 0.0
    seen = []
    for events, others in cells:
        y, v = seen_in(measure, events + more, events + others + 2 * more)
        if v == 0:  # RD alone
            _, v = seen_in(measure, events + correction, events + others + 2 * correction)
        seen.append((y, v))
    return seen


def components(count: int, studies: Sequence[Arms]) -> list[list[int]]:
    """The parts of a network that hang together, each in the order of its treatments."""
    part = list(range(count))
    for study in studies:
        joined = {part[k] for k in study.treatments.tolist()}
        part = [min(joined) if p in joined else p for p in part]
    return [[k for k in range(count) if part[k] == p] for p in sorted(set(part))]


def compare(count: int, studies: Sequence[Arms], method: str | None) -> Network:
    """Fit a connected network of ``count`` ≥ 2 treatments by generalised least squares; ``method`` REML or DL for a common τ², None for fixed effects.

    Arms of a study share a level of their own, which is what contrasts with shared arms and a correlation of ½ amount to (Lu G, Ades AE. Stat Med
    2004;23:3105-3124; Rücker G. Res Synth Methods 2012;3:312-324).
    """
    batches = _batched(studies)
    fixed = _fit(count, batches, 0.0)
    df = sum(len(study.y) - 1 for study in studies) - (count - 1)
    tau2 = 0.0
    if method == "DL" and df > 0:
        tau2 = max(0.0, (fixed.q - df) / _trace(studies, fixed.inverse))
    elif method and df > 0:
        tau2 = _likeliest(count, batches)
    found = _fit(count, batches, tau2) if tau2 else fixed
    inner, inner_df = _within(studies)
    return Network(
        found.effects, found.inverse, tau2, _spread(fixed.q, df), _spread(inner, inner_df), _spread(max(0.0, fixed.q - inner), df - inner_df)
    )  # fmt: skip


def _spread(q: float, df: int) -> Spread:
    return Spread(q if df else 0.0, df, float(chdtrc(df, q)) if df else None)


class _Fitted(NamedTuple):
    effects: Floats
    inverse: Floats
    q: float
    height: float
    slope: float


class _Batch(NamedTuple):
    """Studies of as many arms each, m: treatments, what is seen and its variance, (n, m)."""

    treatments: Ints
    y: Floats
    v: Floats


def _batched(studies: Sequence[Arms]) -> list[_Batch]:
    """Studies by how many arms they have."""
    by_size: dict[int, list[Arms]] = {}
    for study in studies:
        by_size.setdefault(len(study.y), []).append(study)
    return [
        _Batch(np.stack([study.treatments for study in some]), np.stack([study.y for study in some]), np.stack([study.v for study in some]))
        for some in by_size.values()
    ]


def _fit(count: int, batches: Sequence[_Batch], tau2: float) -> _Fitted:
    """Least squares at a τ², the restricted log likelihood there, and its slope."""
    inner, right = np.zeros((count, count)), np.zeros(count)
    turned = np.zeros((count, count))  # the derivative of inner
    height = slope = 0.0
    for batch in batches:
        w = 1 / (batch.v + tau2 / 2)
        total, fall = w.sum(axis=1), -0.5 * w**2
        at = (batch.treatments[:, :, None], batch.treatments[:, None, :])
        block = _diagonal(w) - _crossed(w, w) / total[:, None, None]
        np.add.at(inner, at, block)
        np.add.at(right, batch.treatments, np.einsum("nij,nj->ni", block, batch.y))
        mixed = _crossed(fall, w)
        sums = fall.sum(axis=1)
        change = (
            _diagonal(fall) - (mixed + mixed.transpose(0, 2, 1)) / total[:, None, None] + _crossed(w, w) * (sums / total**2)[:, None, None]
        )
        np.add.at(turned, at, change)
        height += float(np.log(w).sum() - np.log(total).sum())
        slope -= float(0.5 * w.sum() + (sums / total).sum())
    inverse = np.zeros((count, count))
    inverse[1:, 1:] = np.linalg.inv(inner[1:, 1:])
    effects = inverse @ right
    q = 0.0
    for batch in batches:
        w = 1 / (batch.v + tau2 / 2)
        rest = batch.y - effects[batch.treatments]
        rest = rest - ((w * rest).sum(axis=1) / w.sum(axis=1))[:, None]
        q += float((w * rest**2).sum())
        slope += float((0.5 * w**2 * rest**2).sum())
    height -= float(np.linalg.slogdet(inner[1:, 1:])[1]) + q
    slope -= float((inverse * turned).sum())
    return _Fitted(effects, inverse, q, height / 2, slope / 2)


def _diagonal(some: Floats) -> Floats:
    """Each row of (n, m) as the diagonal of a matrix, (n, m, m)."""
    return some[:, :, None] * np.eye(some.shape[1])


def _crossed(one: Floats, other: Floats) -> Floats:
    """Each row with each row, (n, m, m)."""
    return one[:, :, None] * other[:, None, :]


def _trace(studies: Sequence[Arms], inverse: Floats) -> float:
    """tr(WD) - tr((X'WX)⁻¹X'WDWX)."""
    whole, shared = 0.0, np.zeros_like(inverse)
    for study in studies:
        w = 1 / study.v
        block = np.diag(w) - np.outer(w, w) / w.sum()
        whole += 0.5 * float(np.trace(block))
        shared[np.ix_(study.treatments, study.treatments)] += 0.5 * block @ block
    return whole - float((inverse * shared).sum())


def _likeliest(count: int, batches: Sequence[_Batch]) -> float:
    """The τ² ≥ 0 of the highest restricted likelihood: every maximum on a grid, then by the root of the slope."""
    top = 8 * max(float((np.ptp(batch.y, axis=1) ** 2 + batch.v.max(axis=1)).max()) for batch in batches)
    grid = [0.0, *np.geomspace(1e-7 * min(float(batch.v.min()) for batch in batches), top, 80).tolist()]
    slopes = [_fit(count, batches, value).slope for value in grid]
    found = [0.0] if slopes[0] <= 0 else []
    for low, high, rising, falling in zip(grid, grid[1:], slopes, slopes[1:], strict=False):
        if rising > 0 >= falling:
            found.append(crossing(lambda one: _fit(count, batches, one).slope, low, high))
    return max(found, key=lambda one: _fit(count, batches, one).height, default=0.0)


def _within(studies: Sequence[Arms]) -> tuple[float, int]:
    """Q within designs, studies of the same treatments, and its degrees."""
    designs: dict[tuple[int, ...], list[Arms]] = {}
    for study in studies:
        order = np.argsort(study.treatments)
        own = Arms(np.arange(len(order)), study.y[order], study.v[order])
        designs.setdefault(tuple(study.treatments[order].tolist()), []).append(own)
    q = sum(_fit(len(design), _batched(members), 0.0).q for design, members in designs.items() if len(members) > 1)
    return q, sum((len(members) - 1) * (len(design) - 1) for design, members in designs.items())


def direct(studies: Sequence[Arms], a: int, b: int, tau2: float, level: float) -> tuple[Estimate, int] | None:
    """Treatment a against b over the studies that have both arms, by inverse variance with the network's τ²; and how many these are."""
    y, w = [], []
    for study in studies:
        at = {k: place for place, k in enumerate(study.treatments.tolist())}
        if a in at and b in at:
            y.append(float(study.y[at[a]] - study.y[at[b]]))
            w.append(1 / float(study.v[at[a]] + study.v[at[b]] + tau2))
    if not y:
        return None
    total = math.fsum(w)
    return interval(math.fsum(x * weight for x, weight in zip(y, w, strict=True)) / total, total**-0.5, level), len(y)


class Apart(NamedTuple):
    """Direct and indirect evidence on one comparison, a against b, and the difference between them; ``indirect`` and ``difference`` None where nothing goes around."""

    a: int
    b: int
    studies: int
    direct: Estimate
    indirect: Estimate | None
    difference: Estimate | None


def taken_apart(network: Network, studies: Sequence[Arms], level: float) -> list[Apart]:
    """Each comparison that studies make, set against the network of the studies that do not make it, with the same τ² (node splitting: Dias S et al. Stat Med
    2010;29:932-944). A study of several arms speaks directly alone, so that both sides are independent.
    """
    count = len(network.effects)
    out = []
    for a in range(count):
        for b in range(a + 1, count):
            if (found := direct(studies, a, b, network.tau2, level)) is None:
                continue
            own, n = found
            indirect = _around(
                count, [study for study in studies if not {a, b} <= set(study.treatments.tolist())], a, b, network.tau2, level
            )
            difference = None
            if indirect:
                spread = math.hypot(own.se or 0.0, indirect.se or 0.0)
                difference = interval(own.estimate - indirect.estimate, spread, level)
            out.append(Apart(a, b, n, own, indirect, difference))
    return out


def _around(count: int, studies: Sequence[Arms], a: int, b: int, tau2: float, level: float) -> Estimate | None:
    """Treatment a against b by studies of which none has both; None where no way leads from one to the other."""
    inside = next(part for part in components(count, studies) if a in part)
    if b not in inside:
        return None
    place = {treatment: k for k, treatment in enumerate(inside)}
    own = [
        study._replace(treatments=np.array([place[k] for k in study.treatments.tolist()], np.int64))
        for study in studies
        if int(study.treatments[0]) in place
    ]
    fitted = _fit(len(inside), _batched(own), tau2)
    c, x, y = fitted.inverse, place[a], place[b]
    return interval(float(fitted.effects[x] - fitted.effects[y]), math.sqrt(max(0.0, c[x, x] + c[y, y] - 2 * c[x, y])), level)


def p_scores(network: Network, *, smaller_is_better: bool = False) -> list[float]:
    """How sure a treatment is better than the others, on average (Rücker G, Schwarzer G. BMC Med Res Methodol 2015;15:58)."""
    count = len(network.effects)
    scores = []
    for a in range(count):
        surer = []
        for b in range(count):
            if a != b:
                estimate = network.against(a, b, 0.95)
                z = estimate.estimate / estimate.se if estimate.se else 0.0
                surer.append(float(ndtr(-z if smaller_is_better else z)))
        scores.append(math.fsum(surer) / (count - 1))
    return scores


class Rank(NamedTuple):
    """Where a treatment stands, 1 the best: the median of its rank, its interval, and how likely it is the best, 0 to 1."""

    median: float
    low: float
    high: float
    best: float


def ranks(network: Network, *, smaller_is_better: bool = False, level: float = 0.95, draws: int = 20_000) -> list[Rank]:
    """Where each treatment would stand if effects were drawn from what the network says of them, ``draws`` times with a fixed seed (Salanti G, Ades AE, Ioannidis
    JPA. J Clin Epidemiol 2011;64:163-171)."""
    rng = np.random.default_rng(1)
    drawn = rng.multivariate_normal(network.effects, network.covariance, draws, method="eigh")
    place = np.argsort(np.argsort(drawn if smaller_is_better else -drawn, axis=1), axis=1) + 1
    low, median, high = np.quantile(place, [(1 - level) / 2, 0.5, (1 + level) / 2], axis=0, method="inverted_cdf")
    best = (place == 1).mean(axis=0)
    return [Rank(*map(float, one)) for one in zip(median, low, high, best, strict=True)]
