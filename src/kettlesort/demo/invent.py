"""Invented documents about beehives, from a fixed seed: what the demo's sources hold."""

from __future__ import annotations

import random
from collections.abc import Iterator
from dataclasses import dataclass, replace

from kettlesort.demo.document import JOURNALS, Document
from kettlesort.demo.doubts import doubts

FAMILIES = [
    "Orsel",
    "Vanterpool",
    "Quillby",
    "Ames",
    "Tarnow",
    "Brask",
    "Lindqvar",
    "Hollowell",
    "Maribeck",
    "Fenwroth",
    "Osterlow",
    "Pellgrave",
    "Rundahl",
    "Skarvik",
    "Tollemark",
    "Uverton",
    "Wexcombe",
    "Yarlow",
    "Zandrell",
    "Corvane",
    "Dunmarrow",
    "Eskelund",
    "Farrowby",
    "Grintham",
    "Haskenby",
    "Ilvonen",
    "Jorveck",
    "Kestermann",
    "Lambrigg",
    "Morvath",
    "Nethersole",
    "Oakenfell",
    "Prestrand",
    "Quarnby",
    "Roskild",
    "Sundermere",
    "Thornaby",
    "Ulverley",
    "Vossbeck",
    "Winterlund",
    "Bjørnvik",
    "Söderhaug",
    "Müllbach",
    "Çelvane",
]
GIVEN = [
    "Tamsin",
    "Milo",
    "Rudd",
    "Brenna",
    "Jory",
    "Odile",
    "Linnea",
    "Casper",
    "Wynn",
    "Petra",
    "Anselm",
    "Ilse",
    "Torben",
    "Maren",
    "Silas",
    "Greta",
    "Hedda",
    "Niall",
    "Rosalie",
    "Emrys",
    "Katja",
    "Bo",
]


@dataclass(frozen=True, slots=True)
class Theme:
    """What a kind of document is about, and the criterion (by number) that it fails; 0 for what belongs."""

    fails: int
    subjects: tuple[str, ...]
    settings: tuple[str, ...]
    sentences: tuple[str, ...]
    descriptors: tuple[str, ...]


