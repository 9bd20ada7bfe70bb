"""Invented reports that were written after the weights were fitted, in manners that `articles.py` has not: narrative, decimal commas, three arms, time points side by side, tables of characteristics."""

from __future__ import annotations

import random
from typing import Any

from articles import Invented, _one_column, _plain_pages, _two_columns
from articles_more import clamps, hedges, steps, tutors

ARMS2 = tuple[dict[str, Any], ...]


def _arms(*names: tuple[str, list[str]]) -> list[dict[str, Any]]:
    return [{"id": f"a{k}", "name": name, "words": words} for k, (name, words) in enumerate(names, 1)]


def _item(key: str, name: str, kind: str, instructions: str = "", **more: Any) -> dict[str, Any]:
    return {"id": key, "name": name, "kind": kind, "instructions": instructions, **more}


def storks(rng: random.Random) -> Invented:
    """A cohort, told as a story, in one column."""
    ringed, pairs = rng.randint(60, 300), rng.randint(30, 90)
    n1, n2 = rng.randint(30, 90), rng.randint(30, 90)
    e1, e2 = rng.randint(3, n1 // 2), rng.randint(3, n2 // 2)
    m1, m2 = round(rng.uniform(1.5, 3.5), 2), round(rng.uniform(1.5, 3.5), 2)
    years = rng.randint(2009, 2017)
    arms = _arms(("Landfill nests", ["landfill"]), ("Meadow nests", ["meadow", "reference"]))
    methods = [
        f"Between April {years} and August {years + 2} we climbed {n1 + n2} nests of white storks in the lowlands of Pomerel.",
        f"Of these, {n1} lay within two kilometres of a landfill and {n2} on wet meadows.",
        f"Nestlings were ringed when they were {rng.randint(30, 45)} days old; {ringed} were ringed altogether.",
        "Whoever counted fledglings did not know how far a nest was from the landfill.",
        "Nests were not assigned by chance.",
        "Blood was taken from every second nestling.",
    ]
    results = [
        f"Breeding failed at {e1} of the landfill nests ({100 * e1 / n1:.0f}%) and at {e2} of the meadow nests ({100 * e2 / n2:.0f}%).",
        f"Pairs near a landfill raised {m1} young on average (SD 0.{rng.randint(40, 95)}), those on meadows {m2} (SD 0.{rng.randint(40, 95)}).",
        f"A review of {pairs} colonies elsewhere found no such difference [14].",
    ]
    s1, s2 = (float("0" + part.split("SD 0")[1][:3]) for part in (results[1].split("those")[0], results[1].split("those")[1]))
    items = [
        _item("n", "Nests studied", "number", "All nests that were visited"),
        _item("ringed", "Nestlings ringed", "number"),
        _item("start", "First month of fieldwork", "date"),
        _item("end", "Last month of fieldwork", "date"),
        _item("place", "Region", "text", "Where the nests were"),
        _item("blind", "Observers blind to exposure", "yesno", "Did those who counted know the exposure?"),
        _item("random", "Randomised", "yesno", "Were nests randomised?"),
        _item("failed", "Breeding failure", "counts", "Nests without young, of all nests of the group", arms=arms),
        _item("young", "Young per nest", "mean_sd", "Fledglings raised", arms=arms),
        _item("funder", "Funder", "text"),
        _item("protocol", "Protocol registered", "yesno"),
        _item("cost", "Cost per nest", "quantity", unit="EUR"),
    ]
    truth: dict[tuple[str, str | None], Any] = {
        ("n", None): n1 + n2, ("ringed", None): ringed, ("start", None): f"{years}-04", ("end", None): f"{years + 2}-08", ("place", None): "Pomerel", ("blind", None): True, ("random", None): False,
        ("failed", "a1"): {"events": e1, "total": n1}, ("failed", "a2"): {"events": e2, "total": n2}, ("young", "a1"): {"mean": m1, "sd": s1, "n": "elsewhere"}, ("young", "a2"): {"mean": m2, "sd": s2, "n": "elsewhere"},
        ("funder", None): None, ("protocol", None): None, ("cost", None): None,
    }  # fmt: skip
    body = [
        ("Summary", results[:1]),
        ("Background", ["White storks feed at landfills more and more."]),
        ("Study area and methods", methods),
        ("Results", results),
        ("Discussion", ["Food at landfills is plenty but poor."]),
    ]
    return Invented(_one_column("Where storks fail: landfills and meadows", body, [], rng), "", "", items, truth)


def doses(rng: random.Random) -> Invented:
    """Three arms, decimal commas, a table with n and standard deviation in columns of their own."""
    n = [rng.randint(18, 60) for _ in range(3)]
    means = [round(rng.uniform(4, 9), 1) for _ in range(3)]
    sds = [round(rng.uniform(0.8, 2.4), 1) for _ in range(3)]
    died = [rng.randint(0, 9) for _ in range(3)]
    names = ("High dose", "Low dose", "Saline")
    comma = lambda value: str(value).replace(".", ",")  # noqa: E731
    arms = _arms(("High dose", ["20 mg"]), ("Low dose", ["5 mg"]), ("Saline", ["control"]))
    methods = [
        f"In total, {sum(n)} sheep were enrolled at the Experimental Station Hollmark and drew lots for 20 mg ivorin, 5 mg ivorin or saline.",
        f"Injections were given every {rng.choice((2, 3, 4))} weeks over {rng.choice((9, 12, 18))} months.",
        "A double-blind, parallel design was used.",
        "Syringes were filled by a pharmacist who kept the code.",
        f"Ewes weighed {comma(round(rng.uniform(50, 70), 1))} kg on average at the start.",
    ]
    weeks, months = methods[1].split("every ")[1].split()[0], methods[1].split("over ")[1].split()[0]
    weight = float(methods[4].split("weighed ")[1].split()[0].replace(",", "."))
    rows = [
        ["Group", "n", "Mean", "SD", "Deaths"],
        *[[names[k], str(n[k]), comma(means[k]), comma(sds[k]), f"{died[k]}/{n[k]}"] for k in range(3)],
    ]
    results = [
        f"Haemoglobin at the end is given in Table 2 ({comma(means[0])} against {comma(means[2])} with saline).",
        "No sheep was lost to follow-up.",
    ]
    items = [
        _item("n", "Number of animals", "number", "enrolled"),
        _item("interval", "Interval between injections", "quantity"),
        _item("length", "Duration of treatment", "quantity", unit="months"),
        _item("design", "Design", "choice", options=["Parallel", "Crossover", "Before and after"]),
        _item("blinding", "Blinding", "choice", options=["Open label", "Single blind", "Double blind"]),
        _item("weight", "Body weight at baseline", "quantity", "mean", unit="kg"),
        _item("hb", "Haemoglobin", "mean_sd", "at the end of treatment", arms=arms),
        _item("deaths", "Deaths", "counts", arms=arms),
        _item("place", "Where the animals were kept", "text", "name of the institution"),
        _item("age", "Age of animals", "quantity", unit="years"),
        _item("ethics", "Ethics approval", "yesno"),
        _item("funder", "Source of funding", "text"),
    ]
    truth: dict[tuple[str, str | None], Any] = {
        ("n", None): sum(n), ("interval", None): {"value": int(weeks), "unit": "weeks"}, ("length", None): {"value": int(months), "unit": "months"}, ("design", None): "Parallel", ("blinding", None): "Double blind",
        ("weight", None): {"value": weight, "unit": "kg"}, ("place", None): "Experimental Station Hollmark", ("age", None): None, ("ethics", None): None, ("funder", None): None,
    }  # fmt: skip
    for k in range(3):
        truth["hb", f"a{k + 1}"] = {"mean": means[k], "sd": sds[k], "n": n[k]}
        truth["deaths", f"a{k + 1}"] = {"events": died[k], "total": n[k]}
    body = [
        ("Introduction", ["Anaemia in sheep is common."]),
        ("Animals and methods", methods),
        ("Results", results),
        ("Conclusion", ["Ivorin raised haemoglobin."]),
    ]
    return Invented(
        _plain_pages("Ivorin for anaemia of sheep", body, [("Table 2: Haemoglobin (g/dl) and deaths by group", rows)], rng),
        "",
        "",
        items,
        truth,
    )


def times(rng: random.Random) -> Invented:
    """Time points side by side under each arm, groups of rows, two columns of text."""
    n1, n2 = rng.randint(40, 140), rng.randint(40, 140)
    cells = {
        (what, arm, at): (round(rng.uniform(40, 60), 1), round(rng.uniform(5, 12), 1)) for what in "PF" for arm in (1, 2) for at in (0, 12)
    }
    e = {arm: rng.randint(2, 20) for arm in (1, 2)}
    show = lambda it: f"{it[0]} ({it[1]})"  # noqa: E731
    rows = [
        ["", "Yoga", "Yoga", "Education", "Education"],
        ["", "Baseline", "12 weeks", "Baseline", "12 weeks"],
        ["Pain score", *(show(cells["P", arm, at]) for arm in (1, 2) for at in (0, 12))],
        ["Function score", *(show(cells["F", arm, at]) for arm in (1, 2) for at in (0, 12))],
    ]
    arms = _arms(("Yoga", []), ("Education", ["booklet", "control"]))
    methods = [
        f"{n1 + n2} adults with back pain were recruited through newspaper advertisements in Calder Bay, Brennland, and randomised to yoga (n = {n1}) or to a booklet (education group; n = {n2}).",
        "Yoga classes of 75 minutes were held twice a week for 12 weeks.",
        "Random numbers were drawn by a statistician with Statmaker 4.2.",
        "Interviewers were unaware of the assignment.",
        "Eligible were adults aged 18 to 65 years with pain for at least three months.",
    ]
    results = [
        f"Adverse events were reported by {e[1]} participants of the yoga group and {e[2]} participants of the education group.",
        f"{rng.randint(3, 9)} in each group were lost to follow-up.",
        "Scores are in Table 2.",
    ]
    items = [
        _item("n", "Participants randomised", "number"),
        _item("class", "Length of a class", "quantity", unit="min"),
        _item("software", "Randomisation software", "text"),
        _item("town", "Town", "text", "Where participants were recruited"),
        _item("assessors", "Outcome assessors blinded", "yesno"),
        _item("pain12", "Pain score at 12 weeks", "mean_sd", arms=arms),
        _item("pain0", "Pain score at baseline", "mean_sd", arms=arms),
        _item("function", "Function score", "mean_sd", "at 12 weeks", arms=arms),
        _item("harms", "Adverse events", "counts", "participants with any", arms=arms),
        _item("registered", "Trial registered", "yesno"),
        _item("industry", "Industry funding", "yesno"),
        _item("power", "Sample size calculation", "yesno"),
    ]
    truth: dict[tuple[str, str | None], Any] = {
        ("n", None): n1 + n2, ("class", None): {"value": 75, "unit": "min"}, ("software", None): "Statmaker 4.2", ("town", None): "Calder Bay", ("assessors", None): True, ("registered", None): None, ("industry", None): None, ("power", None): None,
    }  # fmt: skip
    for arm in (1, 2):
        truth["pain12", f"a{arm}"] = {"mean": cells["P", arm, 12][0], "sd": cells["P", arm, 12][1], "n": "elsewhere"}
        truth["pain0", f"a{arm}"] = {"mean": cells["P", arm, 0][0], "sd": cells["P", arm, 0][1], "n": "elsewhere"}
        truth["function", f"a{arm}"] = {"mean": cells["F", arm, 12][0], "sd": cells["F", arm, 12][1], "n": "elsewhere"}
        truth["harms", f"a{arm}"] = {"events": e[arm], "total": (n1, n2)[arm - 1]}
    body = [
        ("Abstract", methods[:1]),
        ("Introduction", ["Back pain is common [1]."]),
        ("Methods", methods),
        ("Results", results),
        ("Discussion", ["Yoga is safe."]),
    ]
    return Invented(
        _two_columns("Yoga or a booklet for chronic back pain", body, [("Table 2. Scores, mean (SD)", rows)], rng), "", "", items, truth
    )


def listed(rng: random.Random) -> Invented:
    """A short report with a table of characteristics and medians with quartiles."""
    n1, n2 = rng.randint(20, 70), rng.randint(20, 70)
    d = [(rng.randint(6, 9), rng.randint(2, 5), rng.randint(10, 20)) for _ in range(2)]
    beds, female = rng.randint(8, 40), rng.randint(20, 80)
    rows = [
        ["Country", "Ostrava Republic"],
        ["Setting", f"Intensive care unit, {beds} beds"],
        ["Period", "March 2018 - May 2019"],
        ["Design", "Before and after"],
        ["Patients", str(n1 + n2)],
        ["Women, %", str(female)],
        ["Sponsor", "Hospital Fund Tornmouth"],
        ["Antibiotic", "Cefadol 2 g"],
    ]
    text = [
        f"The median stay fell from {d[0][0]} days (IQR {d[0][1]} to {d[0][2]}) before the bundle to {d[1][0]} days (IQR {d[1][1]} to {d[1][2]}) after it.",
        f"Ventilator-associated pneumonia was seen in {rng.randint(5, 15)} of {n1} patients before and {rng.randint(1, 5)} of {n2} patients after its introduction.",
        "Staff were trained for two days.",
    ]
    v = [
        [int(w) for w in part.replace(".", " ").split() if w.isdigit()]
        for part in (text[1].split(" patients before")[0], text[1].split("before and")[1])
    ]
    arms = _arms(("Before", ["before the bundle"]), ("After", ["after the bundle", "bundle period"]))
    items = [
        _item("country", "Country", "text"),
        _item("beds", "Number of beds", "number"),
        _item("start", "Start of study", "date"),
        _item("end", "End of study", "date"),
        _item("design", "Study design", "choice", options=["Randomised trial", "Before and after", "Cohort"]),
        _item("n", "Number of patients", "number", "in all"),
        _item("women", "Women", "number", "per cent", unit="%"),
        _item("sponsor", "Sponsor", "text"),
        _item("dose", "Dose of antibiotic", "quantity", unit="g"),
        _item("stay", "Length of stay", "median_range", "median with IQR", arms=arms),
        _item("vap", "Ventilator-associated pneumonia", "counts", arms=arms),
        _item("consent", "Informed consent obtained", "yesno"),
        _item("mortality", "Mortality", "counts", arms=arms),
    ]
    truth: dict[tuple[str, str | None], Any] = {
        ("country", None): "Ostrava Republic", ("beds", None): beds, ("start", None): "2018-03", ("end", None): "2019-05", ("design", None): "Before and after", ("n", None): n1 + n2, ("women", None): female, ("sponsor", None): "Hospital Fund Tornmouth",
        ("dose", None): {"value": 2, "unit": "g"}, ("consent", None): None, ("mortality", "a1"): None, ("mortality", "a2"): None,
    }  # fmt: skip
    for k in (0, 1):
        truth["stay", f"a{k + 1}"] = {"median": d[k][0], "low": d[k][1], "high": d[k][2], "n": "elsewhere"}
        truth["vap", f"a{k + 1}"] = {"events": v[k][0], "total": v[k][1]}
    body = [("Methods", ["The bundle was introduced in October 2018.", "Characteristics are listed in Table 1."]), ("Results", text)]
    return Invented(
        _plain_pages("A bundle against pneumonia on the ward", body, [("Table 1. Characteristics of the study", rows)], rng),
        "",
        "",
        items,
        truth,
    )


def short(rng: random.Random) -> Invented:
    """A structured abstract."""
    n = rng.randint(50, 200) * 2
    a, b = rng.randint(5, 20), rng.randint(5, 20)
    abstract = (
        f"OBJECTIVE: To compare rinsing with chlorine water and soaking in lactic acid for lettuce. DESIGN: Laboratory experiment in triplicate. METHODS: {n} heads of lettuce bought at Lindvik market were split evenly. "
        f"Rinsing lasted {rng.choice((30, 60, 90))} seconds; soaking took 5 min at {rng.choice((4, 12))} °C. RESULTS: Salmonella was recovered from {a} per cent of rinsed and {b} per cent of soaked heads "
        f"({a * n // 200}/{n // 2} and {b * n // 200}/{n // 2}). Mean shelf life was 6.{rng.randint(1, 9)} ± 1.{rng.randint(1, 9)} days after rinsing and 8.{rng.randint(1, 9)} ± 1.{rng.randint(1, 9)} days after soaking. "
        "CONCLUSION: Both were alike. FUNDING: Growers' Union of Calder Bay."
    )
    life = [
        [float(w) for w in part.split() if w.replace(".", "").isdigit()][:2]
        for part in (abstract.split("shelf life was ")[1], abstract.split("rinsing and ")[1])
    ]
    seconds = int(abstract.split("lasted ")[1].split()[0])
    cold = int(abstract.split("5 min at ")[1].split()[0])
    arms = _arms(("Chlorine rinse", ["rinsed", "rinsing"]), ("Lactic acid soak", ["soaked", "soaking"]))
    items = [
        _item("n", "Heads of lettuce", "number", "Total number tested"),
        _item("rinse", "Duration of rinsing", "quantity"),
        _item("temperature", "Temperature of soaking", "quantity", unit="°C"),
        _item("market", "Where samples were bought", "text"),
        _item("funder", "Funding", "text"),
        _item("salmonella", "Salmonella recovered", "counts", arms=arms),
        _item("life", "Shelf life", "mean_sd", "days", arms=arms),
        _item("random", "Random allocation", "yesno"),
        _item("colour", "Colour score", "mean_sd", arms=arms),
    ]
    truth: dict[tuple[str, str | None], Any] = {
        ("n", None): n, ("rinse", None): {"value": seconds, "unit": "seconds"}, ("temperature", None): {"value": cold, "unit": "°C"}, ("market", None): "Lindvik market", ("funder", None): "Growers' Union of Calder Bay",
        ("salmonella", "a1"): {"events": a * n // 200, "total": n // 2}, ("salmonella", "a2"): {"events": b * n // 200, "total": n // 2},
        ("life", "a1"): {"mean": life[0][0], "sd": life[0][1], "n": "elsewhere"}, ("life", "a2"): {"mean": life[1][0], "sd": life[1][1], "n": "elsewhere"}, ("random", None): None, ("colour", "a1"): None, ("colour", "a2"): None,
    }  # fmt: skip
    return Invented(None, "Rinse or soak: two ways to clean lettuce", abstract, items, truth)


def columns(rng: random.Random) -> Invented:
    """Events and totals in columns of their own; randomised and analysed differ; numbers in words; withdrawals."""
    r1, r2 = rng.randint(60, 160), rng.randint(60, 160)
    n1, n2 = r1 - rng.randint(2, 9), r2 - rng.randint(2, 9)
    e = [(rng.randint(3, 30), rng.randint(3, 30)) for _ in range(3)]
    labels = ("Wound infection", "Dehiscence", "Return to theatre")
    rows = [
        ["", "Honey", "Honey", "Gauze", "Gauze"],
        ["Outcome", "Events", "Total", "Events", "Total"],
        *[[labels[k], str(e[k][0]), str(n1), str(e[k][1]), str(n2)] for k in range(3)],
    ]
    centres = rng.choice(("three", "four", "five", "six"))
    number = {"three": 3, "four": 4, "five": 5, "six": 6}[centres]
    year = rng.randint(2008, 2019)
    methods = [
        f"This was an open, pragmatic trial in {centres} district hospitals of Quill.",
        f"Adults undergoing clean surgery were eligible from 3 May {year} to 28 February {year + 2}.",
        "A statistician in another town prepared numbered, sealed envelopes in blocks of four.",
        "Neither patients nor surgeons could be blinded.",
        "The dressing was changed every 48 hours.",
        "Written consent was given by all.",
    ]
    results = [
        f"We randomised {r1 + r2} patients, {r1} to honey and {r2} to gauze; {r1 - n1} and {r2 - n2} withdrew and {n1} and {n2} were analysed.",
        f"Patients were {rng.randint(40, 69)} years old on average, and {rng.randint(40, 60)}% were women.",
        "Outcomes are shown in Table 2.",
        f"Median time to healing was {rng.randint(9, 12)} days (range 5-30) with honey and {rng.randint(13, 16)} days (range 6-41) with gauze.",
    ]
    age, women = int(results[1].split("were ")[1].split()[0]), int(results[1].split("and ")[1].split("%")[0])
    heal = [int(it.split()[-1]) for it in results[3].split(" days (range")[:2]]
    arms = _arms(("Honey dressing", ["honey"]), ("Gauze dressing", ["gauze", "standard"]))
    items = [
        _item("centres", "Centres", "number", "Hospitals that took part"),
        _item("n", "Patients randomised", "number"),
        _item("age", "Mean age", "number", unit="years"),
        _item("women", "Women", "number", "share in per cent", unit="%"),
        _item("start", "Recruitment start", "date"),
        _item("end", "Recruitment end", "date"),
        _item("change", "Interval between dressing changes", "quantity", unit="h"),
        _item("concealed", "Allocation concealment", "yesno", "Was the allocation concealed?"),
        _item("patients", "Patients blinded", "yesno"),
        _item("consent", "Consent obtained", "yesno"),
        _item("infection", "Wound infection", "counts", arms=arms),
        _item("dehiscence", "Dehiscence", "counts", arms=arms),
        _item("theatre", "Return to theatre", "counts", arms=arms),
        _item("healing", "Time to healing", "median_range", "days", arms=arms),
        _item("pain", "Pain score", "mean_sd", arms=arms),
        _item("cost", "Cost of a dressing", "quantity"),
        _item("country", "Country", "text"),
        _item("registry", "Trial registration number", "text"),
    ]
    truth: dict[tuple[str, str | None], Any] = {
        ("centres", None): number, ("n", None): r1 + r2, ("age", None): age, ("women", None): women, ("start", None): f"{year}-05-03", ("end", None): f"{year + 2}-02-28", ("change", None): {"value": 48, "unit": "h"}, ("concealed", None): True,
        ("patients", None): False, ("consent", None): True, ("pain", "a1"): None, ("pain", "a2"): None, ("cost", None): None, ("country", None): "Quill", ("registry", None): None,
    }  # fmt: skip
    for key, pair in zip(("infection", "dehiscence", "theatre"), e, strict=True):
        truth[key, "a1"], truth[key, "a2"] = {"events": pair[0], "total": n1}, {"events": pair[1], "total": n2}
    truth["healing", "a1"] = {"median": heal[0], "low": 5, "high": 30, "n": "elsewhere"}
    truth["healing", "a2"] = {"median": heal[1], "low": 6, "high": 41, "n": "elsewhere"}
    body = [
        ("Why we did this study", ["Honey is cheap."]),
        ("What we did", methods),
        ("What we found", results),
        ("What it means", ["Honey may be used."]),
    ]
    return Invented(
        _one_column("Honey dressings after clean surgery", body, [("TABLE 2 Outcomes of wounds, patients analysed", rows)], rng),
        "",
        "",
        items,
        truth,
    )


def plots(rng: random.Random) -> Invented:
    """A field trial with coded treatments as rows, letters of significance, means with standard errors beside means with SD."""
    blocks, years = rng.randint(3, 6), rng.randint(2005, 2018)
    grain = [(round(rng.uniform(3, 7), 2), round(rng.uniform(0.2, 0.9), 2)) for _ in range(4)]
    height = [(rng.randint(60, 99), rng.randint(3, 9)) for _ in range(4)]
    names = ("T0", "T1", "T2", "T3")
    rows = [
        ["Treatment", "Grain (t/ha)", "Height (cm)"],
        *[[names[k], f"{grain[k][0]:.2f} ± {grain[k][1]:.2f}", f"{height[k][0]} ± {height[k][1]}"] for k in range(4)],
    ]
    rate = rng.choice((40, 60, 80))
    methods = [
        f"The experiment was laid out in {blocks} randomised blocks at Marrow Farm, Velmark, in {years} and {years + 1}.",
        f"Treatments were no nitrogen (T0), {rate} kg/ha as urea (T1), {rate} kg/ha as slurry (T2) and slurry with an inhibitor (T3).",
        "Each plot measured 12 m2.",
        "Seed was sown on 14 April at 180 kg/ha.",
        "Soil was a sandy loam with a pH of 6.4.",
        "Data were analysed with the program Fieldcalc 3.1.",
    ]
    arms = _arms(("T0", ["no nitrogen"]), ("T1", ["urea"]), ("T2", ["slurry"]), ("T3", ["slurry with inhibitor"]))
    items = [
        _item("blocks", "Number of blocks", "number"),
        _item("rate", "Nitrogen rate", "quantity", "of urea and slurry", unit="kg/ha"),
        _item("seed", "Seed rate", "quantity", unit="kg/ha"),
        _item("ph", "Soil pH", "number"),
        _item("soil", "Soil type", "text"),
        _item("farm", "Site", "text", "Name of the farm or station"),
        _item("plot", "Plot size", "quantity", unit="m2"),
        _item("software", "Statistical software", "text"),
        _item("grain", "Grain yield", "mean_sd", arms=arms),
        _item("height", "Plant height", "mean_sd", arms=arms),
        _item("protein", "Protein content", "mean_sd", arms=arms),
        _item("rain", "Rainfall", "quantity", unit="mm"),
        _item("irrigated", "Irrigated", "yesno"),
    ]
    truth: dict[tuple[str, str | None], Any] = {
        ("blocks", None): blocks, ("rate", None): {"value": rate, "unit": "kg/ha"}, ("seed", None): {"value": 180, "unit": "kg/ha"}, ("ph", None): 6.4, ("soil", None): "sandy loam", ("farm", None): "Marrow Farm", ("plot", None): {"value": 12, "unit": "m2"},
        ("software", None): "Fieldcalc 3.1", ("rain", None): None, ("irrigated", None): None,
    }  # fmt: skip
    for k in range(4):
        truth["grain", f"a{k + 1}"] = {"mean": grain[k][0], "sd": grain[k][1], "n": "elsewhere"}
        truth["height", f"a{k + 1}"] = {"mean": height[k][0], "sd": height[k][1], "n": "elsewhere"}
        truth["protein", f"a{k + 1}"] = None
    body = [
        ("1. Introduction", ["Nitrogen is lost from slurry (Brask, 2011)."]),
        ("2. Materials and methods", methods),
        ("3. Results and discussion", ["Yield rose with nitrogen (Table 3).", "Lodging was not seen."]),
    ]
    return Invented(
        _two_columns("Slurry nitrogen for spring oats", body, [("Table 3. Grain yield and plant height (mean ± SD)", rows)], rng),
        "",
        "",
        items,
        truth,
    )


def spoken(rng: random.Random) -> Invented:
    """Everything in sentences, much of it in words; what others found stands beside it."""
    n = rng.randint(30, 95)
    words = {2: "two", 3: "three", 4: "four", 5: "five", 6: "six", 7: "seven", 8: "eight", 9: "nine", 10: "ten", 11: "eleven", 12: "twelve"}
    a, b = rng.randint(2, 12), rng.randint(2, 12)
    h = n // 2
    m = [(round(rng.uniform(20, 40), 1), round(rng.uniform(3, 8), 1)) for _ in range(2)]
    weeks = rng.choice((4, 6, 10))
    methods = [
        f"Singers of two amateur choirs in Harstead ({2 * h} persons) were allotted by coin to steam inhalation or to nothing.",
        f"Steam was inhaled for {rng.choice((8, 12, 15))} minutes each evening during {words.get(weeks, weeks)} weeks.",
        "The laryngologist who rated the voices did not learn who had inhaled.",
        "We declare that the maker of the inhaler paid for it.",
        "There was no protocol.",
    ]
    minutes = int(methods[1].split("for ")[1].split()[0])
    results = [
        f"Hoarseness was noted in {words[a]} of the {h} who inhaled steam and in {words[b]} of the {h} who did not.",
        f"Their voice handicap averaged {m[0][0]} points (standard deviation {m[0][1]}) after steam as against {m[1][0]} points (standard deviation {m[1][1]}) without steam.",
        f"In the larger study of Ames and colleagues [8], {rng.randint(20, 40)} of {rng.randint(50, 99)} teachers were hoarse.",
    ]
    arms = _arms(("Steam", ["inhalation", "inhaled"]), ("No steam", ["nothing", "without steam", "did not"]))
    items = [
        _item("n", "Participants", "number", "How many took part"),
        _item("choirs", "Number of choirs", "number"),
        _item("minutes", "Duration of each inhalation", "quantity", unit="min"),
        _item("weeks", "Duration of intervention", "quantity", unit="weeks"),
        _item("town", "Place", "text", "Town of the study"),
        _item("blind", "Assessor blinded", "yesno"),
        _item("industry", "Funded by industry", "yesno"),
        _item("method", "Method of allocation", "text"),
        _item("hoarse", "Hoarseness", "counts", arms=arms),
        _item("handicap", "Voice handicap", "mean_sd", arms=arms),
        _item("age", "Age", "mean_sd", arms=arms),
        _item("consent", "Informed consent", "yesno"),
    ]
    truth: dict[tuple[str, str | None], Any] = {
        ("n", None): 2 * h, ("choirs", None): 2, ("minutes", None): {"value": minutes, "unit": "min"}, ("weeks", None): {"value": weeks, "unit": "weeks"}, ("town", None): "Harstead", ("blind", None): True, ("industry", None): True, ("method", None): "coin",
        ("hoarse", "a1"): {"events": a, "total": h}, ("hoarse", "a2"): {"events": b, "total": h}, ("handicap", "a1"): {"mean": m[0][0], "sd": m[0][1], "n": "elsewhere"}, ("handicap", "a2"): {"mean": m[1][0], "sd": m[1][1], "n": "elsewhere"},
        ("age", "a1"): None, ("age", "a2"): None, ("consent", None): None,
    }  # fmt: skip
    body = [
        ("Introduction", ["Choir singers are often hoarse."]),
        ("Methods", methods),
        ("Results", results),
        ("Comment", ["Steam is harmless."]),
    ]
    return Invented(_plain_pages("Steam for the voices of choir singers", body, [], rng), "", "", items, truth)


def questions(rng: random.Random) -> Invented:
    """Items worded as questions; a table with footnote signs, per cent in the head, two times in two tables."""
    n1, n2 = rng.randint(70, 190), rng.randint(70, 190)
    a = {(what, at): (rng.randint(4, 30), rng.randint(4, 30)) for what in ("nausea", "rash") for at in (6, 12)}
    score = {
        at: ((round(rng.uniform(10, 20), 1), round(rng.uniform(2, 5), 1)), (round(rng.uniform(10, 20), 1), round(rng.uniform(2, 5), 1)))
        for at in (6, 12)
    }
    dose, country = rng.choice((15, 30, 45)), rng.choice(("Norway", "Velmark", "Estonia"))
    year = rng.randint(2006, 2018)

    def rows(at: int) -> list[list[str]]:
        def cell(e: int, n: int, sign: str = "") -> str:
            return f"{e} ({100 * e / n:.1f}){sign}"

        return [
            [f"At {at} weeks", f"Zolamine (n={n1})", f"Placebo (n={n2})", "P value"],
            ["Nausea, No. (%)", cell(a["nausea", at][0], n1, "*"), cell(a["nausea", at][1], n2), "0.03"],
            ["Rash, No. (%)", cell(a["rash", at][0], n1), cell(a["rash", at][1], n2, "†"), "0.41"],
            ["Itch score, mean ± SD", f"{score[at][0][0]} ± {score[at][0][1]}", f"{score[at][1][0]} ± {score[at][1][1]}", "<0.001"],
        ]

    methods = [
        f"This multicentre, double-blind trial was undertaken in 9 dermatology departments of {country} between September {year} and June {year + 1}.",
        f"Adults with chronic itch were allocated (1:1) to zolamine {dose} mg once daily or matching placebo.",
        "A computer drew the sequence in blocks of 8; numbered boxes left the central pharmacy already packed.",
        "Patients, carers and assessors were masked.",
        "The primary endpoint was the itch score at week 12.",
        "Analysis was by intention to treat.",
    ]
    results = [
        f"Between those dates {n1 + n2 + rng.randint(15, 80)} patients were screened and {n1 + n2} entered the trial ({n1} zolamine, {n2} placebo).",
        "Tables 2 and 3 give the results at 6 and at 12 weeks.",
        f"{rng.randint(3, 9)} patients in the zolamine group and {rng.randint(3, 9)} in the placebo group stopped early.",
    ]
    arms = _arms(("Zolamine", []), ("Placebo", []))
    items = [
        _item("n", "How many patients were randomised?", "number"),
        _item("centres", "How many centres took part?", "number"),
        _item("dose", "What was the daily dose?", "quantity", unit="mg"),
        _item("where", "In which country was the study done?", "text"),
        _item("when", "When did recruitment start?", "date"),
        _item("blind", "Were patients blinded?", "yesno"),
        _item("itt", "Was the analysis by intention to treat?", "yesno"),
        _item("primary", "What was the primary endpoint?", "text"),
        _item("who", "Who funded the study?", "text"),
        _item("design", "What was the level of blinding?", "choice", options=["Open", "Single-blind", "Double-blind"]),
        _item("nausea6", "Nausea at 6 weeks", "counts", arms=arms),
        _item("nausea12", "Nausea at 12 weeks", "counts", arms=arms),
        _item("rash12", "Rash", "counts", "at 12 weeks", arms=arms),
        _item("itch12", "Itch score, week 12", "mean_sd", arms=arms),
        _item("itch6", "Itch score", "mean_sd", "six weeks after the start", arms=arms),
        _item("weight", "What was the mean body weight?", "quantity", unit="kg"),
        _item("quality", "Quality of life", "mean_sd", arms=arms),
    ]
    truth: dict[tuple[str, str | None], Any] = {
        ("n", None): n1 + n2, ("centres", None): 9, ("dose", None): {"value": dose, "unit": "mg"}, ("where", None): country, ("when", None): f"{year}-09", ("blind", None): True, ("itt", None): True, ("primary", None): "itch score at week 12", ("who", None): None,
        ("design", None): "Double-blind", ("weight", None): None, ("quality", "a1"): None, ("quality", "a2"): None,
    }  # fmt: skip
    for k, n in ((0, n1), (1, n2)):
        truth["nausea6", f"a{k + 1}"] = {"events": a["nausea", 6][k], "total": n}
        truth["nausea12", f"a{k + 1}"] = {"events": a["nausea", 12][k], "total": n}
        truth["rash12", f"a{k + 1}"] = {"events": a["rash", 12][k], "total": n}
        truth["itch12", f"a{k + 1}"] = {"mean": score[12][k][0], "sd": score[12][k][1], "n": n}
        truth["itch6", f"a{k + 1}"] = {"mean": score[6][k][0], "sd": score[6][k][1], "n": n}
    body = [
        ("Abstract", methods[:2]),
        ("Introduction", ["Itch is a burden (Marsh, 2003)."]),
        ("Patients and methods", methods),
        ("Results", results),
        ("Discussion", ["Zolamine relieved itch."]),
    ]
    return Invented(
        _two_columns(
            "Zolamine for chronic itch", body, [("Table 2. Outcomes at 6 weeks", rows(6)), ("Table 3. Outcomes at 12 weeks", rows(12))], rng
        ),
        "",
        "",
        items,
        truth,
    )


def flowing(rng: random.Random) -> Invented:
    """An abstract without labels, three arms, respectively; per cent before the counts."""
    n = [rng.randint(25, 80) for _ in range(3)]
    e = [rng.randint(2, 20) for _ in range(3)]
    m = [(round(rng.uniform(30, 60), 1), round(rng.uniform(4, 9), 1)) for _ in range(3)]
    year = rng.randint(2001, 2015)
    abstract = (
        f"Weeds rob young carrots of water. In the spring of {year} we divided {sum(n)} beds on two farms near Marrow into three groups: {n[0]} were mulched with straw, {n[1]} were hoed every ten days and {n[2]} were left alone. "
        f"By July {100 * e[0] / n[0]:.0f}% ({e[0]}/{n[0]}), {100 * e[1] / n[1]:.0f}% ({e[1]}/{n[1]}) and {100 * e[2] / n[2]:.0f}% ({e[2]}/{n[2]}) of the beds were overgrown, respectively. Roots weighed {m[0][0]} g (SD {m[0][1]}) in mulched beds, {m[1][0]} g (SD {m[1][1]}) in hoed beds "
        f"and {m[2][0]} g (SD {m[2][1]}) in beds left alone. Straw cost 0.4 euros a bed. The Carrot Growers' Fund paid for the seed; nobody who weighed roots was told how a bed had been kept."
    )
    arms = _arms(("Straw mulch", ["mulched", "straw"]), ("Hoeing", ["hoed"]), ("No weeding", ["left alone", "control"]))
    items = [
        _item("beds", "Beds in the experiment", "number", "all groups"),
        _item("farms", "Number of farms", "number"),
        _item("year", "Year of the experiment", "date"),
        _item("near", "Place", "text", "Where the farms are"),
        _item("overgrown", "Overgrown beds", "counts", "in July", arms=arms),
        _item("weight", "Root weight", "mean_sd", "in grams", arms=arms),
        _item("cost", "Cost of straw", "quantity", "per bed"),
        _item("funder", "Who paid", "text"),
        _item("blind", "Blinded weighing", "yesno"),
        _item("rain", "Rainfall", "quantity", unit="mm"),
        _item("yield", "Yield per hectare", "mean_sd", arms=arms),
    ]
    truth: dict[tuple[str, str | None], Any] = {
        ("beds", None): sum(n), ("farms", None): 2, ("year", None): str(year), ("near", None): "Marrow", ("cost", None): {"value": 0.4, "unit": "euros"}, ("funder", None): "Carrot Growers' Fund", ("blind", None): True, ("rain", None): None,
    }  # fmt: skip
    for k in range(3):
        truth["overgrown", f"a{k + 1}"] = {"events": e[k], "total": n[k]}
        truth["weight", f"a{k + 1}"] = {"mean": m[k][0], "sd": m[k][1], "n": "elsewhere"}
        truth["yield", f"a{k + 1}"] = None
    return Invented(None, "Straw or hoe: keeping weeds out of carrots", abstract, items, truth)


WRITERS = (storks, doses, times, listed, short, columns, plots, spoken, questions, flowing, steps, tutors, clamps, hedges)


def apart(seed: int) -> Invented:
    """A report of one of the manners, in turn."""
    return WRITERS[seed % len(WRITERS)](random.Random(f"apart {seed}"))
