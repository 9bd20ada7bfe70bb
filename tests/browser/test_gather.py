"""Everything that a source can export, and what has no source: taken in, corrected, fetched, filled, narrowed, converted."""

from __future__ import annotations

import io
import os
import re
import zipfile
from collections.abc import Callable
from pathlib import Path

import psycopg
import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from kettlesort.core import formats
from kettlesort.core.record import Record
from kettlesort.demo.invent import documents
from tests.browser.conftest import FILES, Person

pytestmark = pytest.mark.xdist_group("first")
Sit = Callable[..., Person]


def records() -> list[Record]:
    return [entry.record for entry in formats.read_path(FILES / "vitalis-index.nbib")]


def written(some: list[Record], format: str) -> bytes:
    out = io.BytesIO()
    formats.write(some, format, out)
    return out.getvalue()


def medline(some: list[Record]) -> bytes:
    def article(it: Record) -> str:
        names = "".join(
            f"<Author><LastName>{n.split(', ')[0]}</LastName><ForeName>{n.split(', ')[-1]}</ForeName></Author>" for n in it.authors
        )
        return (
            f"<MedlineCitation><PMID>{it.accession}</PMID><Article><Journal><JournalIssue><PubDate><Year>{it.year}</Year></PubDate></JournalIssue></Journal>"
            f"<ArticleTitle>{it.title}</ArticleTitle><AuthorList>{names}</AuthorList></Article></MedlineCitation>"
        )

    return f"<?xml version='1.0'?>\n<MedlineCitationSet>{''.join(map(article, some))}</MedlineCitationSet>".encode()


def ods(some: list[Record]) -> bytes:
    cell = '<table:table-cell office:value-type="string"><text:p>{}</text:p></table:table-cell>'
    rows = "".join(
        f"<table:table-row>{''.join(cell.format(value) for value in row)}</table:table-row>"
        for row in [("Title", "Year", "Autoren"), *((it.title, it.year, "; ".join(it.authors)) for it in some)]
    )
    spaces = " ".join(f'xmlns:{name}="urn:oasis:names:tc:opendocument:xmlns:{name}:1.0"' for name in ("office", "table", "text"))
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr("META-INF/manifest.xml", "<manifest/>")
        archive.writestr(
            "content.xml",
            f'<office:document-content {spaces}><office:body><office:spreadsheet><table:table table:name="Sheet1">{rows}</table:table></office:spreadsheet></office:body></office:document-content>',
        )
    return out.getvalue()


def every_kind(folder: Path) -> dict[Path, str]:
    """Files of eleven kinds, with what each is to be called; each has records of its own."""
    some = records()
    parts = [some[k : k + 4] for k in range(0, 48, 4)]
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as archive:
        archive.writestr("part-1.ris", written(parts[0], "ris"))
        archive.writestr("part-2.ris", written(parts[1], "ris"))
    refer = "".join(
        f"%0 Journal Article\n%T {it.title}\n%D {it.year}\n" + "".join(f"%A {name}\n" for name in it.authors) + "\n" for it in parts[2]
    )
    data = {
        "old.ris": (written(parts[3], "ris").replace(b"TI  -", b"T1  -").replace(b"\n", b"\r"), "RIS"), "index.nbib": (written(parts[4], "nbib"), "NBIB"), "theses.bib": (written(parts[5], "bibtex"), "BibTeX"),
        "table.csv": (written(parts[6], "csv").replace(b"\xef\xbb\xbf", b"Exported today\r\n"), "CSV"), "book.xlsx": (written(parts[7], "xlsx"), "XLSX"), "free.ods": (ods(parts[8]), "ODS"),
        "index.xml": (medline(parts[9]), "MEDLINE XML"), "items.json": (written(parts[10], "csljson"), "CSL-JSON"), "refer.txt": (refer.encode("utf-16"), "Refer"),
        "ids.txt": ("\n".join(f"https://doi.org/10.5555/only.{k}" for k in range(4)).encode(), "a list of identifiers"), "parts.zip": (packed.getvalue(), "RIS"),
    }  # fmt: skip
    for name, (content, _) in data.items():
        (folder / name).write_bytes(content)
    return {folder / name: called for name, (_, called) in data.items()}


