"""Analyses of what is charted: the figures of the core, always of the table as it is, nothing lost of how they were changed."""

from __future__ import annotations

import json
import math
from pathlib import Path

import pytest
from typer.testing import CliRunner

from kettlesort.cli import app
from kettlesort.core.picture import PAPER
from kettlesort.work import chart, codebook, pool_closer, pool_out, pooling
from kettlesort.work.chart import Typed
from kettlesort.work.codebook import Book, ItemWording, LevelWording
from kettlesort.work.errors import Conflict, Invalid, NotFound
from kettlesort.work.pool_network import NetworkResult
from kettlesort.work.pool_studies import Result
from kettlesort.work.pool_wording import BY_YEAR, Wording, part_key
from tests.conftest import Room

ITEMS = [
    ItemWording(None, "Survived", "counts", per=["arm"]), ItemWording(None, "Used", "mean_sd", per=["arm", "outcome"]), ItemWording(None, "Wrap", "choice", choices=["Foam", "Straw"]),
    ItemWording(None, "Log ratio", "number"), ItemWording(None, "Its SE", "number"),
]  # fmt: skip
LEVELS = [LevelWording(None, "arm", name) for name in ("Foam wrap", "Straw wrap", "Plain")] + [LevelWording(None, "outcome", "Honey")]
COUNTS = [((12, 40), (8, 20), (20, 41)), ((5, 30), (4, 25), (9, 28)), ((15, 50), (12, 44), (18, 52)), ((0, 20), (0, 10), (0, 21))]


class Pool:
    """Four studies with three arms."""

    def __init__(self, room: Room) -> None:
        self.review, self.lead, self.reviewer = room.review, room.lead, room.reviewer
        room.include("Alpha wraps", "Beta wraps", "Gamma wraps", "Delta wraps", "Nothing charted")
        codebook.set_codebook(room.review, room.lead, Book(ITEMS, [], LEVELS))
        it = chart.evidence_table(room.review)
        self.items = {one.name: one.id or 0 for one in it.book.items}
        self.levels = {one.name: one.id or 0 for one in it.levels}
        self.studies = [one.id for one in it.studies]
        for study, arms in zip(self.studies, COUNTS, strict=False):
            for name, (events, total) in zip(("Foam wrap", "Straw wrap", "Plain"), arms, strict=True):
                assert not self.write(study, "Survived", f"{events} / {total}", name)

    def write(self, study: int, item: str, text: str, arm: str = "", outcome: str = "") -> list[chart.NotTaken]:
        levels = (self.levels[arm] if arm else None, self.levels[outcome] if outcome else None, None)
        return chart.set_values(self.review, self.reviewer, [Typed(study, self.items[item], text, levels=levels)])

    def said(self, measure: str = "RR", **more: object) -> Wording:
        base = Wording("Survival", measure, self.items["Survived"], (self.levels["Foam wrap"],), (self.levels["Plain"],))
        return base._replace(**more)  # type: ignore[arg-type]


def preview(pool: Pool, said: Wording) -> Result:
    found = pooling.preview(pool.review, said).result
    assert found
    return found


def network(pool: Pool, said: Wording) -> NetworkResult:
    found = pooling.preview(pool.review, said).network
    assert found
    return found


@pytest.fixture
def pool(room: Room) -> Pool:
    return Pool(room)


def test_the_application_and_the_command_line_give_the_same_figures(pool: Pool, tmp_path: Path) -> None:
    table = tmp_path / "table.csv"
    lines = [f"S{k},{f[0]},{f[1]},{p[0]},{p[1]}" for k, (f, _, p) in enumerate(COUNTS)]
    table.write_text("study,events1,total1,events2,total2\n" + "\n".join(lines) + "\n")
    for measure in ("RR", "OR", "RD"):
        for options, more in (
            (["--model", "random", "--tau2", "PM"], {"tau2": "PM"}),
            (["--model", "fixed", "--weights", "mh"], {"model": "fixed", "weights": "mh"}),
        ):
            told = json.loads(CliRunner().invoke(app, ["pool", str(table), "--measure", measure, *options]).stdout)
            mine = preview(pool, pool.said(measure, **more)).pooled
            assert mine is not None
            assert (mine.k, mine.pooled.estimate, mine.pooled.se) == (told["k"], told["pooled"]["estimate"], told["pooled"]["se"])
            assert (mine.q, mine.i2, mine.tau2) == (told["q"], told["i2"], told["tau2"])


