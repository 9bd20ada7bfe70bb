"""Boolean queries: reading and writing them, and trying them on records."""

from kettlesort.core.query.index import Hits, Index, Searched
from kettlesort.core.query.lexer import Note
from kettlesort.core.query.mining import Mined, SeedText, Settings, log_likelihood_ratio, mine
from kettlesort.core.query.nodes import (
    EVERYWHERE,
    Descriptor,
    Group,
    In,
    Near,
    Node,
    Text,
    Value,
    Without,
    Years,
    normal,
    parts_of,
    walk,
    with_parts,
    without_branch,
)
from kettlesort.core.query.parser import LONGEST, NotAQuery, Parsed, parse
from kettlesort.core.query.parts import Parts
from kettlesort.core.query.resembling import at_least, telling
from kettlesort.core.query.trial import Branch, Trial, find, recall_interval, try_on
from kettlesort.core.query.variants import Variant, variants
from kettlesort.core.query.views import BadLine, Concept, as_descriptor, as_term, concepts_of, limited_to, lines_of, of_concepts, of_lines
from kettlesort.core.query.writer import beside, write

__all__ = [
    "EVERYWHERE", "LONGEST", "BadLine", "Branch", "Concept", "Descriptor", "Group", "Hits", "In", "Index", "Mined", "Near", "Node", "NotAQuery", "Note", "Parsed", "Parts", "Searched", "SeedText", "Settings", "Text",
    "Trial", "Value", "Variant", "Without", "Years", "as_descriptor", "as_term", "at_least", "beside", "concepts_of", "find", "limited_to", "lines_of", "log_likelihood_ratio", "mine", "normal", "of_concepts", "of_lines", "parse", "parts_of",
    "recall_interval", "telling", "try_on", "variants", "walk", "with_parts", "without_branch", "write",
]  # fmt: skip
