"""Finding copies, and leaving apart what only looks the same."""

from __future__ import annotations

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core.matching import Groups, Rule, explain, match, merge, rule_of, share_of
from kettlesort.core.matching.compare import journals_alike, letters_are_swapped, names_are_close, one_is_cut
from kettlesort.core.matching.errors import curve
from kettlesort.core.matching.folding import title_of
from kettlesort.core.matching.lookalikes import by_word
from kettlesort.core.matching.passes import edges, reach
from kettlesort.core.matching.rule import NotARule
from kettlesort.core.matching.weights import EVEN, starting
from kettlesort.core.record import Record

ORSEL = Record(
    kind="article", title="Overwintering losses in wrapped and unwrapped hives: a three-winter comparison in a cold climate",
    authors=("Orsel, Tamsin", "Vanterpool, Milo", "Quillby, Rudd"), year=2019, journal="Annals of Made-up Apiculture", volume="14", issue="2", pages="101–118",
    doi="10.5555/ama.2019.1402", abstract="Honeybee colonies in cold regions are commonly wrapped before winter, yet evidence that insulation improves survival is mixed.",
)  # fmt: skip


def verdict(a: Record, b: Record) -> str:
    pairs = match([a, b]).pairs
    return pairs[0].verdict if pairs else "apart"


@pytest.mark.parametrize(
    "copy",
    [
        ORSEL._replace(title=ORSEL.title.upper(), doi=""),
        ORSEL._replace(title="Overwintering losses in wrapped and unwrapped hives", doi="", year=2020),
        ORSEL._replace(authors=("Orsel, T", "Vanterpool, M", "et al."), journal="Ann. Made-up Apicult.", doi="", abstract=""),
        ORSEL._replace(title=ORSEL.title.replace("-winter", " winter").replace("cold", "co1d"), doi="", abstract=""),
        ORSEL._replace(title="", authors=()),
    ],
)
def test_copies_in_other_styles_are_joined(copy: Record) -> None:
    assert verdict(ORSEL, copy) == "same"


@pytest.mark.parametrize(
    "other",
    [
        ORSEL._replace(title=ORSEL.title + ", part II", doi="", pages="140–160", abstract=""),
        ORSEL._replace(title="Erratum: " + ORSEL.title, doi="", pages="300", abstract=""),
        ORSEL._replace(title="Nectar flow and swarming in rape fields", doi="10.5555/x.2", abstract="Another matter altogether."),
        ORSEL._replace(title="Editorial", authors=("Ames, B",), doi="", abstract="", pages="1"),
    ],
)
def test_what_only_looks_the_same_is_left_apart(other: Record) -> None:
    assert verdict(ORSEL, other) != "same"


def test_a_conference_abstract_of_an_article_is_asked_about() -> None:
    talk = ORSEL._replace(kind="conference", year=2018, journal="Overwintering Society", volume="4", pages="77", doi="", abstract="")
    assert verdict(ORSEL, talk) == "unsure"


def test_two_short_titles_alone_are_no_evidence() -> None:
    assert verdict(Record(title="Editorial", year=2001), Record(title="Editorial", year=2001)) == "apart"


def test_evidence_is_told_by_field_and_missing_is_none() -> None:
    said = explain(ORSEL, ORSEL._replace(doi="", year=2020, volume=""))
    weights = {it.field: it.weight for it in said.evidence}
    assert weights["doi"] == 0
    assert weights["title"] > 0 > weights["year"]
    assert {it.field: it.says for it in said.evidence}["doi"] == ""
    assert said.total == pytest.approx(sum(weights.values()))


def test_a_persons_word_holds_against_every_rule() -> None:
    result = match([ORSEL, ORSEL, ORSEL], different=[(0, 2)], same=[])
    assert not any({pair.left, pair.right} == {0, 2} and pair.verdict == "same" for pair in result.pairs)
    assert result.groups.of(0) != result.groups.of(2)
    other = Record(title="Something else entirely about drones", year=1980)
    assert match([ORSEL, other], same=[(0, 1)]).groups.of(1) == 0


