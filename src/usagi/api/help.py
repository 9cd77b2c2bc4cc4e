"""The rules of the music as a page: where every “why?” leads to."""

from __future__ import annotations

import re
from functools import cache
from itertools import pairwise
from pathlib import Path

from fastapi import APIRouter
from fastapi.responses import HTMLResponse
from markdown_it import MarkdownIt

router = APIRouter(prefix="/help")

RULES = Path(__file__).parents[3] / "docs" / "music.md"
STYLE = """
body { margin: 2rem auto; max-width: 46rem; padding: 0 1rem; font: 17px/1.55 system-ui, sans-serif;
  color: #221f1a; background: #f4efe4 }
h1, h2, h3 { line-height: 1.25; scroll-margin-top: 1rem }
h2:target { border-left: 6px solid #24457a; padding-left: .6rem }
pre { overflow-x: auto; background: #fbf8f1; padding: .6rem } code { font-size: .92em }
table { border-collapse: collapse } td, th { border: 1px solid #b9ae98; padding: .2rem .5rem; text-align: left }
@media (prefers-color-scheme: dark) { body { color: #f0eadd; background: #1b1e21 } pre { background: #23272b }
  a { color: #9dbdf0 } h2:target { border-color: #9dbdf0 } }
"""


@router.get("/music", include_in_schema=False)
def music() -> HTMLResponse:
    return HTMLResponse(page())


@cache
def page() -> str:
    """The page, a heading's anchor being its words in small letters, joined by hyphens."""
    tokens = MarkdownIt().enable("table").parse(RULES.read_text())
    for token, inline in pairwise(tokens):
        if token.type == "heading_open":
            token.attrSet("id", anchor(inline.content))
    body = MarkdownIt().enable("table").renderer.render(tokens, MarkdownIt().options, {})
    head = '<meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>The music</title>'
    return f'<!doctype html><html lang="en"><head>{head}<style>{STYLE}</style></head><body>{body}</body></html>'


def anchor(heading: str) -> str:
    """A heading as an address.

    >>> anchor("Pitch, strings, frets")
    'pitch-strings-frets'
    """
    return re.sub(r"[^a-z0-9]+", "-", heading.lower()).strip("-")
