"""A closer look at pooled studies: influence and the likelihood of τ² against what is published and a second computation, networks taken apart, pictures."""

from __future__ import annotations

from xml.etree import ElementTree

import mpmath
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kettlesort.core.pooling import closer_pictures, network_picture
from kettlesort.core.pooling.closer import line, regress
from kettlesort.core.pooling.closer_pictures import Point
from kettlesort.core.pooling.influence import influences, profile, stands_out
from kettlesort.core.pooling.models import Model, pool
from kettlesort.core.pooling.network import Arms, all_seen, compare, p_scores, ranks, taken_apart

# vaccination against tuberculosis, thirteen trials: cases and the rest, vaccinated and not; the distance from the equator
TRIALS = [
    (4, 119, 11, 128, 44), (6, 300, 29, 274, 55), (3, 228, 11, 209, 42), (62, 13536, 248, 12619, 52), (33, 5036, 47, 5761, 13), (180, 1361, 372, 1079, 44), (8, 2537, 10, 619, 19),
    (505, 87886, 499, 87892, 13), (29, 7470, 45, 7232, 27), (17, 1699, 65, 1600, 42), (186, 50448, 141, 27197, 18), (5, 2493, 3, 2338, 33), (27, 16886, 29, 17825, 33),
]  # fmt: skip
Y = np.array([np.log(a / (a + b)) - np.log(c / (c + d)) for a, b, c, d, _ in TRIALS])
V = np.array([1 / a - 1 / (a + b) + 1 / c - 1 / (c + d) for a, b, c, d, _ in TRIALS])
LATITUDE = np.array([[float(far)] for *_, far in TRIALS])
EFFECTS = st.lists(st.tuples(st.floats(-3, 3), st.floats(0.01, 2)), min_size=3, max_size=9)


def test_influence_of_the_printed_trials() -> None:
    """The first trial and the whole as printed with the method (Viechtbauer W. J Stat Softw 2010;36(3)): τ² and Q without it, its residual and distance."""
    first = influences(Y, V, Model())[0]
    assert first.residual == pytest.approx(-0.2181, abs=5e-5)
    assert first.cook == pytest.approx(0.0017, abs=5e-5)
    assert first.hat == pytest.approx(0.0506, abs=5e-5)
    assert first.tau2 == pytest.approx(0.3362, abs=5e-5)
    assert first.q == pytest.approx(151.5826, abs=5e-5)


def test_intervals_of_tau2_of_the_printed_trials() -> None:
    found = profile(Y, V)
    assert found
    assert (found.q_low, found.q_high) == pytest.approx((0.1197, 1.1115), abs=5e-5)
    assert found.low < found.best < found.high
    assert found.height.max() == pytest.approx(0, abs=1e-3)


@settings(max_examples=40, deadline=None)
@given(EFFECTS)
def test_the_ends_of_the_likelihood_lie_where_a_second_computation_has_them(effects: list[tuple[float, float]]) -> None:
    y, v = (np.array(part) for part in zip(*effects, strict=True))
    found = profile(y, v)
    if found is None:
        return
    mpmath.mp.dps = 40

    def height(tau2: float) -> mpmath.mpf:
        total = [mpmath.mpf(float(x)) + mpmath.mpf(tau2) for x in v]
        w = [1 / x for x in total]
        centre = mpmath.fsum(a * mpmath.mpf(float(b)) for a, b in zip(w, y, strict=True)) / mpmath.fsum(w)
        rest = mpmath.fsum(a * (mpmath.mpf(float(b)) - centre) ** 2 for a, b in zip(w, y, strict=True))
        return -(mpmath.fsum(map(mpmath.log, total)) + rest + mpmath.log(mpmath.fsum(w))) / 2

    drop = mpmath.mpf("1.9207294103470620")
    assert float(height(found.best) - height(found.high) - drop) == pytest.approx(0, abs=1e-7)
    if found.low > 0:
        assert float(height(found.best) - height(found.low) - drop) == pytest.approx(0, abs=1e-7)
    else:
        assert height(found.best) - height(0.0) <= drop + mpmath.mpf("1e-9")


@settings(max_examples=40, deadline=None)
@given(EFFECTS, st.booleans())
def test_what_a_study_carries_is_what_is_missing_without_it(effects: list[tuple[float, float]], random: bool) -> None:
    y, v = (np.array(part) for part in zip(*effects, strict=True))
    model = Model(random=random, tau2="DL")
    whole, told = pool(y, v, model), influences(y, v, model)
    for k, one in enumerate(told):
        rest = pool(np.delete(y, k), np.delete(v, k), model)
        assert one.tau2 == rest.tau2
        assert whole.pooled.se
        assert one.cook == pytest.approx(((whole.pooled.estimate - rest.pooled.estimate) / whole.pooled.se) ** 2)
    assert sum(one.hat for one in told) == pytest.approx(1)


def test_one_that_lies_apart_stands_out_and_equal_ones_do_not() -> None:
    v = np.full(6, 0.04)
    apart = influences(np.array([0.1, 0.12, 0.08, 0.11, 0.09, 2.0]), v, Model())
    assert [stands_out(one, 6) for one in apart] == [False] * 5 + [True]
    assert not any(stands_out(one, 6) for one in influences(np.full(6, 0.1), v, Model()))
    assert influences(np.array([0.1]), np.array([0.04]), Model())[0].residual is None