def test_late_arrivals_meet_what_is_there_and_nothing_else_is_compared() -> None:
    result = match([ORSEL, ORSEL, ORSEL], first_new=2)
    assert {(pair.left, pair.right) for pair in result.pairs} <= {(0, 2), (1, 2)}


def test_the_kept_record_takes_the_fullest_value_and_knows_whose_it_is() -> None:
    short = ORSEL._replace(title="Overwintering losses", authors=("Orsel, T",), abstract="", doi="", issue="")
    kept, whose = merge([short, ORSEL])
    assert (kept.title, kept.authors, kept.doi, kept.abstract) == (ORSEL.title, ORSEL.authors, ORSEL.doi, ORSEL.abstract)
    assert whose["title"] == 1
    assert whose["year"] == 0


@given(
    st.lists(st.tuples(st.integers(0, 7), st.integers(0, 7)), max_size=20),
    st.sets(st.tuples(st.integers(0, 7), st.integers(0, 7)), max_size=6),
)
def test_groups_are_disjoint_and_never_hold_what_must_stay_apart(joins: list[tuple[int, int]], apart: set[tuple[int, int]]) -> None:
    apart = {(i, j) for i, j in apart if i != j}
    groups = Groups(8, apart)
    for i, j in joins:
        groups.join(i, j)
    assert sorted(itertools.chain.from_iterable(groups.all())) == list(range(8))
    assert not any(groups.of(i) == groups.of(j) for i, j in apart)
    assert all(groups.of(k) == min(groups.members(k)) for k in range(8))


def told(a: Record, b: Record) -> dict[str, float]:
    return {it.field: it.weight for it in explain(a, b).evidence}


@pytest.mark.parametrize(
    ("field", "one", "two", "sign"),
    [
        ("title", {"title": "α-Tocopherol &amp; winter losses in <i>Apis</i> colonies of two valleys"}, {"title": "Alpha-tocopherol and winter losses in Apis colonies of two valleys."}, 1),
        ("title", {"title": "Überwinterungsverluste gedämmter Völker [Overwintering losses of insulated colonies]"}, {"title": "Overwintering losses of insulated colonies"}, 1),
        ("title", {"title": "Insulated lids and moisture in winter clusters of colonies"}, {"title": "Insulated lids and moisture in winter clus"}, 1),
        ("title", {"title": "Insulated lids and moisture in winter clusters"}, {"title": "Nectar flow and swarming in rape fields"}, -1),
        ("title", {"title": "[Insulated lids and moisture in winter clusters]"}, {"title": "Gedämmte Deckel und die Feuchte der Wintertraube"}, 0),
        ("authors", {"authors": ("van der Orsel, Tamsin", "Müller, Jo")}, {"authors": ("Orsel, T", "Mueller, J")}, 1),
        ("authors", {"authors": ("Orsel, Tamsin", "Quillby, Rudd")}, {"authors": ("Tamsin, Orsel", "Rudd, Quillby")}, 1),
        ("authors", {"authors": ("Orsel, T", "Ames, B", "Tarn, J")}, {"authors": ("Orsel, T", "et al.")}, 1),
        ("authors", {"authors": ("Bohlen, Jo", "Quillby, Rudd")}, {"authors": ("Quillby, Rudd", "Bhlen, Jo")}, 1),
        ("authors", {"authors": ("Orsel, T",)}, {"authors": ()}, 0),
        ("authors", {"authors": ("Orsel, T",)}, {"authors": ("Ames, B",)}, -1),
        ("year", {"year": 2019}, {"year": 2019}, 1),
        ("year", {"year": 2019}, {"year": 2011}, -1),
        ("year", {"year": 2019}, {"year": None}, 0),
        ("journal", {"journal": "Annals of Made-up Apiculture"}, {"journal": "Ann. Made-up Apicult."}, 1),
        ("journal", {"journal": "Imkerblatt", "issn": "1234-5678"}, {"journal": "Beekeepers' Paper", "issn": "1234-5678"}, 1),
        ("journal", {"journal": "Annals of Hives"}, {"journal": "River Studies"}, -1),
        ("place", {"volume": "14", "pages": "101–118"}, {"volume": "014", "pages": "101–18"}, 1),
        ("place", {"volume": "14", "pages": "101–118"}, {"volume": "15", "pages": "330–340"}, -1),
        ("place", {"volume": "", "pages": "101–118"}, {"volume": "", "pages": "e0123456"}, 0),
        ("place", {"pages": "e0123456"}, {"pages": "123456"}, 1),
        ("issue", {"issue": "2"}, {"issue": "7"}, -1),
        ("doi", {"doi": "10.5555/ama.1"}, {"doi": "10.5555/ama.1"}, 1),
        ("doi", {"doi": "10.5555/ama.1"}, {"doi": "10.5555/other.2"}, -1),
        ("doi", {"doi": "10.5555/ama.1"}, {"doi": ""}, 0),
        ("abstract", {"abstract": "BACKGROUND: " + ORSEL.abstract}, {"abstract": ORSEL.abstract + " Copyright."}, 1),
        ("abstract", {"abstract": ORSEL.abstract}, {"abstract": ""}, 0),
        ("accession", {"accession": "20031402"}, {"accession": "20031402"}, 1),
        ("accession", {"accession": "20031402"}, {"accession": "AGR0000017"}, 0),
        ("kind", {"kind": "article"}, {"kind": "conference"}, -1),
        ("kind", {"kind": "article"}, {"kind": "other"}, 0),
        ("language", {"language": "eng"}, {"language": "German"}, -1),
        ("language", {"language": "eng"}, {"language": "English"}, 1),
    ],
)  # fmt: skip
def test_each_field_speaks_for_or_against_or_not_at_all(field: str, one: dict[str, object], two: dict[str, object], sign: int) -> None:
    a, b = ORSEL._replace(**one), ORSEL._replace(**two)  # type: ignore[arg-type]
    weight = told(a, b)[field]
    assert weight == told(b, a)[field], "from either side"
    assert (weight > 0.05) - (weight < -0.05) == sign, weight


