"""A DOI registry that answers with CSL-JSON by content negotiation, with the gaps and the moods of a real one."""

from __future__ import annotations

from collections.abc import Iterable

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import JSONResponse, RedirectResponse, Response
from starlette.routing import Route

from kettlesort.demo.document import Document
from kettlesort.demo.invent import documents

CSL = "application/vnd.citationstyles.csl+json"
_TYPES = {"article": "article-journal", "thesis": "thesis", "conference": "paper-conference", "report": "report", "book": "book"}


def registry_app(known: Iterable[Document] | None = None) -> Starlette:
    """The registry as an application; a DOI is its path. Of every seventh it has no abstract, and every ninth is unknown to it."""
    by_doi = {document.doi: document for document in (documents() if known is None else known) if document.doi and document.number % 9}

    def ask(request: Request) -> Response:
        doi = str(request.path_params["doi"]).lower()
        if doi not in by_doi:
            return Response("DOI not found", 404)
        if CSL not in request.headers.get("accept", ""):
            return RedirectResponse(f"https://kettle.example/{doi}", 302)
        return JSONResponse(_csl(by_doi[doi]), media_type=CSL)

    return Starlette(routes=[Route("/{doi:path}", ask)])


def _csl(document: Document) -> dict[str, object]:
    said: dict[str, object] = {
        "type": _TYPES.get(document.kind, "document"),
        "title": document.title,
        "subtitle": [document.subtitle] if document.subtitle else [],
        "DOI": document.doi.upper(),
        "author": [
            {"family": name.partition(", ")[0], "given": name.partition(", ")[2], "sequence": "additional"} for name in document.authors
        ],
        "issued": {"date-parts": [[document.year, 1 + document.number % 12]]},
        "container-title": document.venue.name,
        "volume": str(document.volume),
        "issue": str(document.issue),
        "page": f"{document.page}-{document.page + document.length}",
        "language": "en",
    }
    if document.number % 7:
        said["abstract"] = f"<jats:p>{document.abstract}</jats:p>"
    return said