def begin(it: Person, title: str, name: str = "odile") -> None:
    it.sign_in(name)
    it.click("New review")
    it.type("Title", title)
    it.click("Make the review")
    it.reads("Elements of the question")
    it.click("Gather")
    it.reads("The search log is empty")


def new_search(it: Person, source: str) -> None:
    it.click("Searches")
    it.click("New search")
    it.type("Source", source)
    it.click("Write into the log")
    it.reads("The search is in the log", "Upload files")


def test_eleven_files_of_every_kind_come_in_one_corrected_and_one_by_recipe(person: Sit) -> None:
    it = person()
    begin(it, "Every kind")
    new_search(it, "Many sources")
    files = every_kind(it.downloads)
    it.type("Label for the files", "first heap")
    for path in files:
        it.upload(path)
        it.reads(path.stem)
        it.until(lambda: "% sent" not in it.text(), "all of it sent")
    it.until(lambda: it.text().count("to look at") >= 12, "twelve files to look at")
    it.click("Files")
    it.until(lambda: len(it._named("Take in ")) >= 12, "twelve to take in")
    listed = it.text()
    assert {"MEDLINE XML", "CSL-JSON", "ODS", "list of identifiers", "Refer", "UTF-16"} <= {
        word for word in ("MEDLINE XML", "CSL-JSON", "ODS", "list of identifiers", "Refer", "UTF-16") if word in listed
    }
    it.click("table.csv")
    it.reads("Read as", "CSV", "a heading before the first record", "Many sources")
    it.click("Take in 4 records")
    it.reads("4 in")
    it.click("Files")
    for k in range(11):
        it.click("Take in ")
        it.until(lambda k=k: re.search(rf"\b{4 * (k + 2)} in\b", it.text()), f"{4 * (k + 2)} in")
        it.until(lambda k=k: len(it._named("Take in ")) == 10 - k, "its row says so too")

    # one whose fields are in the wrong tags: seen, corrected, remembered for its source
    new_search(it, "Beekeepers' Archive")
    it.upload(FILES / "beekeepers-archive.ris")
    it.reads("18 records")
    it.click("beekeepers-archive.ris")
    it.reads("different titles in 18 records", "a note as long as one")
    for tag, field in (("TI", "Journal"), ("T2", "Title"), ("N1", "Abstract")):
        it.until(lambda tag=tag: it.browser.find_elements(By.CSS_SELECTOR, f"select[aria-label='Field of {tag}']"), f"a choice for {tag}")
        it.pick(f"Field of {tag}", field)
        it.reads(f"“{tag}” is read as {field} now")
        it.until(lambda: "Being read" not in it.text() and "What was understood" in it.text(), "read again")
    it.until(lambda: "different titles" not in it.text(), "no suspicion left")
    it.click("Take in 18 records")
    it.reads("66 in")
    (it.downloads / "more.ris").write_bytes((FILES / "beekeepers-archive.ris").read_bytes().replace(b"ID  - BA", b"ID  - BB"))
    it.click("Searches")
    it.click("Beekeepers' Archive")
    it.upload(it.downloads / "more.ris")
    it.click("more.ris")
    it.reads("Read as the last file of Beekeepers' Archive was")
    it.click("Set aside")

    # one that nobody has a reader for
    new_search(it, "Hive House Library")
    it.upload(FILES / "hive-house-list.txt")
    it.reads("26 records")
    it.click("hive-house-list.txt")
    it.reads("a reading recipe, worked out from the file, please check")
    it.click("Make a recipe")
    it.reads("What the file says", "at “Rec No”: 26 records, 100 % even", "26 records in what is shown")
    it.pick("Field of Rec No", "kept, not used")
    it.reads("Rec No (kept)")
    it.pick("Field of Rec No", "Accession")
    it.pick("A record begins", "after an empty line")
    it.reads("26 records in what is shown")
    it.type("Name of the recipe", "Hive House")
    it.click("Keep, and read the file so")
    it.reads("“Hive House”, version 1, is kept", "a reading recipe, sure")
    it.click("Take in 26 records")
    it.reads("92 in")
    it.click("Recipes")
    it.reads("Hive House · 1 version", 'begin = "blank"')
    it.click("Download")
    assert formats.recipe.recipe_of(it.downloaded("hive-house.toml").decode()).name == "Hive House"  # type: ignore[attr-defined]

    # where each came from
    it.click("Records")
    it.pick("List", "Labelled “first heap”")
    it.until(
        lambda: 40 <= int(it.browser.find_elements(By.CSS_SELECTOR, ".bar-head [role=status]")[-1].text) <= 48,
        "the labelled ones, copies among them joined",
    )
    assert it.complaints() == []


