"""A language model at an address: asked in JSON, with a key. What it answers is read by `kettlesort.core.charting.language_model`."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from kettlesort.outside.polite import Manners, Posted, Refused, Unreachable, ask


class ModelError(Exception):
    """A model that is away, too late, or does not let us in; the message is for the person."""


@dataclass
class LanguageModel:
    """A language model at an address, which knows us by a ``key``."""

    address: str
    key: str = ""
    manners: Manners = field(default_factory=Manners)

    def ask(self, question: Mapping[str, Any]) -> bytes:
        """What it answers to a question. Raises ModelError."""
        try:
            return ask(self.address, {}, "application/json", self.manners, Posted(json.dumps(question).encode(), self.key))
        except Unreachable as error:
            raise ModelError(f"The language model is away. {error} Ask again later; nothing is lost.") from None
        except Refused as error:
            why = " It does not take the key that this server has." if error.status in (401, 403) else ""
            raise ModelError(f"The language model did not answer the question: {error}.{why}") from None
        except ValueError as error:
            raise ModelError(str(error)) from None
