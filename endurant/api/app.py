"""The web application: routes under /api, the built front end for everything else."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import FastAPI
from fastapi.responses import FileResponse, Response
from fastapi.routing import APIRoute
from fastapi.staticfiles import StaticFiles

import endurant
from endurant.api import (
    problems,
    routes_bench,
    routes_cutting,
    routes_jobs,
    routes_methods,
    routes_people,
    routes_preparation,
    routes_reports,
)
from endurant.api.problems import Problem, problem
from endurant.api.session import Guard
from endurant.work.enclosures import READ_EVERY_S, read_loggers
from endurant.work.live import LOOK_FOR_ORPHANS_S, take_up_orphans
from endurant.work.watching import Watch

BUILT = Path(endurant.__file__).parent.parent / "web" / "dist"


def _operation_name(route: APIRoute) -> str:
    return route.name


def build_app(built: Path = BUILT, *, supervise: bool = True) -> FastAPI:
    """The application; `supervise` takes up runs whose carrier is gone, and reads loggers."""

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        watches = []
        if supervise:
            watches = [
                Watch("run-supervisor", LOOK_FOR_ORPHANS_S, take_up_orphans),
                Watch("logger-watch", READ_EVERY_S, read_loggers),
            ]
        for watch in watches:
            watch.start()
        yield
        for watch in watches:
            watch.stop()

    app = FastAPI(
        title="Endurant",
        version=endurant.__version__,
        lifespan=lifespan,
        generate_unique_id_function=_operation_name,
        responses={"4XX": {"model": Problem}, "5XX": {"model": Problem}},
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
    )
    problems.install(app)
    app.add_middleware(Guard)
    for routes in (
        routes_people,
        routes_methods,
        routes_jobs,
        routes_cutting,
        routes_preparation,
        routes_bench,
        routes_reports,
    ):
        app.include_router(routes.router, prefix="/api")

    @app.get("/api/{rest:path}", include_in_schema=False)
    def nothing_here(rest: str) -> Response:
        return problem("not-found", f"there is nothing at /api/{rest}")

    if (built / "assets").is_dir():
        app.mount("/assets", StaticFiles(directory=built / "assets"), name="assets")

        @app.get("/{page:path}", include_in_schema=False)
        def front_end(page: str) -> FileResponse:
            return FileResponse(built / "index.html", headers={"cache-control": "no-cache"})

    return app
