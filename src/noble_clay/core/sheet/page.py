"""A making-of sheet as a page of its own: everything is in it, so that it can be sent or printed."""

from __future__ import annotations

from base64 import b64encode
from html import escape

from noble_clay.core.sheet.sheet import Sheet, Step

STYLE = """
body { font: 15px/1.5 Georgia, serif; max-width: 50em; margin: 2.5em auto; padding: 0 1em; color: #22312f;
  background: #fffdf8 }
h1, h2 { font-weight: 600; line-height: 1.2 } .whole { width: 100%; border: 1px solid #ddd2bd; border-radius: 12px }
table { border-collapse: collapse; margin: 1em 0 } td { padding: 3px 14px 3px 0; border-bottom: 1px solid #ddd2bd }
i { display: inline-block; width: 1em; height: 1em; border-radius: 50%; margin-right: .5em; vertical-align: -.15em;
  border: 1px solid #b7a478 }
ol { list-style: none; padding: 0 } li { display: flex; gap: 1.2em; margin: 0 0 1em; break-inside: avoid }
li img { width: 150px; height: 110px; flex: none; border: 1px solid #ddd2bd; border-radius: 8px }
small { color: #55635e }
@media print { body { margin: 0; max-width: none } }
"""


def sheet_page(sheet: Sheet) -> str:
    """HTML."""
    title = escape(sheet.name)
    printing = "".join(f"<tr><td>{escape(word)}</td><td>{escape(figure)}</td></tr>" for word, figure in sheet.printing)
    glazes = "".join(
        f'<tr><td><i style="background: {escape(colour)}"></i>{escape(word)}</td><td>{escape(colour)}</td></tr>'
        for word, colour in sheet.glazes
    )
    return "".join(
        [
            f"<!doctype html><html lang=en><meta charset=utf-8><title>Making of {title}</title><style>{STYLE}</style>",
            f"<body><h1>Making of {title}</h1>{_image(sheet.picture, sheet.name, 'whole')}",
            f"<p>{escape(sheet.size)}, {sheet.volume / 1000:.1f} cm³.</p>",
            f"<p>{escape(sheet.notes)}</p>" if sheet.notes else "",
            f"<h2>Glazes</h2><table>{glazes}</table>",
            f"<h2>Printing it</h2><table>{printing}</table>" if printing else "",
            "<h2>Step by step</h2><p>From the top, as in the recipe: each line adds, cuts or keeps. Lengths in mm.</p>",
            f"<ol>{''.join(map(_step, sheet.steps))}</ol></body></html>",
        ]
    )


def _step(step: Step) -> str:
    changes = "".join(f"<br>{escape(change)}" for change in step.changes)
    return (
        f"<li>{_image(step.picture, step.name)}<div><b>{step.number}. {escape(step.name)}</b> "
        f"<small>{step.op} · {escape(step.glaze)} · {escape(step.size)}</small><br>{escape(step.form)}{changes}<br>"
        f"<small>{escape(step.place)}</small></div></li>"
    )


def _image(png: bytes, what: str, kind: str = "") -> str:
    return f'<img class="{kind}" alt="{escape(what)}" src="data:image/png;base64,{b64encode(png).decode()}">'
