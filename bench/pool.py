"""Pooling against a second computation with 40 digits, and against statsmodels: `./kettle run python bench/pool.py [cases] [seed]`

The second computation shares no line with the first: sums by mpmath, τ² by bisection of what defines it, the likelihood's maximum by golden section from many beginnings,
networks by contrasts with their whole covariance. Printed are the greatest relative difference and how many figures agree to 1e-8.
"""

from __future__ import annotations

import sys
import warnings
from collections import defaultdict
from collections.abc import Callable

import mpmath
import numpy as np
from mpmath import mpf

from kettlesort.core.pooling import counts, forest
from kettlesort.core.pooling.closer import asymmetry, regress
from kettlesort.core.pooling.effects import cells_of, effect
from kettlesort.core.pooling.influence import influences
from kettlesort.core.pooling.models import TAU2, Model, pool
from kettlesort.core.pooling.network import Arms, compare
from measure import best, tell

mpmath.mp.dps = 40
Exact = list[mpf]


class Differences:
    """Relative differences of figures, by what they are."""

    def __init__(self) -> None:
        self.found: dict[str, list[float]] = defaultdict(list)

    def add(self, what: str, mine: float | None, exact: mpf | None) -> None:
        if exact is None or mine is None:
            self.found[what].append(0.0 if exact is None and mine is None else float("inf"))
            return
        scale = abs(exact)
        self.found[what].append(float(abs(mpf(mine) - exact) / scale) if scale > mpf("1e-30") else float(abs(mpf(mine) - exact)))


def exact(values: np.ndarray) -> Exact:
    return [mpf(float(value)) for value in values]


def centre_and_q(y: Exact, v: Exact, tau2: mpf) -> tuple[mpf, mpf, mpf]:
    w = [1 / (one + tau2) for one in v]
    total = mpmath.fsum(w)
    centre = mpmath.fsum(a * b for a, b in zip(w, y, strict=True)) / total
    return centre, total, mpmath.fsum(a * (b - centre) ** 2 for a, b in zip(w, y, strict=True))


def halved(falling: Callable[[mpf], mpf], far: mpf) -> mpf:
    """Where a falling function meets 0."""
    if falling(mpf(0)) <= 0:
        return mpf(0)
    while falling(far) > 0:
        far *= 2
    low, high = mpf(0), far
    for _ in range(140):
        middle = (low + high) / 2
        low, high = (middle, high) if falling(middle) > 0 else (low, middle)
    return (low + high) / 2


def highest(height: Callable[[mpf], mpf], far: mpf, least: mpf) -> mpf:
    """Where a function of τ² ≥ 0 is highest: golden section between the neighbours of every peak on a logarithmic grid."""
    grid = [mpf(0), *(least * (far / least) ** (mpf(k) / 90) for k in range(91))]
    heights = [height(one) for one in grid]
    top, at = heights[0], mpf(0)
    golden = (mpmath.sqrt(5) - 1) / 2
    for k in range(len(grid)):
        if heights[k] < max(heights[max(0, k - 1)], heights[min(len(grid) - 1, k + 1)]):
            continue
        low, high = grid[max(0, k - 1)], grid[min(len(grid) - 1, k + 1)]
        for _ in range(95):
            one, other = high - golden * (high - low), low + golden * (high - low)
            if height(one) > height(other):
                high = other
            else:
                low = one
        found = (low + high) / 2
        if height(found) > top:
            top, at = height(found), found
    return at


def tau2_of(y: Exact, v: Exact, method: str) -> mpf:
    k = len(y)
    if k < 2:
        return mpf(0)
    mean = mpmath.fsum(y) / k
    spread = mpmath.fsum((one - mean) ** 2 for one in y)
    if method == "DL":
        w = [1 / one for one in v]
        total = mpmath.fsum(w)
        return max(mpf(0), (centre_and_q(y, v, mpf(0))[2] - (k - 1)) / (total - mpmath.fsum(one**2 for one in w) / total))
    if method == "HE":
        return max(mpf(0), spread / (k - 1) - mpmath.fsum(v) / k)
    if method == "SJ":
        start = spread / k
        return mpf(0) if start == 0 else start * centre_and_q(y, [one / start for one in v], mpf(1))[2] / (k - 1) / start
    if method == "PM":
        return halved(lambda tau2: centre_and_q(y, v, tau2)[2] - (k - 1), spread + max(v))

    def height(tau2: mpf) -> mpf:
        _, total, q = centre_and_q(y, v, tau2)
        out = -mpmath.fsum(mpmath.log(one + tau2) for one in v) - q
        return out - mpmath.log(total) if method == "REML" else out

    return highest(height, 4 * ((max(y) - min(y)) ** 2 + max(v)), min(v) / 10**7)


def some_effects(rng: np.random.Generator) -> tuple[np.ndarray, np.ndarray]:
    k = int(rng.choice([2, 3, 5, 8, 12]))
    scale = 10.0 ** rng.uniform(-4, 2)
    v = scale**2 * 10.0 ** rng.uniform(-2, 1, k)
    return rng.normal(rng.normal(0, 2), scale * rng.choice([0.05, 1, 4]), k), v


