"""What every router needs: the desk of this server, and what the reader holds."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import Depends, Query, Request

from usagi.core.degrees.degree import Style
from usagi.core.degrees.spoken import Reader
from usagi.core.meter.counting import School
from usagi.flows.desk import Desk


def the_desk(request: Request) -> Desk:
    desk: Desk = request.app.state.desk
    return desk


def the_reader(
    style: Annotated[Style, Query()] = Style.DEFAULT,
    names: Annotated[Literal["letters", "syllables"], Query()] = "letters",
    school: Annotated[School, Query()] = School.A,
) -> Reader:
    """The degree style, the note names and the counting words that the reader holds."""
    return Reader(style=style, syllables=names == "syllables", school=school)


TheDesk = Annotated[Desk, Depends(the_desk)]
TheReader = Annotated[Reader, Depends(the_reader)]
