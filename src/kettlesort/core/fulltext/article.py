"""A report as a person reads it: sentences with the section that they stand in, and tables."""

from __future__ import annotations

import re
from bisect import bisect_left, bisect_right
from collections import Counter
from collections.abc import Sequence
from itertools import pairwise
from typing import BinaryIO, NamedTuple

from kettlesort.core.fulltext.pages import Page, Row, Word, document
from kettlesort.core.fulltext.tables import Table, is_caption, mended, regions, table
from kettlesort.core.text.sentences import sentences

_SECTIONS = {
    "abstract": r"abstract|summary|synopsis",
    "introduction": r"introduction|background|rationale|objectives?|aims?",
    "methods": r"(?:patients|participants|subjects|animals|plants|sites?)\s+and\s+methods|(?:materials?|data)\s+and\s+methods|methods?(?:\s+and\s+materials?)?|methodology|design(?:\s+and\s+setting)?|study\s+design|setting|participants|patients|interventions?|randomi[sz]ation|blinding|outcomes?|outcome\s+measures|statistical\s+(?:analysis|methods)|statistics|sample\s+size|procedures?|experimental\s+(?:design|section)|what\s+we\s+did|how\s+.{3,30}\s+was\s+done",
    "results": r"results?|findings|results\s+and\s+discussion|baseline\s+characteristics|adverse\s+events|what\s+we\s+found|outcome",
    "discussion": r"discussion|comment(?:ary)?|conclusions?|limitations|strengths\s+and\s+limitations|interpretation|implications",
    "references": r"references|literature(?:\s+cited)?|bibliography|works\s+cited|notes\s+and\s+references|references\s+and\s+notes",
    "statements": r"acknowledge?ments?|funding|financial\s+support|conflicts?\s+of\s+interests?|competing\s+interests|data\s+availability|declarations?|author\s+contributions|ethics|registration|trial\s+registration|support|notes?|author\s+notes?|sponsors?|thanks",
}
_ANY = "|".join(_SECTIONS.values())
_HEADING = {
    name: re.compile(rf"^(?:[\dIVX]+(?:\.\d+)*[.)]?\s+)?(?:{words})(?:(?:,|\s+and|\s*[&/])\s+(?:{_ANY}))*\s*[:.]?$", re.I)
    for name, words in _SECTIONS.items()
}
_INLINE = {
    name: re.compile(rf"^(?:[\d]+(?:\.\d+)*[.)]?\s+)?((?:{words}))\s*(?:[:.—–]|\s[-—–]\s)\s*(?=[A-Z\d“\"])", re.I)
    for name, words in _SECTIONS.items()
}
_ENDS = re.compile(r"[.!?:;]['\"”’)\]]*$")
_HYPHENS = "\x02\ufffe\u00ad"


class Sentence(NamedTuple):
    """A sentence: its text, its words with their places (none for a record), and the page of each."""

    text: str
    section: str
    heading: str
    spans: list[tuple[int, int]]
    words: list[Word]
    pages: list[int]


class Article(NamedTuple):
    """A report: its sentences in order of reading, its tables, and the text of each page as the file holds it."""

    sentences: list[Sentence]
    tables: list[Table]
    pages: dict[int, str]
    whole: bool
    """Whether the full text was read, and not an abstract."""


def normal(text: str) -> str:
    """A text with hyphens at line ends undone and single spaces: so a quote is compared with a page."""
    text = re.sub(rf"[{_HYPHENS}]\s*", "", text)
    return re.sub(r"\s+", " ", re.sub(r"(?<=[^\W\d_])-[ \t]*\r?\n\s*(?=[a-zà-ÿ])", "", text)).strip()


def of_record(title: str, abstract: str) -> Article:
    """A record as far as it was exported: its title and abstract."""
    found = [Sentence(title.strip(), "title", "", [], [], [])] if title.strip() else []
    section, heading = "abstract", ""
    for begin, end in sentences(abstract):
        text = normal(abstract[begin:end])
        label = re.match(r"^([A-Z][A-Z /&]{2,40}|[A-Z][a-z]+(?: [a-z]+){0,3}):\s+", text)
        if label:
            section, heading = _section(label[1]) or "abstract", label[1]
        found.append(Sentence(text, section if section in ("methods", "results", "discussion") else "abstract", heading, [], [], []))
    return Article(found, [], {}, False)


