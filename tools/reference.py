"""docs/reference.md: every form, shape change, way of copying, edit, adjustment, job and format, from registries."""

from __future__ import annotations

import inspect
from collections.abc import Iterable, Iterator

from noble_clay.core.adjust import ADJUSTMENTS
from noble_clay.core.changes.registry import CHANGES
from noble_clay.core.field_kinds import FieldKind, FieldSpec, fields_of
from noble_clay.core.formats.registry import FORMATS
from noble_clay.core.piece.copies import COPIES
from noble_clay.core.piece.edits import EDITS
from noble_clay.core.primitives.registry import PRIMITIVES
from noble_clay.jobs.registry import JOBS
from tools.machine import ROOT

REFERENCE = ROOT / "docs" / "reference.md"


def reference_text() -> str:
    return "\n".join(_lines()) + "\n"


def _lines() -> Iterator[str]:
    yield "# Reference"
    yield ""
    yield "Made from the registries by `python -m tools.api`. Lengths are mm, angles degrees."
    for title, kinds in (("Forms", PRIMITIVES), ("Shape changes", CHANGES), ("Copies", COPIES)):
        yield from ("", f"## {title}")
        for kind, cls in kinds.items():
            yield from ("", f"### {cls.label} (`{kind}`)", "", f"{_sentence(cls.summary)}", "")
            yield from _fields(f for f in fields_of(cls) if f.shown.group != "apart")
    for title, classes in (("Edits", EDITS), ("Adjustments", ADJUSTMENTS)):
        yield from ("", f"## {title}", "")
        for kind, cls in classes.items():
            yield f"- `{kind}`: {_first_sentence(cls)}"
    yield from ("", "## Long work", "")
    for kind, job in JOBS.items():
        about = " It may be asked for about a whole piece." if job.of_piece else ""
        yield f"- `{kind}`, {job.label}: {_first_sentence(type(job))}{about}"
    yield from ("", "## Mesh files", "")
    for known in FORMATS.values():
        does = " and ".join(word for word, path in (("read", known.reads), ("written", known.writes)) if path)
        yield f"- `.{known.ending}`, {known.name}: {known.about}; {does}"


def _fields(fields: Iterable[FieldSpec]) -> Iterator[str]:
    yield "| Field | | Kind | Default |"
    yield "|---|---|---|---|"
    for spec in fields:
        default = "left out" if spec.optional and spec.default is None else _default(spec.default)
        words = f"{spec.title}: {spec.description}" if spec.description else spec.title
        yield f"| `{spec.name}` | {words} | {_kind(spec.field)} | {default} |"
        if spec.field.kind == "record":
            for inner in spec.field.fields:
                name = f"{spec.name}.{inner.name}"
                yield f"| `{name}` | {inner.title} | {_kind(inner.field)} | {_default(inner.default)} |"


def _kind(kind: FieldKind) -> str:
    if kind.kind == "choice":
        return ", ".join(f"`{o.value}`" for o in kind.options)
    if kind.kind == "vector":
        return f"{len(kind.labels)} × {_kind(kind.of)}"
    unit = "°" if kind.kind == "angle" else getattr(kind, "unit", "")
    least, most = getattr(kind, "least", None), getattr(kind, "most", None)
    bounds = "" if least is None and most is None else f" {_bound(least)} to {_bound(most)}"
    return f"{kind.kind.replace('_', ' ')}{bounds}{f' {unit}' if unit else ''}"


def _bound(value: float | None) -> str:
    return "…" if value is None else f"{value:,.10g}"


def _default(value: object) -> str:
    return "" if value is None else f"`{value}`"


def _sentence(words: str) -> str:
    return f"{words[:1].upper()}{words[1:]}."


def _first_sentence(cls: type) -> str:
    words = " ".join((inspect.getdoc(cls) or "").split())
    return words.split(". ")[0].rstrip(".") + "."
