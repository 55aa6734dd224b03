"""The report of a mending as a page of its own, to read, print or keep: before and after, steps, distances."""

from __future__ import annotations

from collections.abc import Iterator
from html import escape
from typing import Any

from noble_clay.core.words import KINDS, STEPS
from noble_clay.store.tables import JobRow

STYLE = """
body { font: 16px/1.5 Georgia, serif; max-width: 44em; margin: 3em auto; padding: 0 1em; color: #22312f;
  background: #faf6ee }
h1, h2 { font-weight: 600; line-height: 1.2 } h1 span { color: #5d6b68; font-weight: 400 }
table { border-collapse: collapse; width: 100%; margin: 1em 0 } td, th { padding: 4px 8px; text-align: right;
  border-bottom: 1px solid #ddd5c4 } td:first-child { text-align: left } td small { color: #5d6b68; display: block }
.good { color: #1d6a63 } .bad { color: #a33a2c } li small { color: #5d6b68 }
@media print { body { background: none; margin: 0 } }
"""

MEASURES = (
    ("manifold", "Closed", ""),
    ("bodies", "Bodies", ""),
    ("voids", "Hollows", ""),
    ("triangles", "Triangles", ""),
    ("volume_mm3", "Volume", " mm³"),
    ("area_mm2", "Surface", " mm²"),
)


def report_page(job: JobRow, names: dict[str, str], piece: str) -> str:
    """HTML of all that a mending job did. names: of its parts, by id; those that are gone are called by their id."""
    assert job.result is not None
    asked = job.created_at.strftime("%d %B %Y, %H:%M").lstrip("0")
    body = [f"<h1>Mending of {escape(job.name)} <span>in {escape(piece)}</span></h1>", f"<p>{asked} UTC.</p>"]
    for part, values in job.result.items():
        body += _part(names.get(part, part), values["report"])
    head = f"<!doctype html><html lang=en><meta charset=utf-8><title>Mending of {escape(job.name)}</title>"
    return f"{head}<style>{STYLE}</style><body>{''.join(body)}</body></html>"


def _part(name: str, report: dict[str, Any]) -> Iterator[str]:
    before = report["before"]
    yield f"<h2>{escape(name)}</h2><table><tr><td></td><th>before</th><th>after</th></tr>"
    for key, word, unit in MEASURES:
        yield _row(word, _said(before[key], unit), _said(report[key], unit))
    for kind in dict.fromkeys(f["kind"] for f in [*before["findings"], *report["findings"]]):
        words = KINDS[kind]
        was, now = (sum(f["count"] for f in r["findings"] if f["kind"] == kind) for r in (before, report))
        colour = "good" if now == 0 else "bad"
        about = f"{escape(words['title'])}<small>{escape(words['about'])}</small>"
        yield _row(about, f"{was:,}", f"<span class={colour}>{now:,}</span>")
    yield "</table>"
    if not report["steps"]:
        yield "<p>Nothing needed mending.</p>"
    else:
        yield f"<ol>{''.join(_step(step) for step in report['steps'])}</ol>"
    if "proposal" in report:
        wall = _said(report["proposal"]["wall_mm"], " mm")
        yield f"<p>Left as it is: {escape(report['proposal']['why'])}. A wall of {wall} would do.</p>"
    typical, farthest = (_said(report[f"{which}deviation_mm"], " mm") for which in ("typical_", ""))
    yield f"<p>The surface moved {typical} on average. The farthest that any of it is from what it was, with what was "
    yield f"dropped or now lies inside, is {farthest}. It took {report['seconds']:.1f} s.</p>"


def _step(step: dict[str, Any]) -> str:
    more = ", ".join(_named(k, v) for k, v in step.items() if k not in ("step", "count"))
    return f"<li>{escape(STEPS[step['step']])}: {step['count']:,}{f' <small>({more})</small>' if more else ''}</li>"


def _named(key: str, value: Any) -> str:
    """A number with its name, which may end in its unit."""
    for ending, unit in ((f"_{u}", f" {u}".replace("2", "²").replace("3", "³")) for u in ("mm", "mm2", "mm3")):
        if key.endswith(ending):
            return f"{key.removesuffix(ending).replace('_', ' ')}: {_said(value, unit)}"
    return f"{key.replace('_', ' ')}: {_said(value)}"


def _row(word: str, before: str, after: str) -> str:
    return f"<tr><td>{word}</td><td>{before}</td><td>{after}</td></tr>"


def _said(value: Any, unit: str = "") -> str:
    match value:
        case None:
            return "-"
        case bool():
            return "yes" if value else "no"
        case int():
            return f"{value:,}{unit}"
        case float():
            return f"{value:,.0f}{unit}" if abs(value) >= 1000 else f"{value:.4g}{unit}"
        case _:
            return escape(str(value))