def test_what_cannot_be_pooled_is_listed_with_its_reason_and_cell(pool: Pool) -> None:
    it = preview(pool, pool.said())
    assert {row.label: row.why_not for row in it.rows if not row.effect}.keys() == {row.label for row in it.rows if not row.effect}
    silent, empty = (next(row for row in it.rows if row.study == pool.studies[k]) for k in (3, 4))
    assert silent.why_not == "no events in either arm"
    assert silent.columns == ("0 / 20", "0 / 21")
    assert (empty.why_not, empty.cells) == (
        "no value for Foam wrap",
        ((pool.studies[4], pool.items["Survived"], (pool.levels["Foam wrap"], None, None)),),
    )
    pool.write(pool.studies[4], "Survived", "not reported", "Foam wrap")
    again = preview(pool, pool.said())
    assert next(row.why_not for row in again.rows if row.study == pool.studies[4]) == "Foam wrap: not reported"
    assert "Nothing charted" not in pool_out.forest(pool.review, pooling.keep(pool.review, pool.lead, pool.said()), PAPER)


def test_arms_are_joined_and_a_value_that_changes_changes_the_analysis(pool: Pool) -> None:
    both = pool.said(arms=(pool.levels["Foam wrap"], pool.levels["Straw wrap"]))
    number = pooling.keep(pool.review, pool.lead, both)
    before = pooling.opened(pool.review, number).result
    assert next(row.columns for row in before.rows if row.study == pool.studies[0]) == ("20 / 60", "20 / 41")
    pool.write(pool.studies[0], "Survived", "30 / 41", "Plain")
    after = pooling.opened(pool.review, number).result
    assert before.pooled
    assert after.pooled
    assert after.pooled.pooled.estimate < before.pooled.pooled.estimate
    opened = pooling.opened(pool.review, number, [part_key(pool.studies[0])])
    without, closer = opened.result, pool_closer.closer(opened.table, opened.kept.said, opened.used)
    assert without.pooled
    assert without.pooled.k == 2
    assert len(closer.ways) == 13
    assert closer.asymmetry is None


def test_means_want_the_size_of_their_groups_and_estimates_their_standard_error(pool: Pool) -> None:
    used = pool.said("MD", item=pool.items["Used"], outcome=pool.levels["Honey"])
    for study, text in zip(pool.studies[:2], ("12.1 ± 2.5 (n 20)", "11 ± 2"), strict=True):
        pool.write(study, "Used", text, "Foam wrap", "Honey")
        pool.write(study, "Used", "13.4 ± 2.1 (n 22)", "Plain", "Honey")
    it = preview(pool, used)
    assert it.pooled
    assert it.pooled.k == 1
    assert next(row.why_not for row in it.rows if row.study == pool.studies[1]) == "the size of a group is missing"
    pool.write(pool.studies[0], "Log ratio", "-0.31")
    pool.write(pool.studies[0], "Its SE", "0.12")
    given = preview(pool, Wording("As told", "GEN", pool.items["Log ratio"], se_item=pool.items["Its SE"]))
    assert given.pooled
    assert given.pooled.pooled.estimate == pytest.approx(-0.31)


def test_a_group_without_spread_is_said_and_does_not_spoil_a_network(pool: Pool) -> None:
    for study, foam in zip(pool.studies[:3], ("12.1 ± 2.5 (n 20)", "11 ± 0 (n 9)", "10.2 ± 1.9 (n 31)"), strict=True):
        pool.write(study, "Used", foam, "Foam wrap", "Honey")
        pool.write(study, "Used", "13.4 ± 2.1 (n 22)", "Plain", "Honey")
    arms = (pool.levels["Plain"], pool.levels["Foam wrap"])
    used = pool.said("MD", item=pool.items["Used"], outcome=pool.levels["Honey"], kind="network", arms=arms, against=())
    found = network(pool, used)
    assert next(row.why_not for row in found.rows if row.study == pool.studies[1]) == "has an arm with an SD of 0"
    assert (found.used, math.isfinite(found.league[0].estimate.estimate)) == (2, True)


