"""The application: routers, errors in words, the page's files."""

from __future__ import annotations

import os
from dataclasses import replace
from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse, Response
from sqlalchemy.exc import DBAPIError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeout

from noble_clay import __version__
from noble_clay.core.errors import ClayError, PieceError
from noble_clay.core.piece.read import problems_of
from noble_clay.solvers.pool import SolverFailed
from noble_clay.store.jobs import NoSuchJob
from noble_clay.store.pieces import NoSuchPiece, StaleRevision
from noble_clay.web import adjust, bring_in, catalogue, drafts, edits, jobs, mend, pieces, preferences
from noble_clay.web.answers import Refusal
from noble_clay.web.guards import BodyTooLarge, Guards
from noble_clay.web.state import AWorkshop, Workshop, refusal_of

PAGES = Path(os.environ.get("NOBLE_CLAY_PAGES", Path(__file__).parents[3] / "frontend" / "dist"))
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
                404: "there is no such piece",
                409: "the piece has changed since",
                413: "the request is too large",
                422: "refused, with what is wrong",
                503: "the database is away",
            }.items()
        },
    )
    app.state.workshop = shop
    for router in (
        pieces.router,
        edits.router,
        adjust.router,
        drafts.router,
        bring_in.router,
        mend.router,
        jobs.router,
        catalogue.router,
        preferences.router,
    ):
        app.include_router(router)
    _add_errors(app)
    _add_meshes(app)
    _add_pages(app)
    app.add_middleware(Guards)
    return app


def _refused(status: int, refusal: Refusal) -> JSONResponse:
    return JSONResponse(refusal.model_dump(mode="json"), status)


def _add_errors(app: FastAPI) -> None:
    @app.exception_handler(ClayError)
    def clay_error(_: Request, error: ClayError) -> Response:
        status = {NoSuchPiece: 404, NoSuchJob: 404, StaleRevision: 409, SolverFailed: 503}.get(type(error), 422)
        return _refused(status, refusal_of(error))

    @app.exception_handler(RequestValidationError)
    def bad_request(_: Request, error: RequestValidationError) -> Response:
        problems = problems_of(error.errors(), {"body": error.body})
        ours = [replace(p, field=(p.field or "").removeprefix("body.") or None) for p in problems]
        return _refused(422, refusal_of(PieceError(ours)))

    @app.exception_handler(BodyTooLarge)
    def too_large(_: Request, error: BodyTooLarge) -> Response:
        return _refused(413, Refusal(message=str(error)))

    @app.exception_handler(OperationalError)
    @app.exception_handler(DBAPIError)
    @app.exception_handler(PoolTimeout)
    def database_away(_: Request, error: Exception) -> Response:
        return _refused(503, Refusal(message=DATABASE_AWAY))


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
            return _refused(404, Refusal(message="there is nothing here"))
        wanted = (PAGES / path).resolve()
        if path and wanted.is_file() and wanted.is_relative_to(PAGES.resolve()):
            lasting = path.startswith("assets/")
            cache = "public, max-age=31536000, immutable" if lasting else "no-cache"
            return FileResponse(wanted, headers={"cache-control": cache})
        if not (PAGES / "index.html").exists():
            return Response("The page is not built yet: run ./start.", 503, media_type="text/plain")
        return FileResponse(PAGES / "index.html", headers={"cache-control": "no-cache"})
