"""What a file is, by its content alone, and how sure that is."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import NamedTuple

from kettlesort.core.formats import bibtex, csljson, listed, medline, nbib, ris, table
from kettlesort.core.formats.infer import Proposal, propose, try_recipe
from kettlesort.core.formats.recipe import Recipe, shipped

SURE, LIKELY, GUESS = "sure", "likely", "guess"
"""How sure a format is: it bears the format's own mark, it has its looks, or it was worked out from what stands in it."""


class NotReadable(ValueError):
    """The file is none of the formats; the message says what it seems to be and what to do."""


class Detected(NamedTuple):
    """A format, how sure it is, and what the reader needs to know: a recipe, or how the table stands."""

    format: str
    certainty: str
    recipe: Recipe | None = None
    shape: table.Shape | None = None


_OTHERS = (
    (b"%PDF", "a PDF, not an export of records; export from the source as RIS, NBIB, BibTeX or CSV"),
    (b"\x89PNG", "a picture"),
    (b"GIF8", "a picture"),
    (b"\xff\xd8\xff", "a picture"),
    (b"\x1f\x8b", "a compressed file; unpack it first"),
    (b"Rar!", "a compressed file; unpack it first"),
    (b"7z\xbc\xaf", "a compressed file; unpack it first"),
    (b"BZh", "a compressed file; unpack it first"),
    (b"{\\rtf", "a word processor's file; save it as plain text"),
)


def refuse_others(head: bytes) -> None:
    """Raises NotReadable for what its first bytes tell to be no export."""
    for magic, what in _OTHERS:
        if head.startswith(magic):
            raise NotReadable(f"this is {what}")


def format_of(sample: str, recipes: Sequence[Recipe] = ()) -> Detected:
    """The format of a text from its beginning. Raises NotReadable.

    Formats with a mark of their own come first, then the team's recipes, then what has the looks of a format; last, a
    recipe is worked out from the text itself.
    """
    text = sample.strip("\x00\ufeff \n\t")
    if not text:
        raise NotReadable("the file holds nothing but blanks; export it again from the source")
    if re.match(r"<[A-Za-z!?]", text):
        return _markup(text)
    if csljson.is_csljson(sample):
        return Detected("csljson", SURE)
    if re.search(r"^PMID- ", sample, re.M) and not ("\nTY -" in sample or "\nTY  -" in sample or text.startswith(("TY -", "TY  -"))):
        return Detected("nbib", SURE)
    if re.search(r"^\ufeff?TY {1,2}-(?: |$)", sample, re.M):
        return Detected("ris", SURE)
    recipe = _fitting(sample, recipes)
    if recipe:
        return Detected("recipe", SURE, recipe)
    if nbib.is_nbib(sample) and not ris.is_ris(sample):
        return Detected("nbib", LIKELY)
    if re.search(r"^%[0TA] \S", sample, re.M) and len(re.findall(r"^%[0-9A-Z@] ", sample, re.M)) >= 3:
        return Detected("refer", SURE if re.search(r"^%0 ", sample, re.M) else LIKELY, shipped()["refer"])
    if bibtex.is_bibtex(sample):
        return Detected("bibtex", SURE)
    if listed.is_list(sample):
        return Detected("identifiers", SURE if "10." in sample else LIKELY)
    shape = table.shape_of(sample)
    if shape and shape.sure:
        return Detected("tsv" if shape.delimiter == "\t" else "csv", SURE, None, shape)
    proposal = propose(sample)
    if proposal and _convincing(proposal) and (shape is None or proposal.score > 0.8):
        return Detected("recipe", GUESS, proposal.recipe.model_copy(update={"name": "Worked out from this file"}))
    if shape:
        return Detected("tsv" if shape.delimiter == "\t" else "csv", GUESS, None, shape)
    first = next(line.strip() for line in text.split("\n") if line.strip())
    raise NotReadable(
        f"no known format: no tags (RIS, NBIB), no @entries (BibTeX), no row of column names (CSV, XLSX); it begins “{first[:60]}”"
    )


def _markup(text: str) -> Detected:
    if medline.leans_outside(text):
        raise NotReadable(
            "this XML file takes parts of its text from other files (its entities), which are not fetched; export it again with the text in it"
        )
    if medline.is_medline(text):
        return Detected("medline", SURE)
    if re.match(r"<(?:!doctype\s+html|html|head|body)\b", text, re.I):
        raise NotReadable("this is a web page, perhaps a sign-in page saved instead of the export; export it again")
    recipe = propose(text, "brackets")
    if recipe and _convincing(recipe) and not re.search(r"</\w+>", text):
        return Detected("recipe", GUESS, recipe.recipe)
    root = re.search(r"<([A-Za-z][\w:.-]*)", re.sub(r"<\?.*?\?>|<!--.*?-->|<!DOCTYPE[^\[>]*(?:\[.*?\])?\s*>", "", text, flags=re.S))
    raise NotReadable(
        f"this is XML of a kind that is not known here (its root is <{root[1] if root else '?'}>); export it as RIS, NBIB or CSV"
    )


def _fitting(sample: str, recipes: Sequence[Recipe]) -> Recipe | None:
    """The recipe of the team that makes the most of a text: titles in most records, little left over."""
    best: tuple[float, Recipe] | None = None
    for recipe in recipes:
        tried = try_recipe(recipe, sample)
        if not tried.entries:
            continue
        titled = sum(bool(entry.record.title) for entry in tried.entries) / len(tried.entries)
        filled = sum(bool(entry.record.authors or entry.record.year or entry.record.doi) for entry in tried.entries) / len(tried.entries)
        if titled >= 0.7 and filled >= 0.5 and (best is None or titled + filled + 0.01 * len(tried.entries) > best[0]):
            best = titled + filled + 0.01 * len(tried.entries), recipe
    return best[1] if best else None


def _convincing(proposal: Proposal) -> bool:
    """Whether a recipe that was worked out reads the text well enough to be shown first."""
    fields = set(proposal.recipe.fields.values()) - {""}
    return "title" in fields and len(fields) >= 2 and proposal.score >= 0.6
