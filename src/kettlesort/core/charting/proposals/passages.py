"""What a report says, piece by piece: its sentences, and the cells of its tables with what stands beside and above them."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import NamedTuple

from kettlesort.core.charting.proposals.numbers import Number, has_decimal_commas, numbers
from kettlesort.core.fulltext.article import Article, Sentence, normal, quote
from kettlesort.core.fulltext.pages import Word
from kettlesort.core.fulltext.tables import Cell, Table

_LONGEST_QUOTE = 1_500
_OF_BEFORE = re.compile(
    r"(?:It|They|This|These|That|Both) |(?:[^.;:,]{0,40},?\s)?(?:these(?: (?:numbers|figures|values|proportions|rates|scores))?|they|it|this|the (?:corresponding|respective) (?:values|figures|scores|numbers|means|medians|rates))\s+(?:was|were|had|averaged|fell|rose|amounted)\b",
    re.I,
)


def leans_on_before(text: str) -> bool:
    """Whether a sentence speaks of what the one before it names: "at 24 weeks these were 50 and 51"."""
    return _OF_BEFORE.match(text) is not None


class CellAt(NamedTuple):
    """A cell with its neighbours: the labels of its row and of the group of rows, what stands above its column, and where it is."""

    table: Table
    row: int
    column: int

    @property
    def text(self) -> str:
        """What the cell says."""
        return normal(self.table.lines[self.row].cells[self.column].text)

    @property
    def label(self) -> str:
        """The label of its row."""
        return normal(self.table.lines[self.row].cells[0].text)

    @property
    def group(self) -> str:
        """The label of the group that its row stands in."""
        return normal(self.table.lines[self.row].group.text)

    @property
    def head(self) -> str:
        """What stands above its column."""
        return normal(self.table.head[self.column].text)

    @property
    def about(self) -> str:
        """What its row and its column say that it is about."""
        return f"{self.group} {self.label} {self.head}".strip()

    def words(self, *further: Cell) -> list[Word]:
        """The words to quote: the row's label, the cell, and others that are needed."""
        line = self.table.lines[self.row]
        return [*line.cells[0].words, *line.cells[self.column].words, *(word for cell in further for word in cell.words)]


class Passages(NamedTuple):
    """A report in pieces. ``texts`` are what is asked how much it speaks of an item: sentences, then cells alone, then cells with their caption."""

    article: Article
    sentences: list[Sentence]
    cells: list[CellAt]
    texts: list[str]
    numbers: list[list[Number]]
    commas: bool

    def of_cell(self, k: int, caption: bool = False) -> int:
        """The place of a cell among ``texts``."""
        return len(self.sentences) + k + (len(self.cells) if caption else 0)


def passages(article: Article) -> Passages:
    """The pieces of a report that can be quoted: without its list of references."""
    sentences = [sentence for sentence in article.sentences if sentence.section != "references" and len(sentence.text) < 2_000]
    cells = [
        CellAt(table, row, column)
        for table in article.tables
        for row, line in enumerate(table.lines)
        for column in range(1, len(line.cells))
        if line.cells[column].words
    ]
    told = [
        f"{before.text} {sentence.text}"
        if before and leans_on_before(sentence.text) and before.section == sentence.section
        else sentence.text
        for before, sentence in zip([None, *sentences[:-1]], sentences, strict=True)
    ]
    texts = [
        *(f"{sentence.heading}. {text}" if sentence.heading else text for sentence, text in zip(sentences, told, strict=True)),
        *(cell.about for cell in cells),
        *(f"{cell.table.caption} {cell.about}" for cell in cells),
    ]
    commas = has_decimal_commas([sentence.text for sentence in sentences] + [cell.text for cell in cells])
    return Passages(article, sentences, cells, texts, [numbers(sentence.text, commas, spaces=True) for sentence in sentences], commas)


class Quote(NamedTuple):
    """Words of a report as they stand on a page; no page for a record."""

    text: str
    page: int | None


def of_sentences(passages: Passages, first: int, last: int, at: int = 0) -> Quote | None:
    """The sentences from one to another as a quote, as far as they stand on the page where character ``at`` of the last stands; None if they cannot be quoted together."""
    some = passages.sentences[first : last + 1]
    if not some[-1].words:
        text = " ".join(sentence.text for sentence in some)
        return Quote(normal(text), None) if len(text) <= _LONGEST_QUOTE else None
    end = some[-1]
    page = next((page for (_, stop), page in zip(end.spans, end.pages, strict=True) if stop > at), end.pages[-1])
    words = [word for sentence in some for word, on in zip(sentence.words, sentence.pages, strict=True) if on == page]
    return _quoted(passages.article, page, words)


def of_words(passages: Passages, page: int, words: Sequence[Word]) -> Quote | None:
    """Words of a page as a quote."""
    return _quoted(passages.article, page, words)


def _quoted(article: Article, page: int, words: Sequence[Word]) -> Quote | None:
    if not words:
        return None
    held = quote(article, page, words)
    return Quote(held, page) if held and len(held) <= _LONGEST_QUOTE else None
