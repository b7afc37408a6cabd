"""The report, and the sheet with its labels, as PDF for people."""

from __future__ import annotations

import atexit
import io
import threading
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

from jinja2 import (
    Environment,
    FileSystemLoader,
    StrictUndefined,
    pass_context,
    select_autoescape,
)
from jinja2.runtime import Context
from markupsafe import Markup

from endurant.core.field_names import title_and_unit
from endurant.core.methods.designation import designation
from endurant.core.writing import Writing
from endurant.reports.client_report import (
    conformity,
    has_spread,
    requirement_verdict,
    specimen_view,
    void_labels,
)
from endurant.reports.drawings import draw_curves, draw_curves_together, draw_limit_rule
from endurant.reports.full_size import Paper, full_size_pages, placed, scaled_svg
from endurant.reports.labels import LabelStock, label_pages
from endurant.reports.read_off import long_readings, readings_tables
from endurant.reports.signing import signed_pdf
from endurant.reports.values import figure_columns, figure_text, property_title
from endurant.work.facts.run_facts import PeriodFacts
from endurant.work.use_cases.planning.printed import PrintedDay
from endurant.work.use_cases.reporting.models import ReportContent, ReportedRun, ReportedTest
from endurant.work.use_cases.reporting.release import ReportPdfs
from endurant.work.views.due import DueView
from endurant.work.views.labels import JobLabels
from endurant.work.views.sheet_drawing import SheetView
from endurant.work.views.studies import StudyView

if TYPE_CHECKING:
    from pypdf import PdfWriter
    from weasyprint import CSS
    from weasyprint.text.fonts import FontConfiguration

_FOLDER = Path(__file__).parent
ARCHIVED = "pdf/a-3a"
"""What a released report is written as: PDF/A-3 with tags, fonts and colours in the file."""


def report_pdf(content: ReportContent) -> bytes:
    """Every page of the full record of a report; a draft says so on each."""
    return _archived("report.html", content)


def client_report_pdf(content: ReportContent) -> bytes:
    """The client report: the answer on one page, the specimens and figures on the next."""
    return _archived("client_report.html", content)


def report_pdfs(content: ReportContent) -> ReportPdfs:
    """Both depths of a report as they are released: signed by the laboratory."""
    return ReportPdfs(signed_pdf(report_pdf(content)), signed_pdf(client_report_pdf(content)))


def study_pdf(study: StudyView, reports: Sequence[bytes]) -> bytes:
    """Samples side by side, and after them the released report of each, as one document."""
    from pypdf import PdfWriter

    whole = PdfWriter()
    for part in (_pdf("study.html", study.written, study=study), *reports):
        whole.append(io.BytesIO(part))
    return signed_pdf(_without_signatures(whole))


def _without_signatures(writer: PdfWriter) -> bytes:
    """What is written, without the signatures that do not cover it as it is now."""
    writer.root_object.pop("/AcroForm", None)
    for page in writer.pages:
        page.pop("/Annots", None)
    stream = io.BytesIO()
    writer.write(stream)
    return stream.getvalue()


def day_pdf(day: PrintedDay) -> bytes:
    """The day on paper, a list to tick off for each person, by the clock of this laboratory."""
    return _pdf("day.html", day.writing, day=day)


def due_pdf(due: DueView, laboratory: str, writing: Writing) -> bytes:
    """What is due on paper, a list to tick off."""
    return _pdf("due.html", writing, due=due, laboratory=laboratory)


def sheet_pdf(sheet: SheetView) -> bytes:
    """The sheet to scale with its dimensions, and the cutting list in cutting order."""
    return _pdf("sheet.html", Writing(), sheet=sheet, order=placed(sheet))


def full_size_pdf(sheet: SheetView, paper: Paper) -> bytes:
    """The sheet at full size, on tiles of A4 or Letter or on one big page."""
    return _html_pdf(
        _environment()
        .get_template("full_size.html")
        .render(pages=Markup(full_size_pages(sheet, paper)))
    )


def labels_pdf(labels: JobLabels, stock: LabelStock, skip: int, address: str) -> bytes:
    """The labels of a job on a sheet of labels begun after `skip`.

    The code on each opens the specimen at `address`.
    """
    pages = label_pages(range(len(labels.labels)), stock, skip)
    return _pdf(
        "labels.html",
        Writing(),
        job_number=labels.job_number,
        pages=[
            [labels.labels[place] if place is not None else None for place in page]
            for page in pages
        ],
        stock=stock,
        address=address,
    )


def _pdf(template: str, writing: Writing, **marked_up: Any) -> bytes:
    return _html_pdf(_environment().get_template(template).render(writing=writing, **marked_up))


def _archived(template: str, content: ReportContent) -> bytes:
    page = _environment().get_template(template).render(writing=content.written, report=content)
    return _html_pdf(page, ARCHIVED)


def stamped(pdf: bytes, wording: str) -> bytes:
    """A PDF with a sentence across the top of every page, as of a report that holds no longer.

    It is signed anew: the signature of what it was before does not cover the stamp.
    """
    from pypdf import PdfReader, PdfWriter

    page = _environment().get_template("stamp.html").render(wording=wording)
    stamp = PdfReader(io.BytesIO(_html_pdf(page))).pages[0]
    writer = PdfWriter(clone_from=io.BytesIO(pdf))
    for each in writer.pages:
        each.merge_page(stamp)
    return signed_pdf(_without_signatures(writer))


