"""Pairs in the demo over which a team doubts: a preprint and its article, what was told at a meeting and then printed, parts, a translation, cut titles."""

from __future__ import annotations

from typing import NamedTuple

from kettlesort.demo.document import Document, Venue


class Doubt(NamedTuple):
    """Two records of different sources (``one_from``, ``other_from``), exactly as those hold them. The same number: one document."""

    one_from: str
    one: Document
    other_from: str
    other: Document


_DRAFTS = Venue("Open Shelf of Bee Science Preprints", "Open Shelf Preprints")
_MEETING = Venue("Abstracts of the Fourth Overwintering Congress", "Abstr. Overwinter. Congr.")
_PRACTICE = Venue("The Practical Hive", "Pract. Hive")
_NORTHERN = Venue("Northern Beekeeping Quarterly", "North. Beekeep. Q.")
_ANNALS = Venue("Annals of Made-up Apiculture", "Ann. Made-up Apicult.")
_COLONY = Venue("Colony Health Reports", "Colony Health Rep.")
_LETTERS = Venue("Hive and Climate Letters", "Hive Clim. Lett.")
_ESTMARK = Venue("Estmärker Bienenblätter", "Estm. Bienenbl.")
_SCHOOL = Venue("Institute of Rural Inventions, Karlow", "Inst. Rural Invent.")


def _document(
    number: int, theme: str, title: str, authors: str, year: int, venue: Venue, place: tuple[int, int, int, int], abstract: str, *,
    kind: str = "article", doi: str = "", descriptors: tuple[str, ...] = ("Beekeeping", "Seasons"), language: str = "eng",
    arms: tuple[int, int, int, int] = (0, 0, 0, 0),
) -> Document:  # fmt: skip
    volume, issue, page, length = place
    return Document(
        number=number, theme=theme, title=title, subtitle="", authors=tuple(authors.split("; ")), year=year, appeared=venue, journal=0, volume=volume, issue=issue,
        page=page, length=length, doi=doi, abstract=abstract, descriptors=descriptors, kind=kind, language=language, arms=arms, place="Upland", flawless=True,
    )  # fmt: skip


_INSULATION = ("Thermal insulation", "Survival")
_LIDS = "Insulated lids are sold to beekeepers as a safeguard against winter loss. In two winters, 148 colonies at nine apiaries were given foam lids or left with plain ones."
_SUGAR = "Sugar boards were laid on in November in half of 92 colonies. Clusters with boards were as large in March as those without."
_DRUMMING = "Fresh brood in January was looked for in 61 colonies by listening to the cluster. A drum-like note told colonies with brood from those without in nine of ten cases."
_DAMP = "Relative humidity was logged under the crown board of twelve hives from October to April."
_SCALES = (
    "Hive scales at four apiaries told when clusters began to eat faster. The first frost, not the shortest day, was the turning point."
)
_SILENT = (
    "Sixty hives were wintered in a cellar and opened in March. Food left, dead bees on the floor and the size of the cluster were noted."
)
_QUEENS = "Queens reared late were followed through their first winter in 84 colonies. More of them were lost than of queens reared before midsummer."
_WOOL = "Sheep's wool in the roof was compared with an empty roof in 36 hives. Survival was 31 of 36 hives in all, and the groups did not differ."
_FONDANT = "Beekeepers of one county fed fondant, syrup or nothing in December, as they were used to. Of 210 colonies 38 were lost."
_SNOW = "Entrances that were closed by snow were opened daily, weekly or not at all. The colonies of 18 apiaries were weighed in spring."


