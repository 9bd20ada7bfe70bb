"""The same query in other families of syntax: written in them, and read from them, by declared profiles."""

from kettlesort.core.query.syntax.carrying import Loss
from kettlesort.core.query.syntax.profile import LONGEST_PROFILE, NotAProfile, Profile, profile_of, shipped
from kettlesort.core.query.syntax.reading import read
from kettlesort.core.query.syntax.writing import Translation, translate

__all__ = ["LONGEST_PROFILE", "Loss", "NotAProfile", "Profile", "Translation", "profile_of", "read", "shipped", "translate"]