def test_a_rare_title_says_more_than_a_common_one() -> None:
    rare, common, none = ("Propolis varnish against damp in skeps of the tidal marsh", "Winter losses of colonies", "Editorial")
    weights = [told(ORSEL._replace(title=title), ORSEL._replace(title=title))["title"] for title in (rare, common, none)]
    assert weights[0] > weights[1] > 1 > weights[2]


ELSEWHERE = {"journal": "Hive Letters", "volume": "3", "issue": "1", "pages": "7–9", "doi": "10.5555/hl.9"}


@pytest.mark.parametrize(
    ("kind", "then", "one", "two"),
    [
        ("part", "apart", {"title": ORSEL.title + ": part I"}, {"title": ORSEL.title + ": part II", "pages": "119–130", "doi": ""}),
        ("part", "apart", {"title": "Formic acid in colonies: a phase 2 trial"}, {"title": "Formic acid in colonies: a phase 3 trial", "doi": "", "pages": "300"}),
        ("part", "apart", {"title": "Nectar flow and swarming in the far foothills, part II"}, {"title": "Nectar flow and swarming in the far foothills: a two-year study", "doi": "", "pages": "642"}),
        ("yearly", "apart", {"title": "Colony losses in the lower valley, report 2018"}, {"title": "Colony losses in the lower valley, report 2019", "year": 2020, "volume": "15", "doi": ""}),
        ("notice", "apart", {}, {"title": "Erratum to: " + ORSEL.title, "doi": "", "pages": "300", "abstract": ""}),
        ("reply", "apart", {}, {"title": "Comment on: " + ORSEL.title, "doi": "", "pages": "300", "authors": ("Ames, B",), "abstract": ""}),
        ("contrast", "apart", {"title": "Brood temperature before wrapping of small hives in autumn"}, {"title": "Brood temperature after wrapping of small hives in autumn", "doi": "", "pages": "119"}),
        ("contrast", "apart", {"title": "Hypertension of the haemolymph in wintering workers"}, {"title": "Hypotension of the haemolymph in wintering workers", "doi": "", "pages": "119"}),
        ("contrast", "apart", {"title": "Dietary vitamin A and survival of wintering workers"}, {"title": "Dietary vitamin D and survival of wintering workers", "doi": "", "pages": "119"}),
        ("edition", "apart", {"title": "Wintering the honeybee colony, 2nd edition", "doi": ""}, {"title": "Wintering the honeybee colony, 3rd edition", "doi": "", "year": 2023}),
        ("update", "apart", {"doi": "10.5999/14.cd001.pub2"}, {"doi": "10.5999/14.cd001.pub3", "year": 2023, "volume": "18", "pages": "1–40"}),
        ("protocol", "apart", {"title": "Insulated lids against winter losses: a randomised trial"}, {"title": "Insulated lids against winter losses: protocol of a randomised trial", **ELSEWHERE, "year": 2017}),
        ("preprint", "ask", {}, {"kind": "preprint", **ELSEWHERE, "journal": "Preprints of the Hive Society"}),
        ("abstract", "ask", {}, {"kind": "conference", **ELSEWHERE, "year": 2018, "abstract": ""}),
        ("thesis", "ask", {}, {"kind": "thesis", "journal": "", "publisher": "University of Karlow", "volume": "", "issue": "", "pages": "1–96", "doi": "", "year": 2018, "authors": ORSEL.authors[:1]}),
        ("translation", "ask", {"language": "eng"}, {"language": "ger", **ELSEWHERE}),
        ("namesake", "apart", {}, {"authors": ("Ames, B", "Tarn, J"), "doi": "", "pages": "300", "abstract": ""}),
        ("untitled", "apart", {"title": "Editorial", "doi": ""}, {"title": "Editorial", "doi": "", "pages": "300"}),
        ("elsewhere", "ask", {}, {**ELSEWHERE, "year": 2020}),
        ("recurring", "ask", {"title": "Messages from the union", "authors": ("Ames, B",), "doi": ""}, {"title": "Messages from the union", "authors": ("Ames, B",), "doi": "", "pages": "140", "abstract": ""}),
        ("word", "ask", {"title": "Losses of wrapped colonies in coastal districts of the north", "doi": ""}, {"title": "Losses of wrapped colonies in alpine districts of the north", "doi": "", "pages": ""}),
    ],
)  # fmt: skip
def test_what_looks_the_same_is_named_and_done_with_as_the_team_says(
    kind: str, then: str, one: dict[str, object], two: dict[str, object]
) -> None:
    pair = [ORSEL._replace(**one), ORSEL._replace(**two)]  # type: ignore[arg-type]
    assert explain(*pair).kind == explain(*reversed(pair)).kind == kind
    found = match(pair)
    assert [it.verdict for it in found.pairs] == ([] if then == "apart" else ["unsure"])
    assert found.kinds() == ({kind: 1} if then == "apart" else {})
    if then == "apart":
        asked = match(pair, rule=Rule(alike={kind: "ask"}, ask_from=-50)).pairs
        assert [(it.verdict, it.kind) for it in asked] == [("unsure", kind)]
    else:
        assert match(pair, rule=Rule(alike={kind: "apart"})).pairs == []