def doubts(first: int) -> list[Doubt]:
    """The pairs; their documents are numbered from ``first``."""
    n = iter(range(first, first + 40))
    lids = "Foam lids and winter loss of honeybee colonies in nine apiaries"
    sugar = "Sugar boards in late autumn do not make larger spring clusters"
    drumming = "A drum-like note betrays brood in the midwinter cluster"
    scales = "The first frost sets the pace: what hive scales tell about winter food"
    cellar = "Sixty hives in a cellar: food, dead bees and cluster size after a silent winter"
    queens = "Late queens and the first winter: losses in eighty-four colonies with queens reared before and after midsummer"
    wool = "Sheep's wool under the roof and survival of wintering colonies"
    damp = "Moisture under the crown board in winter"
    fondant = "Fondant, syrup or nothing: December feeding and losses in one county"
    late = next(n)
    return [
        Doubt(  # the same title, on a shelf of preprints first
            "chasing", _document(next(n), "winter", sugar, "Farrowby, Hedda; Ames, Jory", 2021, _DRAFTS, (0, 0, 0, 0), _SUGAR, kind="preprint", doi="10.5555/shelf.2021.00417"),
            "vitalis", _document(next(n), "winter", sugar, "Farrowby, Hedda; Ames, Jory; Roskild, Bo", 2022, _COLONY, (52, 3, 211, 9), _SUGAR, doi="10.5555/chr.2022.1101"),
        ),
        Doubt(  # a preprint whose title was sharpened in review
            "chasing", _document(next(n), "belongs", lids.replace("winter loss", "overwinter loss"), "Wexcombe, Linnea; Brask, Torben; Yarlow, Ilse", 2019, _DRAFTS, (0, 0, 0, 0), _LIDS, kind="preprint", doi="10.5555/shelf.2019.00122", descriptors=_INSULATION, arms=(66, 75, 58, 73)),
            "agrarica", _document(next(n), "belongs", lids, "Wexcombe, Linnea; Brask, Torben; Yarlow, Ilse", 2020, _ANNALS, (50, 2, 88, 12), _LIDS, doi="10.5555/aoma.2020.1103", descriptors=_INSULATION, arms=(66, 75, 58, 73)),
        ),
        Doubt(  # told at a meeting, then printed
            "agrarica", _document(next(n), "winter", drumming, "Ilvonen, Maren; Hollowell, Silas", 2015, _MEETING, (4, 1, 31, 0), _DRUMMING[:96] + ".", kind="conference"),
            "vitalis", _document(next(n), "winter", drumming, "Ilvonen, Maren; Hollowell, Silas", 2016, _LETTERS, (46, 4, 402, 13), _DRUMMING, doi="10.5555/hacl.2016.1105"),
        ),
        Doubt(  # the meeting's book of abstracts, and the paper by more people a year later
            "abstracts", _document(next(n), "winter", scales, "Kestermann, Katja; Orsel, Wynn", 2011, _MEETING, (2, 1, 77, 0), "", kind="conference"),
            "vitalis", _document(next(n), "winter", scales, "Kestermann, Katja; Orsel, Wynn; Uverton, Emrys", 2012, _COLONY, (42, 1, 19, 8), _SCALES, doi="10.5555/chr.2012.1107"),
        ),
        Doubt(  # two parts; one source has lost the number
            "abstracts", _document(next(n), "thermal", damp, "Lambrigg, Odile; Tarnow, Casper", 2008, _ANNALS, (0, 0, 0, 0), _DAMP),
            "agrarica", _document(next(n), "thermal", damp + ", part II", "Lambrigg, Odile; Tarnow, Casper", 2008, _ANNALS, (38, 4, 301, 10), _DAMP, doi="10.5555/aoma.2008.1109"),
        ),
        Doubt(  # the same people in the same volume; a word differs
            "vitalis", _document(next(n), "winter", "Closed entrances under snow and colony weight in spring: upland apiaries", "Skarvik, Rudd; Vossbeck, Greta", 2004, _NORTHERN, (34, 2, 120, 6), _SNOW),
            "abstracts", _document(next(n), "winter", "Closed entrances under snow and colony weight in spring: lowland apiaries", "Skarvik, Rudd; Vossbeck, Greta", 2004, _NORTHERN, (34, 0, 0, 0), _SNOW),
        ),
        Doubt(  # a translation in another journal, under its translated title
            "vitalis", _document(next(n), "winter", "[" + cellar + "]", "Müllbach, Anselm; Söderhaug, Petra", 1994, _ESTMARK, (24, 6, 233, 5), "", language="ger"),
            "agrarica", _document(next(n), "winter", cellar, "Müllbach, Anselm; Söderhaug, Petra", 1995, _NORTHERN, (25, 3, 140, 7), _SILENT),
        ),
        Doubt(  # one document: the title cut off, the year of the preview, no place
            "abstracts", _document(late, "winter", queens[:58], "Oakenfell, Milo", 2017, Venue("", ""), (0, 0, 0, 0), ""),
            "vitalis", _document(late, "winter", queens, "Oakenfell, Milo; Thornaby, Rosalie", 2018, _LETTERS, (48, 1, 66, 11), _QUEENS, doi="10.5555/hacl.2018.1116"),
        ),
        Doubt(  # printed again for practice, years later
            "agrarica", _document(next(n), "belongs", wool, "Corvane, Brenna; Eskelund, Niall", 2006, _PRACTICE, (12, 5, 14, 3), _WOOL, descriptors=_INSULATION, arms=(16, 18, 15, 18)),
            "vitalis", _document(next(n), "belongs", wool, "Corvane, Brenna; Eskelund, Niall", 2003, _ANNALS, (33, 1, 57, 9), _WOOL, doi="10.5555/aoma.2003.1118", descriptors=_INSULATION, arms=(16, 18, 15, 18)),
        ),
        Doubt(  # a thesis, and the article that came of it
            "theses", _document(next(n), "winter", fondant, "Pellgrave, Tamsin", 2013, _SCHOOL, (0, 0, 1, 96), _FONDANT, kind="thesis"),
            "vitalis", _document(next(n), "winter", fondant, "Pellgrave, Tamsin; Dunmarrow, Jory", 2014, _COLONY, (44, 2, 151, 12), _FONDANT, doi="10.5555/chr.2014.1120"),
        ),
    ]  # fmt: skip