def of_pdf(file: BinaryIO) -> Article:
    """The full text of a report. Raises NotAPdf for what is no PDF that can be read."""
    found = document(file).pages
    size = _body(found)
    reader = _Reader(size)
    for page in found:
        reader.read(page)
    reader.close()
    known = {word for sentence in reader.sentences for word in re.findall(r"[^\W\d_]+", sentence.text.lower())}
    return Article(reader.sentences, [mended(made, known) for made in reader.tables], {page.number: page.text for page in found}, True)


def quote(article: Article, page: int, words: Sequence[Word]) -> str:
    """What stands on a page from the first to the last of some words, as the file holds it: whatever stands between them in the file is quoted with them."""
    begin, end = min(word.begin for word in words), max(word.end for word in words)
    return normal(article.pages[page][begin:end])


def _body(found: Sequence[Page]) -> float:
    sizes: Counter[float] = Counter()
    for page in found:
        for part in page.parts:
            for row in part:
                for run in row:
                    sizes[round(run.size * 2) / 2] += len(run.words)
    return sizes.most_common(1)[0][0] if sizes else 10.0


def _section(text: str) -> str | None:
    return next((name for name, pattern in _HEADING.items() if pattern.match(text.strip())), None)


def _text(words: Sequence[Word]) -> tuple[str, list[tuple[int, int]]]:
    """Words as one text, with from where to where each stands in it."""
    out = ""
    spans: list[tuple[int, int]] = []
    before: Word | None = None
    for word in words:
        joined = before is not None and (before.broken or _hyphenated(before, word))
        if joined and before and not before.broken:
            out = out[:-1]
        elif before is not None and not joined:
            out += " "
        spans.append((len(out), len(out) + len(word.text)))
        out += word.text
        before = word
    return out, spans


def _hyphenated(before: Word, word: Word) -> bool:
    """Whether a word goes on in the next line after a hyphen that the library did not know for one."""
    return (
        len(before.text) > 2
        and before.text.endswith("-")
        and before.text[-2].isalpha()
        and word.text[:1].islower()
        and abs(word.base - before.base) > 0.5 * word.size
    )


