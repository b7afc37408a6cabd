"""The web application: routes under /api, the built front end for everything else."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

from anyio import to_thread
from fastapi import FastAPI, Request
from fastapi.openapi.utils import get_openapi
from fastapi.responses import FileResponse, Response
from fastapi.routing import APIRoute
from fastapi.staticfiles import StaticFiles
from starlette.middleware.gzip import GZipMiddleware
from starlette.routing import compile_path
from starlette.types import Scope

import endurant
from endurant.api import (
    problems,
    routes_attachments,
    routes_bench,
    routes_changes,
    routes_clients,
    routes_cutting,
    routes_figures,
    routes_instruments,
    routes_jobs,
    routes_methods,
    routes_nonconformities,
    routes_people,
    routes_photos,
    routes_planning,
    routes_preparation,
    routes_products,
    routes_reports,
    routes_trends,
)
from endurant.api.answers import Tagged
from endurant.api.examples import EXAMPLES
from endurant.api.old_addresses import OldAddresses
from endurant.api.problems import MEDIA_TYPE, Problem, problem
from endurant.api.route import Route
from endurant.api.session import Guard, Limit
from endurant.core.messages import Message
from endurant.core.quoting import quoted
from endurant.work.base.clock_set import LOOK_EVERY_S as CLOCK_EVERY_S
from endurant.work.base.clock_set import ClockWatch
from endurant.work.base.watches import Watch
from endurant.work.read_models.job_cards import TURN_EVERY_S, watch_turning
from endurant.work.use_cases.bench.live import LOOK_FOR_ORPHANS_S, take_up_orphans
from endurant.work.use_cases.preparation.enclosures import READ_EVERY_S, read_loggers
from endurant.work.use_cases.preparation.windows import LOOK_EVERY_S, watch_windows

ROUTERS = (
    routes_people.router,
    routes_methods.router,
    routes_jobs.router,
    routes_clients.router,
    routes_attachments.router,
    routes_figures.router,
    routes_trends.router,
    routes_nonconformities.router,
    routes_products.router,
    routes_cutting.router,
    routes_preparation.router,
    routes_bench.router,
    routes_instruments.router,
    routes_photos.router,
    routes_planning.router,
    routes_reports.router,
    routes_changes.router,
)
"""Everything that is answered below /api."""
PREFIX = "/api"
THREADS = 12
"""Requests that are worked on at once: more of them only take turns, and memory."""
BUILT = Path(endurant.__file__).parent.parent / "web" / "dist"


class Forever(StaticFiles):
    """Files whose names hold a hash of their content: a browser asks for each once."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        """The file, to be kept for a year."""
        response = await super().get_response(path, scope)
        if response.status_code == 200:
            response.headers["cache-control"] = "public, max-age=31536000, immutable"
        return response


def _operation_name(route: APIRoute) -> str:
    return route.name


def build_app(built: Path = BUILT, *, supervise: bool = True) -> FastAPI:
    """The application; `supervise` takes up runs whose carrier is gone, and reads loggers."""

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        watches = []
        if supervise:
            clock_watch = Watch("clock-watch", CLOCK_EVERY_S, ClockWatch().look)
            await to_thread.run_sync(clock_watch.once)
            watches = [
                Watch("run-supervisor", LOOK_FOR_ORPHANS_S, take_up_orphans),
                Watch("logger-watch", READ_EVERY_S, read_loggers),
                Watch("turning-watch", TURN_EVERY_S, watch_turning),
                Watch("windows-watch", LOOK_EVERY_S, watch_windows),
                clock_watch,
            ]
        app.state.broadcast = routes_changes.Broadcast()
        to_thread.current_default_thread_limiter().total_tokens = THREADS
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
    app.add_middleware(Tagged)
    app.add_middleware(GZipMiddleware, minimum_size=1000, compresslevel=5)
    app.add_middleware(Guard, limits=body_limits())
    app.add_middleware(OldAddresses)
    for router in ROUTERS:
        app.include_router(router, prefix=PREFIX)

    @app.api_route("/api/{rest:path}", methods=METHODS, include_in_schema=False)
    def nothing_here(rest: str, request: Request) -> Response:
        others = _other_methods(app, request)
        path = quoted(f"/api/{rest}")[1:-1]
        if not others:
            return problem("not-found", Message("request.no-such-address", {"path": path}))
        message = Message("request.verb-not-supported", {"path": path, "verb": request.method})
        return problem("wrong-method", message, headers={"allow": ", ".join(others)})

    if (built / "assets").is_dir():
        app.mount("/assets", Forever(directory=built / "assets"), name="assets")

        @app.get("/{page:path}", include_in_schema=False)
        def front_end(page: str) -> FileResponse:
            return FileResponse(built / "index.html", headers={"cache-control": "no-cache"})

    app.openapi = lambda: _contract(app)  # type: ignore[method-assign]
    return app


def body_limits() -> list[Limit]:
    """Every route that reads more than a form."""
    routes = (route for router in ROUTERS for route in router.routes if isinstance(route, Route))
    return [limit for route in routes for limit in route.limits(PREFIX)]


METHODS = ["GET", "POST", "PUT", "PATCH", "DELETE", "OPTIONS"]


def _other_methods(app: FastAPI, request: Request) -> list[str]:
    """The methods that this address answers, when it does not answer this one."""
    allowed: set[str] = set()
    for path, operations in app.openapi()["paths"].items():
        if compile_path(path)[0].match(request.url.path):
            allowed |= {method.upper() for method in operations}
    return sorted(allowed)


def _give_example(operation: dict[str, Any], route: str) -> None:
    content = operation.get("requestBody", {}).get("content", {})
    if route in EXAMPLES:
        content["application/json"]["example"] = EXAMPLES[route]


def _contract(app: FastAPI) -> dict[str, Any]:
    """The OpenAPI document; every refusal is declared as a problem document and nothing else."""
    if app.openapi_schema is None:
        plain = get_openapi(title=app.title, version=app.version, routes=app.routes)
        for path, operations in plain["paths"].items():
            for verb, operation in operations.items():
                _give_example(operation, f"{verb.upper()} {path.removeprefix('/api')}")
                operation["responses"].pop("422", None)
                for code in ("4XX", "5XX"):
                    content = operation["responses"][code]["content"]
                    content[MEDIA_TYPE] = content.pop("application/json")
        for unused in ("HTTPValidationError", "ValidationError"):
            plain["components"]["schemas"].pop(unused, None)
        app.openapi_schema = plain
    return app.openapi_schema
