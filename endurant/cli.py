"""The command line: computing documents, and running the laboratory's servers."""

from __future__ import annotations

import argparse
import getpass
import json
import os
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

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
    except BrokenPipeError:
        # Whoever read has had enough; what is left in the buffer goes nowhere.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="endurant", description="The bench, from parcel to report."
    )
    commands = parser.add_subparsers(required=True, metavar="command")
    _add_document_commands(commands)
    _add_server_commands(commands)
    return parser


if TYPE_CHECKING:
    Commands = argparse._SubParsersAction  # argparse has no other name for it


def _add_document_commands(commands: Commands[argparse.ArgumentParser]) -> None:
    """What answers a document, without a database."""
    methods = commands.add_parser("methods", help="list the methods, or print the guide of one")
    methods.add_argument("method", nargs="?", help="the id of a method")
    methods.set_defaults(act=_methods)

    analyse = commands.add_parser("analyse", help="compute test documents")
    analyse.add_argument("files", nargs="+", help="JSON files, or - for standard input")
    analyse.add_argument("--csv", action="store_true", help="print the specimen table as CSV")
    analyse.add_argument("--units", choices=("metric", "inch-pound"), default="metric")
    analyse.set_defaults(act=_analyse)

    judge = commands.add_parser("judge", help="answer a judging document")
    judge.add_argument("file", help="a JSON file, or - for standard input")
    judge.set_defaults(act=_judge)

    conditioning = commands.add_parser("conditioning", help="answer a conditioning document")
    conditioning.add_argument("file", help="a JSON file, or - for standard input")
    conditioning.set_defaults(act=_conditioning)

    cutting = commands.add_parser("cutting", help="answer a cutting document")
    cutting.add_argument("file", help="a JSON file, or - for standard input")
    cutting.set_defaults(act=_cutting)

    plan = commands.add_parser(
        "plan", help="plan a planning document: person, station and time of each step"
    )
    plan.add_argument("file", help="a JSON file, or - for standard input")
    plan.set_defaults(act=_plan)

    week = commands.add_parser(
        "simulate-week", help="let a made-up laboratory live a week by its plan, and without one"
    )
    week.add_argument("--seed", type=int, default=1)
    week.set_defaults(act=_simulate_week)

    take = commands.add_parser("import", help="make a test document of CSV files")
    take.add_argument("files", nargs="+", help="CSV files, a trace each")
    take.add_argument("--method", required=True, help="the id of the method")
    take.add_argument(
        "--map", action="append", default=[], metavar="HEADER=COLUMN", help="Load=force_n, say"
    )
    take.add_argument(
        "--specimens-by", metavar="HEADER", help="the column that tells specimens apart"
    )
    take.add_argument(
        "--set", action="append", default=[], metavar="FIELD=JSON", help="a field of every specimen"
    )
    take.add_argument(
        "--parameter", action="append", default=[], metavar="NAME=JSON", help="a parameter"
    )
    take.set_defaults(act=_import)


