"""Invented reports that were written one by one, each in a manner of its own, with what is asked of them and what they say: the files of `written/`.

A report begins with `=== layout`; `= title`, `# heading`, paragraphs; `+++ caption` begins a table, whose rows are parted by `|`. `--- arms` are lines of
`name: other words`, `--- items` lines of `name | kind and its unit or options | instructions | what the report says`, for each arm in turn, `-` where it says nothing.
"""

from __future__ import annotations

import random
import re
from functools import cache
from pathlib import Path
from typing import Any

from articles import Invented, _one_column, _plain_pages, _two_columns, _two_columns_narrow

FOLDER = Path(__file__).parent / "written"
LAYOUTS = {"one column": _one_column, "two columns": _two_columns, "two narrow columns": _two_columns_narrow, "plain": _plain_pages}


@cache
def written() -> tuple[Invented, ...]:
    """All of them."""
    return tuple(report for path in sorted(FOLDER.glob("*.txt")) for report in reports_of(path))


def reports_of(path: Path) -> list[Invented]:
    """The reports of a file."""
    return [_report(text) for text in re.split(r"^=== ", path.read_text("utf-8"), flags=re.M)[1:]]


def _report(text: str) -> Invented:
    body, arms_text, items_text = re.split(r"^--- (?:arms|items)\n", text, flags=re.M)
    layout, title, *lines = body.splitlines()
    sections: list[tuple[str, list[str]]] = []
    tables: list[tuple[str, list[list[str]]]] = []
    for line in filter(None, lines):
        if line.startswith("#"):
            sections.append((line[1:].strip(), []))
        elif line.startswith("+++"):
            tables.append((line[3:].strip(), []))
        elif " | " in line:
            tables[-1][1].append([cell.strip() for cell in line.split("|")])
        else:
            sections[-1][1].append(line)
    arms = [_arm(k, line) for k, line in enumerate(arms_text.splitlines(), 1) if line]
    items, truth = [], {}
    for k, line in enumerate(filter(None, items_text.splitlines())):
        item, said = _item(f"i{k}", line, arms)
        items.append(item)
        truth |= said
    title = title.removeprefix("= ")
    if layout == "abstract":
        return Invented(None, title, " ".join(line for _, some in sections for line in some), items, truth)
    return Invented(LAYOUTS[layout](title, sections, tables, random.Random(title)), "", "", items, truth)


def _arm(k: int, line: str) -> dict[str, Any]:
    name, _, words = line.partition(":")
    return {"id": f"a{k}", "name": name.strip(), "words": [word.strip() for word in words.split(",") if word.strip()]}


def _item(key: str, line: str, arms: list[dict[str, Any]]) -> tuple[dict[str, Any], dict[tuple[str, str | None], Any]]:
    name, kind, instructions, said = (part.strip() for part in line.split("|"))
    kind, _, more = kind.partition(" ")
    item: dict[str, Any] = {"id": key, "name": name, "kind": kind, "instructions": instructions}
    if kind in ("choice", "choices"):
        item["options"] = [option.strip() for option in more.split(",")]
    elif more:
        item["unit"] = more
    if kind not in ("counts", "mean_sd", "median_range"):
        return item, {(key, None): _value(kind, said)}
    item["arms"] = arms
    return item, {(key, arm["id"]): _of_arm(kind, part.strip()) for arm, part in zip(arms, said.split(";"), strict=True)}


def _value(kind: str, said: str) -> Any:
    if said == "-":
        return None
    if kind == "yesno":
        return {"yes": True, "no": False}[said]
    if kind == "number":
        return _number(said)
    if kind == "quantity":
        value, unit = said.split(" ", 1)
        return {"value": _number(value), "unit": unit}
    return [part.strip() for part in said.split(",")] if kind == "choices" else said


def _of_arm(kind: str, said: str) -> dict[str, Any] | None:
    if said == "-":
        return None
    if kind == "counts":
        return dict(zip(("events", "total"), map(int, said.split("/")), strict=True))
    *values, n = said.split()
    names = ("mean", "sd") if kind == "mean_sd" else ("median", "low", "high")
    return {**dict(zip(names, map(_number, values), strict=True)), "n": "elsewhere" if n == "-" else (int(n), None)}


def _number(text: str) -> int | float:
    return int(text) if re.fullmatch(r"-?\d+", text) else float(text)
