"""All routes, stage by stage."""

from __future__ import annotations

from fastapi import APIRouter

from usagi.api import help
from usagi.api.analysis import reading
from usagi.api.checking import findings
from usagi.api.editing import edits, news
from usagi.api.licks import anywhere, book, phrases
from usagi.api.listening import offers
from usagi.api.notes import fingering, versions, writing
from usagi.api.players import portraits
from usagi.api.practice import handout, looping, packs, plan
from usagi.api.setup import basics, chart, estimates, form, grid, stock_forms, tuning
from usagi.api.sound import pieces
from usagi.api.studio import exchange, families, new_solo, shelf

STAGES = (
    (shelf, families, new_solo, exchange),
    (edits, news),
    (basics, grid, chart, form, stock_forms, tuning, estimates),
    (writing, fingering, versions),
    (pieces,),
    (offers,),
    (findings,),
    (reading,),
    (plan, looping, handout, packs),  # before the lick book: `/licks/handout` is no lick's id
    (anywhere, book, phrases),
    (portraits,),
    (help,),
)

router = APIRouter()
for stage in STAGES:
    for subject in stage:
        router.include_router(subject.router)