def _add_server_commands(commands: Commands[argparse.ArgumentParser]) -> None:
    """What runs, fills and checks a laboratory."""
    demo = commands.add_parser("demo", help="run the demo laboratory until Ctrl-C")
    demo.add_argument("--folder", type=Path, default=Path(".endurant/demo"))
    demo.add_argument("--port", type=int, default=8420, help="the first of three ports")
    demo.add_argument("--pace", type=float, default=6, help="how many times as fast the frame runs")
    demo.add_argument("--empty", action="store_true", help="people and places, and no job")
    demo.set_defaults(act=_demo)

    serve = commands.add_parser("serve", help="serve one web process; see docs/operating.md")
    serve.add_argument("--host", default="127.0.0.1")
    serve.add_argument("--port", type=int, default=8420)
    serve.add_argument(
        "--proxy",
        action="append",
        default=[],
        metavar="ADDRESS",
        help="a reverse proxy whose forwarded headers are believed; none by default",
    )
    serve.set_defaults(act=_serve)

    seed = commands.add_parser("seed", help="add years of invented jobs to a laboratory")
    seed.add_argument("--jobs", type=int, default=2000, help="how many jobs")
    seed.add_argument("--seed", type=int, default=1, help="the same number gives the same jobs")
    seed.set_defaults(act=_seed)

    suspicions = commands.add_parser(
        "suspicions", help="try the rules of suspicion on simulated specimens"
    )
    suspicions.add_argument("--specimens", type=int, default=200)
    suspicions.set_defaults(act=_suspicions)
    standins = commands.add_parser("standins", help="run the simulated devices")
    standins.add_argument("--port", type=int, default=8421)
    standins.add_argument("--pace", type=float, default=1)
    standins.set_defaults(act=_standins)

    migrate = commands.add_parser("migrate", help="bring the database to this program's tables")
    migrate.set_defaults(act=_migrate)

    found = commands.add_parser(
        "found", help="begin a laboratory in an empty database, with one manager"
    )
    found.add_argument("--name", required=True, help="name of the laboratory")
    found.add_argument("--address", default="", help="its address, as reports carry it")
    found.add_argument("--login", required=True, help="login of the manager")
    found.add_argument("--person", required=True, help="name of the manager")
    found.set_defaults(act=_found)

    verify = commands.add_parser("verify", help="check the audit trail, raw data and results")
    verify.add_argument(
        "--since", metavar="HASH", help="a head printed before, which must still be in the chain"
    )
    verify.set_defaults(act=_verify)

    package = commands.add_parser(
        "verify-package", help="check the saved package of a report; needs no database"
    )
    package.add_argument("file", type=Path, help="the ZIP archive")
    package.set_defaults(act=_verify_package)

    key = commands.add_parser("signing-key", help="make the key that signs released reports")
    key.add_argument("file", type=Path, help="where to write it, as PKCS#12")
    key.add_argument("--name", required=True, help="the laboratory, as readers of PDF show it")
    key.set_defaults(act=_signing_key)

    rebuild = commands.add_parser("rebuild", help="rebuild lists and clocks")
    rebuild.set_defaults(act=_rebuild)

    method = commands.add_parser(
        "new-method", help="write the files of a new method, like one that exists"
    )
    method.add_argument("id", help="the id of the new method, such as iso-13934-1")
    method.add_argument("--like", required=True, metavar="ID", help="the method to begin from")
    method.add_argument("--root", type=Path, default=Path(), help="the folder of the source")
    method.set_defaults(act=_new_method)

    openapi = commands.add_parser("openapi", help="print the OpenAPI document")
    openapi.set_defaults(act=_openapi)


def _methods(options: argparse.Namespace) -> None:
    from endurant.core.methods import all_methods, find_method

    if options.method is None:
        for method in all_methods().values():
            print(f"{method.id:16} {method.family:28} {method.title}")
        return
    method = find_method(options.method)
    guide = method.guide
    print(f"{method.id}: {method.title}\n{guide.purpose}\n\n{guide.specimen}")
    for title, lines in (
        ("Cautions", guide.cautions),
        ("Ready", [f"{check.title}: {check.reason}" for check in guide.ready_checks]),
        ("Steps", guide.steps),
        ("Computed", guide.computes),
        ("Common mistakes", guide.mistakes),
    ):
        print("\n".join([f"\n{title}", *(f"  - {line}" for line in lines)]))


def _new_method(options: argparse.Namespace) -> None:
    from endurant.scaffold.method import checklist, write_method

    for path in write_method(options.id, options.like, options.root):
        print(f"wrote {path}")
    print(f"\n{checklist(options.id, options.like)}", end="")


def _analyse(options: argparse.Namespace) -> int:
    if len(options.files) == 1:
        result = _analysed(options.files[0], options.units)
        if options.csv:
            from endurant.core.tables import specimen_table

            print(specimen_table(result).csv(), end="")
        else:
            _print_json(result)
        return 0
    refused = 0
    for name in options.files:
        try:
            line = _analysed(name, options.units)
        except Refusal as refusal:
            print(f"endurant: {name}: {refusal.sentence}", file=sys.stderr)
            line = {
                "file": name,
                "refused": refusal.sentence,
                "field": refusal.field,
                "specimen": refusal.specimen,
            }
            refused = REFUSED
        print(json.dumps(line, ensure_ascii=False))
    return refused


def _analysed(name: str, units: Any) -> dict[str, Any]:
    from endurant.core.document import analyse, in_units, read_document
    from endurant.core.reading import parse_json

    folder = Path() if name == "-" else Path(name).parent
    document = _with_traces(parse_json(_read_document(name)), folder)
    return in_units(analyse(read_document(document)).as_json(), units)


def _judge(options: argparse.Namespace) -> None:
    from endurant.core.judging.document import judge_document
    from endurant.core.reading import parse_json

    _print_json(judge_document(parse_json(_read_document(options.file))))