def _html_pdf(page: str, variant: str | None = None) -> bytes:
    import weasyprint

    # Fonts and styles are files of ours, photographs stand in the page itself; nothing is ever
    # fetched over a network.
    files_only = weasyprint.URLFetcher(allowed_protocols={"file", "data"}, fail_on_errors=True)
    document = weasyprint.HTML(
        string=page, base_url=str(_FOLDER / "templates" / "page.html"), url_fetcher=files_only
    )
    fonts, styles = _fonts()
    return bytes(document.write_pdf(pdf_variant=variant, font_config=fonts, stylesheets=[styles]))


_unpacked = threading.local()
# While modules are still there: their end at the end of the process needs one of them.
atexit.register(lambda: vars(_unpacked).clear())


def _fonts() -> tuple[FontConfiguration, CSS]:
    """The fonts of all documents, unpacked once for each thread: no two threads may share them."""
    from weasyprint import CSS
    from weasyprint.text.fonts import FontConfiguration

    if not hasattr(_unpacked, "fonts"):
        fonts = FontConfiguration()
        styles = CSS(filename=_FOLDER / "templates" / "fonts.css", font_config=fonts)
        _unpacked.fonts = fonts, styles
    unpacked: tuple[FontConfiguration, CSS] = _unpacked.fonts
    return unpacked


@dataclass
class PeriodTogether:
    """A conditioning period, and the specimens that were placed together."""

    facts: PeriodFacts
    labels: list[str]
    until: datetime


def periods_of(runs: dict[str, ReportedRun]) -> list[PeriodTogether]:
    """The conditioning periods of tested specimens; those placed together are one.

    Reports released before periods were listed one by one hold none.
    """
    by_period: dict[tuple[object, ...], PeriodTogether] = {}
    for label, run in runs.items():
        for period in run.conditioning.periods if run.conditioning else []:
            key = (period.enclosure, period.placed_at, period.is_complete, period.counted_by)
            together = by_period.setdefault(key, PeriodTogether(period, [], period.until))
            together.labels.append(label)
            together.until = max(together.until, period.until)
    return list(by_period.values())


@cache
def _environment() -> Environment:
    environment = Environment(
        loader=FileSystemLoader(_FOLDER / "templates"),
        autoescape=select_autoescape(),
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    environment.filters |= {
        "conformity": conformity,
        "designation": designation,
        "figure_columns": figure_columns,
        "figure_text": figure_text,
        "figures": _figures,
        "has_spread": has_spread,
        "long_readings": pass_context(
            lambda context, test: long_readings(test, context["writing"])
        ),
        "readings_tables": pass_context(
            lambda context, test: readings_tables(test, context["writing"])
        ),
        "parameter_value": _parameter_value,
        "requirement_verdict": requirement_verdict,
        "specimen_view": specimen_view,
        "void_labels": void_labels,
        "property_title": property_title,
        "moment": _moment,
        "day": _day,
        "here": _here,
        "code": _qr,
        "three": _three,
        "parameter": _parameter,
        "conditioning_periods": periods_of,
    }
    environment.globals |= {
        "draw_limit_rule": _written(lambda *drawn: Markup(draw_limit_rule(*drawn))),
        "draw_curves": _written(lambda *drawn: Markup(draw_curves(*drawn))),
        "draw_curves_together": _written(lambda *drawn: Markup(draw_curves_together(*drawn))),
        "scaled_sheet": lambda *figures: Markup(scaled_svg(*figures)),
    }
    return environment


def _written(make: Callable[..., Any]) -> Callable[..., Any]:
    """What a template calls with its own arguments, given how the laboratory writes as the last."""

    @pass_context
    def made(context: Context, *given: Any) -> Any:
        return make(*given, context["writing"])

    return made


@pass_context
def _moment(context: Context, at: datetime | str | None) -> str:
    if at is None:
        return "–"
    moment = datetime.fromisoformat(at) if isinstance(at, str) else at
    return f"{_day(context, at)}, {moment:%H:%M} UTC"


def _here(at: datetime) -> str:
    """A moment by the clock of this laboratory, as a list of the day has it."""
    return f"{at.astimezone():%a %H:%M}"


@pass_context
def _day(context: Context, at: date | str | None) -> str:
    if at is None:
        return "–"
    moment = datetime.fromisoformat(at) if isinstance(at, str) else at
    writing: Writing = context["writing"]
    return writing.day(moment)


@pass_context
def _figures(context: Context, text: object) -> str:
    """What the program made of figures and units, as the laboratory writes figures."""
    writing: Writing = context["writing"]
    return writing.figures(str(text))


@pass_context
def _parameter_value(context: Context, written: str, name: str, test: ReportedTest) -> str:
    """A parameter; what somebody typed in words is left as it is."""
    is_typed = isinstance(test.document["parameters"].get(name), str)
    return written if is_typed else _figures(context, written)


def _parameter(name: str) -> str:
    """The name of a parameter with its unit set apart: "speed, mm/min"."""
    title, unit = title_and_unit(name)
    return f"{title}, {unit}" if unit else title


def _three(figure: float | None) -> str:
    from endurant.core.rounding import round_to_significant

    return "–" if figure is None else round_to_significant(figure, 3)


def _qr(wording: str) -> Markup:
    import segno

    return Markup(segno.make(wording, error="m").svg_inline(scale=2, border=0))
