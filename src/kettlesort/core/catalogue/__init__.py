"""Connected catalogues: what is asked of them, and what their answers say. Nothing here reaches for the network."""

from kettlesort.core.catalogue.records import record_of
from kettlesort.core.catalogue.sru import (
    LARGEST_ANSWER,
    SCHEMAS,
    Answer,
    Diagnostic,
    Explained,
    NotAnAnswer,
    Understood,
    Version,
    explain_request,
    read_answer,
    read_explanation,
    read_record,
    search_request,
)

__all__ = ["LARGEST_ANSWER", "SCHEMAS", "Answer", "Diagnostic", "Explained", "NotAnAnswer", "Understood", "Version", "explain_request", "read_answer", "read_explanation", "read_record", "record_of", "search_request"]  # fmt: skip
