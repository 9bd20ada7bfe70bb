"""An invented vocabulary of beekeeping, as a SKOS file in Turtle, with the headings that the demo's records carry."""

from __future__ import annotations

from collections.abc import Iterator

THESAURUS = "hive-thesaurus.ttl"
ADDRESS = "https://kettle.example/hive-thesaurus/"
PREFIXES = (
    f"@prefix skos: <http://www.w3.org/2004/02/skos/core#> .\n@prefix dct: <http://purl.org/dc/terms/> .\n@prefix h: <{ADDRESS}> .\n\n"
)

_MATERIALS = ("Cork", "Foam", "Straw", "Wool", "Felt", "Reed", "Moss", "Polystyrene", "Tar-paper", "Wood-fibre", "Sheep-wool", "Bubble-film", "Sawdust", "Hemp", "Linen", "Clay", "Leaf", "Paper-pulp", "Rubber", "Glass-wool")  # fmt: skip
_PARTS = (
    "lids",
    "walls",
    "floors",
    "wraps",
    "quilts",
    "entrance reducers",
    "inner covers",
    "boxes",
    "frames",
    "dividers",
    "cushions",
    "skirts",
)
_AGENTS = (
    "mites",
    "foulbrood",
    "chalkbrood",
    "wax moths",
    "wing virus",
    "paralysis virus",
    "nosema",
    "hive beetles",
    "tracheal mites",
    "sacbrood",
)
_STAGES = (
    "in autumn",
    "in winter",
    "in spring",
    "in brood",
    "in queens",
    "in drones",
    "in stored comb",
    "in nuclei",
    "in packages",
    "in swarms",
)
_PLANTS = (
    "heather",
    "clover",
    "lime tree",
    "rape",
    "borage",
    "willow",
    "phacelia",
    "buckwheat",
    "thyme",
    "lavender",
    "ivy",
    "maple",
    "acacia",
    "chestnut",
    "sunflower",
)
_YIELDS = ("honey", "pollen", "nectar", "propolis", "honeydew", "forage", "flowering", "seed")
_REGIONS = (
    "Arctic",
    "Boreal",
    "Alpine",
    "Coastal",
    "Island",
    "Steppe",
    "Upland",
    "Lowland",
    "Continental",
    "Maritime",
    "Mediterranean",
    "Subtropical",
)
_HABITATS = ("apiaries", "meadows", "forests", "orchards", "heaths", "gardens", "farmland", "wetlands", "towns")
_QUANTITIES = (
    "Temperature",
    "Humidity",
    "Weight",
    "Sound",
    "Carbon dioxide",
    "Food stores",
    "Brood area",
    "Cluster size",
    "Bee counts",
    "Mite counts",
    "Light",
    "Wind speed",
)
_WHERE = (
    "of the cluster",
    "of the hive",
    "of the brood nest",
    "at the entrance",
    "of the apiary",
    "of the store",
    "of the comb",
    "of the lid",
    "of the air",
    "of the region",
)
_DEEDS = (
    "Feeding",
    "Wrapping",
    "Moving",
    "Weighing",
    "Inspecting",
    "Uniting",
    "Dividing",
    "Ventilating",
    "Treating",
    "Requeening",
    "Marking",
    "Sheltering",
)
_THINGS = ("colonies", "nuclei", "hives", "queens", "apiaries", "brood", "combs", "swarms", "boxes", "drones", "stores")
_BEES = ("worker", "queen", "drone", "winter", "summer", "nurse", "forager", "guard", "scout", "heater")
_LIFE = (
    "longevity",
    "physiology",
    "behaviour",
    "nutrition",
    "genetics",
    "anatomy",
    "mortality",
    "flight",
    "temperature",
    "memory",
    "diseases",
    "counts",
)
_DESIGNS = ("trials", "surveys", "cohorts", "case series", "models", "registers", "interviews", "field notes")
_ADJECTIVES = ("Apiary", "Laboratory", "On-farm", "Multi-winter", "Regional", "Blinded", "Paired", "Long-term", "Pilot", "Citizen")