def _conditioning(options: argparse.Namespace) -> None:
    from endurant.core.conditioning.document import condition_document
    from endurant.core.reading import parse_json

    document = parse_json(_read_document(options.file))
    folder = Path() if options.file == "-" else Path(options.file).parent
    _print_json(condition_document(_with_log(document, folder)))


def _cutting(options: argparse.Namespace) -> None:
    from endurant.core.cutting.document import cut_document
    from endurant.core.reading import parse_json

    _print_json(cut_document(parse_json(_read_document(options.file))))


def _plan(options: argparse.Namespace) -> None:
    from endurant.core.planning.plan import plan_document
    from endurant.core.reading import parse_json

    _print_json(plan_document(parse_json(_read_document(options.file))))


def _simulate_week(options: argparse.Namespace) -> None:
    from endurant.core.planning.week import table

    print(table(min(max(options.seed, 0), 1_000_000_000)))


def _import(options: argparse.Namespace) -> None:
    from endurant.core.csv_import import import_csv

    mapped = dict(_pair(specimen, "--map") for specimen in options.map)
    taken = import_csv(
        [(name, _read(name)) for name in options.files],
        options.method,
        mapped,
        options.specimens_by,
        {
            name: _json_value(text)
            for name, text in (_pair(specimen, "--set") for specimen in options.set)
        },
        {
            name: _json_value(text)
            for name, text in (_pair(specimen, "--parameter") for specimen in options.parameter)
        },
    )
    for line in taken.said:
        print(line, file=sys.stderr)
    _print_json(taken.document)


def _pair(text: str, option: str) -> tuple[str, str]:
    name, parted, value = text.partition("=")
    if not parted or not name.strip() or not value.strip():
        raise Invalid("cli.pair-expected", option=option, text=text)
    return name.strip(), value.strip()


def _json_value(text: str) -> Any:
    """JSON where it reads as such, else the text itself."""
    try:
        return json.loads(text)
    except ValueError:
        return text


def _print_json(answer: Any) -> None:
    print(json.dumps(answer, indent=2, ensure_ascii=False))


def _read_document(name: str) -> bytes:
    """A JSON document; refused by its size before it is read."""
    from endurant.core.reading import MAX_BYTES, too_large

    if name == "-":
        data = sys.stdin.buffer.read(MAX_BYTES + 1)
        if len(data) > MAX_BYTES:
            raise too_large(len(data))
        return data
    try:
        size = Path(name).stat().st_size
    except OSError as error:
        raise Invalid("file.unreadable", name=name, strerror=error.strerror) from error
    if size > MAX_BYTES:
        raise too_large(size).within("file.in", file=name)
    return _read(name)


def _with_log(document: Any, folder: Path) -> Any:
    """The document with a log that is named as a CSV file beside it read in."""
    from endurant.core.conditioning.log_csv import read_log_csv

    log = document.get("log") if isinstance(document, dict) else None
    if not isinstance(log, dict) or list(log) != ["csv"]:
        return document
    name = str(log["csv"])
    try:
        taken = read_log_csv(_read(str(folder / name)))
    except Invalid as refusal:
        refusal.field = "log"
        raise refusal.within("file.in", file=name) from refusal
    for line in taken.said:
        print(line, file=sys.stderr)
    return document | {
        "log": [[at.isoformat(), celsius, humidity] for at, celsius, humidity in taken.rows]
    }


def _with_traces(document: Any, folder: Path) -> Any:
    """The document with every trace that is named as a CSV file beside it read in."""
    specimens = document.get("specimens") if isinstance(document, dict) else None
    if not isinstance(specimens, list):
        return document
    return document | {"specimens": [_with_trace(specimen, folder) for specimen in specimens]}


def _with_trace(specimen: Any, folder: Path) -> Any:
    from endurant.core.csv_trace import read_trace_csv

    trace = specimen.get("trace") if isinstance(specimen, dict) else None
    if not isinstance(trace, dict) or list(trace) != ["csv"]:
        return specimen
    name, label = str(trace["csv"]), str(specimen.get("label"))
    try:
        taken = read_trace_csv(_read(str(folder / name)))
    except Invalid as refusal:
        refusal.field, refusal.specimen = "trace", label
        raise refusal.within("file.in-specimen", specimen=label, file=name) from refusal
    return specimen | {"trace": {key: column.tolist() for key, column in taken.columns.items()}}


def _read(name: str) -> bytes:
    if name == "-":
        return sys.stdin.buffer.read()
    try:
        return Path(name).read_bytes()
    except OSError as error:
        raise Invalid("file.unreadable", name=name, strerror=error.strerror) from error


