"""Further invented reports in manners of their own: structured abstracts, who was blind, ages that limit and ages that are means, countries beside regions, outcomes over two sentences."""

from __future__ import annotations

import random
from typing import Any

from articles import Invented, _one_column, _plain_pages

Truth = dict[tuple[str, str | None], Any]
COUNTRIES = ("Denmark", "Sweden", "Portugal", "Ghana", "Chile", "New Zealand", "South Korea", "the Netherlands")
REGIONS = ("Vastmark", "Ostrel", "Norrhult", "Pomerel", "Silvarvik")
_NUMBERS = ("two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")


def _arms(*names: tuple[str, list[str]]) -> list[dict[str, Any]]:
    return [{"id": f"a{k}", "name": name, "words": words} for k, (name, words) in enumerate(names, 1)]


def _item(key: str, name: str, kind: str, instructions: str = "", **more: Any) -> dict[str, Any]:
    return {"id": key, "name": name, "kind": kind, "instructions": instructions, **more}


def _bare(country: str) -> str:
    return country.removeprefix("the ")


def steps(rng: random.Random) -> Invented:
    """A trial with run-in headings in its abstract; assessors were blind, participants were not; two groups in one sentence."""
    n, wards, limit, women = rng.randint(45, 160), rng.randint(3, 12), rng.choice((18, 50, 60, 65, 70)), rng.randint(30, 60)
    country, year, weeks, months = rng.choice(COUNTRIES), rng.randint(2008, 2018), rng.choice((6, 8, 12, 16)), rng.choice((3, 6, 9))
    age, sd = round(rng.uniform(limit + 4, limit + 15), 1), round(rng.uniform(5, 9), 1)
    speed = [(round(rng.uniform(0.7, 1.0), 2), round(rng.uniform(0.2, 0.3), 2), n - rng.randint(3, 12)) for _ in range(2)]
    fell, deaths = [rng.randint(10, n // 2) for _ in range(2)], rng.randint(2, 9)
    open_trial = rng.random() < 0.3
    arms = _arms(("Exercise", ["training"]), ("Usual care", ["control"]))
    who = "Neither patients nor assessors were blinded." if open_trial else rng.choice((
        "Assessors did not know to which group a patient belonged; patients and therapists could not be masked.", "Outcomes were measured by blinded assessors. Participants knew their group.",
    ))  # fmt: skip
    abstract = (
        f"Background. Recovery is often slow. Methods. Between March {year} and October {year + 2} we recruited adults aged {limit} years and over from {_NUMBERS[wards - 2]} wards in {country}. "
        f"Results. Of {2 * n + rng.randint(40, 200)} patients screened, {2 * n} were randomised ({n} to each group). Conclusion. Exercise helped."
    )
    methods = [
        who, f"Eligible were people aged {limit} years or older who lived at home; we excluded {rng.randint(20, 60)} with dementia.",
        "Sealed opaque envelopes were used." if rng.random() < 0.7 else "The allocation list was open to the staff.",
        f"The exercise group trained with a physiotherapist twice a week for {weeks} weeks. The control group received a leaflet.",
        f"The primary outcome was gait speed at {_NUMBERS[months - 2]} months. Secondary outcomes were falls, pain and quality of life.",
        "All analyses were by intention to treat." if rng.random() < 0.6 else "We analysed only those who completed the programme.",
    ]  # fmt: skip
    pain = [[(round(rng.uniform(3, 8), 1), round(rng.uniform(1, 2.5), 1)) for _ in range(2)] for _ in range(2)]
    results = [
        f"Participants' mean age was {age} years (SD {sd}) and {women} ({100 * women / 2 / n:.0f}%) were women.",
        f"Gait speed was {speed[0][0]} (SD {speed[0][1]}) m/s in the exercise group (n={speed[0][2]}) and {speed[1][0]} (SD {speed[1][1]}) m/s in the usual care group (n={speed[1][2]}).",
        f"Pain fell from {pain[0][0][0]} (SD {pain[0][0][1]}) to {pain[0][1][0]} (SD {pain[0][1][1]}) in the exercise group and from {pain[1][0][0]} (SD {pain[1][0][1]}) to {pain[1][1][0]} (SD {pain[1][1][1]}) in the usual care group.",
        f"{fell[0]} of {n} patients in the exercise group fell at least once, as against {fell[1]} of {n} receiving usual care. In all, {deaths} participants died.",
    ]
    items = [
        _item("country", "Country", "text", "Where the study was done"), _item("n", "Participants randomised", "number", "How many were randomised in all"),
        _item("sites", "Number of centres", "number", "Hospitals, wards or sites that took part"), _item("age", "Mean age", "quantity", "Mean age of all participants", unit="years"),
        _item("limit", "Minimum age", "quantity", "Lowest age for inclusion", unit="years"), _item("women", "Women", "number", "Number of women"),
        _item("length", "Length of the intervention", "quantity", unit="weeks"), _item("blind", "Participants blinded", "yesno", "Whether participants were blind to their group"),
        _item("assessors", "Outcome assessors blinded", "yesno", "Whether assessors were blind to allocation"), _item("itt", "Intention to treat", "yesno", "Whether the analysis was by intention to treat"),
        _item("primary", "Primary outcome", "text"), _item("outcomes", "Outcomes measured", "choices", options=["gait speed", "falls", "pain", "quality of life", "mood", "cost"]),
        _item("start", "Start of recruitment", "date"), _item("deaths", "Deaths", "number", "Participants who died"), _item("speed", "Gait speed", "mean_sd", unit="m/s", arms=arms),
        _item("falls", "People who fell", "counts", arms=arms), _item("pain", "Pain after the intervention", "mean_sd", arms=arms), _item("pain0", "Pain at baseline", "mean_sd", arms=arms), _item("weight", "Mean weight", "quantity", unit="kg"), _item("funder", "Funder", "text"),
    ]  # fmt: skip
    truth: Truth = {
        ("country", None): _bare(country), ("n", None): 2 * n, ("sites", None): wards, ("age", None): {"value": age, "unit": "years"}, ("limit", None): {"value": limit, "unit": "years"}, ("women", None): women,
        ("length", None): {"value": weeks, "unit": "weeks"}, ("blind", None): False, ("assessors", None): not open_trial, ("itt", None): methods[5].startswith("All"), ("primary", None): "gait speed",
        ("outcomes", None): ["gait speed", "falls", "pain", "quality of life"], ("start", None): f"{year}-03", ("deaths", None): deaths, ("weight", None): None, ("funder", None): None,
    }  # fmt: skip
    for k in range(2):
        truth["speed", f"a{k + 1}"] = dict(zip(("mean", "sd", "n"), speed[k], strict=True))
        truth["falls", f"a{k + 1}"] = {"events": fell[k], "total": n}
        for at, key in enumerate(("pain0", "pain")):
            truth[key, f"a{k + 1}"] = {"mean": pain[k][at][0], "sd": pain[k][at][1], "n": "elsewhere"}
    body = [("Abstract", [abstract]), ("Introduction", [f"In an earlier trial of {rng.randint(60, 99)} patients from Norway exercise did not help (Moll 2003)."]), ("Methods", methods), ("Results", results)]  # fmt: skip
    return Invented(_plain_pages("Supervised exercise after a fracture", body, [], rng), "", "", items, truth)


def tutors(rng: random.Random) -> Invented:
    """A summary of an experiment at schools: letters of statistics, a region before its country, what was not done said last."""
    schools, n, lost, year = 2 * rng.randint(6, 20), rng.randint(500, 1500), rng.randint(20, 90), rng.randint(2010, 2019)
    country, region, age, g = rng.choice(COUNTRIES), rng.choice(REGIONS), round(rng.uniform(9, 15), 1), rng.randint(3, 8)
    score = [(round(rng.uniform(45, 60), 1), round(rng.uniform(9, 14), 1), n // 2 - rng.randint(10, 40)) for _ in range(2)]
    registered, aware, half = rng.random() < 0.4, rng.random() < 0.5, schools // 2
    told = rng.choice((f"{half} were assigned at random to tutoring and {half} to teaching as usual", f"{half} schools received tutors by lot, and {half} schools taught as usual"))  # fmt: skip
    abstract = (
        f"We examined whether same-age tutoring raises attainment. {schools} schools in the region of {region}, {country}, took part; {told}. "
        f"{n:,} pupils in grades {g} and {g + 1} (mean age {age}, SD = 0.6; {rng.randint(46, 54)}% girls) were tested before and after one school year. Data were collected from August {year} to June {year + 1}. "
        f"Tutored pupils scored higher at post-test (M = {score[0][0]}, SD = {score[0][1]}, n = {score[0][2]}) than pupils in control schools (M = {score[1][0]}, SD = {score[1][1]}, n = {score[1][2]}), d = 0.21, 95% CI [0.05, 0.37]. "
        f"{lost} pupils were lost to follow-up. {'Teachers were aware of the condition.' if aware else 'Tests were marked by teachers of other schools who were unaware of the condition.'} "
        f"{'The study was preregistered.' if registered else 'The study was not preregistered.'} It was supported by a grant from the Norrland Council for Schools."
    )
    arms = _arms(("Tutoring", ["tutored"]), ("Teaching as usual", ["control schools", "control"]))
    items = [
        _item("country", "Country", "text"), _item("schools", "Schools", "number", "Number of schools that took part"), _item("n", "Pupils", "number", "Number of pupils tested at the start"),
        _item("age", "Mean age", "quantity", unit="years"), _item("lost", "Lost to follow-up", "number"), _item("score", "Score at post-test", "mean_sd", arms=arms),
        _item("design", "Design", "choice", options=["individually randomised", "schools randomised", "not randomised"]), _item("registered", "Preregistered", "yesno"),
        _item("funder", "Funder", "text", "Who funded the study"), _item("end", "End of data collection", "date"), _item("teachers", "Teachers blinded", "yesno", "Whether teachers were blind to the condition"),
        _item("hours", "Hours of tutoring", "number"), _item("grades", "Grades", "text", "School grades of the pupils"),
    ]  # fmt: skip
    truth: Truth = {
        ("country", None): _bare(country), ("schools", None): schools, ("n", None): n, ("age", None): {"value": age, "unit": "years"}, ("lost", None): lost, ("registered", None): registered,
        ("funder", None): "Norrland Council for Schools", ("end", None): f"{year + 1}-06", ("teachers", None): not aware, ("hours", None): None, ("grades", None): f"grades {g} and {g + 1}",
    }  # fmt: skip
    for k in range(2):
        truth["score", f"a{k + 1}"] = dict(zip(("mean", "sd", "n"), score[k], strict=True))
    return Invented(None, "Peer tutoring in mathematics", abstract, items, truth)


def clamps(rng: random.Random) -> Invented:
    """A cohort with a label before each part of its abstract; funding none."""
    n, weeks, year, country, hospitals = (rng.randint(70, 260), rng.randint(70, 260)), rng.randint(28, 36), rng.randint(2001, 2017), rng.choice(COUNTRIES), rng.randint(2, 6)  # fmt: skip
    e, hb = [rng.randint(8, 40) for _ in range(2)], [(round(rng.uniform(14, 17), 1), round(rng.uniform(1.5, 2.5), 1)) for _ in range(2)]
    stay = [(rng.randint(30, 60), rng.randint(8, 15), rng.randint(90, 140)) for _ in range(2)]
    funded = rng.random() < 0.5
    place = f"{_NUMBERS[hospitals - 2].capitalize()} tertiary hospitals in {country}"
    abstract = (
        f"Objective: To compare outcomes after early and delayed clamping of the cord. Design: Prospective cohort study. Setting: {place}. "
        f"Population: {sum(n)} infants born before {weeks} weeks of gestation between 1 January {year} and 31 December {year + 2}. Methods: Clamping within 30 seconds (early, n = {n[0]}) or after at least 60 seconds (delayed, n = {n[1]}). "
        f"Results: Haemorrhage occurred in {e[0]}/{n[0]} ({100 * e[0] / n[0]:.1f}%) infants with early and {e[1]}/{n[1]} ({100 * e[1] / n[1]:.1f}%) with delayed clamping (adjusted odds ratio 0.51, 95% CI 0.28 to 0.92). "
        f"Mean haemoglobin at birth was {hb[0][0]} ± {hb[0][1]} g/dL and {hb[1][0]} ± {hb[1][1]} g/dL, respectively. Median stay was {stay[0][0]} days (range {stay[0][1]}-{stay[0][2]}) with early and {stay[1][0]} days (range {stay[1][1]}-{stay[1][2]}) with delayed clamping. "
        f"Conclusions: Delayed clamping was associated with fewer haemorrhages. Funding: {'Skerry Foundation' if funded else 'None'}."
    )
    arms = _arms(("Early clamping", ["early"]), ("Delayed clamping", ["delayed"]))
    items = [
        _item("country", "Country", "text"), _item("design", "Study design", "choice", options=["randomised controlled trial", "cohort study", "case-control study", "cross-sectional study"]),
        _item("n", "Sample size", "number", "Infants included"), _item("weeks", "Gestational age limit", "quantity", unit="weeks"), _item("from", "First birth", "date", "From when infants were included"),
        _item("bleeding", "Haemorrhage", "counts", arms=arms), _item("hb", "Haemoglobin at birth", "mean_sd", unit="g/dL", arms=arms), _item("stay", "Length of stay", "median_range", "Days in hospital", unit="days", arms=arms),
        _item("funding", "Funding", "text"), _item("setting", "Setting", "text"), _item("hospitals", "Hospitals", "number", "Number of hospitals"), _item("mothers", "Mean age of mothers", "quantity", unit="years"),
    ]  # fmt: skip
    truth: Truth = {
        ("country", None): _bare(country), ("design", None): "cohort study", ("n", None): sum(n), ("weeks", None): {"value": weeks, "unit": "weeks"}, ("from", None): f"{year}-01-01",
        ("funding", None): "Skerry Foundation" if funded else "None", ("setting", None): place, ("hospitals", None): hospitals, ("mothers", None): None,
    }  # fmt: skip
    for k in range(2):
        truth["bleeding", f"a{k + 1}"] = {"events": e[k], "total": n[k]}
        truth["hb", f"a{k + 1}"] = {"mean": hb[k][0], "sd": hb[k][1], "n": "elsewhere"}
        truth["stay", f"a{k + 1}"] = {"median": stay[k][0], "low": stay[k][1], "high": stay[k][2], "n": "elsewhere"}
    return Invented(None, "Early or delayed clamping of the cord", abstract, items, truth)


def hedges(rng: random.Random) -> Invented:
    """A field survey: several counts in one sentence, a unit of each, and what was not done."""
    farms, per, traps, year, country = (
        rng.randint(9, 30),
        rng.randint(2, 3),
        rng.randint(4, 16),
        rng.randint(2005, 2020),
        rng.choice(COUNTRIES),
    )
    far, soil, m = rng.choice((25, 50, 80)), rng.choice(("loam", "clay", "sand")), [(round(rng.uniform(15, 30), 1), round(rng.uniform(5, 10), 1)) for _ in range(2)]  # fmt: skip
    sprayed = rng.random() < 0.4
    text = [
        f"We sampled ground beetles with pitfall traps in {farms * per} fields on {farms} farms in northern {_bare(country)} from April to July in {year} and {year + 1}.",
        "Half of the hedges were cut every year and half every third year.", "Farms were not chosen at random.",
        f"{traps} traps were set in each field, at distances of 0, 10 and {far} m from the hedge.", f"Soil was {soil} in most fields; fields were sown with winter wheat.",
        "Insecticides were used on all of them." if sprayed else "No insecticides were used.",
    ]  # fmt: skip
    results = [
        f"Mean abundance per trap was {m[0][0]} (s.d. {m[0][1]}) beside hedges cut every third year and {m[1][0]} (s.d. {m[1][1]}) beside hedges cut yearly.",
        "Species richness did not differ.",
    ]
    thanks = "The project received money from the European Fund for Fields and from the chamber of agriculture."
    arms = _arms(("Cut every third year", []), ("Cut every year", ["cut yearly"]))
    items = [
        _item("country", "Country", "text"), _item("fields", "Fields", "number", "Number of fields sampled"), _item("farms", "Farms", "number"), _item("traps", "Traps per field", "number"),
        _item("soil", "Soil type", "choice", options=["clay", "loam", "sand", "peat"]), _item("sprays", "Insecticides used", "yesno"), _item("random", "Farms chosen at random", "yesno"),
        _item("beetles", "Abundance", "mean_sd", "Beetles per trap", arms=arms), _item("far", "Greatest distance from the hedge", "quantity", unit="m"), _item("year", "First year of sampling", "date"),
        _item("method", "Sampling method", "text", "How animals were caught"), _item("funder", "Funder", "text"), _item("rain", "Rainfall", "quantity", unit="mm"), _item("mites", "Mites per trap", "mean_sd", arms=arms),
    ]  # fmt: skip
    truth: Truth = {
        ("country", None): _bare(country), ("fields", None): farms * per, ("farms", None): farms, ("traps", None): traps, ("soil", None): soil, ("sprays", None): sprayed, ("random", None): False,
        ("far", None): {"value": far, "unit": "m"}, ("method", None): "pitfall traps", ("funder", None): "European Fund for Fields", ("rain", None): None, ("mites", "a1"): None, ("mites", "a2"): None,
    }  # fmt: skip
    for k in range(2):
        truth["beetles", f"a{k + 1}"] = {"mean": m[k][0], "sd": m[k][1], "n": "elsewhere"}
    if rng.random() < 0.5:
        return Invented(None, "Hedges and beetles", " ".join([*text, *results, thanks]), items, truth)
    body = [("Introduction", ["Beetles shelter in hedges."]), ("Methods", text), ("Results", results), ("Acknowledgements", [thanks])]
    return Invented(_one_column("Hedges and beetles", body, [], rng), "", "", items, truth)
