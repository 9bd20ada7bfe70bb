"""Invented columns of authors, each in a manner of its own, and what they mean."""

from __future__ import annotations

import random
from collections.abc import Callable
from typing import NamedTuple


class Person(NamedTuple):
    """A made-up author: family name, first name, and the initial of a middle name, if there is one."""

    family: str
    first: str
    middle: str = ""


PEOPLE = (
    Person("Orsel", "Wilma", "K"), Person("Brask", "Cedric"), Person("van der Thistle", "Ada", "M"), Person("De Lorn", "Tamsin"),
    Person("O'Hale", "Wynn", "J"), Person("Marsh-Dell", "Odile"), Person("Li", "Xiaoling"), Person("Ng", "Peter", "T"),
    Person("Garrido", "José", "L"), Person("Müllbach", "Jürgen"), Person("d'Ambre", "Élise", "A"), Person("Kowal", "Zofia"),
    Person("Ames", "Daniel", "J"), Person("Vestergaard", "Anne-Marie"), Person("Quill", "Rudd", "B"), Person("Straw", "Helen"),
    Person("Petrenko", "Olena"), Person("Sorby", "Karl", "E"), Person("Tann", "Maria"), Person("Winter", "Paul"),
)  # fmt: skip


def full(it: Person) -> str:
    """ "Wilma K." """
    return f"{it.first} {it.middle}." if it.middle else it.first


def first(it: Person) -> str:
    """ "Wilma" """
    return it.first


def initials(stop: str, blank: str = "") -> Callable[[Person], str]:
    """ "W.K.", "W. K." or "WK"; of a hyphenated first name "A.-M." """

    def said(it: Person) -> str:
        parts = ["-".join(part[0] + stop for part in it.first.split("-")), *([it.middle + stop] if it.middle else [])]
        return blank.join(parts)

    return said


def same(it: Person) -> str:
    """The family name as it is."""
    return it.family


def capitals(it: Person) -> str:
    """The family name in capitals."""
    return it.family.upper()


FORMS: dict[str, tuple[str, Callable[[Person], str], Callable[[Person], str]]] = {
    "Orsel, Wilma K.": ("{0}, {1}", same, full), "Orsel, Wilma": ("{0}, {1}", same, first), "Orsel, W.K.": ("{0}, {1}", same, initials(".")),
    "Orsel, W. K.": ("{0}, {1}", same, initials(".", " ")), "Orsel, WK": ("{0}, {1}", same, initials("")), "Orsel W.K.": ("{0} {1}", same, initials(".")),
    "Orsel W. K.": ("{0} {1}", same, initials(".", " ")), "Orsel WK": ("{0} {1}", same, initials("")), "W.K. Orsel": ("{1} {0}", same, initials(".")),
    "W. K. Orsel": ("{1} {0}", same, initials(".", " ")), "WK Orsel": ("{1} {0}", same, initials("")), "Wilma K. Orsel": ("{1} {0}", same, full),
    "Wilma Orsel": ("{1} {0}", same, first), "Orsel Wilma": ("{0} {1}", same, first), "ORSEL Wilma": ("{0} {1}", capitals, first),
    "Wilma ORSEL": ("{1} {0}", capitals, first), "ORSEL, WK": ("{0}, {1}", capitals, initials("")), "ORSEL WK": ("{0} {1}", capitals, initials("")),
}  # fmt: skip
"""How one name is written: how its parts stand, the family name, the given names."""
PARTED = {
    "; ": None, ";": None, ", ": None, ",": None, "|": None, " | ": None, " and ": None, " & ": None, "\n": None, "  ": None, " / ": None, "//": None, " • ": None,
    ", … and ": " and ", ", … & ": " & ", ", …, and ": ", and ", "; … and ": "; and ",
}  # fmt: skip
"""What stands between names, and before the last where that is something else."""


def column(form: str, parted: str, rows: int = 30) -> tuple[list[str], list[tuple[str, ...]]]:
    """A column of authors, and its people as "Family, Given"."""
    pattern, family, given = FORMS[form]
    dice = random.Random(f"{form} {parted}")
    cells, meant = [], []
    for _ in range(rows):
        people = dice.sample(PEOPLE, dice.choice([1, 1, 2, 2, 3, 4, 5, 6]))
        names = [pattern.format(family(it), given(it)) for it in people]
        last = PARTED[parted] or parted
        cells.append(
            parted.split(" …")[0].replace(",", ", ").replace(";", "; ").replace("  ", " ").join([*names[:-2], last.join(names[-2:])])
            if PARTED[parted]
            else parted.join(names)
        )
        meant.append(tuple(f"{family(it)}, {given(it)}" for it in people))
    return cells, meant


