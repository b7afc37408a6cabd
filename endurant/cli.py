"""The command line: computing documents, and running the laboratory's servers."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from endurant.core.refusals import Invalid, Refusal

REFUSED = 2


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command; 0 when it was done, 2 with a sentence when it was refused."""
    options = _parser().parse_args(arguments)
    try:
        return int(options.act(options) or 0)
    except Refusal as refusal:
        print(f"endurant: {refusal.sentence}", file=sys.stderr)
        return REFUSED
    except KeyboardInterrupt:
        return 0


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="endurant", description="The bench, from parcel to report."
    )
    commands = parser.add_subparsers(required=True, metavar="command")

    analyse = commands.add_parser("analyse", help="compute a test document")
    analyse.add_argument("file", help="a JSON file, or - for standard input")
    analyse.add_argument("--csv", action="store_true", help="print the specimen table as CSV")
    analyse.set_defaults(act=_analyse)

    demo = commands.add_parser("demo", help="run the demo laboratory until Ctrl-C")
    demo.add_argument("--folder", type=Path, default=Path(".endurant/demo"))
    demo.add_argument("--port", type=int, default=8420, help="the first of three ports")
    demo.add_argument("--pace", type=float, default=6, help="how many times as fast the frame runs")
    demo.add_argument("--empty", action="store_true", help="people and places, and no job")
    demo.set_defaults(act=_demo)

    serve = commands.add_parser("serve", help="serve one web process; see docs/operating.md")
    serve.add_argument("--host", default="127.0.0.1")
    serve.add_argument("--port", type=int, default=8420)
    serve.set_defaults(act=_serve)

    standins = commands.add_parser("standins", help="run the simulated devices")
    standins.add_argument("--port", type=int, default=8421)
    standins.add_argument("--pace", type=float, default=1)
    standins.set_defaults(act=_standins)

    migrate = commands.add_parser("migrate", help="bring the database to this program's tables")
    migrate.set_defaults(act=_migrate)

    verify = commands.add_parser("verify", help="check the audit chain, raw data and figures")
    verify.set_defaults(act=_verify)

    openapi = commands.add_parser("openapi", help="print the OpenAPI document")
    openapi.set_defaults(act=_openapi)
    return parser


def _analyse(options: argparse.Namespace) -> None:
    from endurant.core.document import analyse, parse_json, read_document

    folder = Path() if options.file == "-" else Path(options.file).parent
    document = _with_traces(parse_json(_read(options.file)), folder)
    result = analyse(read_document(document)).as_json()
    if options.csv:
        from endurant.reports.tables import specimen_table

        print(specimen_table(result), end="")
    else:
        print(json.dumps(result, indent=2, ensure_ascii=False))


def _with_traces(document: Any, folder: Path) -> Any:
    """The document with every trace that is named as a CSV file beside it read in."""
    specimens = document.get("specimens") if isinstance(document, dict) else None
    if not isinstance(specimens, list):
        return document
    return document | {"specimens": [_with_trace(one, folder) for one in specimens]}


def _with_trace(specimen: Any, folder: Path) -> Any:
    from endurant.core.csv_trace import read_trace_csv

    trace = specimen.get("trace") if isinstance(specimen, dict) else None
    if not isinstance(trace, dict) or list(trace) != ["csv"]:
        return specimen
    name, label = str(trace["csv"]), str(specimen.get("label"))
    try:
        taken = read_trace_csv(_read(str(folder / name)))
    except Invalid as refusal:
        told = f"specimen {label}: {name}: {refusal.sentence}"
        raise Invalid(told, field="trace", specimen=label) from refusal
    return specimen | {"trace": {key: column.tolist() for key, column in taken.columns.items()}}


def _read(name: str) -> bytes:
    if name == "-":
        return sys.stdin.buffer.read()
    try:
        return Path(name).read_bytes()
    except OSError as error:
        raise Invalid(f"{name} cannot be read: {error.strerror}") from error


def _demo(options: argparse.Namespace) -> None:
    from endurant.demo.run import run_demo

    run_demo(options.folder.resolve(), options.port, options.pace, empty=options.empty)


def _serve(options: argparse.Namespace) -> None:
    import uvicorn

    from endurant.api.app import build_app
    from endurant.store.engine import database_url

    database_url()
    uvicorn.run(build_app(), host=options.host, port=options.port, log_level="warning")


def _standins(options: argparse.Namespace) -> None:
    import asyncio

    from endurant.standins.frame import SimulatedFrame, serve_forever

    frame = SimulatedFrame("SF-2041", options.pace)
    asyncio.run(serve_forever(frame, "127.0.0.1", options.port))


def _migrate(options: argparse.Namespace) -> None:
    from endurant.store.engine import database_url
    from endurant.store.migrate import upgrade

    upgrade(database_url())


def _verify(options: argparse.Namespace) -> int:
    from endurant.work.verify import verify

    found = verify()
    for sentence in found:
        print(sentence)
    print("the record holds" if not found else f"{len(found)} things do not hold")
    return 1 if found else 0


def _openapi(options: argparse.Namespace) -> None:
    from endurant.api.app import build_app

    print(json.dumps(build_app(supervise=False).openapi(), indent=1, sort_keys=True))


if __name__ == "__main__":
    sys.exit(main())
