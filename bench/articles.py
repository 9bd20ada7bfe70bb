"""Invented reports of trials with the values that they state, written to be unlike each other.

Every sentence has several wordings, every table several layouts, and there are several fields; even and odd ones are two halves that share no sentence.
"""

from __future__ import annotations

import io
import random
from collections.abc import Callable, Sequence
from typing import Any, NamedTuple

from fpdf import FPDF
from reportlab.lib.pagesizes import A4, LETTER
from reportlab.lib.styles import ParagraphStyle
from reportlab.platypus import BaseDocTemplate, Frame, PageTemplate, Paragraph, Spacer, Table, TableStyle


class Field(NamedTuple):
    """What a trial is about. ``unit`` is the unit of observation, in the plural; arms have a name in the codebook, other words, and the report's own name."""

    unit: str
    title: str
    arms: tuple[tuple[str, tuple[str, ...], str], tuple[str, tuple[str, ...], str]]
    died: tuple[str, str, str]
    """A bad event: its item's name, in a sentence as a verb, as the label of a row."""
    second: tuple[str, str, str]
    scale: tuple[str, str, str, float]
    """A measure: its item's name, in a sentence as a noun, its unit, its usual value."""
    time: tuple[str, str]
    """Something with a median: its item's name, and the noun in a sentence."""
    dose: tuple[str, str, tuple[float, ...]]
    setting: tuple[tuple[str, str], ...]
    outcomes: tuple[tuple[str, str], ...]


FIELDS = (
    Field(
        "colonies", "Foam wraps for overwintering honey bee colonies", (("Wrapped", ("foam", "insulated"), "foam-wrapped"), ("Control", ("plain", "unwrapped"), "unwrapped")),
        ("Winter losses", "died over winter", "Colonies lost over winter"), ("Queen failure", "lost their queen", "Queen failure"),
        ("Colony weight", "colony weight", "kg", 24), ("Days to first flight", "time to first flight"), ("Foam thickness", "mm", (20, 30, 40)),
        (("Apiary", "commercial apiaries"), ("Forest", "forest sites")), (("Survival", "colony survival"), ("Weight", "colony weight"), ("Mites", "mite counts"), ("Honey yield", "honey yield")),
    ),
    Field(
        "patients", "Graded walking after knee replacement", (("Walking programme", ("graded walking", "exercise"), "graded walking"), ("Usual care", ("control", "standard care"), "usual care")),
        ("Falls", "had at least one fall", "At least one fall"), ("Readmission", "were readmitted", "Readmitted"),
        ("Knee score", "knee function score", "points", 62), ("Length of stay", "length of stay"), ("Session length", "min", (20, 30, 45)),
        (("Hospital", "teaching hospitals"), ("Community", "community clinics")), (("Pain", "pain"), ("Function", "knee function"), ("Quality of life", "quality of life"), ("Costs", "costs")),
    ),
    Field(
        "pupils", "Paired reading in the second school year", (("Paired reading", ("paired", "intervention"), "paired reading"), ("Ordinary lessons", ("control", "business as usual"), "ordinary lessons")),
        ("Absence", "missed more than ten school days", "Missed > 10 school days"), ("Below benchmark", "stayed below the benchmark", "Below benchmark"),
        ("Reading fluency", "reading fluency", "words/min", 71), ("Books finished", "number of books finished"), ("Lesson length", "min", (15, 25, 40)),
        (("Primary school", "primary schools"), ("After-school club", "after-school clubs")), (("Fluency", "reading fluency"), ("Comprehension", "comprehension"), ("Motivation", "motivation"), ("Spelling", "spelling")),
    ),
    Field(
        "plots", "Straw biochar and drought in summer barley", (("Biochar", ("char", "amended"), "biochar-amended"), ("No amendment", ("control", "untreated"), "untreated")),
        ("Crop failure", "failed to set grain", "Crop failure"), ("Lodging", "lodged before harvest", "Lodged"),
        ("Grain yield", "grain yield", "t/ha", 5.4), ("Days to heading", "time to heading"), ("Biochar rate", "t/ha", (5, 10, 20)),
        (("Research farm", "research farms"), ("Private farm", "private farms")), (("Yield", "grain yield"), ("Soil moisture", "soil moisture"), ("Lodging", "lodging"), ("Soil carbon", "soil carbon")),
    ),
    Field(
        "children", "Fluoride varnish twice a year in preschool children", (("Varnish", ("fluoride", "active"), "fluoride varnish"), ("Placebo", ("placebo varnish", "control"), "placebo")),
        ("New caries", "developed new caries", "New caries"), ("Extraction", "needed an extraction", "Tooth extracted"),
        ("Plaque index", "plaque index", "points", 1.8), ("Surfaces affected", "number of affected surfaces"), ("Varnish dose", "mg", (5, 10, 25)),
        (("Nursery", "nurseries"), ("Dental clinic", "dental clinics")), (("Caries", "caries"), ("Pain", "toothache"), ("Plaque", "plaque"), ("Attendance", "attendance")),
    ),
    Field(
        "adults", "A bedtime programme by telephone for chronic insomnia", (("Bedtime programme", ("programme", "telephone"), "bedtime programme"), ("Waiting list", ("control", "wait list"), "waiting list")),
        ("Dropout", "dropped out", "Dropped out"), ("Hypnotic use", "still took hypnotics", "Took hypnotics"),
        ("Insomnia score", "insomnia severity score", "points", 13), ("Sleep onset", "time to fall asleep"), ("Call length", "min", (15, 20, 35)),
        (("Primary care", "general practices"), ("Workplace", "workplaces")), (("Sleep quality", "sleep quality"), ("Fatigue", "fatigue"), ("Mood", "mood"), ("Sick leave", "sick leave")),
    ),
    Field(
        "calves", "A lactic probiotic in the milk of weaned calves", (("Probiotic", ("lactic", "supplemented"), "probiotic"), ("Plain milk", ("control", "unsupplemented"), "plain milk")),
        ("Diarrhoea", "had diarrhoea", "Diarrhoea"), ("Deaths", "died", "Deaths"),
        ("Daily gain", "daily weight gain", "g", 640), ("Days to weaning", "age at weaning"), ("Probiotic dose", "g", (2, 4, 6)),
        (("Dairy farm", "dairy farms"), ("Rearing station", "rearing stations")), (("Growth", "growth"), ("Diarrhoea", "diarrhoea"), ("Feed intake", "feed intake"), ("Immunity", "antibody titres")),
    ),
    Field(
        "residents", "Evening light and night rest in care homes", (("Bright light", ("light", "bright"), "bright light"), ("Dim light", ("dim", "sham"), "dim light")),
        ("Night wandering", "wandered at night", "Wandering at night"), ("Mortality", "died", "Died, any cause"),
        ("Agitation score", "agitation score", "points", 38), ("Awakenings", "number of awakenings"), ("Illuminance", "lux", (1000, 2500, 4000)),
        (("Care home", "care homes"), ("Hospice", "hospices")), (("Sleep", "sleep"), ("Agitation", "agitation"), ("Falls", "falls"), ("Medication", "medication use")),
    ),
)  # fmt: skip