class _Reader:
    """Goes through pages and gathers paragraphs, headings and tables."""

    def __init__(self, size: float) -> None:
        self.sentences: list[Sentence] = []
        self.tables: list[Table] = []
        self._size = size
        self._words: list[tuple[int, Word]] = []
        self._read = self._at_table = 0
        """How many lines were read so far, and when the last table ended."""
        self._section = "front"
        self._heading = ""
        self._abstract = False

    def read(self, page: Page) -> None:
        for part in page.parts:
            self._read_part(page, part)

    def close(self) -> None:
        self._flush()

    def _read_part(self, page: Page, rows: Sequence[Row]) -> None:
        at = 0
        steps = sorted(step for a, b in pairwise(rows) if (step := b[0].base - a[0].base) > 0.8 * self._size)
        leading = steps[len(steps) // 4] if steps else 1.2 * self._size  # between lines, not between paragraphs of one line
        found = regions(rows)
        goes_on = bool(self.tables) and self._read == self._at_table and len(rows[0]) == len(self.tables[-1].head) > 1
        if goes_on and (not found or found[0][0] > 0):
            found.insert(0, (0, 1))  # the last row of a table that began before
        for begin, end in [*found, (len(rows), len(rows))]:
            self._read_lines(page, rows[at:begin], leading)
            if begin < end:
                self._read_table(page, rows, begin, end)
            at = end

    def _read_table(self, page: Page, rows: Sequence[Row], begin: int, end: int) -> None:
        if self._words and is_caption(" ".join(word.text for _, word in self._words[:3])):
            self._flush()
        caption = self._caption(rows, begin, end)
        made = table(rows[begin:end], page.number, caption)
        if made is None:
            self._read_lines(page, rows[begin:end], 1.2 * self._size)
            return
        before = self.tables[-1] if self.tables else None
        if (
            before
            and not caption
            and not any(cell.words for cell in made.head)
            and len(before.head) == len(made.head)
            and self._read == self._at_table
        ):
            if before.page == page.number:  # it goes on in the next column
                self.tables[-1] = before._replace(lines=before.lines + made.lines)
                return
            made = made._replace(head=before.head, caption=before.caption, inherited=True)
        self.tables.append(made)
        self._at_table = self._read

    def _caption(self, rows: Sequence[Row], begin: int, end: int) -> str:
        """The caption above a table, or below it."""
        above: list[str] = []
        for k in range(begin - 1, max(-1, begin - 6), -1):
            above.insert(0, " ".join(run.text for run in rows[k]))
            if is_caption(above[0]):
                return normal(" ".join(above))
        if end < len(rows) and is_caption(below := " ".join(run.text for run in rows[end])):
            return normal(below)
        last = self.sentences[-1].text if self.sentences else ""
        return last if is_caption(last) else ""

    def _read_lines(self, page: Page, rows: Sequence[Row], leading: float) -> None:
        before: Row | None = None
        edge = max((row[-1].right for row in rows), default=0.0)
        width = edge - min((row[0].left for row in rows), default=0.0)
        for row in rows:
            self._read += 1
            words = [word for run in row for word in run.words]
            text = _text(words)[0]
            if heading := self._is_heading(row, text):
                self._flush()
                self._section, self._heading, self._abstract = heading, text, heading == "abstract"
            else:
                lead = (
                    1.45 if before is None or before[-1].right > edge - 0.12 * width else 1.15
                )  # a line that is not full ends a paragraph
                gap = before is not None and row[0].base - before[0].base > lead * leading
                ended = not self._words or bool(_ENDS.search(self._words[-1][1].text))
                other_size = before is not None and abs(row[0].size - before[0].size) > 0.6
                if (gap and (ended or not text[:1].islower())) or other_size or is_caption(text):
                    self._flush()
                self._words += [(page.number, word) for word in words]
            before = row

    def _is_heading(self, row: Row, text: str) -> str | None:
        if len(text) > 90 or len(text.split()) > 10:
            return None
        known = _section(text)
        if known and (text[:1].isupper() or text[:1].isdigit()):
            return known
        begun = bool(self._words) and not _ENDS.search(self._words[-1][1].text)
        numbered = not begun and re.match(r"^\d+(?:\.\d+)+\.?\s+[A-Z]", text)
        bold = all(word.bold for run in row for word in run.words) and not text[:1].islower()
        larger = (row[0].size > 1.06 * self._size or bold) and self._section != "front"
        if (numbered or larger) and not _ENDS.search(text) and text[:1].isalnum() and any(c.isalpha() for c in text):
            return _section(re.sub(r"^[\d.]+\s+", "", text)) or self._section
        return None

    def _flush(self) -> None:
        """Cut what was gathered into sentences."""
        gathered, self._words = self._words, []
        if not gathered:
            return
        text, spans = _text([word for _, word in gathered])
        begins, ends = [a for a, _ in spans], [b for _, b in spans]
        for begin, end in sentences(text):
            self._labelled(text[begin : begin + 80])
            inside = range(bisect_right(ends, begin), bisect_left(begins, end))
            if inside:
                self.sentences.append(
                    Sentence(
                        text[begin:end],
                        self._section,
                        self._heading,
                        [(spans[k][0] - begin, spans[k][1] - begin) for k in inside],
                        [gathered[k][1] for k in inside],
                        [gathered[k][0] for k in inside],
                    )
                )

    def _labelled(self, text: str) -> None:
        """A sentence may begin with the name of a section, or be one: "Methods. Between March …". Within an abstract what leads up to the study is abstract, too."""
        for name, pattern in _INLINE.items():
            if found := pattern.match(text):
                self._abstract = self._abstract or name == "abstract"
                self._section = "abstract" if self._abstract and name in ("introduction", "statements") else name
                self._heading = found[1]
                return