# heading, other names, hidden names, broader, scope note, history note, related
_OWN = (
    ("Bees", ("Honeybees", "Honey bees", "Hive bees"), ("Honeybee", "Bee"), "Animals", "Bees that are kept in hives. For wild kinds use the narrower heading of their nest.", "1978; before that under Insects, useful.", ("Beekeeping", "Hives")),
    ("Bumblebees", ("Humble bees",), ("Bumble bees",), "Animals", "", "", ("Nesting",)),
    ("Wasps", (), (), "Animals", "", "", ("Nesting",)),
    ("Mites", ("Bee mites",), (), "Animals", "", "", ()),
    ("Beekeeping", ("Apiculture", "Keeping of bees"), ("Bee keeping",), "Farming", "The craft as a whole. For single deeds use the narrower headings.", "", ("Bees", "Honey")),
    ("Agriculture", ("Husbandry",), (), "Farming", "", "", ()),
    ("Pollination", ("Setting of fruit",), (), "Farming", "", "", ("Bees",)),
    ("Hives", ("Beehives", "Skeps"), ("Bee hives",), "Equipment", "", "", ("Hive parts", "Bees")),
    ("Hive parts", (), (), "Hives", "", "", ()),
    ("Thermal insulation", ("Insulation", "Heat insulation", "Winter wraps", "Hive wraps"), ("Insulating", "Insulated"), "Equipment", "Whatever keeps heat in a hive. For the deed use Wrapping hives.", "1991; before that under Hives.", ("Hive parts", "Temperature")),
    ("Seasons", ("Times of the year",), (), "Climate", "", "", ("Wintering",)),
    ("Winter", ("Cold season",), ("Winters",), "Seasons", "", "", ("Wintering",)),
    ("Temperature", ("Heat and cold",), (), "Climate", "", "", ("Thermal insulation",)),
    ("Humidity", ("Moisture", "Damp"), (), "Climate", "", "", ()),
    ("Wintering", ("Overwintering", "Winter survival of colonies"), ("Over-wintering",), "Life of the colony", "A colony's way through the cold season.", "2003; before that under Seasons and Survival.", ("Winter", "Survival")),
    ("Survival", ("Colony survival",), ("Survive",), "Life of the colony", "", "", ("Mortality",)),
    ("Mortality", ("Colony losses", "Winter losses", "Colony loss"), ("Losses",), "Life of the colony", "", "", ("Survival",)),
    ("Nesting", (), (), "Life of the colony", "", "", ()),
    ("Honey", (), (), "Products of the hive", "", "", ()),
    ("Beeswax", ("Wax",), (), "Products of the hive", "", "", ()),
    ("Review literature", ("Reviews", "Overviews"), (), "Kinds of writing", "", "", ()),
)  # fmt: skip
OTHER_NAMES = {name: heading for heading, names, hidden, *_ in _OWN for name in (*names, *hidden)}
"""The heading that each other name stands for."""
_TOP = ("Animals", "Farming", "Equipment", "Climate", "Life of the colony", "Products of the hive", "Kinds of writing", "Diseases and pests", "Places", "Measurement", "Study designs")  # fmt: skip


def _made() -> Iterator[tuple[str, str]]:
    """Headings made of two lists, each with its broader heading."""
    for material in _MATERIALS:
        yield f"{material} parts", "Thermal insulation"
        for part in _PARTS:
            yield f"{material} {part}", f"{material} parts"
    for part in _PARTS:
        yield f"Hive {part}", "Hive parts"
    for agent in _AGENTS:
        yield agent.capitalize() if agent != "mites" else "Mites, parasitic", "Diseases and pests"
        for stage in _STAGES:
            yield f"{agent} {stage}".capitalize(), agent.capitalize() if agent != "mites" else "Mites, parasitic"
    for plant in _PLANTS:
        yield f"{plant} plants".capitalize(), "Farming"
        for product in _YIELDS:
            yield f"{plant} {product}".capitalize(), f"{plant} plants".capitalize()
    for region in _REGIONS:
        yield f"{region} regions", "Places"
        for habitat in _HABITATS:
            yield f"{region} {habitat}", f"{region} regions"
    for quantity in _QUANTITIES:
        yield f"{quantity}, measurement", "Measurement"
        for where in _WHERE:
            yield f"{quantity} {where}", f"{quantity}, measurement"
    for deed in _DEEDS:
        yield f"{deed}, practice", "Beekeeping"
        for thing in _THINGS:
            yield f"{deed} {thing}", f"{deed}, practice"
    for bee in _BEES:
        yield f"{bee} bees".capitalize(), "Bees"
        for life in _LIFE:
            yield f"{bee} bees, {life}".capitalize(), f"{bee} bees".capitalize()
    for adjective in _ADJECTIVES:
        yield f"{adjective} studies", "Study designs"
        for design in _DESIGNS:
            yield f"{adjective} {design}", f"{adjective} studies"
    for one in _MATERIALS:
        for other in _HABITATS:
            yield f"{one} supplies in {other}", f"{one} parts"
    for deed in _DEEDS:
        for region in _REGIONS:
            yield f"{deed} colonies in {region} regions", f"{deed} colonies"


def _name(heading: str) -> str:
    return "h:" + "".join(sign if sign.isalnum() else "-" for sign in heading.lower()).strip("-").replace("--", "-")


def _said(text: str) -> str:
    return '"' + text.replace('"', '\\"') + '"@en'


def turtle() -> str:
    """The whole vocabulary as Turtle."""
    lines = [PREFIXES, f"<{ADDRESS}> a skos:ConceptScheme ; dct:title {_said('Hive Thesaurus')} .\n"]
    lines += [f"{_name(top)} a skos:Concept ; skos:prefLabel {_said(top)} .\n" for top in _TOP]
    for heading, names, hidden, broader, scope, history, related in _OWN:
        parts = [f"skos:prefLabel {_said(heading)}", f"skos:broader {_name(broader)}"]
        parts += [f"skos:altLabel {_said(name)}" for name in names] + [f"skos:hiddenLabel {_said(word)}" for word in hidden]
        parts += [f"skos:scopeNote {_said(scope)}"] * bool(scope) + [f"skos:historyNote {_said(history)}"] * bool(history)
        parts += [f"skos:related {_name(word)}" for word in related]
        lines.append(f"{_name(heading)} a skos:Concept ; " + " ; ".join(parts) + " .\n")
    for heading, broader in _made():
        lines.append(f"{_name(heading)} a skos:Concept ; skos:prefLabel {_said(heading)} ; skos:broader {_name(broader)} .\n")
    return "".join(lines)