_COUNTRIES = ("Norway", "Velmark", "Portugal", "Ostrava Republic", "Chile", "New Tarland", "Estonia", "Brennland")
_TOWNS = ("Harstead", "Lindvik", "Marrow", "Ostby", "Calder Bay", "Tornmouth")
_FUNDERS = (
    "the Harrow Research Council",
    "the National Fund for Rural Science",
    "Nordlys Foundation",
    "the Ministry of Agriculture of Velmark",
    "the Brask Trust",
    "the Lindvik Savings Foundation",
)
_METHODS = (
    "a computer-generated list",
    "permuted blocks of six",
    "a table of random numbers",
    "lots drawn by a clerk",
    "minimisation",
    "a web-based randomisation service",
)
_DESIGNS = (("Parallel", "parallel-group"), ("Crossover", "cross-over"), ("Cluster", "cluster"), ("Factorial", "factorial"))
_MONTHS = ["January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December"]

W: dict[str, tuple[str, ...]] = {
    "design": ("We did a {design} randomised trial.", "This {design} trial was run by two teams.", "The study used a {design} design.", "A {design}, randomised controlled trial was conducted.", "Design: {design} randomised trial.", "In this {design} study, allocation was by chance."),
    "where": ("It took place in {sites} {setting} in {country}.", "The trial was carried out at {sites} {setting} across {country}.", "{Sites} {setting} in {country} took part.", "We recruited from {sites} {setting} ({country}).", "The setting was {sites} {setting} in {country}.", "{Unit} came from {sites} {setting} throughout {country}."),
    "dates": ("Recruitment ran from {start} to {end}.", "{Unit} were enrolled between {start} and {end}.", "Enrolment began in {start} and was completed in {end}.", "We recruited {unit} from {start} until {end}.", "The first was enrolled in {start}, the last in {end}.", "Inclusion started in {start} and ended in {end}."),
    "randomised": ("A total of {n} {unit} were randomised: {n1} to {a1} and {n2} to {a2}.", "Of {screened} {unit} screened, {n} were randomly assigned to {a1} (n = {n1}) or {a2} (n = {n2}).", "We randomised {n} {unit} ({n1} {a1}, {n2} {a2}).", "{n} {unit} underwent randomisation, {n1} in the {a1} group and {n2} in the {a2} group.", "Altogether {n} {unit} were allocated at random to the {a1} group (n={n1}) or the {a2} group (n={n2}).", "After {screened} had been assessed for eligibility, {n} {unit} were randomized to {a1} (N = {n1}) and to {a2} (N = {n2})."),
    "age": ("Their mean age was {age} years.", "The average age at entry was {age} years.", "Mean age was {age} y.", "They were {age} years old on average.", "The {unit} had a mean age of {age} years (SD {agesd}).", "On average, {unit} were aged {age} years."),
    "method": ("The allocation sequence was made with {method}.", "Randomisation used {method}.", "The random sequence was generated by {method}.", "{Unit} were allocated by {method}.", "For randomisation we used {method}.", "The order of allocation came from {method}."),
    "concealed": ("Allocation was concealed in sealed opaque envelopes.", "The sequence was concealed from those who enrolled {unit}.", "Concealment of allocation was ensured by a central office.", "Allocation was concealed until baseline had been recorded.", "Those enrolling {unit} could not foresee the allocation, which was concealed centrally.", "Numbered opaque envelopes concealed the allocation."),
    "unconcealed": ("Allocation was not concealed.", "There was no concealment of allocation.", "The allocation list was open and not concealed.", "Concealment of the allocation was not possible.", "Allocation could not be concealed.", "No attempt was made to conceal allocation."),
    "blinded": ("Outcome assessors were blinded to allocation.", "Those who assessed outcomes were unaware of the group.", "Assessors of outcomes were masked to group.", "Outcomes were judged by blinded assessors.", "The assessors did not take part in care and were kept blind to allocation.", "Assessment of outcomes was blinded."),
    "unblinded": ("Outcome assessors were not blinded.", "Assessors were aware of the allocation.", "Blinding of assessors was not feasible.", "Outcome assessment was unblinded.", "Those who assessed outcomes could not be masked.", "Assessors were not masked to group."),
    "dose": ("The {a1} group received {dose} {doseunit} each time.", "{Dosename} was {dose} {doseunit}.", "In the {a1} group {dosename} was set to {dose} {doseunit}.", "The {dosename} was {dose} {doseunit} throughout.", "We used a {dosename} of {dose} {doseunit}.", "{a1}: {dosename} {dose} {doseunit}."),
    "followup": ("Follow-up lasted {weeks} weeks.", "{Unit} were followed for {weeks} weeks.", "The duration of follow-up was {weeks} weeks.", "All were followed up for {weeks} weeks.", "We followed the {unit} over {weeks} weeks.", "The follow-up period was {weeks} weeks."),
    "primary": ("The primary outcome was {primary} at {weeks} weeks.", "Our main outcome was {primary}.", "{Primary} was the primary endpoint.", "The primary end point was {primary}.", "As primary outcome we chose {primary}.", "Primary outcome: {primary}."),
    "outcomes": ("We measured {outcomes}.", "Outcomes were {outcomes}.", "The outcomes recorded were {outcomes}.", "Data were collected on {outcomes}.", "Outcome measures included {outcomes}.", "We assessed {outcomes} as outcomes."),
    "funder": ("The trial was funded by {funder}.", "This work was supported by {funder}.", "Funding came from {funder}.", "Funding: {Funder}.", "{Funder} paid for the study.", "Financial support was provided by {funder}."),
    "registered": ("The trial is registered as {registry}.", "Trial registration: {registry}.", "It was registered before enrolment ({registry}).", "The protocol was registered (identifier {registry}).", "Registration number {registry}.", "This trial was prospectively registered under {registry}."),
    "counts": ("{e1} of {n1} {unit} in the {a1} group and {e2} of {n2} in the {a2} group {event}.", "In the {a1} group {e1}/{n1} ({p1}%) {event}, against {e2}/{n2} ({p2}%) in the {a2} group.", "{Unit} that {event}: {e1} ({p1}%) of {n1} with {a1} and {e2} ({p2}%) of {n2} with {a2}.", "By {weeks} weeks, {e1} of the {n1} {unit} given {a1} {event}, compared with {e2} of the {n2} given {a2}.", "{p1}% ({e1}/{n1}) of the {a1} {unit} {event} as did {p2}% ({e2}/{n2}) of the {a2} {unit}.", "Among {n1} {a1} {unit}, {e1} {event}; among {n2} {a2} {unit}, {e2} did."),
    "means": ("Mean {measure} at {weeks} weeks was {m1} {munit} (SD {s1}) in the {a1} group and {m2} {munit} (SD {s2}) in the {a2} group.", "{Measure} was {m1} ± {s1} {munit} with {a1} (n = {n1}) and {m2} ± {s2} {munit} with {a2} (n = {n2}).", "At {weeks} weeks the {a1} group had a {measure} of {m1} (standard deviation {s1}) {munit}, the {a2} group {m2} ({s2}).", "The {measure} averaged {m1} (SD {s1}) in {a1} {unit} (n={n1}) versus {m2} (SD {s2}) in {a2} {unit} (n={n2}).", "In the {a1} and {a2} groups, {measure} was {m1} (SD, {s1}) and {m2} (SD, {s2}) {munit}, respectively.", "{Measure}: {a1} {m1} +/- {s1}, {a2} {m2} +/- {s2} {munit}."),
    "medians": ("Median {noun} was {d1} (range {l1} to {h1}) in the {a1} group and {d2} (range {l2} to {h2}) in the {a2} group.", "The median {noun} was {d1} (range {l1}–{h1}) with {a1} and {d2} ({l2}–{h2}) with {a2}.", "{Noun} had a median of {d1} [{l1}-{h1}] in {a1} {unit} and {d2} [{l2}-{h2}] in {a2} {unit}.", "{Noun}: median {d1}, range {l1} to {h1} ({a1}); median {d2}, range {l2} to {h2} ({a2}).", "In the {a1} group the median {noun} was {d1} (range, {l1}-{h1}), and in the {a2} group {d2} (range, {l2}-{h2}).", "Median {noun} (range) was {d1} ({l1}, {h1}) for {a1} and {d2} ({l2}, {h2}) for {a2}."),
    "filler": ("Analyses followed a plan that was written before the data were seen.", "Missing values were imputed twenty times.", "The result did not change in sensitivity analyses (P = {p}).", "The difference was not significant (95% CI {lo} to {hi}).", "Previous trials enrolled {other} {unit} on average [3, 7].", "In an earlier study, {other} of {other2} {unit} {event} [12].", "Two authors extracted the data.", "A sample of {planned} {unit} was planned to detect a difference with 80% power.", "The weather was milder than usual.", "Consent was obtained from all concerned.", "We do not know why this happened.", "Costs will be reported elsewhere.", "The groups were alike at the start.", "No interim analysis was made.", "Adherence was checked every month.", "Others have reported a mean of {othermean} in {othercountry} [9]."),
    "intro": ("Little is known about this question.", "Earlier work from {othercountry} gave mixed answers [1, 2].", "A trial of {other} {unit} found no difference [4].", "The aim was to find out whether {a1} does better than {a2}.", "It matters to many.", "In {othercountry}, up to {other}% of {unit} are affected each year [5]."),
}  # fmt: skip