def models(rng: np.random.Generator, cases: int, out: Differences) -> None:
    for _ in range(cases):
        y, v = some_effects(rng)
        ey, ev = exact(y), exact(v)
        for method in ("fixed", *TAU2):
            hk = bool(rng.random() < 0.5) and len(y) > 1
            mine = pool(y, v, Model(method != "fixed", "REML" if method == "fixed" else method, hk))
            tau2 = mpf(0) if method == "fixed" else tau2_of(ey, ev, method)
            if method != "fixed":
                out.add(f"τ², {method}", mine.tau2, tau2)
            centre, total, q = centre_and_q(ey, ev, tau2)
            out.add("pooled", mine.pooled.estimate, centre)
            out.add("standard error", mine.pooled.se, mpmath.sqrt(q / ((len(y) - 1) * total)) if hk else 1 / mpmath.sqrt(total))
            out.add("Q", mine.q, centre_and_q(ey, ev, mpf(0))[2])
        if len(y) > 2:
            carried = influences(y, v, Model(tau2="DL"))[0]
            tau2 = tau2_of(ey[1:], ev[1:], "DL")
            rest, total, _ = centre_and_q(ey[1:], ev[1:], tau2)
            out.add("residual without", carried.residual, (ey[0] - rest) / mpmath.sqrt(ev[0] + tau2 + 1 / total))


def measures(rng: np.random.Generator, cases: int, out: Differences) -> None:
    for _ in range(cases):
        n1, n2 = (int(n) for n in rng.integers(5, 100_000, 2))
        a, c = int(rng.integers(1, n1)), int(rng.integers(1, n2))
        values = {"events1": float(a), "total1": float(n1), "events2": float(c), "total2": float(n2)}
        b, d = mpf(n1 - a), mpf(n2 - c)
        ea, ec, e1, e2 = mpf(a), mpf(c), mpf(n1), mpf(n2)
        for measure, y, v in (
            ("OR", mpmath.log(ea * d / (b * ec)), 1 / ea + 1 / b + 1 / ec + 1 / d), ("RR", mpmath.log(ea / e1) - mpmath.log(ec / e2), b / (ea * e1) + d / (ec * e2)),
            ("RD", ea / e1 - ec / e2, ea * b / e1**3 + ec * d / e2**3),
        ):  # fmt: skip
            mine = effect(measure, values)
            out.add(f"{measure}, variance", mine.variance, v)
            out.add(measure, mine.estimate, y)
        peto = counts.peto(cells_of(values))
        whole = e1 + e2
        expected = (ea + ec) * e1 / whole
        variance = e1 * e2 * (ea + ec) * (b + d) / (whole**2 * (whole - 1))
        out.add("Peto", peto.estimate, (ea - expected) / variance)
        m1, m2, s1, s2 = (float(x) for x in (*rng.normal(0, 10, 2), *rng.uniform(0.1, 9, 2)))
        k1, k2 = (int(n) for n in rng.integers(2, 400, 2))
        means = {"mean1": m1, "sd1": s1, "n1": float(k1), "mean2": m2, "sd2": s2, "n2": float(k2)}
        freedom = mpf(k1 + k2 - 2)
        pooled = mpmath.sqrt(((k1 - 1) * mpf(s1) ** 2 + (k2 - 1) * mpf(s2) ** 2) / freedom)
        correction = mpmath.gamma(freedom / 2) / (mpmath.sqrt(freedom / 2) * mpmath.gamma((freedom - 1) / 2)) if freedom > 1 else mpf(1)
        g = correction * (mpf(m1) - mpf(m2)) / pooled
        if freedom > 1:
            mine = effect("SMD", means)
            out.add("SMD", mine.estimate, g)
            out.add("SMD, variance", mine.variance, 1 / mpf(k1) + 1 / mpf(k2) + g**2 / (2 * (k1 + k2)))


def regressions(rng: np.random.Generator, cases: int, out: Differences) -> None:
    for _ in range(cases):
        k = int(rng.integers(5, 14))
        x, v = rng.normal(0, 1, (k, 2)), rng.uniform(0.01, 1, k)
        y = rng.normal(0, 1, k) + x[:, 0]
        mine = regress(y, v, x, Model(random=False))
        assert mine
        design = mpmath.matrix([[1, *map(float, row)] for row in x])
        w = mpmath.diag([1 / mpf(float(one)) for one in v])
        covariance = (design.T * w * design) ** -1
        beta = covariance * (design.T * w * mpmath.matrix(list(map(float, y))))
        for number, one in enumerate(mine.coefficients):
            out.add("coefficient", one.estimate, beta[number])
            out.add("coefficient, standard error", one.se, mpmath.sqrt(covariance[number, number]))
        egger = asymmetry(y, v)
        assert egger
        ones = mpmath.matrix([[1, 1 / mpmath.sqrt(mpf(float(one)))] for one in v])
        z = mpmath.matrix([mpf(float(a)) / mpmath.sqrt(mpf(float(b))) for a, b in zip(y, v, strict=True)])
        out.add("Egger’s intercept", egger.intercept, ((ones.T * ones) ** -1 * (ones.T * z))[0])