@pytest.mark.parametrize(("one", "two", "says"), [
    ("losses of hives", "losses of hives", ""), ("tumour losses", "tumor losses", ""), ("lids for hives", "lids fro hives", ""),
    ("insulatedlids of hives", "insulated lids of hives", ""), ("upper hives", "lower hives", "contrast"), ("typeb losses", "typec losses", ""),
    ("hepatitis b losses", "hepatitis c losses", "contrast"), ("coastal losses", "alpine losses", "word"), ("upland losses", "lowland losses", "word"), ("sulphur in hives", "sulfur in hives", ""),
    ("losses of hives soil", "losses of hives onsoil", ""), ("church losses", "withchurch losses", ""),
])  # fmt: skip
def test_titles_differ_in_spelling_or_in_sense(one: str, two: str, says: str) -> None:
    assert by_word(one, two) == by_word(two, one) == says


def test_names_titles_and_journals_are_compared_as_sources_write_them() -> None:
    assert names_are_close("orsel,tamsin|ames,b", "tamsin,orsel|b,ames")
    assert not names_are_close("orsel,tamsin", "quillby,rudd")
    assert one_is_cut("insulated lids and moisture in winter", "insulated lids and moisture in winter: a trial")
    assert not one_is_cut("insulated lids part i", "insulated lids part ii")
    assert [journals_alike("j hive sci", other) for other in ("journal of hive science", "river studies")] == ["same", "unlike"]