THEMES = {
    "belongs": Theme(
        0,
        (
            "Overwintering losses in wrapped and unwrapped hives", "Insulated hive covers and winter survival of honeybee colonies", "Polystyrene hives and colony survival through winter",
            "Foam wraps for wintering honeybee colonies", "Tar-paper wrapping of hives and spring survival", "Insulated lids and winter mortality of colonies",
            "Effect of hive insulation on overwinter survival", "Straw-insulated hives and survival of colonies in cold winters", "Thermal insulation of hives and colony losses in winter",
        ),
        ("a three-winter comparison", "a randomised apiary trial", "an on-farm trial", "a cohort of eleven apiaries", "a controlled comparison in a cold continental climate", "a two-valley comparison"),
        (
            "Honeybee colonies in cold regions are commonly wrapped before winter, yet evidence that insulation improves survival is mixed.",
            "Colonies were randomly allocated to an insulating wrap or to no treatment.", "Colony survival to the first inspection in spring was {a} % in insulated hives and {b} % in controls.",
            "We followed {n} colonies at {k} apiaries over {w} winters.", "Clusters in insulated hives used less stored food.", "No difference was seen in mite load or in brood area by May.",
            "Insulation reduced heat loss through the lid, and fewer colonies died before spring.", "The risk of winter loss was lower with insulation, with wide variation between apiaries.",
        ),
        ("Bees/physiology", "Beekeeping/methods", "Seasons", "Thermal insulation", "Survival"),
    ),
    "winter": Theme(
        2,
        ("Colony losses in the northern district", "Winter mortality of honeybee colonies: a survey", "Feeding sugar boards late in autumn", "Indoor wintering versus outdoor wintering", "Autumn mite treatment and winter survival", "Queen age and overwintering success"),
        ("results of a questionnaire", "a ten-year record", "a comparison of two regions", "what beekeepers report", "a field study"),
        (
            "Winter losses of honeybee colonies vary widely between years.", "Beekeepers reported {n} colonies, of which {b} % were lost over winter.", "Autumn feeding and mite treatment were associated with survival.",
            "Hives were not insulated in any of the apiaries.", "Losses were highest after long autumns with late brood.", "Colony strength in October predicted survival in spring.",
        ),
        ("Bees", "Seasons", "Mortality", "Beekeeping"),
    ),
    "thermal": Theme(
        3,
        ("Heat loss of empty comb measured by thermography", "Hive material and cluster temperature", "Moisture in insulated and plain hives", "Energetics of the winter cluster", "Thermal conductivity of hive walls", "Ventilation of overwintering boxes", "Insulation of nucleus hives and brood temperature"),
        ("a laboratory study", "measurements in forty hives", "a model", "a comparison of six materials", "with and without lids"),
        (
            "The thermal properties of hives are rarely measured.", "Insulated walls halved heat loss at {k} degrees below zero.", "Temperature was logged every {w} minutes in {n} hives.",
            "Cluster temperature was steadier in insulated hives.", "Survival was not recorded.", "Moisture condensed on cold walls but not on insulated ones.",
        ),
        ("Thermal insulation", "Temperature", "Hives", "Humidity"),
    ),
    "uncontrolled": Theme(
        4,
        ("Wintering in insulated hives", "Experience with wrapped hives at high altitude", "Winter survival in foam hives", "A winter with insulated covers"),
        ("a report from one apiary", "a case series", "three seasons of experience", "notes from the mountains"),
        (
            "We describe wintering in insulated hives at one apiary.", "All {n} hives were insulated, and {a} % of the colonies survived.", "There was no comparison group.",
            "Colonies came out of winter strong and with food to spare.", "Wraps were fitted in October and removed in April.",
        ),
        ("Beekeeping", "Thermal insulation", "Survival"),
    ),
    "opinion": Theme(
        5,
        ("Should hives be insulated", "Insulating hives in winter: a review of the arguments", "Wintering honeybees: a guide for beekeepers", "Insulation and the honeybee colony: a narrative review"),
        ("an editorial", "old and new views", "what is known", "a practical guide"),
        ("Opinions on insulating hives differ.", "We review the arguments for and against insulation in winter.", "Readers will find advice on wraps, lids and ventilation.", "No data of our own are reported."),
        ("Beekeeping", "Review literature"),
    ),
    "other_bees": Theme(
        1,
        ("Nest insulation in bumblebees", "Overwintering of solitary bees in straw nests", "Wasp nests and winter temperature", "Greenhouse heating and bumblebee foraging", "Insulated nest boxes for cavity-nesting wasps"),
        ("a garden study", "an experiment", "observations in two parks", "a comparison of nest types"),
        ("Nests of wild bees are insulated by moss and straw.", "We placed {n} nest boxes in {k} gardens.", "Queens survived winter in {a} % of the nests.", "Honeybees were not studied."),
        ("Bumblebees", "Nesting", "Seasons"),
    ),
    "other": Theme(
        2,
        (
            "Pollen diversity and honey yield", "Pesticide residues in beeswax", "Grooming of mites in selected lines", "Foraging range in rape fields", "Nectar flow and swarming", "Electronic counters at the hive entrance",
            "Genetic diversity of drones", "Honey quality after heating", "Propolis and brood disease", "Income of small beekeeping farms", "Waggle dances and landscape", "Royal jelly and larval growth",
            "Image recognition of mites on brood", "Sensor networks in apiaries", "Pollination of apple orchards", "Wax moth control in stored comb",
        ),
        ("a field experiment", "a survey of apiaries", "a two-year study", "an analysis of records", "a pilot trial", "evidence from the lowlands"),
        (
            "Beekeepers ask how {x} affects colonies.", "We studied {n} colonies at {k} apiaries.", "{x} differed between sites by {a} %.", "Foraging and brood area were measured every {w} weeks.",
            "Results suggest that landscape matters more than management.", "Further work should follow colonies for longer.", "Samples were analysed in one laboratory.",
        ),
        ("Bees", "Pollination", "Agriculture", "Honey", "Mites"),
    ),
}  # fmt: skip
_SHARES = (("winter", 0.14), ("thermal", 0.1), ("uncontrolled", 0.03), ("opinion", 0.05), ("other_bees", 0.1), ("other", 0.58))


_PLACES = ("Prairie", "Coastal", "Upland", "Inland", "Lakeside", "Boreal")
_BEGINNINGS = ("Harrow", "Osk", "Ting", "Morn", "Quen", "Silv", "Brand", "Kell", "Ulf", "Wend")
_ENDINGS = ("mere", "aby", "ersund", "lough", "eby", "erwick", "inge", "arvik", "ombe", "otter", "adal", "ington", "ermouth")
_REGIONS = ["district", "valley", "plateau", "province", "county", "basin", "uplands", "lowlands", "islands", "foothills"]


def _landscape(rng: random.Random, number: int) -> str:
    """A landscape with a name that few others share: a word that says nothing about what is studied."""
    return f"{rng.choice(_BEGINNINGS)}{_ENDINGS[number % len(_ENDINGS)]} {rng.choice(_REGIONS)}"


