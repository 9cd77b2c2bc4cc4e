"""Errors as problem details (application/problem+json): one handler for the root class, one shape for all."""

from __future__ import annotations

import logging
from collections.abc import Iterable
from typing import Annotated, Any
from uuid import uuid4

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel, Field, ValidationError
from starlette.exceptions import HTTPException as StarletteHTTPException

from usagi.core.chart.text import ChartUnreadable, Fault
from usagi.core.document.edits import EditConflict
from usagi.core.document.faults import explain, explain_finding
from usagi.core.errors import UsagiError

log = logging.getLogger("usagi")

# HTTP status of every code; a test keeps this list and the error classes in step.
STATUS = {
    "refused": 422,
    "name-unreadable": 422,
    "key-unreadable": 422,
    "meter-impossible": 422,
    "grid-impossible": 422,
    "taps-unreadable": 422,
    "count-impossible": 422,
    "sections-unreadable": 422,
    "no-six-string": 422,
    "figure-impossible": 422,
    "other-changes-impossible": 422,
    "scale-unreadable": 422,
    "hints-impossible": 422,
    "no-shape": 422,
    "pitches-unreadable": 422,
    "tab-unreadable": 422,
    "sign-unreadable": 422,
    "taps-outside": 422,
    "feel-impossible": 422,
    "tuning-unreadable": 422,
    "gauges-unreadable": 422,
    "chord-unreadable": 422,
    "search-unreadable": 422,
    "lick-changed": 409,
    "lick-known": 409,
    "lick-impossible": 422,
    "quote-impossible": 422,
    "chart-unreadable": 422,
    "bar-beyond-chart": 422,
    "course-impossible": 422,
    "thing-impossible": 422,
    "setting-impossible": 422,
    "rule-broken": 422,
    "edit-conflict": 409,
    "place-taken": 409,
    "edit-impossible": 422,
    "document-unreadable": 422,
    "document-too-new": 422,
    "file-unreadable": 422,
    "part-unknown": 422,
    "lengths-missing": 422,
    "format-unknown": 422,
    "picture-impossible": 422,
    "speed-impossible": 422,
    "piece-impossible": 422,
    "ladder-impossible": 422,
    "plan-impossible": 422,
    "pack-impossible": 422,
    "sound-refused": 422,
    "sound-missing": 404,
    "backup-refused": 422,
    "nobody-waits": 409,
    "not-there": 404,
    "not-mended": 409,
    "nothing-to-undo": 409,
    "solo-removed": 409,
    "page-ahead": 409,
    "store-away": 503,
    "store-full": 507,
    "store-refused": 409,
    "text-refused": 422,
    "request-unreadable": 422,
    "host-unknown": 421,
    "origin-refused": 403,
    "too-large": 413,
    "no-such-address": 404,
    "method-unknown": 405,
    "our-fault": 500,
}


class FaultDetail(BaseModel):
    sentence: str
    bar: int
    line: int
    column: int
    piece: str


def fault_details(faults: Iterable[Fault]) -> list[FaultDetail]:
    return [FaultDetail.model_validate(fault, from_attributes=True) for fault in faults]


class Problem(BaseModel):
    """What every refusal looks like. `title` is a sentence for a person; `where` holds the place."""

    type: str
    title: str
    status: int
    code: Annotated[str, Field(json_schema_extra={"enum": list(STATUS)})]
    where: dict[str, str | int | float | None]
    faults: list[FaultDetail] | None = None
    now: Any = None
    before: Any = None


def problem(code: str, sentence: str, **rest: Any) -> JSONResponse:
    body = {"type": f"/problems/{code}", "title": sentence, "status": STATUS[code], "code": code, "where": {}} | rest
    return JSONResponse(body, STATUS[code], media_type="application/problem+json")


def add_handlers(app: FastAPI) -> None:
    @app.exception_handler(UsagiError)
    def ours(_: Request, error: UsagiError) -> JSONResponse:
        rest: dict[str, Any] = {"where": error.where}
        if isinstance(error, ChartUnreadable):
            rest["faults"] = [detail.model_dump() for detail in fault_details(error.faults)]
        if isinstance(error, EditConflict):
            rest |= {"now": error.now, "before": error.before}
        return problem(error.code, error.sentence, **rest)

    @app.exception_handler(RequestValidationError)
    def unreadable(_: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"][1:]) or "the request"
        if first["type"] == "json_invalid":
            sentence = "What was sent is not JSON."
        else:
            sentence = explain_finding(dict(first) | {"loc": first["loc"][1:]})
        return problem("request-unreadable", sentence, where={"field": place})

    @app.exception_handler(ValidationError)
    def invalid(_: Request, error: ValidationError) -> JSONResponse:
        return problem("request-unreadable", explain(error))

    @app.exception_handler(StarletteHTTPException)
    def unknown(request: Request, error: StarletteHTTPException) -> JSONResponse:
        if error.status_code == 405:
            answer = problem("method-unknown", "This address does not take such a request.")
            answer.headers.update(error.headers or {})
            return answer
        if error.status_code == 404:
            return problem("no-such-address", "There is nothing at this address.")
        if "multipart" in request.headers.get("content-type", ""):
            sentence = "The form cannot be read. If the file's name is very long, shorten it and try again."
        else:
            sentence = "What was sent cannot be read: it is not JSON, is nested too deeply or holds too long a number."
        return problem("request-unreadable", sentence)

    @app.exception_handler(Exception)
    def fault(_: Request, error: Exception) -> JSONResponse:
        number = uuid4().hex[:8]
        log.error("fault %s", number, exc_info=error)
        return problem(
            "our-fault", f"That was our fault, not yours; your work is safe. Number {number}.", where={"number": number}
        )