@pytest.mark.parametrize(
    ("one", "two"),
    [
        ("Wrapping of hives: Part I", "Wrapping of hives: part 1"), ("Wrapping of hives, Part two", "Wrapping of hives. Pt. II"), ("A phase III trial", "A phase 3 trial"),
        ("Wrapping of hives, III", "Wrapping of hives 3"), ("Wrapping of hives (with discussion)", "Wrapping of hives"), ("Wrapping of hives. [see comments]", "Wrapping of hives"),
        ("Wrapping of hives (Review)", "Wrapping of hives [Article in German]"), ("Wrapping of hives [published erratum appears in Hive Lett 2016;3:9]", "Wrapping of hives"),
        ("[Wrapping of hives]", "Wrapping of hives"), ("Einwickeln der Völker im Winter [Wrapping of hives in winter]", "Einwickeln der Völker im Winter"),
    ],
)  # fmt: skip
def test_titles_that_are_the_same_to_a_reader_are_the_same(one: str, two: str) -> None:
    assert title_of(one) == title_of(two)


@pytest.mark.parametrize(
    ("one", "two"),
    [
        ("Wrapping of hives: Part I", "Wrapping of hives: Part II"), ("Wrapping of hives (men)", "Wrapping of hives (women)"), ("Vitamin I", "Vitamin 1"),
        ("Wrapping of hives (part 2)", "Wrapping of hives"), ("Wrapping of hives (vol 12, pg 34, 2016)", "Wrapping of hives"),
    ],
)  # fmt: skip
def test_titles_that_are_not_the_same_to_a_reader_are_not(one: str, two: str) -> None:
    assert title_of(one) != title_of(two)


@pytest.mark.parametrize(
    "place", ["(vol 14, pg 101, 2019)", "(vol 14, no 2, pp 101-118, 2019)", "(Vol. 14, p. 101, 2019).", "(vol 14, art. no. e17, 2019)"]
)
def test_a_notice_that_names_only_the_place_of_its_article_goes_with_no_copy_of_it(place: str) -> None:
    notice = ORSEL._replace(title=f"{ORSEL.title} {place}", doi="10.5555/ama.2019.1999", pages="300", abstract="")
    third = ORSEL._replace(doi="", abstract="", pages="", journal="Ann. Made-up Apicult.")
    groups = match([ORSEL, notice, third]).groups
    assert groups.of(0) == groups.of(2) != groups.of(1)


def test_two_letters_that_changed_places_in_a_short_title_say_little_against_it() -> None:
    assert letters_are_swapped("wax moth conrtol", "wax moth control")
    assert not letters_are_swapped("wax moth control", "wax moth contral")
    short = ORSEL._replace(title="Wax moth control", doi="", abstract="")
    assert verdict(short, short._replace(title="Wax moth conrtol")) == "same"


def bare(title: str, source: str, number: int, **values: object) -> Record:
    """A record of a bibliography that has only title, authors, venue and year."""
    venue = {"A": "LBDRC Conference", "B": "Annals of Straw and Lids"}[source]
    authors = (f"Orsel{chr(97 + number)}, Tamsin", f"Ames{chr(97 + number)}, Bo")
    return Record(title=title, authors=authors, year=2000 + number % 3, journal=venue)._replace(**values)  # type: ignore[arg-type]


