"""Names of people as sources write them: how a column or a file parts and orders them, and each as "Family, Given"."""

from kettlesort.core.names.manner import Judgement, Manner, is_one_name, manner_named, manner_of, names_in
from kettlesort.core.names.one import GROUP, PARTICLES, Name, author_name, name_of

__all__ = [
    "GROUP",
    "PARTICLES",
    "Judgement",
    "Manner",
    "Name",
    "author_name",
    "is_one_name",
    "manner_named",
    "manner_of",
    "name_of",
    "names_in",
]