def test_records_are_found_picked_labelled_exported_set_aside_and_let_in(person: Sit) -> None:
    it = person()
    begin(it, "Narrowed")
    new_search(it, "Vitalis Index")
    it.upload(FILES / "vitalis-index.nbib")
    it.click("vitalis-index.nbib")
    it.click("Take in 391 records")
    it.reads("391 in")
    it.click("Records")
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, ".entry .what a"), "the records")

    # found as one types, picked by keyboard, labelled, exported
    it.press("/")
    it.press("polystyr")
    it.until(lambda: 0 < int(it.browser.find_elements(By.CSS_SELECTOR, ".bar-head [role=status]")[-1].text) < 391, "fewer")
    it.press(Keys.ESCAPE)
    it.press(Keys.ARROW_DOWN, "x", Keys.ARROW_DOWN, "x")
    it.reads("2 records picked")
    it.press("t")
    it.type("Label", "hand search, autumn")
    it.click("Label them")
    it.reads("2 records labelled")
    it.click("Undo")
    it.press("a")
    it.reads("records picked")
    it.press("t")
    it.type("Label", "foam")
    it.press(Keys.ENTER)
    it.reads("labelled “foam”")
    it.pick("List", "Labelled “foam”")
    it.reads("Labelled “foam”")
    it.press("e")
    it.reads("What this format cannot hold", "OWN VX", "C8 and C7")
    it.click("Write the file")
    text = it.downloaded("records.ris").decode()
    assert "C7  - foam" in text
    assert "vitalis-index.nbib, line" in text
    it.click("Columns")
    it.press(Keys.ESCAPE)

    # a record's page
    it.hit(".entry .what a")
    it.reads("Whose value", "What happened", "came in", "foam", "The copy, as it came")
    it.click("Its text")
    it.reads("PMID- ")

    # set aside by a rule, with what it would do shown first; counted in the flow; let in one by one and as a whole
    it.click("Narrowing")
    it.click("Set records aside by a rule")
    it.type("Name in the flow", "Before 1990")
    it.type("Before the year", "1990")
    it.reads("would be set aside")
    n = int(re.search(r"(\d+) records would be set aside", it.text())[1])  # type: ignore[index]
    it.click(f"Set {n} aside")
    it.reads(f"{n} records set aside as “Before 1990”")
    to_go = lambda: re.search(r"(\d+) to go", it.text())  # noqa: E731
    it.until(lambda: to_go() and int(to_go()[1]) < 391 - n + 1, "fewer to go")
    left = int(to_go()[1])  # type: ignore[index]
    it.click("Report")
    it.until(
        lambda: (
            "Before 1990" in it.browser.execute_script("return document.querySelector('svg')?.textContent ?? ''")
            or "Before 1990" in it.text()
        ),
        "named in the flow",
    )
    assert "do not add up" not in it.text()
    it.click("Gather")
    it.click("Narrowing")
    it.click(f"{n} records set aside by Before 1990")
    it.reads("Set aside: Before 1990")
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, ".entry .what a"), "the records")
    it.press(Keys.ARROW_DOWN, "x")
    it.click("Let in again")
    it.reads("1 record let in again")
    it.until(lambda: to_go() and int(to_go()[1]) == left + 1, "one more to go")
    it.click("Narrowing")
    it.click("Take back Before 1990")
    it.until(lambda: to_go() and int(to_go()[1]) == left + n, "all in again")
    it.reads("“Before 1990” is taken back")
    it.click("Undo")
    it.until(lambda: to_go() and int(to_go()[1]) == left + 1, "aside again")
    assert it.complaints() == []