def test_two_bare_bibliographies_teach_what_each_calls_a_venue() -> None:
    titles = [f"{a} against {b} in {c}" for a, b, c in zip(BARE_WORDS, BARE_WORDS[3:], BARE_WORDS[6:], strict=False)]
    records = [bare(title, source, k) for k, title in enumerate(titles) for source in "AB"]
    found = match(records, sources=["AB"[k % 2] for k in range(len(records))])
    assert all(found.groups.of(k) == found.groups.of(k + 1) for k in range(0, len(records), 2))
    assert not [it for it in found.pairs if it.verdict == "unsure"]


def test_a_title_without_its_parts_number_is_asked_about_where_no_place_is_said() -> None:
    whole, part = (
        bare("Straw against moisture in tall cold hives", "A", 1),
        bare("Straw against moisture in tall cold hives: Part II", "A", 1),
    )
    assert verdict(whole, part) == "unsure"


BARE_WORDS = [
    "moisture",
    "propolis",
    "varroa",
    "nectar",
    "swarming",
    "skeps",
    "combs",
    "wintering",
    "insulation",
    "pollen",
    "brood",
    "foundation",
    "queens",
    "robbing",
    "feeding",
    "drifting",
    "syrup",
    "smoke",
]


def test_a_chain_of_links_does_not_join_what_speaks_against_it() -> None:
    """One copy without its part's number fits both parts; it goes with one, and is asked about with the other."""
    one = ORSEL._replace(title="Wrapping of hives in hard winters: part I", doi="10.5555/x.1")
    two = ORSEL._replace(title="Wrapping of hives in hard winters: part II", doi="10.5555/x.2", pages="140–151")
    between = ORSEL._replace(title="Wrapping of hives in hard winters", doi="", pages="", abstract="")
    found = match([one, two, between, one._replace(doi="")])
    assert found.groups.of(0) != found.groups.of(1)
    assert found.groups.of(0) == found.groups.of(3)


RULE = """
name = "Careful"
weights = false

[[passes]]
name = "DOI and title"
agree = { doi = "exactly", title = "closely" }
not_differ = { volume = "exactly" }

[[passes]]
name = "All but the year"
then = "ask"
agree = { title = "exactly", first_author = "exactly", year = 1 }
kinds = ["article"]
"""


def test_passes_decide_one_after_the_other_and_know_their_edge() -> None:
    rule = rule_of(RULE)
    assert rule_of(rule.text()) == rule
    records = [
        ORSEL, ORSEL._replace(title=ORSEL.title.upper()), ORSEL._replace(doi="", year=2020), ORSEL._replace(doi="", year=2024, journal="Hive Letters"),
        ORSEL._replace(volume="99"), ORSEL._replace(kind="conference", doi=""),
    ]  # fmt: skip
    found = match(records, rule=rule)
    decided = {(it.left, it.right): (it.verdict, it.how) for it in found.pairs}
    assert decided[0, 1] == ("same", "DOI and title")
    assert any(2 in pair and said == ("unsure", "All but the year") for pair, said in decided.items())
    assert not any(5 in pair for pair in decided), "a conference paper is none of the kinds, and nothing else weighs"
    first, second = reach(found)
    assert (first.holds, first.alone) == (1, 1)
    assert second.adds > 0
    at_edge = {(it.left, it.right): it.fails for it in edges(found)}
    assert at_edge[0, 4] == "volume"
    assert "year" in at_edge.values()
    both = match(records, rule=rule.model_copy(update={"weights": True}))
    assert both.groups.of(2) == both.groups.of(1), "where no pass decides, the weights do"


def test_a_rule_can_be_for_some_sources_only() -> None:
    rule = rule_of('weights = false\n[[passes]]\nname = "A"\nagree = { title = "exactly" }\nsources = ["Agrarica", "Vitalis"]\n')
    same = [ORSEL, ORSEL._replace(doi="")]
    assert [it.verdict for it in match(same, rule=rule, sources=["Agrarica", "Vitalis"]).pairs] == ["same"]
    assert match(same, rule=rule, sources=["Agrarica", "Elsewhere"]).pairs == []
    assert match(same, rule=rule).pairs == []


