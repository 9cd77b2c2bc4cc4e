"""What every router needs: the workspace of this server, and what the reader holds."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import Depends, Query, Request

from usagi.core.degrees.degree import Style
from usagi.core.degrees.spoken import Reader
from usagi.core.meter.counting import School
from usagi.flows.workspace import Workspace


def the_workspace(request: Request) -> Workspace:
    workspace: Workspace = request.app.state.workspace
    return workspace


def the_reader(
    style: Annotated[Style, Query()] = Style.DEFAULT,
    names: Annotated[Literal["letters", "syllables"], Query()] = "letters",
    school: Annotated[School, Query()] = School.A,
) -> Reader:
    """The degree style, the note names and the counting words that the reader holds."""
    return Reader(style=style, syllables=names == "syllables", school=school)


TheWorkspace = Annotated[Workspace, Depends(the_workspace)]
TheReader = Annotated[Reader, Depends(the_reader)]