def _demo(options: argparse.Namespace) -> None:
    from endurant.demo.run import run_demo

    run_demo(options.folder.resolve(), options.port, options.pace, empty=options.empty)


def _serve(options: argparse.Namespace) -> None:
    from endurant.api.server import serve
    from endurant.reports.signing import has_key
    from endurant.store.engine import MIN_PACKET, packet_bytes

    has_key()
    takes = packet_bytes()
    if takes < MIN_PACKET:
        print(
            f"endurant: the database takes {takes / 1e6:.0f} MB at once; files and recordings "
            "above that are refused. See docs/operating.md, How much at once",
            file=sys.stderr,
        )
    serve(options.host, options.port, options.proxy)


def _suspicions(options: argparse.Namespace) -> None:
    from endurant.core.bench.trial import table

    print(table(min(max(options.specimens, 1), 10_000)))


def _standins(options: argparse.Namespace) -> None:
    import asyncio

    from endurant.standins.host import serve_forever
    from endurant.standins.laboratory import demo_host

    asyncio.run(serve_forever(demo_host(options.pace), "127.0.0.1", options.port))


def _migrate(options: argparse.Namespace) -> None:
    from endurant.store.engine import database_url
    from endurant.store.migrate import upgrade
    from endurant.work.upkeep.rebuild import rebuild_missing

    upgrade(database_url())
    rebuild_missing()


def _found(options: argparse.Namespace) -> None:
    from endurant.core.reading import read_model
    from endurant.work.upkeep.founding import NewPerson, found_laboratory
    from endurant.work.use_cases.people.staff import PersonRequest

    password = (
        getpass.getpass("Password of the manager: ")
        if sys.stdin.isatty()
        else sys.stdin.readline().rstrip("\n")
    )
    given = {"login": options.login, "name": options.person, "role": "manager"}
    request: PersonRequest = read_model(PersonRequest, given | {"password": password}, "manager")
    _migrate(options)
    found_laboratory(
        options.name[:120],
        options.address[:240],
        NewPerson(request.login, request.name, "manager", request.password),
    )
    print(
        f"{options.name} is set up; {request.name} signs in as {request.login} and adds the others"
    )


def _seed(options: argparse.Namespace) -> None:
    from endurant.demo.seed import seed
    from endurant.store.engine import database_url
    from endurant.store.migrate import upgrade

    upgrade(database_url())
    say = lambda step: print(f"{step} …", file=sys.stderr, flush=True)  # noqa: E731
    jobs, specimens, recordings = seed(options.jobs, options.seed, say)
    print(f"{jobs} jobs, {specimens} specimens and {recordings} recordings")


def _rebuild(options: argparse.Namespace) -> None:
    from endurant.work.upkeep.rebuild import rebuild

    written = rebuild(lambda step: print(f"{step} …", file=sys.stderr, flush=True))
    print(f"{written} jobs: lists and clocks were rebuilt from the database")


def _verify(options: argparse.Namespace) -> int:
    from endurant.work.upkeep.verify import verify

    verified = verify(
        options.since,
        progress=lambda step: print(f"{step} …", file=sys.stderr, flush=True),
        found=lambda sentence: print(sentence, flush=True),
    )
    sentences = verified.sentences
    print("the record holds" if not sentences else f"{len(sentences)} things do not hold")
    print(f"{verified.entries} entries; head {verified.head}")
    return 1 if sentences else 0


def _verify_package(options: argparse.Namespace) -> int:
    from endurant.reports.package import check_package

    checked = check_package(options.file)
    for sentence in (*checked.seen, *checked.wrong):
        print(sentence)
    print("the package holds" if not checked.wrong else "the package does not hold")
    return 1 if checked.wrong else 0


def _signing_key(options: argparse.Namespace) -> None:
    from endurant.reports.signing import KEY_VARIABLE, PASSPHRASE_VARIABLE, make_key

    fingerprint = make_key(options.file, options.name, os.environ.get(PASSPHRASE_VARIABLE, ""))
    print(f"certificate {fingerprint}")
    print(
        f"Set {KEY_VARIABLE}={options.file.resolve()} for the server, and keep a copy of the file"
    )


def _openapi(options: argparse.Namespace) -> None:
    from endurant.api.app import build_app

    print(json.dumps(build_app(supervise=False).openapi(), indent=1, sort_keys=True))


if __name__ == "__main__":
    sys.exit(main())