def networks(rng: np.random.Generator, cases: int, out: Differences) -> None:
    for _ in range(cases):
        count = 4
        studies = [Arms(np.array([k, k + 1]), rng.normal(0, 1, 2), rng.uniform(0.01, 1, 2)) for k in range(count - 1)]
        studies += [Arms(rng.choice(count, 3, replace=False), rng.normal(0, 1, 3), rng.uniform(0.01, 1, 3)) for _ in range(4)]
        mine = compare(count, studies, "DL")
        rows, seen, sizes = [], [], []
        for study in studies:
            for j in range(1, len(study.y)):
                row = [mpf(0)] * count
                row[int(study.treatments[j])], row[int(study.treatments[0])] = mpf(1), mpf(-1)
                rows.append(row[1:])
                seen.append(mpf(float(study.y[j])) - mpf(float(study.y[0])))
            sizes.append(len(study.y) - 1)
        spread = mpmath.zeros(len(seen))
        at = 0
        for study, size in zip(studies, sizes, strict=True):
            for i in range(size):
                for j in range(size):
                    own = mpf(float(study.v[i + 1])) + mpf(mine.tau2) if i == j else mpf(mine.tau2) / 2
                    spread[at + i, at + j] = own + mpf(float(study.v[0]))
            at += size
        w = spread**-1
        x = mpmath.matrix(rows)
        covariance = (x.T * w * x) ** -1
        beta = covariance * (x.T * w * mpmath.matrix(seen))
        for treatment in range(1, count):
            out.add("network", float(mine.effects[treatment] - mine.effects[0]), beta[treatment - 1])
            out.add("network, standard error", mine.against(treatment, 0, 0.95).se, mpmath.sqrt(covariance[treatment - 1, treatment - 1]))


def speed(rng: np.random.Generator) -> list[bool]:
    from statsmodels.stats.meta_analysis import combine_effects

    y, v = rng.normal(0, 1, 1000), rng.uniform(0.01, 0.5, 1000)
    told = []
    for method, name in (("DL", "chi2"), ("PM", "iterated")):
        mine, theirs = best(
            lambda method=method: pool(y, v, Model(tau2=method)), lambda name=name: combine_effects(y, v, method_re=name, use_t=False)
        )
        told.append(tell(f"1,000 studies, {method}, of statsmodels’ time", mine / theirs, 1, at_most=True, detail=f"{1000 * mine:.2f} ms"))
    big, weights = rng.normal(0, 1, 10_000), rng.uniform(0.01, 0.5, 10_000)
    studies = [Arms(rng.choice(30, int(rng.choice([2, 2, 3])), replace=False), np.zeros(0), np.zeros(0)) for _ in range(271)]
    studies += [Arms(np.array([k, k + 1]), np.zeros(0), np.zeros(0)) for k in range(29)]
    studies = [one._replace(y=rng.normal(0, 1, len(one.treatments)), v=rng.uniform(0.05, 0.6, len(one.treatments))) for one in studies]
    lines = [forest.Line(f"Study {k}", float(one), (float(one) - 0.3, float(one) + 0.3), 0.5) for k, one in enumerate(big[:200])]
    whole = forest.Line("Together", 0.1, (0.0, 0.2))
    for what, work, wanted in (
        ("10,000 studies by REML, s", lambda: pool(big, weights), 1.0), ("a network of 300 studies and 30 treatments by REML, s", lambda: compare(30, studies, "REML"), 2.0),
        ("the picture of 200 studies, s", lambda: forest.forest("RR", lines, whole, None), 0.5),
    ):  # fmt: skip
        (took,) = best(work, runs=3)
        told.append(tell(what, took, wanted, at_most=True))
    return told


def main() -> None:
    cases, seed = (*(int(word) for word in sys.argv[1:3]), *(60, 1)[len(sys.argv) - 1 :])
    warnings.simplefilter("ignore")
    rng, out = np.random.default_rng(seed), Differences()
    models(rng, cases, out)
    measures(rng, 4 * cases, out)
    regressions(rng, cases, out)
    networks(rng, max(5, cases // 4), out)
    for what, found in out.found.items():
        print(
            f"         {what}: at most {max(found):.1e}, of {len(found)} figures {sum(one <= 1e-8 for one in found) / len(found):.1%} within 1e-8"
        )
    every = [one for found in out.found.values() for one in found]
    reached = [
        tell(
            "figures within 1e-8 of the second computation, %",
            100 * sum(one <= 1e-8 for one in every) / len(every),
            99,
            at_most=False,
            detail=f"of {len(every)}",
        )
    ]
    sys.exit(not all(reached + speed(rng)))


if __name__ == "__main__":
    main()
