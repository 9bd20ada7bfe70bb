"""A DOI registry that answers with CSL-JSON by content negotiation."""

from __future__ import annotations

import json
from dataclasses import dataclass, field
from urllib.parse import quote

from kettlesort.core.formats.csljson import record_of
from kettlesort.core.formats.settle import alone
from kettlesort.core.record import Record
from kettlesort.outside.polite import Manners, Refused, Unreachable, ask

_CSL = "application/vnd.citationstyles.csl+json"


class RegistryError(Exception):
    """A registry that is away or sends something else; the message is for the person."""


@dataclass
class Registry:
    """A DOI registry at an address."""

    address: str
    manners: Manners = field(default_factory=Manners)

    def record(self, doi: str) -> Record | None:
        """What the registry knows of a DOI, ``None`` when it does not know it. Raises RegistryError."""
        try:
            said = json.loads(ask(f"{self.address.rstrip('/')}/{quote(doi, safe='/')}", {}, _CSL, self.manners))
        except Refused as error:
            if error.status in (404, 410):
                return None
            raise RegistryError(f"The registry did not answer for {doi}: {error}.") from None
        except Unreachable as error:
            raise RegistryError(f"The registry is away. {error}") from None
        except (ValueError, RecursionError):
            raise RegistryError(f"The registry’s answer for {doi} cannot be read.") from None
        if not isinstance(said, dict):
            raise RegistryError(f"The registry’s answer for {doi} is none.")
        return alone(record_of(said))
