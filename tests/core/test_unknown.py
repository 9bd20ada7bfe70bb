"""Files that nobody has a reader for: a recipe is worked out from what would come of it."""

from __future__ import annotations

import io

import pytest

from kettlesort.core.formats import open_reading
from kettlesort.core.formats.infer import propose
from kettlesort.core.formats.ris import RIS
from kettlesort.core.formats.tagged import speaks

TITLES = (
    "Wraps in the north",
    "Lids and straw",
    "Nectar in small towns",
    "Moisture and mites",
    "Queens of dry plains",
    "Wax, pollen and brood",
)
PEOPLE = (
    ("Orsel, Wilma", "Brask, Cedric"),
    ("Quill, Rudd",),
    ("Ames, Daniel", "Marsh, Odile", "Tann, Maria"),
    ("Sorby, Karl",),
    ("Straw, Helen", "Lorn, Tamsin"),
    ("Kowal, Zofia",),
)
ABSTRACT = "We compared hives with straw and without. They were weighed every week over one winter, and then again.\n   Losses were low in all of them, and lower where lids had been dry: 4 % beside 11 %."


def file(pattern: str, authors: str = "; ", heading: str = "") -> str:
    """Six records in the manner of a pattern."""
    return heading + "".join(
        pattern.format(
            k=k, title=title, authors=authors.join(people), year=2010 + k, journal="Hive Letters", abstract=ABSTRACT, id=f"H{1000 + k}"
        )
        for k, (title, people) in enumerate(zip(TITLES, PEOPLE, strict=True), 1)
    )


@pytest.mark.parametrize(
    ("text", "begin"),
    [
        (file("Title: {title}\nAuthors: {authors}\nYear: {year}\nJournal: {journal}\nAbstract: {abstract}\nRecord: {id}\n\n", heading="Library of Lids\nDate: 2026-02-04\n\n"), "tag"),
        (file("Titel | {title}\nVerfasser | {authors}\nJahr | {year}\nZusammenfassung | {abstract}\nNummer | {id}\n\n"), "tag"),
        (file("titre -> {title}\nauteurs -> {authors}\nannée -> {year}\nrésumé -> {abstract}\nnotice -> {id}\n"), "tag"),
        (file("Título - {title}\nAutores - {authors}\nAño - {year}\nResumen - {abstract}\nRegistro - {id}\n\n"), "tag"),
        (file("Otsikko        {title}\nTekijät        {authors}\nVuosi          {year}\nTiivistelmä    {abstract}\nTunnus         {id}\n\n"), "tag"),
        (file("### {k} ###\nWhat = {title}\nWho = {authors}\nWhen = {year}\nAbout = {abstract}\nSlip = {id}\n"), "number"),
        (file("*title* {title}\n*author* {authors}\n*year* {year}\n*summary* {abstract}\n*id* {id}\n//\n"), "tag"),
        (file("AUT: {authors}\nTIT: {title}\nYEA: {year}\nABS: {abstract}\nNUM: {id}\n", authors="\nAUT: "), "tag"),
        (file("TITLE\n{title}\nAUTHORS\n{authors}\nYEAR\n{year}\nABSTRACT\n{abstract}\nRECORD\n{id}\n\n", authors="\n"), "tag"),
        (file("    Titolo: {title}\n    Autori: {authors}\n    Anno: {year}\n    Riassunto: {abstract}\n    Scheda: {id}\nEnd\n"), "tag"),
        (file("TT:{title}\nAA:{authors}\nYY:{year}\nXX:{abstract}\nNN:{id}\nEE:\n"), "tag"),
        (file('Title = "{title}"\nAuthors = "{authors}"\nYear = "{year}"\nAbstract = "{abstract}"\nId = "{id}"\n\n'), "tag"),
    ],
)  # fmt: skip
def test_labels_of_any_kind_are_understood_from_the_whole_file(text: str, begin: str) -> None:
    reading = open_reading(io.BytesIO(text.encode()))
    records = [entry.record for entry in reading]
    assert [it.title for it in records] == list(TITLES)
    assert [it.authors for it in records] == list(PEOPLE)
    assert [it.year for it in records] == list(range(2011, 2017))
    assert {it.abstract for it in records} == {" ".join(ABSTRACT.split())}
    assert [it.accession for it in records] == [f"H{1000 + k}" for k in range(1, 7)]
    assert reading.recipe
    assert reading.recipe.begin == begin
    assert [it for it in reading.problems if not it.remark] == []


def test_reading_and_the_page_of_recipes_come_to_one_answer() -> None:
    text = file("Rec: {id}\nHeadline: {title}\nWriters: {authors}\nIssued: {year}\nDigest: {abstract}\n\n")
    read, proposed = open_reading(io.BytesIO(text.encode())).recipe, propose(text)
    assert read
    assert proposed
    assert read.model_copy(update={"name": proposed.recipe.name}) == proposed.recipe


def test_a_list_of_words_is_no_accession() -> None:
    found = propose(file("KEY: WAX; LIDS; STRAW\nTIT: {title}\nAUT: {authors}\nYEA: {year}\n\n"))
    assert found
    assert found.recipe.fields["KEY"] == "keywords"


def test_letters_and_a_dash_are_not_yet_a_format() -> None:
    assert speaks(["TI", "AU", "PY", "ZZ"], RIS)
    assert not speaks(["TT", "AA", "YY", "PP", "DD"], RIS)