def _document(rng: random.Random, number: int, theme_name: str, kind: str) -> Document:
    theme = THEMES[theme_name]
    year = rng.choice(range(1979, 2026))
    title = rng.choice(theme.subjects)
    title += f" in the {_landscape(rng, number)}" if rng.random() < 0.8 else f", {year - rng.randint(3, 9)} to {year - 1}"
    total1, total2 = rng.randint(18, 110), rng.randint(18, 110)
    alive1, alive2 = int(total1 * rng.uniform(0.68, 0.95)), int(total2 * rng.uniform(0.5, 0.88))
    words = {
        "a": rng.randint(62, 94), "b": rng.randint(34, 80), "n": total1 + total2, "k": rng.randint(2, 14), "w": rng.randint(2, 5), "x": title.split(" in the ")[0].lower(),
    }  # fmt: skip
    order = list(theme.sentences)
    first = order.pop(0)
    rng.shuffle(order)
    chosen = [first, *order[: rng.randint(3, len(order))]]
    extra = rng.sample(THEMES["other"].sentences[4:], rng.randint(0, 2))
    abstract = " ".join(sentence.format(**words) for sentence in [*chosen, *extra])
    authors = tuple(
        dict.fromkeys(f"{rng.choice(FAMILIES)}, {rng.choice(GIVEN)}" for _ in range(1 if kind == "thesis" else rng.randint(2, 7)))
    )
    journal = rng.randrange(len(JOURNALS))
    return Document(
        number=number, theme=theme_name, title=title, subtitle=rng.choice(theme.settings) if rng.random() < 0.75 else "", authors=authors, year=year,
        journal=journal, volume=year - 1970, issue=rng.randint(1, 6), page=rng.randint(1, 900), length=rng.randint(4, 17),
        doi=f"10.5555/{''.join(word[0] for word in JOURNALS[journal][0].lower().split() if word[0].isalpha())}.{year}.{number:04d}",
        abstract=abstract, descriptors=tuple(rng.sample(theme.descriptors, rng.randint(2, len(theme.descriptors)))), kind=kind,
        arms=(alive1, total1, alive2, total2), place=rng.choice(_PLACES),
    )  # fmt: skip


_DOUBTED = len({one.number for pair in doubts(1) for one in (pair.one, pair.other)})
FIRST_DOUBTED = 874 - _DOUBTED + 1
"""The demo's documents from this number on are those of `doubts`."""


def documents(count: int = 874, belonging: int = 40, seed: int = 20260204) -> list[Document]:
    """The demo's documents: the first ``belonging`` belong; then the rest, look-alikes on purpose, and those of `doubts`."""
    rng = random.Random(seed)
    found: list[Document] = []
    titles: set[tuple[str, str]] = set()
    names, shares = zip(*_SHARES, strict=True)
    doubted = {one.number: one for pair in doubts(count - _DOUBTED + 1) for one in (pair.one, pair.other)}
    while len(found) < count - _DOUBTED - 4:
        theme = "belongs" if len(found) < belonging else rng.choices(names, shares)[0]
        kind = "article" if theme == "belongs" or rng.random() < 0.83 else rng.choice(("thesis", "thesis", "conference", "report"))
        made = _document(rng, len(found) + 1, theme, kind)
        if (made.title, made.subtitle) not in titles:
            titles.add((made.title, made.subtitle))
            found.append(made)
    return found + _look_alikes(found, len(found)) + list(doubted.values())


def catalogue(count: int, seed: int = 20260301) -> Iterator[Document]:
    """What a large catalogue holds: the demo's documents, and as many more as it takes to ``count``."""
    known = documents()[:count]
    yield from known
    rng = random.Random(seed)
    names, shares = zip(*_SHARES, strict=True)
    for number in range(len(known) + 1, count + 1):
        kind = "article" if rng.random() < 0.83 else rng.choice(("thesis", "conference", "report", "book"))
        yield _document(rng, number, rng.choices(names, shares)[0], kind)


def _look_alikes(found: list[Document], last: int) -> list[Document]:
    """What looks the same and is not: a further edition, a conference abstract of an article, a second part."""
    book = Document(
        number=last + 1, theme="opinion", title="Wintering the honeybee colony, 2nd edition", subtitle="", authors=("Winterlund, Casper",), year=1998,
        journal=7, volume=0, issue=0, page=1, length=183, doi="", descriptors=("Beekeeping",), kind="book",
        abstract="A handbook of wintering for beekeepers: stores, mites, entrances, wraps and the first inspection in spring.",
    )  # fmt: skip
    later = replace(book, number=last + 2, title="Wintering the honeybee colony, 3rd edition", year=2009, length=211)
    talk = replace(
        found[8], number=last + 3, kind="conference", year=found[8].year - 1, journal=3, volume=4, issue=1, page=77, length=1, doi="",
        abstract=found[8].abstract[:160],
    )  # fmt: skip
    first = found[300]
    part = replace(first, number=last + 4, title=first.title + ", part II", year=first.year + 1, page=first.page + 40, doi="", subtitle="")
    return [book, later, talk, part]
