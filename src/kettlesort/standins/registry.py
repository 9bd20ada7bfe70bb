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
    by_doi = {it.doi: it for it in (documents() if known is None else known) if it.doi and it.number % 9}

    def ask(request: Request) -> Response:
        doi = str(request.path_params["doi"]).lower()
        if doi not in by_doi:
            return Response("DOI not found", 404)
        if CSL not in request.headers.get("accept", ""):
            return RedirectResponse(f"https://kettle.example/{doi}", 302)
        return JSONResponse(_csl(by_doi[doi]), media_type=CSL)

    return Starlette(routes=[Route("/{doi:path}", ask)])


def _csl(it: Document) -> dict[str, object]:
    said: dict[str, object] = {
        "type": _TYPES.get(it.kind, "document"),
        "title": it.title,
        "subtitle": [it.subtitle] if it.subtitle else [],
        "DOI": it.doi.upper(),
        "author": [{"family": name.partition(", ")[0], "given": name.partition(", ")[2], "sequence": "additional"} for name in it.authors],
        "issued": {"date-parts": [[it.year, 1 + it.number % 12]]},
        "container-title": it.venue.name,
        "volume": str(it.volume),
        "issue": str(it.issue),
        "page": f"{it.page}-{it.page + it.length}",
        "language": "en",
    }
    if it.number % 7:
        said["abstract"] = f"<jats:p>{it.abstract}</jats:p>"
    return said