ODD: list[tuple[list[str], list[tuple[str, ...]]]] = [
    (["De Orsel W., Brask C.", "Thistle A.", "Ames D., Marsh O., Quill R."], [("De Orsel, W.", "Brask, C."), ("Thistle, A.",), ("Ames, D.", "Marsh, O.", "Quill, R.")]),
    (["Orsel W, Brask C, et al.", "Ames D et al", "Thistle A, Marsh O, and others"], [("Orsel, W", "Brask, C"), ("Ames, D",), ("Thistle, A", "Marsh, O")]),
    (["Orsel, W.; Brask, C.; Northern Hive Study Group", "Ministry of Health and Welfare", "Ames, D."], [("Orsel, W.", "Brask, C.", "Northern Hive Study Group"), ("Ministry of Health and Welfare",), ("Ames, D.",)]),
    (["Orsel W, Brask C, Northern Hive Study Group", "Ames D"], [("Orsel, W", "Brask, C", "Northern Hive Study Group"), ("Ames, D",)]),
    (["Orsel, Wilma (58233456700); Brask, Cedric (7004212345)", "Ames, Daniel J. (123)"], [("Orsel, Wilma", "Brask, Cedric"), ("Ames, Daniel J.",)]),
    (["Orsel W1,2, Brask C3, Ames D1", "Thistle A1"], [("Orsel, W", "Brask, C", "Ames, D"), ("Thistle, A",)]),
    (["Orsel W*, Brask C†, Ames D", "Thistle A"], [("Orsel, W", "Brask, C", "Ames, D"), ("Thistle, A",)]),
    (["Wilma Orsel, PhD, Cedric Brask, MD, Ada Thistle, MSc", "Daniel Ames, MD"], [("Orsel, Wilma", "Brask, Cedric", "Thistle, Ada"), ("Ames, Daniel",)]),
    (["Wilma Orsel PhD, Cedric Brask MD", "Daniel Ames MD"], [("Orsel, Wilma", "Brask, Cedric"), ("Ames, Daniel",)]),
    (["Dr. Wilma Orsel; Prof. Cedric Brask", "Dr. Ada Thistle"], [("Orsel, Wilma", "Brask, Cedric"), ("Thistle, Ada",)]),
    (["Orsel, Wilma, Cedric Brask, and Ada Thistle", "Ames, Daniel, and Odile Marsh", "Quill, Rudd"], [("Orsel, Wilma", "Brask, Cedric", "Thistle, Ada"), ("Ames, Daniel", "Marsh, Odile"), ("Quill, Rudd",)]),
    (["Orsel, W., C. Brask and A. Thistle", "Ames, D., and O. Marsh", "Quill, R."], [("Orsel, W.", "Brask, C.", "Thistle, A."), ("Ames, D.", "Marsh, O."), ("Quill, R.",)]),
    (["Orsel W Jr, Brask C", "Ames DJ III, Marsh O"], [("Orsel, W, Jr", "Brask, C"), ("Ames, DJ, III", "Marsh, O")]),
    (["Orsel, W., Jr., Brask, C.", "Ames, D."], [("Orsel, W., Jr.", "Brask, C."), ("Ames, D.",)]),
    (["1. Orsel W 2. Brask C", "1. Ames D"], [("Orsel, W", "Brask, C"), ("Ames, D",)]),
    (["(1) Wilma Orsel; (2) Cedric Brask", "(1) Daniel Ames"], [("Orsel, Wilma", "Brask, Cedric"), ("Ames, Daniel",)]),
    (["张蜂; 李蜡", "王巢"], [("张蜂", "李蜡"), ("王巢",)]),
    (["张蜂，李蜡，王巢", "王巢"], [("张蜂", "李蜡", "王巢"), ("王巢",)]),
    (["Ульев И.И., Сотов П.П.", "Медникова А."], [("Ульев, И.И.", "Сотов, П.П."), ("Медникова, А.",)]),
    (["И.И. Ульев, П.П. Сотов", "А. Медникова"], [("Ульев, И.И.", "Сотов, П.П."), ("Медникова, А.",)]),
    (["ORSEL W, BRASK C", "AMES DJ"], [("ORSEL, W", "BRASK, C"), ("AMES, DJ",)]),
    (["ORSEL, WILMA; BRASK, CEDRIC", "AMES, DANIEL J."], [("ORSEL, WILMA", "BRASK, CEDRIC"), ("AMES, DANIEL J.",)]),
    (["Orsel W Brask C Ames DJ", "Thistle A", "Marsh O Quill RB"], [("Orsel, W", "Brask, C", "Ames, DJ"), ("Thistle, A",), ("Marsh, O", "Quill, RB")]),
    (["Orsel W. Brask C. Ames D.J.", "Thistle A.", "Marsh O. Quill R.B."], [("Orsel, W.", "Brask, C.", "Ames, D.J."), ("Thistle, A.",), ("Marsh, O.", "Quill, R.B.")]),
    (["W. van der Orsel, C. Brask", "A. de la Thistle"], [("van der Orsel, W.", "Brask, C."), ("de la Thistle, A.",)]),
    (["van der Orsel W, Brask C", "de la Thistle A"], [("van der Orsel, W", "Brask, C"), ("de la Thistle, A",)]),
    (["Wilma van der Orsel, Cedric Brask", "Ada de la Thistle"], [("van der Orsel, Wilma", "Brask, Cedric"), ("de la Thistle, Ada",)]),
    (["Garrido Mendel, Gonçal José; Lopán Obrero, Ana", "Ruiz, Eva"], [("Garrido Mendel, Gonçal José", "Lopán Obrero, Ana"), ("Ruiz, Eva",)]),
    (["Garrido Mendel, G. J., Lopán Obrero, A.", "Ruiz, E."], [("Garrido Mendel, G. J.", "Lopán Obrero, A."), ("Ruiz, E.",)]),
    (["Garrido-Mendel GJ, Lopán-Obrero A", "Ruiz E"], [("Garrido-Mendel, GJ", "Lopán-Obrero, A"), ("Ruiz, E",)]),
    (["Garrido Mendel GJ, Lopán Obrero A, Ruiz E", "Ruiz E"], [("Garrido Mendel, GJ", "Lopán Obrero, A", "Ruiz, E"), ("Ruiz, E",)]),
    (["Kim, S.-H.; Park, J.-Y.", "Lee, M."], [("Kim, S.-H.", "Park, J.-Y."), ("Lee, M.",)]),
    (["Sung-Ho Kim; Ji-Young Park", "Min Lee"], [("Kim, Sung-Ho", "Park, Ji-Young"), ("Lee, Min",)]),
    (["Orsel Wilma, Brask Cedric, Thistle Helen", "Ames Daniel", "Marsh Maria, Quill Peter"], [("Orsel, Wilma", "Brask, Cedric", "Thistle, Helen"), ("Ames, Daniel",), ("Marsh, Maria", "Quill, Peter")]),
    (["Wilma Orsel, Cedric Brask, Helen Thistle", "Daniel Ames", "Maria Marsh, Peter Quill"], [("Orsel, Wilma", "Brask, Cedric", "Thistle, Helen"), ("Ames, Daniel",), ("Marsh, Maria", "Quill, Peter")]),
    (["Orsel, Wilma", "Brask, Cedric", "Garrido Mendel, Gonçal"], [("Orsel, Wilma",), ("Brask, Cedric",), ("Garrido Mendel, Gonçal",)]),
    (["Wilma Orsel", "Cedric M. Brask"], [("Orsel, Wilma",), ("Brask, Cedric M.",)]),
    (["[Anonymous]", "Orsel, W; Brask, C"], [("[Anonymous]",), ("Orsel, W", "Brask, C")]),
    (["Anonymous", "Orsel W, Brask C", "-", ""], [("Anonymous",), ("Orsel, W", "Brask, C"), (), ()]),
    (["W.K. Orsel (ed.), C. Brask (ed.)", "D. Ames (ed.)"], [("Orsel, W.K.", "Brask, C."), ("Ames, D.",)]),
    (["Orsel, Wilma; Brask, Cedric, ", "Ames, Daniel;"], [("Orsel, Wilma", "Brask, Cedric"), ("Ames, Daniel",)]),
    (["Orsel W,Brask C.", "Ames D."], [("Orsel, W", "Brask, C."), ("Ames, D.",)]),
    (["Orsel W; Brask C.", "Ames, D.; Marsh, O.", "C. Quill"], [("Orsel, W", "Brask, C."), ("Ames, D.", "Marsh, O."), ("Quill, C.",)]),
    (["Orsel, Wilma and Brask, Cedric and Ames, Daniel", "Orsel, Wilma"], [("Orsel, Wilma", "Brask, Cedric", "Ames, Daniel"), ("Orsel, Wilma",)]),
    (["Orsel, Wilma & Brask, Cedric", "Orsel, Wilma"], [("Orsel, Wilma", "Brask, Cedric"), ("Orsel, Wilma",)]),
    (["Orsel; Brask; Ames", "Marsh"], [("Orsel", "Brask", "Ames"), ("Marsh",)]),
    (["orsel w, brask c", "ames d"], [("orsel, w", "brask, c"), ("ames, d",)]),
    (["orsel, w; brask, c", "ames, d"], [("orsel, w", "brask, c"), ("ames, d",)]),
    (["Rimón y Cajón S, Brask C", "Orteda y Gassol J"], [("Rimón y Cajón, S", "Brask, C"), ("Orteda y Gassol, J",)]),
    (["Orsel W y Brask C", "Ames D, Marsh O y Quill R"], [("Orsel, W", "Brask, C"), ("Ames, D", "Marsh, O", "Quill, R")]),
    (["Orsel W und Brask C", "Ames D, Marsh O und Quill R"], [("Orsel, W", "Brask, C"), ("Ames, D", "Marsh, O", "Quill, R")]),
    (["Orsel W et Brask C", "Ames D, Marsh O et Quill R"], [("Orsel, W", "Brask, C"), ("Ames, D", "Marsh, O", "Quill, R")]),
    (["Orsel W. K., Brask C. M., Ames D.", "Thistle A. B."], [("Orsel, W. K.", "Brask, C. M.", "Ames, D."), ("Thistle, A. B.",)]),
    (["Orsel, W. K., Brask, C. M., ... Ames, D.", "Thistle, A. B."], [("Orsel, W. K.", "Brask, C. M.", "Ames, D."), ("Thistle, A. B.",)]),
    (["Orsel W; Brask C; ...", "Thistle A"], [("Orsel, W", "Brask, C"), ("Thistle, A",)]),
    (["Yu. Petrenk, Ch. Brask, Th. Orsel", "A. Quill"], [("Petrenk, Yu.", "Brask, Ch.", "Orsel, Th."), ("Quill, A.",)]),
    (["St. Clair W, St John A", "Brask C"], [("St. Clair, W", "St John, A"), ("Brask, C",)]),
    (["Orsel, Wilma; World Wax Organization; Brask, Cedric", "Institute of Hives, Wellfleet"], [("Orsel, Wilma", "World Wax Organization", "Brask, Cedric"), ("Institute of Hives, Wellfleet",)]),
    (["Orsel, W, Brask, C", "Ames, D"], [("Orsel, W", "Brask, C"), ("Ames, D",)]),
    (["Orsel Wilma K., Brask Cedric M.", "Ames Daniel J."], [("Orsel, Wilma K.", "Brask, Cedric M."), ("Ames, Daniel J.",)]),
    (["Orsel, Wilma;Brask, Cedric;Ames, Daniel J"], [("Orsel, Wilma", "Brask, Cedric", "Ames, Daniel J")]),
    (["Orsel W, Brask C"], [("Orsel, W", "Brask, C")]),
    (["Orsel, W., Brask, C."], [("Orsel, W.", "Brask, C.")]),
    (["Wilma Orsel, Cedric Brask"], [("Orsel, Wilma", "Brask, Cedric")]),
    (["Orsel, Wilma@Brask, Cedric", "Ames, Daniel"], [("Orsel, Wilma", "Brask, Cedric"), ("Ames, Daniel",)]),
    (["Orsel, Wilma || Brask, Cedric", "Ames, Daniel"], [("Orsel, Wilma", "Brask, Cedric"), ("Ames, Daniel",)]),
    (["Orsel, Wilma # Brask, Cedric", "Ames, Daniel"], [("Orsel, Wilma", "Brask, Cedric"), ("Ames, Daniel",)]),
    (["Orsel, Wilma <wo@x.example>; Brask, Cedric <cb@x.example>", "Ames, Daniel"], [("Orsel, Wilma", "Brask, Cedric"), ("Ames, Daniel",)]),
    (["Orsel, Wilma [0000-0001-2345-6789]; Brask, Cedric", "Ames, Daniel"], [("Orsel, Wilma", "Brask, Cedric"), ("Ames, Daniel",)]),
    (['["Wilma Orsel", "Cedric Brask"]', '["Daniel Ames"]'], [('Orsel, Wilma', 'Brask, Cedric'), ('Ames, Daniel',)]),
    (["['Orsel, Wilma', 'Brask, Cedric']", "['Ames, Daniel']"], [('Orsel, Wilma', 'Brask, Cedric'), ('Ames, Daniel',)]),
    (["By Wilma Orsel and Cedric Brask", "By Daniel Ames"], [("Orsel, Wilma", "Brask, Cedric"), ("Ames, Daniel",)]),
    (["Orsel, Wilma K; Li, Y", "Ng, P"], [("Orsel, Wilma K", "Li, Y"), ("Ng, P",)]),
    (["Li Y, Ng P, Wu X", "Ma L"], [("Li, Y", "Ng, P", "Wu, X"), ("Ma, L",)]),
    (["Y. Li, P. Ng", "L. Ma"], [("Li, Y.", "Ng, P."), ("Ma, L.",)]),
    (["Orsel W, Brask C; Ames D", "Quill R"], [("Orsel, W", "Brask, C", "Ames, D"), ("Quill, R",)]),
    (["M. Orsel-Brask; J.-P. d'Ambre", "A. Quill"], [("Orsel-Brask, M.", "d'Ambre, J.-P."), ("Quill, A.",)]),
]  # fmt: skip
"""Columns as they come: marks, degrees, groups, cut lists, several scripts, mixed manners."""