def test_a_planned_run_comes_when_it_is_due_and_gaps_are_filled(person: Sit) -> None:
    it = person()
    begin(it, "From outside")
    catalogue = str(it.browser.execute_script("return fetch('/api/reviews/1/catalogues').then((answer) => answer.json())")[0]["address"])
    review = re.search(r"/reviews/(\d+)", it.browser.current_url)
    assert review
    script = "return fetch(`/api/reviews/${arguments[0]}/${arguments[1]}`, {method: 'POST', headers: {'content-type': 'application/json', 'x-kettle-sort': '1'}, body: JSON.stringify(arguments[2])}).then((a) => a.status)"
    assert it.browser.execute_script(script, review[1], "catalogues", {"address": catalogue}) == 201
    it.click("Plan")
    it.click("Query")
    it.reads("No query yet")
    it.click("Add a concept")
    it.press("Wraps", Keys.TAB)
    it.type("Add a term to Wraps", "polystyrene")
    it.press(Keys.ENTER)
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, ".trial tbody tr"), "the query on trial")
    it.click("Keep as version 1")
    it.reads("version 1")
    it.click("Gather")
    it.click("Fetch from a catalogue")
    it.reads("records at this moment", "Asked as")
    it.pick("How often", "Now, then weekly")
    it.click("Fetch ", 1)
    it.reads("Being fetched in the background")
    it.reads("fetched", "Planned", "weekly in Hive Union Catalogue")
    it.until(lambda: re.search(r"[1-9]\d* in\b", it.text()), "records in", 60)
    with psycopg.connect(f"{os.environ['KETTLE_PG']}/browser_{os.getpid()}", autocommit=True) as db:  # three weeks later
        db.execute("UPDATE schedule SET next_at = next_at - interval '22 days' WHERE review_id = %s", [int(review[1])])

    # a record by its DOI, and one from a PDF
    known = next(
        one
        for one in documents()
        if one.doi
        and "polystyrene" not in f"{one.full_title} {one.abstract}".lower()
        and one.number % 9
        and one.number % 7
        and one.doi.rpartition("/")[2] in {path.stem for path in (FILES / "full-texts").iterdir()}
    )
    it.click("One record")
    it.type("DOI or accession", "10.5555/none")
    it.click("Look it up")
    it.reads("The registry does not know")
    it.type("DOI or accession", f"doi:{known.doi}")
    it.click("Look it up")
    it.reads("Proposed from DOI registry")
    it.holds("Title", known.full_title)
    it.type("Abstract", "")
    it.click("Take it in")
    it.reads("The record is in", "No source gave an abstract", "Added by hand")
    it.click("Searches")
    it.click("One record")
    it.reads("From a PDF")
    it.upload(FILES / "full-texts" / f"{known.doi.rpartition('/')[2]}.pdf")
    it.reads("Proposed from")
    it.holds("DOI", known.doi, 1)

    # what is missing is looked up, shown beside what stands, taken
    it.click("Gaps")
    it.reads("Without abstract")
    it.click("Look up what is missing")
    it.reads("As it would", known.full_title, "DOI registry")
    it.click(f"Take abstract of {known.full_title}")
    it.reads("1 value taken")

    # by now the planned run is due: once, however many weeks were missed
    it.click("Searches")
    it.reads("2 runs")
    it.until(lambda: "being fetched" not in it.text(), "the second run done", 60)
    assert "3 runs" not in it.text()
    assert it.complaints() == []


def test_a_file_is_converted_outside_any_review(person: Sit) -> None:
    it = person()
    it.sign_in("rudd")
    it.click("Convert a file")
    it.reads("in another format")
    it.upload(FILES / "apicultural-abstracts.csv")
    it.reads("302", "CSV, sure", "Tags and columns of its own", "all in capitals")
    it.hit("input[type=radio][value=csljson]")
    it.until(lambda: "What it cannot hold" not in it.text())
    it.click("Write 302 records")
    assert len(list(formats.open_reading(io.BytesIO(it.downloaded("apicultural-abstracts.json"))))) == 302
    (it.downloads / "page.ris").write_bytes(b"<!doctype html><p>Sign in")
    it.upload(it.downloads / "page.ris")
    it.reads("this is a web page")