@pytest.mark.parametrize(("text", "said"), [
    ("name = ", "not TOML"), ("nome = 'x'", "nome"), ("weights = false", "needs a pass"), ("join_from = 3.0\nask_from = 9.0", "must not be above"), ("join_from = nan", "join_from"),
    ('[[passes]]\nname = "A"\nagree = { year = 1 }', "must agree in one of"), ('[[passes]]\nname = "A"\nagree = { tittle = "exactly" }', "tittle"),
    ('[[passes]]\nname = "A"\nagree = { title = 2 }', "only the year"), ('[[passes]]\nname = "A"\nagree = { doi = "exactly", volume = "closely" }', "only agree exactly"),
    ('[alike]\nelves = "ask"', "elves"), ('[[passes]]\nname = "A"\nagree = { doi = "exactly" }\nkinds = ["scroll"]', "scroll"), ("x" * 50_000, "at most 40,000"),
    ("a = " + "[" * 5000, "nested|TOML"),
])  # fmt: skip
def test_a_wrong_rule_is_refused_with_what_is_wrong_and_where(text: str, said: str) -> None:
    with pytest.raises(NotARule, match=said):
        rule_of(text)


def test_weights_are_learnt_from_the_records_and_a_persons_answers() -> None:
    """Where copies keep their volume but other years are common, the year comes to say more than it did."""
    many = [
        ORSEL._replace(title=f"{a} {b} and {c} of wintering stock {k}", authors=(f"Name{k}, A", f"Other{k}, B"), doi="", accession="", volume=str(k), pages=f"{k}–{k + 9}", abstract="")
        for k, (a, b, c) in enumerate(itertools.islice(itertools.product(("Straw", "Foam", "Felt", "Cork", "Reed"), ("lids", "wraps", "hives", "combs"), ("survival", "moisture", "queens", "drones", "stores")), 100))
    ]  # fmt: skip
    found = match([*many, *(it._replace(year=2020, journal="Ann. Made-up Apicult.") for it in many)])
    before, after = starting(), found.learnt.weights
    assert after.copies == pytest.approx(100, abs=3)
    assert len(found.groups.all()) == 100
    year = [it.field for it in explain(ORSEL, ORSEL).evidence].index("year")
    assert after.table[year][2] > before.table[year][2], "copies are often one year apart here"
    strict = before.calibrated(before.even + 2 + 0 * before.table[0][:8], [False] * 8)
    assert strict.even > before.even
    assert before.calibrated(before.table[0][:0], []).even == pytest.approx(before.even)
    assert 0.05 < before.chance(before.at(0.1)) < 0.15
    assert EVEN > 0


SUBJECTS = [f"{a} {b} of wintering {c} colonies" for a, b, c in itertools.product(
    ("Straw", "Foam", "Felt", "Cork"), ("lids and the survival", "wraps and the moisture", "combs and the stores"), ("strong", "weak", "young")
)]  # fmt: skip


def otherwise(years: int = 0, **values: object) -> list[Record]:
    """A source's records of the same meetings, which it calls by another name."""
    plain = {"doi": "", "volume": "", "issue": "", "pages": "", "abstract": "", "kind": "conference"}
    return [
        ORSEL._replace(**{"title": title, "authors": (f"Mund{k}, A", f"Quill{k}, B"), "year": 2000 + k % 20 + years, **plain, **values}) for k, title in enumerate(SUBJECTS)
    ]  # fmt: skip


def test_a_journal_that_sources_name_differently_is_known_from_the_other_copies() -> None:
    one, two = "Apicultural Union Meeting", "International Congress on Keeping Bees"
    here = otherwise(journal=one)
    found = match([*here, *otherwise(journal=two)])
    assert found.learnt.common.venues in ([(one.lower(), two.lower())], [(two.lower(), one.lower())])
    assert [len(it) for it in found.groups.all()] == [2] * len(SUBJECTS)
    (says,) = [it.says for it in explain(here[0], here[0]._replace(journal=two), found.learnt).evidence if it.field == "journal"]
    assert "another name" in says
    later = match([*here, *otherwise(years=1, journal="Annals of Keeping Bees", kind="article")])
    assert not later.learnt.common.venues, "what a meeting heard and a journal printed a year later are two reports"
    assert not any(pair.verdict == "same" for pair in later.pairs)