def test_the_line_of_a_regression_goes_through_its_coefficients() -> None:
    told = regress(Y, V, LATITUDE, Model(hk=True))
    assert told
    at_zero, at_forty = line(Y, V, LATITUDE, Model(hk=True), 0, [0.0, 40.0])
    assert at_zero.estimate == pytest.approx(told.coefficients[0].estimate)
    assert at_zero.se == pytest.approx(told.coefficients[0].se)
    assert at_forty.estimate == pytest.approx(told.coefficients[0].estimate + 40 * told.coefficients[1].estimate)
    assert line(Y[:2], V[:2], LATITUDE[:2], Model(), 0, [1.0]) == []


def two_arms(a: int, b: int, y: float, v: float) -> Arms:
    return Arms(np.array([a, b]), np.array([y, 0.0]), np.array([v / 2, v / 2]))


def test_direct_and_indirect_evidence_of_a_triangle() -> None:
    """Three treatments, each pair compared once, by fixed effects: the indirect estimate is the way round (Bucher HC et al. J Clin Epidemiol 1997;50:683-691)."""
    studies = [two_arms(0, 1, 0.5, 0.04), two_arms(1, 2, 0.3, 0.09), two_arms(0, 2, 0.2, 0.05)]
    found = {(one.a, one.b): one for one in taken_apart(compare(3, studies, None), studies, 0.95)}
    one = found[0, 2]
    assert one.indirect
    assert one.difference
    assert (one.direct.estimate, one.indirect.estimate, one.indirect.se) == pytest.approx((0.2, 0.8, 0.13**0.5))
    assert (one.difference.estimate, one.difference.se) == pytest.approx((-0.6, 0.18**0.5))
    alone = taken_apart(compare(3, studies[:2], None), studies[:2], 0.95)
    assert [one.indirect for one in alone] == [None, None]


def test_a_study_of_three_arms_does_not_go_around_itself() -> None:
    whole = Arms(np.array([0, 1, 2]), np.array([0.5, 0.2, 0.0]), np.array([0.02, 0.03, 0.04]))
    studies = [whole, two_arms(0, 1, 0.4, 0.05), two_arms(1, 2, 0.1, 0.06)]
    found = {(one.a, one.b): one for one in taken_apart(compare(3, studies, None), studies, 0.95)}
    assert found[0, 1].indirect is None
    around = found[0, 2].indirect
    assert around
    assert (around.estimate, around.se) == pytest.approx((0.5, 0.11**0.5))


def test_ranks_are_drawn_the_same_each_time_and_agree_with_the_scores() -> None:
    studies = [two_arms(0, 1, -1.0, 0.05), two_arms(1, 2, -1.0, 0.05)]
    network = compare(3, studies, None)
    told = ranks(network)
    assert told == ranks(network)
    assert [one.median for one in told] == [3, 2, 1]
    assert sum(one.best for one in told) == pytest.approx(1)
    assert [round(score, 1) for score in p_scores(network)] == [0.0, 0.5, 1.0]
    assert [one.median for one in ranks(network, smaller_is_better=True)] == [1, 2, 3]


@pytest.mark.parametrize(
    ("measure", "arms", "said"),
    [
        ("OR", [(3, 10)], "has one arm, and nothing to compare it with"), ("RR", [(0, 10), (0, 12)], "has no event"),
        ("OR", [(10, 10), (12, 12)], "has events in everybody"), ("MD", [(3.0, 0.0, 10), (4.0, 1.0, 12)], "has an arm with an SD of 0"),
    ],
)  # fmt: skip
def test_a_study_that_compares_nothing_says_why(measure: str, arms: list[tuple[float, ...]], said: str) -> None:
    assert all_seen(measure, arms) == said


HOSTILE = "<script>alert(1)</script> & “Brask” \x00 2003"


def test_pictures_hold_names_as_text_whatever_they_are() -> None:
    found = profile(Y, V)
    assert found
    points = [Point(HOSTILE, float(far[0]), float(y), 7.0) for far, y in zip(LATITUDE, Y, strict=True)]
    band = [(x, one.estimate, *(one.ci or (0, 0))) for x, one in zip((10, 60), line(Y, V, LATITUDE, Model(), 0, [10, 60]), strict=True)]
    risks = [Point(HOSTILE, 0.0, 0.0, 0.0), Point("two", 1.0, 0.4, 99.0)]
    drawings = [
        closer_pictures.bubble("RR", HOSTILE, points, band), closer_pictures.curve(found, "REML", 0.95),
        *(closer_pictures.labbe(measure, risks, -0.4, (HOSTILE, "plain")) for measure in ("OR", "RR", "RD")),
        network_picture.network([["A", HOSTILE], ["lone"]], {"A": 10, HOSTILE: 4}, {("A", HOSTILE): 2}),
    ]  # fmt: skip
    for drawing in drawings:
        assert ElementTree.fromstring(drawing).tag.endswith("svg")
        assert "<script" not in drawing