NAMES: dict[str, tuple[tuple[str, str], ...]] = {
    "n": (("Number randomised", "Total number of units randomised, all arms"), ("Sample size", "How many were randomised in total"), ("Participants randomised", ""), ("N randomised", "total across arms")),
    "sites": (("Number of sites", "How many sites or centres took part"), ("Centres", "number of centres"), ("Sites", "Number of places that took part"), ("Number of centres", "")),
    "age": (("Mean age", "In years, at baseline"), ("Age", "Mean age of participants, years"), ("Average age", ""), ("Age (mean)", "overall")),
    "start": (("Start of recruitment", "Month and year"), ("Recruitment began", ""), ("Date of first enrolment", ""), ("Enrolment start", "date")),
    "end": (("End of recruitment", "Month and year"), ("Recruitment ended", ""), ("Date of last enrolment", ""), ("Enrolment end", "date")),
    "dose": (("{dosename}", "with its unit"), ("{dosename}", ""), ("{dosename}", "As given in the intervention arm"), ("{dosename}", "amount")),
    "followup": (("Follow-up", "Length of follow-up"), ("Duration of follow-up", ""), ("Length of follow-up", "longest"), ("Follow-up time", "how long they were followed")),
    "design": (("Design", "Design of the trial"), ("Trial design", ""), ("Study design", "as stated by the authors"), ("Type of trial", "")),
    "setting": (("Setting", "Where the work was done"), ("Setting", ""), ("Type of setting", ""), ("Recruitment setting", "kind of place")),
    "outcomes": (("Outcomes measured", "All that were measured"), ("Outcomes", ""), ("Outcome domains", "tick all that were assessed"), ("What was measured", "")),
    "concealed": (("Allocation concealed", "Was allocation concealed?"), ("Allocation concealment", ""), ("Concealment of allocation", "yes if concealed"), ("Was allocation concealed?", "")),
    "blinded": (("Blinded outcome assessment", "Were those who assessed outcomes blinded?"), ("Assessors blinded", ""), ("Blinding of outcome assessors", ""), ("Were outcome assessors blinded?", "")),
    "country": (("Country", "Where the trial was done"), ("Country", ""), ("Country of the study", ""), ("Location (country)", "")),
    "funder": (("Funder", "Who paid for the study"), ("Funding source", ""), ("Source of funding", "name of the funder"), ("Sponsor", "who funded it")),
    "registry": (("Registration number", "Identifier in a trial registry"), ("Trial registration", "number"), ("Registry identifier", ""), ("Trial registration number", "")),
    "primary": (("Primary outcome", "As named by the authors"), ("Primary outcome", ""), ("Main outcome", "primary endpoint"), ("Primary endpoint", "")),
    "method": (("Randomisation method", "How the sequence was made"), ("Sequence generation", "How the random sequence was generated"), ("Method of randomisation", ""), ("Method of sequence generation", "")),
}  # fmt: skip


