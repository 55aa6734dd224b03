"""The application: routers, errors in words, the page's files."""

from __future__ import annotations

import logging
import os
from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse, Response
from psycopg.errors import DiskFull
from pydantic import ValidationError
from sqlalchemy.exc import DataError, SQLAlchemyError
from starlette.exceptions import HTTPException as StarletteHTTPException

from noble_clay import __version__
from noble_clay.core.errors import NO_ROOM, ClayError, Fault, PieceError, is_no_room
from noble_clay.core.piece.read import problems_of
from noble_clay.solvers.seat import SolverFailed
from noble_clay.store.database import is_away
from noble_clay.store.history import NoSuchStep
from noble_clay.store.jobs import NoSuchJob
from noble_clay.store.links import NoSuchLink
from noble_clay.store.pieces import NoSuchPiece, StaleRevision
from noble_clay.web import (
    adjust,
    beds,
    bring_in,
    catalogue,
    draft_socket,
    drawer,
    drawings,
    edits,
    history,
    jobs,
    links,
    looking,
    mend,
    pictures,
    piece_jobs,
    pieces,
    preferences,
    presets,
    print_run,
    printing,
    put_ready,
    showing,
)
from noble_clay.web.answers import Refusal
from noble_clay.web.bring_in import UploadStalled
from noble_clay.web.guards import Guards
from noble_clay.web.state import AWorkshop, Workshop, refusal_of

PAGES = Path(os.environ.get("NOBLE_CLAY_PAGES", Path(__file__).parents[3] / "frontend" / "dist"))
LOG = logging.getLogger(__name__)
FAULT = "this went wrong by a fault of Noble Clay's own, which has been written down; nothing that was kept is lost"
DATABASE_AWAY = "the database does not answer just now; nothing is lost, this will be tried again"


def create_app(shop: Workshop | None = None) -> FastAPI:
    """The ASGI application over an open workshop; without one, only its OpenAPI document is of use."""
    app = FastAPI(
        title="Noble Clay",
        version=__version__,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        separate_input_output_schemas=False,
        generate_unique_id_function=lambda route: route.name,
        responses={
            status: {"model": Refusal, "description": said}
            for status, said in {
                400: "it cannot be read as a request",
                404: "there is no such piece",
                409: "the piece has changed since",
                413: "the request is too large",
                422: "refused, with what is wrong",
                500: "a fault of the server's own",
                503: "the database is away, or there is no answer",
            }.items()
        },
    )
    app.state.workshop = shop
    for router in (
        pieces.router,
        edits.router,
        history.router,
        pictures.router,
        links.router,
        looking.router,
        adjust.router,
        draft_socket.router,
        bring_in.router,
        mend.router,
        jobs.router,
        piece_jobs.router,
        beds.router,
        printing.router,
        showing.router,
        print_run.router,
        catalogue.router,
        drawer.router,
        drawings.router,
        presets.router,
        put_ready.router,
        preferences.router,
    ):
        app.include_router(router)
    _add_errors(app)
    _add_meshes(app)
    _add_pages(app)
    app.add_middleware(Guards)
    return app


def _refused(status: int, refusal: Refusal, headers: Mapping[str, str] | None = None) -> JSONResponse:
    return JSONResponse(refusal.model_dump(mode="json"), status, headers)


STATUS: dict[type[Exception], int] = {
    UploadStalled: 408,
    NoSuchPiece: 404,
    NoSuchJob: 404,
    NoSuchStep: 404,
    NoSuchLink: 404,
    StaleRevision: 409,
    SolverFailed: 503,
    Fault: 500,
}
"""Of refusals that are no fault of what was asked; every other one is 422."""

SPOKEN = {404: "there is nothing here", 405: "this cannot be done here"}


def _add_errors(app: FastAPI) -> None:
    @app.exception_handler(ClayError)
    def clay_error(_: Request, error: ClayError) -> Response:
        return _refused(STATUS.get(type(error), 422), refusal_of(error))

    @app.exception_handler(RequestValidationError)
    def bad_request(_: Request, error: RequestValidationError) -> Response:
        found = error.errors()
        if any(e["type"] == "json_invalid" for e in found):
            return _refused(400, Refusal(message="the request is not valid JSON"))
        problems = problems_of(found, {"body": error.body})
        ours = [replace(p, field=(p.field or "").removeprefix("body.") or None) for p in problems]
        return _refused(422, refusal_of(PieceError(ours)))

    @app.exception_handler(ValidationError)
    def bad_values(_: Request, error: ValidationError) -> Response:
        """Values that were allowed, and make something that is not: a part larger than the world, say."""
        return _refused(422, refusal_of(PieceError(problems_of(error.errors(include_url=False), {}))))

    @app.exception_handler(StarletteHTTPException)
    def http_error(_: Request, error: StarletteHTTPException) -> Response:
        words = SPOKEN.get(error.status_code) or str(error.detail)
        return _refused(error.status_code, Refusal(message=words), error.headers)

    @app.exception_handler(SQLAlchemyError)
    def of_the_database(request: Request, error: SQLAlchemyError) -> Response:
        if isinstance(getattr(error, "orig", None), DiskFull):
            return _refused(507, Refusal(message=NO_ROOM))
        if is_away(error):
            return _refused(503, Refusal(message=DATABASE_AWAY, away=True))
        if isinstance(error, DataError):  # a value that the database has no room for
            return _refused(422, Refusal(message=f"this cannot be kept: {str(error.orig).splitlines()[0]}"))
        return fault(request, error)

    @app.exception_handler(Exception)
    def fault(request: Request, error: Exception) -> Response:
        LOG.error("%s %s failed", request.method, request.url.path, exc_info=error)
        if is_no_room(error):
            return _refused(507, Refusal(message=NO_ROOM))
        return _refused(500, Refusal(message=FAULT))


def _add_meshes(app: FastAPI) -> None:
    @app.get("/api/meshes/{key}", tags=["meshes"], response_class=Response)
    def get_mesh(shop: AWorkshop, key: str) -> Response:
        """A mesh for the view by its key: binary, never changed. 404 says: ask for the piece again."""
        path = shop.files.path(key)
        if path is None:
            return _refused(404, Refusal(message="this mesh is not at hand; load the piece again"))
        headers = {"cache-control": "public, max-age=31536000, immutable"}
        return FileResponse(path, media_type="application/octet-stream", headers=headers)

    @app.get("/api/health", tags=["health"])
    def health(shop: AWorkshop) -> dict[str, str]:
        """Answers when the database does."""
        from sqlalchemy import text

        with shop.transaction() as session:
            session.execute(text("select 1"))
        return {"status": "well", "version": __version__}


def _add_pages(app: FastAPI) -> None:
    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> Response:
        """A file of the built front end; any other path is the page itself, which knows its own places."""
        if path.startswith("api/"):
            return _refused(404, Refusal(message=SPOKEN[404]))
        try:
            wanted = (PAGES / path).resolve()
            there = bool(path) and wanted.is_file() and wanted.is_relative_to(PAGES.resolve())
        except (ValueError, OSError):  # no file can be called that
            return _refused(404, Refusal(message=SPOKEN[404]))
        if there:
            lasting = path.startswith("assets/")
            cache = "public, max-age=31536000, immutable" if lasting else "no-cache"
            return FileResponse(wanted, headers={"cache-control": cache})
        if not (PAGES / "index.html").exists():
            return Response("The page is not built yet: run ./start.", 503, media_type="text/plain")
        return FileResponse(PAGES / "index.html", headers={"cache-control": "no-cache"})