def test_groups_stand_apart_and_pictures_and_figures_go_out(pool: Pool) -> None:
    for study, wrap in zip(pool.studies[:3], ("Foam", "Foam", "Straw"), strict=True):
        pool.write(study, "Wrap", wrap)
    number = pooling.keep(pool.review, pool.lead, pool.said(group=pool.items["Wrap"], left="<script>", right="wraps"))
    it = pooling.opened(pool.review, number).result
    assert [(name, found.k) for name, found in it.groups] == [("Foam", 2), ("Straw", 1)]
    drawn = pool_out.forest(pool.review, number, PAPER)
    assert "<script>" not in drawn
    assert "Together, 2 studies" in drawn
    own = pooling.keep(pool.review, pool.lead, pool.said(beside=(pool.items["Wrap"],), hidden=("weight", "figures")))
    own_drawn = pool_out.forest(pool.review, own, PAPER)
    assert all(word in own_drawn for word in (">Wrap<", ">Straw<", 'width="178mm"'))
    assert not any(word in own_drawn for word in ("Weight", "12 / 40"))
    assert pool_out.data_rows(pool.review, own)[0][:3] == ["study", "Wrap", "Foam wrap"]
    narrow = pool_out.forest(pool.review, number, PAPER, width="column")
    assert 'width="85mm"' in narrow
    assert "12 / 40" not in narrow
    with pytest.raises(Invalid, match="once for a study"):
        preview(pool, pool.said(beside=(pool.items["Survived"],)))
    rows = pool_out.data_rows(pool.review, number)
    assert rows[0][:4] == ["study", "Foam wrap", "Plain", "group"]
    assert rows[-1][0] == "pooled"


def test_an_analysis_is_told_in_words_with_its_figures_and_sources(pool: Pool) -> None:
    for study, wrap in zip(pool.studies[:3], ("Foam", "Foam", "Straw"), strict=True):
        pool.write(study, "Wrap", wrap)
    number = pooling.keep(pool.review, pool.lead, pool.said("OR", group=pool.items["Wrap"], hk=True, left_out=(part_key(pool.studies[2]),)))
    it = pool_out.in_words(pool.review, number)
    assert it.methods.startswith(
        "Effects are odds ratios of Foam wrap against Plain for Survived. A study with a zero cell got 0.5 in each of its cells."
    )
    assert "restricted maximum likelihood [1]" in it.methods
    assert "Hartung and Knapp [2]" in it.methods
    assert [k for k, _ in it.sources] == list(range(1, len(it.sources) + 1))
    result = pooling.opened(pool.review, number).result
    assert result.pooled
    assert f"2 studies gave an odds ratio for Survived of {math.exp(result.pooled.pooled.estimate):.2f} (95 % interval" in it.results
    assert "no events in either arm (1)" in it.results
    assert "One study was left out by the team." in it.results
    mantel = pooling.keep(pool.review, pool.lead, pool.said("RD", model="fixed", weights="mh"))
    told = pool_out.in_words(pool.review, mantel)
    assert "after Mantel and Haenszel [1]" in told.methods
    assert "zero cell" not in told.methods


def test_an_analysis_is_about_some_studies_and_stands_where_it_is_put(pool: Pool) -> None:
    for study, wrap in zip(pool.studies[:3], ("Foam", "Straw", "Foam"), strict=True):
        pool.write(study, "Wrap", wrap)
    some = pool.said(only=pool.items["Wrap"], among=("Foam",))
    it = preview(pool, some)
    assert [row.study for row in it.rows] == sorted((pool.studies[0], pool.studies[2]), key=[row.study for row in it.rows].index)
    assert (it.others, it.pooled.k if it.pooled else 0) == (3, 2)
    first, second, third = (pooling.keep(pool.review, pool.lead, said) for said in (some, pool.said(name="B"), pool.said(name="C")))
    assert ", of studies with Wrap Foam." in pool_out.in_words(pool.review, first).methods
    arms = (pool.levels["Plain"], pool.levels["Foam wrap"])
    assert network(pool, some._replace(kind="network", arms=arms, against=())).used == 2
    with pytest.raises(Invalid, match="at least one value"):
        preview(pool, some._replace(among=()))
    pooling.move(pool.review, pool.lead, third, 0)
    assert [one.kept.id for one in pooling.analyses(pool.review)] == [third, first, second]
    pooling.move(pool.review, pool.lead, third, 99)
    assert [one.kept.id for one in pooling.analyses(pool.review)] == [first, second, third]
    with pytest.raises(NotFound):
        pooling.move(pool.review, pool.lead, 10**9, 0)