class Invented(NamedTuple):
    """A report: its file (None for one of which only title and abstract are known), its text, its items as JSON, and the true value by item and arm; None for what it does not say."""

    pdf: bytes | None
    title: str
    abstract: str
    items: list[dict[str, Any]]
    truth: dict[tuple[str, str | None], Any]


class _Dice:
    """Chance, and wordings of one half."""

    def __init__(self, seed: int, half: int | None) -> None:
        self.rng = random.Random(f"articles {seed} {half}")
        self.half = half

    def of(self, some: Sequence[Any]) -> Any:
        """One of the half's own, or of all."""
        return self.rng.choice(some if self.half is None or len(some) < 2 else some[self.half :: 2])


def invented(seed: int, half: int | None = None) -> Invented:
    """A report. ``half``: 0 or 1 for wordings and fields of one half, None for all."""
    return _Writer(_Dice(seed, half), seed).report()


class _Writer:
    def __init__(self, dice: _Dice, seed: int) -> None:
        self.dice, rng = dice, dice.rng
        self.field: Field = dice.of(FIELDS)
        self.items: list[dict[str, Any]] = []
        self.truth: dict[tuple[str, str | None], Any] = {}
        n1 = rng.randint(24, 240)
        n2 = n1 + rng.randint(-6, 6)
        place = rng.randrange(12)
        years = rng.randint(2004, 2021)
        dosename, doseunit, doses = self.field.dose
        design = rng.choice(_DESIGNS)
        setting = rng.choice(self.field.setting)
        outcomes = rng.sample(self.field.outcomes, rng.randint(2, 3))
        sites = rng.randint(2, 14)
        weeks = rng.choice((6, 8, 12, 16, 24, 26, 52))
        words = ("", "", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")
        said = words[sites] if sites <= 12 and rng.random() < 0.6 else str(sites)
        funder, method = rng.choice(_FUNDERS), rng.choice(_METHODS)
        self.d: dict[str, Any] = {
            "unit": self.field.unit, "a1": self.field.arms[0][2], "a2": self.field.arms[1][2], "n1": n1, "n2": n2, "n": n1 + n2, "screened": n1 + n2 + rng.randint(20, 300),
            "age": round(rng.uniform(3, 78), 1), "agesd": round(rng.uniform(1, 12), 1), "design": design[1], "sites": said, "Sites": said.capitalize(), "setting": setting[1],
            "country": rng.choice(_COUNTRIES), "start": f"{_MONTHS[place]} {years}", "end": f"{_MONTHS[(place + 5) % 12]} {years + rng.randint(1, 3)}", "method": method,
            "dose": rng.choice(doses), "doseunit": doseunit, "dosename": dosename.lower(), "Dosename": dosename, "weeks": weeks, "funder": funder, "Funder": funder[0].upper() + funder[1:],
            "registry": rng.choice((f"REG{rng.randint(10**7, 10**8)}", f"TRN-{rng.randint(1000, 9999)}-{rng.randint(10, 99)}", f"VCTR{rng.randint(10**9, 10**10)}")),
            "outcomes": _listed([it[1] for it in outcomes]), "primary": outcomes[0][1], "Primary": outcomes[0][1].capitalize(), "p": round(rng.uniform(0.1, 0.9), 2),
            "lo": round(-rng.random() * 3, 1), "hi": round(rng.random() * 3, 1), "other": rng.randint(11, 90), "other2": rng.randint(100, 300), "planned": n1 + n2 - rng.randint(3, 20),
            "othermean": round(rng.uniform(2, 60), 1), "othercountry": rng.choice(("Tessaly", "Ardmoor", "Quill")), "measure": self.field.scale[1], "munit": self.field.scale[2],
            "noun": self.field.time[1], "event": self.field.died[1],
        }  # fmt: skip
        self.d["Unit"] = self.d["unit"].capitalize()
        self.d["Measure"], self.d["Noun"] = (self.d[name][0].upper() + self.d[name][1:] for name in ("measure", "noun"))
        self.facts: dict[str, Any] = {
            "n": n1 + n2, "sites": sites, "age": self.d["age"], "start": f"{years}-{place + 1:02d}", "end": f"{self.d['end'][-4:]}-{(place + 5) % 12 + 1:02d}",
            "dose": {"value": self.d["dose"], "unit": doseunit}, "followup": {"value": weeks, "unit": "weeks"}, "design": design[0], "setting": setting[0],
            "outcomes": [it[0] for it in self.field.outcomes if it in outcomes], "country": self.d["country"], "funder": funder.removeprefix("the "), "registry": self.d["registry"],
            "primary": outcomes[0][1], "method": method.removeprefix("a "),
        }  # fmt: skip
        self.seed = seed

    def say(self, slot: str, **more: Any) -> str:
        """A sentence of a slot."""
        text = str(self.dice.of(W[slot])).format(**{**self.d, **more})
        return text[0].upper() + text[1:]

    def _ask(self, key: str, kind: str, told: bool, value: Any = None, **more: Any) -> None:
        name, instructions = self.dice.of(NAMES[key])
        self.items.append({"id": key, "name": name.format(dosename=self.d["Dosename"]), "kind": kind, "instructions": instructions, **more})
        self.truth[key, None] = (self.facts.get(key) if value is None else value) if told else None

    def report(self) -> Invented:
        """The whole."""
        rng = self.dice.rng
        full = rng.random() < 0.8
        told = {key: rng.random() < (0.78 if full else 0.6) for key in NAMES}
        told["end"] = told["start"]
        told["followup"] = True  # other sentences name its weeks too
        told["n"] = told["n"] or rng.random() < 0.5
        told["country"] = told["setting"] = told["sites"] = rng.random() < 0.85
        concealed, blinded = rng.random() < 0.6, rng.random() < 0.6
        methods: list[str] = []
        for key, slot in (
            ("design", "design"),
            ("sites", "where"),
            ("start", "dates"),
            ("method", "method"),
            ("dose", "dose"),
            ("followup", "followup"),
            ("primary", "primary"),
            ("outcomes", "outcomes"),
        ):
            if told[key]:
                methods.append(self.say(slot))
        if told["concealed"]:
            methods.append(self.say("concealed" if concealed else "unconcealed"))
        if told["blinded"]:
            methods.append(self.say("blinded" if blinded else "unblinded"))
        rng.shuffle(methods)
        results: list[str] = []
        if told["n"]:
            results.append(self.say("randomised"))
        if told["age"]:
            results.append(self.say("age"))
        statements = [self.say(slot) for key, slot in (("funder", "funder"), ("registry", "registered")) if told[key]]
        for key, kind, more in (
            ("n", "number", {}), ("sites", "number", {}), ("age", "number", {"unit": "years"} if rng.random() < 0.5 else {}), ("start", "date", {}), ("end", "date", {}),
            ("dose", "quantity", {"unit": self.d["doseunit"]} if rng.random() < 0.7 else {}), ("followup", "quantity", {"unit": "weeks"} if rng.random() < 0.7 else {}),
            ("design", "choice", {"options": [it[0] for it in _DESIGNS]}), ("setting", "choice", {"options": [it[0] for it in self.field.setting]}),
            ("outcomes", "choices", {"options": [it[0] for it in self.field.outcomes]}), ("country", "text", {}), ("funder", "text", {}), ("registry", "text", {}),
            ("primary", "text", {}), ("method", "text", {}),
        ):  # fmt: skip
            self._ask(key, kind, told[key], **more)
        self._ask("concealed", "yesno", told["concealed"], concealed)
        self._ask("blinded", "yesno", told["blinded"], blinded)
        tables, sentences = self._outcomes(full)
        results += sentences
        if not full:
            abstract = " ".join([self.say("intro"), *methods, *results, *statements])
            return Invented(None, f"{self.field.title}: a trial", abstract, self.items, self.truth)
        body = self._sections(methods, results, statements)
        layout: Callable[..., bytes] = self.dice.of((_one_column, _two_columns, _plain_pages, _two_columns_narrow))
        return Invented(
            layout(f"{self.field.title}: a trial", body, tables, rng), f"{self.field.title}: a trial", "", self.items, self.truth
        )

    def _sections(self, methods: list[str], results: list[str], statements: list[str]) -> list[tuple[str, list[str]]]:
        rng = self.dice.rng

        def filled(some: list[str], share: float) -> list[str]:
            out: list[str] = []
            for it in some:
                out.append(it)
                if rng.random() < share:
                    out.append(self.say("filler"))
            return out

        abstract = [self.say("intro"), *(it for it in methods[:2] + results[:2] if rng.random() < 0.6)]
        return [
            ("Abstract", abstract), ("Introduction", [self.say("intro") for _ in range(4)]), ("Methods", filled(methods, 0.7)), ("Results", filled(results, 0.6)),
            ("Discussion", [self.say("filler") for _ in range(6)]), (self.dice.of(("Funding", "Acknowledgements", "Declarations", "Funding and registration")), statements),
            ("References", [f"{k}. Orsel A, Brask T. A trial of {rng.randint(20, 900)} {self.d['unit']}. J Made Up Res. {rng.randint(1990, 2020)};{k}({k + 1}):{k}1-{k}9." for k in range(1, 8)]),
        ]  # fmt: skip

    def _outcomes(self, full: bool) -> tuple[list[tuple[str, list[list[str]]]], list[str]]:
        """Outcomes of the arms: some in sentences, some in a table."""
        rng, f = self.dice.rng, self.field
        arms = [{"id": f"arm{k}", "name": arm[0], "words": list(arm[1]) if rng.random() < 0.7 else []} for k, arm in enumerate(f.arms, 1)]
        n = (self.d["n1"], self.d["n2"])
        rows: list[tuple[str, str, list[tuple[Any, ...]]]] = []
        sentences: list[str] = []
        for key, kind, (name, _, label) in (
            ("died", "counts", f.died),
            ("second", "counts", f.second),
            ("scale", "mean_sd", (f.scale[0], "", f"{f.scale[0]} ({f.scale[2]})")),
            ("time", "median_range", (f.time[0], "", f.time[0])),
        ):
            instructions = self.dice.of(("", f"At {self.d['weeks']} weeks", "by arm", "Per arm, end of follow-up"))
            self.items.append({"id": key, "name": name, "kind": kind, "instructions": instructions, "arms": arms})
            told = rng.random() < 0.8
            in_table = full and rng.random() < 0.6
            values = [self._figures(kind, size) for size in n]
            for arm, value in zip(arms, values, strict=True):
                self.truth[key, str(arm["id"])] = value if told else None
            if not told:
                continue
            if in_table:
                rows.append((kind, label, [tuple(value.values()) for value in values]))
                continue
            slot = {"counts": "counts", "mean_sd": "means", "median_range": "medians"}[kind]
            a, b = (tuple(value.values()) for value in values)
            more: dict[str, Any] = {"event": f.died[1] if key == "died" else f.second[1]}
            if kind == "counts":
                more |= {"e1": a[0], "e2": b[0], "p1": round(100 * a[0] / n[0], 1), "p2": round(100 * b[0] / n[1], 1)}
            elif kind == "mean_sd":
                more |= {"m1": a[0], "s1": a[1], "m2": b[0], "s2": b[1]}
            else:
                more |= {"d1": a[0], "l1": a[1], "h1": a[2], "d2": b[0], "l2": b[1], "h2": b[2]}
            text = self.say(slot, **more)
            sentences.append(text)
            if kind != "counts" and not (f" {n[0]}" in text or f"={n[0]}" in text):
                for arm in arms:
                    self.truth[key, str(arm["id"])] |= {"n": "elsewhere"}
        if not rows:
            return [], sentences
        return [self._table(rows, n)], sentences

    def _figures(self, kind: str, n: int) -> dict[str, Any]:
        rng = self.dice.rng
        if kind == "counts":
            return {"events": rng.randint(1, max(2, n // 2)), "total": n}
        if kind == "mean_sd":
            mean = self.field.scale[3] * rng.uniform(0.8, 1.2)
            digits = 0 if mean > 200 else 1
            return {"mean": _round(mean, digits), "sd": max(_round(mean * rng.uniform(0.1, 0.3), digits), 0.1), "n": n}
        low = rng.randint(1, 8)
        middle = low + rng.randint(2, 9)
        return {"median": middle, "low": low, "high": middle + rng.randint(3, 20), "n": n}

    def _table(self, rows: list[tuple[str, str, list[tuple[Any, ...]]]], n: tuple[int, int]) -> tuple[str, list[list[str]]]:
        rng = self.dice.rng
        names = [name[0].upper() + name[1:] for name in (self.d["a1"], self.d["a2"])]
        caption = self.dice.of(
            (
                "Table 1. Outcomes by group",
                f"Table 2: Results at {self.d['weeks']} weeks",
                "Table 1 Outcomes in the two groups",
                "Table 3. Main and secondary outcomes",
            )
        )
        manner = self.dice.of(("head", "rows", "size row", "split", "head two lines", "rows with n"))
        plus = rng.random() < 0.5

        def cell(kind: str, it: tuple[Any, ...]) -> str:
            if kind == "counts":
                return (
                    f"{it[0]} ({100 * it[0] / it[1]:.1f})"
                    if manner in ("head", "head two lines", "size row", "rows with n")
                    else f"{it[0]}/{it[1]}"
                )
            if kind == "mean_sd":
                return f"{it[0]} ± {it[1]}" if plus else f"{it[0]} ({it[1]})"
            return f"{it[0]} ({it[1]}–{it[2]})" if plus else f"{it[0]} [{it[1]}, {it[2]}]"

        suffix = {
            "counts": ", n (%)" if manner in ("head", "head two lines", "size row", "rows with n") else "",
            "mean_sd": ", mean ± SD" if plus else ", mean (SD)",
            "median_range": ", median (range)" if plus else ", median [range]",
        }
        labels = [label + suffix[kind] for kind, label, _ in rows]
        if manner == "head":
            return caption, [
                ["Outcome", f"{names[0]} (n = {n[0]})", f"{names[1]} (n = {n[1]})"],
                *([label, *(cell(kind, it) for it in values)] for label, (kind, _, values) in zip(labels, rows, strict=True)),
            ]
        if manner == "head two lines":
            return caption, [
                ["", *names, "P"],
                ["", f"N = {n[0]}", f"N = {n[1]}", "value"],
                *(
                    [label, *(cell(kind, it) for it in values), f"0.{rng.randint(10, 99)}"]
                    for label, (kind, _, values) in zip(labels, rows, strict=True)
                ),
            ]
        if manner == "size row":
            return caption, [
                ["", *names],
                ["Number analysed", str(n[0]), str(n[1])],
                *([label, *(cell(kind, it) for it in values)] for label, (kind, _, values) in zip(labels, rows, strict=True)),
            ]
        if manner == "rows":
            return caption, [
                ["Group", *labels],
                *(
                    [f"{name} (n={size})", *(cell(kind, values[k]) for kind, _, values in rows)]
                    for k, (name, size) in enumerate(zip(names, n, strict=True))
                ),
            ]
        if manner == "rows with n":
            return caption, [
                ["Group", "n", *labels],
                *(
                    [name, str(size), *(cell(kind, values[k]) for kind, _, values in rows)]
                    for k, (name, size) in enumerate(zip(names, n, strict=True))
                ),
            ]
        made = [["", f"{names[0]}, n={n[0]}", f"{names[1]}, n={n[1]}", "Difference (95% CI)"]]
        for label, (kind, _, values) in zip(labels, rows, strict=True):
            made.append(
                [label, *(cell(kind, it) for it in values), f"{rng.uniform(-3, 3):.1f} ({-rng.random() * 5:.1f} to {rng.random() * 5:.1f})"]
            )
        return caption, made


def _round(value: float, digits: int) -> float:
    return int(value) if digits == 0 else round(value, digits)


def _listed(some: Sequence[str]) -> str:
    return ", ".join(some[:-1]) + f" and {some[-1]}" if len(some) > 1 else some[0]


def _platypus(
    title: str,
    body: list[tuple[str, list[str]]],
    tables: list[tuple[str, list[list[str]]]],
    rng: random.Random,
    columns: int,
    size: float,
    page: tuple[float, float],
    font: str,
) -> bytes:
    out = io.BytesIO()
    width, height = page
    gap, edge = 18, 42
    wide = (width - 2 * edge - gap * (columns - 1)) / columns
    frames = [Frame(edge + k * (wide + gap), edge, wide, height - 2 * edge - 10, leftPadding=0, rightPadding=0) for k in range(columns)]

    def running(canvas: Any, document: Any) -> None:
        canvas.setFont(font, 7)
        canvas.drawString(edge, height - 28, f"Annals of Invented Results · page {document.page}")

    document = BaseDocTemplate(out, pagesize=page, invariant=1)
    document.addPageTemplates([PageTemplate(frames=frames, onPage=running)])
    text = ParagraphStyle("text", fontName=font, fontSize=size, leading=size * 1.25, alignment=rng.choice((0, 4)), spaceAfter=4)
    heading = ParagraphStyle(
        "heading",
        parent=text,
        fontName=font.replace("Roman", "Bold") if "Roman" in font else f"{font}-Bold",
        fontSize=size + rng.choice((0, 2)),
        spaceBefore=6,
    )
    head = ParagraphStyle("title", parent=heading, fontSize=size + 6, leading=size + 9)
    story: list[Any] = [Paragraph(title, head), Paragraph("A. Orsel, T. Brask and M. Ames", text)]
    numbered = rng.random() < 0.3
    for k, (name, sentences) in enumerate(body):
        if not sentences:
            continue
        story.append(Paragraph(f"{k}. {name}" if numbered and k else name, heading))
        cut = rng.randint(3, 6)
        for at in range(0, len(sentences), cut):
            story.append(Paragraph(" ".join(sentences[at : at + cut]).replace("&", "&amp;").replace("<", "&lt;"), text))
        if "esult" in name or "found" in name:
            for caption, rows in tables:
                grid = [
                    ("FONTSIZE", (0, 0), (-1, -1), size - 1),
                    ("FONTNAME", (0, 0), (-1, -1), font),
                    ("LEFTPADDING", (0, 0), (-1, -1), 4),
                ]
                grid += (
                    [("GRID", (0, 0), (-1, -1), 0.3, "black")]
                    if rng.random() < 0.4
                    else [("LINEABOVE", (0, 0), (-1, 0), 0.7, "black"), ("LINEBELOW", (0, -1), (-1, -1), 0.7, "black")]
                )
                small = ParagraphStyle("cell", parent=text, fontSize=size - 1, leading=size, alignment=0, spaceAfter=0)
                cells = (
                    [[Paragraph(cell.replace("<", "&lt;"), small) for cell in row] for row in rows]
                    if columns > 1 or len(rows[0]) > 4
                    else rows
                )
                story += [
                    Spacer(1, 4),
                    Paragraph(f"<b>{caption}</b>", text),
                    Table(
                        cells,
                        style=TableStyle(grid),
                        colWidths=[wide / len(rows[0])] * len(rows[0]) if columns > 1 or len(rows[0]) > 4 else None,
                    ),
                    Spacer(1, 6),
                ]
    document.build(story)
    return out.getvalue()


def _one_column(title: str, body: Any, tables: Any, rng: random.Random) -> bytes:
    return _platypus(title, body, tables, rng, 1, rng.choice((9.5, 10.5, 11)), A4, "Times-Roman")


def _two_columns(title: str, body: Any, tables: Any, rng: random.Random) -> bytes:
    return _platypus(title, body, tables, rng, 2, rng.choice((8.5, 9, 9.5)), A4, "Helvetica")


def _two_columns_narrow(title: str, body: Any, tables: Any, rng: random.Random) -> bytes:
    return _platypus(title, body, tables, rng, 2, rng.choice((8, 9)), LETTER, "Times-Roman")


def _plain_pages(title: str, body: list[tuple[str, list[str]]], tables: list[tuple[str, list[list[str]]]], rng: random.Random) -> bytes:
    pdf = FPDF(format="A4")
    pdf.add_page()
    pdf.set_font("Helvetica", "B", 15)

    def latin(text: str) -> str:
        return text.replace("–", "-").encode("latin-1", "replace").decode("latin-1")

    pdf.multi_cell(0, 8, latin(title), new_x="LMARGIN", new_y="NEXT")
    size = rng.choice((10, 11))
    for name, sentences in body:
        if not sentences:
            continue
        pdf.set_font("Helvetica", "B", size + 1)
        pdf.multi_cell(0, 8, name.upper() if size == 10 else name, new_x="LMARGIN", new_y="NEXT")
        pdf.set_font("Helvetica", "", size)
        pdf.multi_cell(0, 5, latin(" ".join(sentences)), new_x="LMARGIN", new_y="NEXT")
        if "esult" in name or "found" in name:
            for caption, rows in tables:
                pdf.ln(3)
                pdf.multi_cell(0, 5, latin(caption), new_x="LMARGIN", new_y="NEXT")
                with pdf.table(borders_layout=rng.choice(("ALL", "MINIMAL", "NONE")), first_row_as_headings=False) as table:
                    for row in rows:
                        line = table.row()
                        for cell in row:
                            line.cell(latin(cell))
                pdf.ln(3)
    return bytes(pdf.output())