@pytest.mark.parametrize(
    ("values", "sources"),
    [
        ([{"year": 2001}, {"year": 2004}, {"year": 2009}], None),
        ([{"authors": ("Ames, B",)}, {"authors": ("Cole, D", "Dunn, E")}, {"authors": ("Frey, G",)}], None),
        ([{"accession": "A1234567"}, {"accession": "A1234568"}, {"accession": "A1234569"}], ["one", "one", "one"]),
    ],
)
def test_a_title_that_comes_again_and_again_is_joined_by_place_or_doi_only(
    values: list[dict[str, object]], sources: list[str] | None
) -> None:
    column = ORSEL._replace(title="Messages from the apiary director of the union", doi="", volume="", issue="", pages="", abstract="")
    pieces = [column._replace(**it) for it in values]
    found = match([*pieces, pieces[0]], sources=sources and [*sources, "two"])
    assert found.learnt.common.titles == ["messages apiary director union"]
    assert not any(pair.verdict == "same" for pair in found.pairs)
    placed = [it._replace(volume=str(k), pages=f"{k}7") for k, it in enumerate(pieces)]
    assert match([*placed, placed[0]]).groups.all()[0] == [0, 3]


def test_five_copies_of_one_report_do_not_make_its_title_a_column() -> None:
    copies = [
        ORSEL,
        ORSEL._replace(year=2020),
        ORSEL._replace(authors=("Orsel, T",)),
        ORSEL._replace(authors=()),
        ORSEL._replace(pages="e77"),
    ]
    found = match(copies, sources=["a", "a", "b", "c", "d"])
    assert found.learnt.common.titles == []
    assert len(found.groups.all()) == 1


def test_a_learnt_review_weighs_a_pair_as_the_matching_did() -> None:
    records = [ORSEL, ORSEL._replace(doi="", year=2020), ORSEL._replace(title="Editorial", doi="", abstract="")]
    found = match(records)
    for pair in found.pairs:
        assert explain(records[pair.left], records[pair.right], found.learnt).total == pytest.approx(pair.score, abs=1e-4)


def test_the_curve_counts_links_and_expects_fewer_errors_the_higher_the_weight() -> None:
    many = [ORSEL._replace(title=f"{ORSEL.title} {k % 20}", doi="", pages=str(k % 20), abstract="") for k in range(60)]
    found = match(many)
    points = curve(found.judged, found.learnt.weights, len(many))
    assert points[0].links == 40
    for low, high in itertools.pairwise(points):
        assert low.links >= high.links
        assert low.wrong >= high.wrong - 1e-9
        assert low.missed <= high.missed + 1e-9


def test_the_error_of_a_sample_has_an_exact_interval() -> None:
    assert share_of(0, 0) == (0, 0, 1)
    assert share_of(5, 100)[1:] == (pytest.approx(0.0164, abs=1e-3), pytest.approx(0.1128, abs=1e-3))
    assert share_of(7, 7).high == 1


def test_the_kept_record_follows_the_order_of_trust_but_for_whole_texts() -> None:
    poor = ORSEL._replace(title="Overwintering losses", abstract="Short.", doi="", year=2020)
    kept, whose = merge([ORSEL, poor], [1, 0])
    assert (kept.title, kept.year, whose["title"]) == ("Overwintering losses", 2020, 1)
    assert (kept.abstract, kept.doi) == (ORSEL.abstract, ORSEL.doi), "what the trusted one lacks, and whole texts, come from the other"


def test_matching_is_the_same_every_time_and_in_blocks_of_any_size() -> None:
    many = [ORSEL._replace(title=f"{ORSEL.title} {k % 50}", doi="", pages=str(k % 50), abstract="") for k in range(200)]
    one, two = match(many), match(many)
    assert one.pairs == two.pairs
    assert len(one.groups.all()) == 50