def test_a_shared_group_is_divided_among_the_arms_that_share_it(pool: Pool) -> None:
    wraps = (pool.levels["Foam wrap"], pool.levels["Straw wrap"])
    it = preview(pool, pool.said(arms=wraps, split=True))
    mine = [row for row in it.rows if row.study == pool.studies[0]]
    assert [(row.arm, row.columns) for row in mine] == [
        ("Foam wrap", ("12 / 40", "20 / 41 ÷ 2")),
        ("Straw wrap", ("8 / 20", "20 / 41 ÷ 2")),
    ]
    assert sum(row.people for row in mine) == 40 + 20 + 41
    by_hand = math.log(12 / 40) - math.log(20 / 41)
    assert mine[0].effect
    assert mine[0].effect.estimate == pytest.approx(by_hand)
    assert mine[0].effect.se == pytest.approx((1 / 12 - 1 / 40 + 1 / 10 - 1 / 20.5) ** 0.5)
    assert it.pooled
    assert it.pooled.k == 6
    number = pooling.keep(pool.review, pool.lead, pool.said(arms=wraps, split=True, left_out=(part_key(pool.studies[0]),)))
    assert [study.key.arm for study in pooling.opened(pool.review, number).used] == ["Foam wrap", "Straw wrap"] * 2
    told = pool_out.in_words(pool.review, number)
    assert "divided evenly among them [1]" in told.methods
    assert "One study was left out" in told.results
    assert [one.changed for one in pooling.versions(pool.review, number)] == [[]]
    seen = pooling.found(pool.review, number)[0].version
    pooling.keep(pool.review, pool.lead, pool.said(arms=wraps, split=True, tau2="DL", left="plain"), number, seen)
    assert [one.changed for one in pooling.versions(pool.review, number)] == [
        ["variance between studies", "what is left out", "labels"],
        [],
    ]
    one_part = mine[1].key
    assert one_part == part_key(pool.studies[0], pool.levels["Straw wrap"])
    looked = pooling.opened(pool.review, pooling.keep(pool.review, pool.lead, pool.said(arms=wraps, split=True)), [one_part])
    rows = [row for row in looked.result.rows if row.study == pool.studies[0]]
    assert [(row.out, row.columns[1]) for row in rows] == [
        (False, "20 / 41"),
        (True, "20 / 41 ÷ 2"),
    ]  # who is left has all of the shared side
    assert looked.result.pooled
    assert looked.result.pooled.k == 5
    kept = pooling.keep(pool.review, pool.lead, pool.said(arms=wraps, split=True, left_out=(one_part,)))
    assert pool_out.in_words(pool.review, kept).results.startswith("5 comparisons of 3 studies gave a risk ratio")
    assert "One comparison was left out by the team." in pool_out.in_words(pool.review, kept).results
    pool.write(pool.studies[1], "Survived", "", "Straw wrap")
    alone = next(row for row in preview(pool, pool.said(arms=wraps, split=True)).rows if row.study == pool.studies[1])
    assert (alone.arm, alone.columns[1]) == ("", "9 / 28")


def test_what_explains_differences_and_who_carries_the_whole(pool: Pool) -> None:
    for study, thick in zip(pool.studies[:3], ("20", "30", "55"), strict=True):
        pool.write(study, "Log ratio", thick)
    said = pool.said(moderators=(pool.items["Log ratio"],), tau2="DL")
    number = pooling.keep(pool.review, pool.lead, said)
    opened = pooling.opened(pool.review, number)
    closer = pool_closer.closer(opened.table, said, opened.used)
    assert closer.moderated
    assert closer.moderated.names == ["Log ratio"]
    assert closer.moderated.regression
    assert len(closer.influence) == 3
    assert math.fsum(one.influence.hat for one in closer.influence) == pytest.approx(1)
    assert closer.profile
    words = pool_out.in_words(pool.review, number)
    assert "Effects were regressed on Log ratio" in words.methods
    assert "In 3 studies, by a factor of: Log ratio," in words.results
    for drawn in (
        pool_out.bubble(pool.review, number, PAPER, 0),
        pool_out.labbe(pool.review, number, PAPER),
        pool_out.curve(pool.review, number, PAPER),
    ):
        assert drawn.startswith("<svg")
        assert "nan" not in drawn
    with pytest.raises(Invalid, match="no such moderator"):
        pool_out.bubble(pool.review, number, PAPER, 1)
    pool.write(pool.studies[0], "Log ratio", "")
    again = pooling.opened(pool.review, number)
    lacking = pool_closer.moderated(again.table, said, again.used)
    assert lacking
    assert (len(lacking.used), len(lacking.lacking), lacking.regression) == (2, 1, None)
    assert pool_closer.moderated(again.table, said._replace(moderators=(BY_YEAR,)), again.used)


def test_a_network_is_the_same_as_by_command_and_falls_into_its_parts(pool: Pool, tmp_path: Path) -> None:
    arms = tuple(pool.levels[name] for name in ("Plain", "Foam wrap", "Straw wrap"))
    said = pool.said("OR", kind="network", arms=arms, against=(), better="smaller")
    pool.write(pool.studies[1], "Survived", "", "Straw wrap")
    table = tmp_path / "table.csv"
    lines = ["study,treatment,events,total"]
    for k, study in enumerate(COUNTS):
        lines += [
            f"S{k},{name},{n},{total}"
            for name, (n, total) in zip(("Foam", "Straw", "Plain"), study, strict=True)
            if (k, name) != (1, "Straw")
        ]
    table.write_text("\n".join(lines) + "\n")
    told = json.loads(
        CliRunner()
        .invoke(app, ["network", str(table), "--measure", "OR", "--model", "random", "--reference", "Plain", "--smaller-is-better"])
        .stdout
    )
    number = pooling.keep(pool.review, pool.lead, said)
    it = pooling.network_of(pool.review, number)
    assert (it.used, it.people) == (3, [41 + 28 + 52, 40 + 30 + 50, 20 + 44])
    assert [one.estimate.estimate for one in it.league] == pytest.approx([one["estimate"] for one in told["league"]])
    assert sorted(score for _, score, _ in it.ranking) == pytest.approx(sorted(one["p_score"] for one in told["ranking"]))
    assert it.studies == {(0, 1): 3, (0, 2): 2, (1, 2): 2}
    assert "3 treatments were compared at once for Survived" in pool_out.in_words(pool.review, number).methods
    assert pool_out.network(pool.review, number, PAPER).count("<circle") == 6
    assert len(pool_out.data_rows(pool.review, number)) == 4
    with pytest.raises(Invalid, match="no two sides"):
        pooling.opened(pool.review, number)
    for study in pool.studies[:4]:
        pool.write(study, "Survived", "", "Plain")
    apart = network(pool, said)
    assert (apart.parts, apart.network) == ([[0], [1, 2]], None)
    assert "in 2 parts" in pool_out.network(pool.review, number, PAPER)


@pytest.mark.parametrize(
    ("more", "said"),
    [
        ({"kind": "network", "arms": (1,)}, "at least two arms"), ({"moderators": (10**9,)}, "asked once for a study"), ({"kind": "odd"}, "no such way"),
        ({"name": " "}, "needs a name"), ({"measure": "MD"}, "no item from which MD"), ({"arms": ()}, "at least one arm"), ({"weights": "peto", "model": "fixed"}, "not for this measure"),
        ({"outcome": 1}, "not asked for each outcome"), ({"item": 10**9}, "no longer in the codebook"), ({"group": 10**9}, "of the groups"), ({"level": 0.2}, "between 0.5 and 1"),
    ],
)  # fmt: skip
def test_an_analysis_that_cannot_be_is_refused(pool: Pool, more: dict[str, object], said: str) -> None:
    with pytest.raises(Invalid, match=said):
        preview(pool, pool.said(**more))


def test_an_analysis_is_changed_by_one_at_a_time_and_comes_back(pool: Pool) -> None:
    number = pooling.keep(pool.review, pool.lead, pool.said())
    (listed,) = pooling.analyses(pool.review)
    kept = listed.kept
    assert listed.pooled is not None
    assert listed.problem == ""
    pooling.keep(pool.review, pool.lead, pool.said(tau2="DL"), number, kept.version)
    with pytest.raises(Conflict, match="changed this analysis meanwhile"):
        pooling.keep(pool.review, pool.reviewer, pool.said(tau2="PM"), number, kept.version)
    pooling.remove(pool.review, pool.lead, number)
    assert pooling.analyses(pool.review) == []
    with pytest.raises(NotFound):
        pooling.opened(pool.review, number)
    pooling.remove(pool.review, pool.lead, number, back=True)
    assert pooling.opened(pool.review, number).kept.said.tau2 == "DL"
    now = codebook.codebook(pool.review)[0]
    codebook.set_codebook(pool.review, pool.lead, now._replace(items=[it for it in now.items if it.name != "Survived"]), agreed=True)
    assert pooling.analyses(pool.review)[0][1:] == (None, None, "This item is no longer in the codebook.")
