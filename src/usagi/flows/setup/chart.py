"""The chord chart: a text put in force, one chord written otherwise, a faulty text kept as its writer's draft."""

from __future__ import annotations

from uuid import UUID

from usagi.core.chart.changes import with_symbol
from usagi.core.chart.model import Chart, Fact
from usagi.core.chart.one_bar import opens, read_bar, with_bar, with_next_bar
from usagi.core.chart.printing import print_chart
from usagi.core.chart.text import ChartUnreadable, read_chart
from usagi.core.chart.timeline import play
from usagi.core.degrees.spoken import Reader
from usagi.core.document.solo import Ground
from usagi.core.harmony.symbols import parse_chord
from usagi.core.view.sheet import Sheet, view_sheet
from usagi.flows.editing.accepting import Answer
from usagi.flows.editing.changing import commit, load
from usagi.flows.setup.basics import ground_with
from usagi.flows.workspace import NotThere, Workspace, new_id
from usagi.store.database import transaction
from usagi.store.drafts import draft, drop_draft, keep_draft


def change_chart(workspace: Workspace, solo_id: UUID, text: str, reader: Reader = Reader()) -> Answer:
    """Put a chart text in force. A faulty text is kept as its writer's draft, and the last good chart stays.

    Raises : ChartUnreadable, with every fault.
    """
    loaded = load(workspace, solo_id)
    ground = loaded.ground
    try:
        first_facts = () if ground.settings.form else _standing_facts(ground)
        read = read_chart(text, new_id=new_id, before=ground.chart, first_facts=first_facts)
    except ChartUnreadable:
        with transaction(workspace.pool) as db:
            keep_draft(db, workspace.scope, loaded.ground_id, text)
        raise
    settings = ground.settings.model_dump()
    after = ground_with(ground, read.chart, settings)
    pulses = after.timeline.facts_at(0).meter.pulses
    if read.pickup_pulses is not None:
        settings["pickup_ticks"] = sum(pulses[-read.pickup_pulses :])
    elif ground.settings.form:  # the old text would have shown one
        settings["pickup_ticks"] = 0
    settings["bars"] = max(ground.settings.bars, len(play(read.chart)))
    after = ground_with(ground, read.chart, settings)
    answer = commit(workspace, loaded, "change the chart", reader, ground=after)
    with transaction(workspace.pool) as db:
        drop_draft(db, workspace.scope, loaded.ground_id)
    return answer


def _standing_facts(ground: Ground) -> tuple[Fact, ...]:
    """What the fields settled before there was a chart text to show it."""
    first = next((bar for section in ground.sections for bar in section.written_bars()), None)
    return () if first is None else first.facts


def change_chord(
    workspace: Workspace, solo_id: UUID, chord_id: str, symbol: str, bar: int | None = None, reader: Reader = Reader()
) -> Answer:
    """Write another symbol for one chord: in one bar of the recording, or (`bar` None) wherever its bar is played.

    Raises : ChordUnreadable; NotThere.
    """
    parse_chord(symbol)
    loaded = load(workspace, solo_id)
    chart = with_chord(loaded.ground, chord_id, symbol.strip(), bar)
    return commit(workspace, loaded, f"write {symbol.strip()}", reader, ground=ground_with(loaded.ground, chart))


def write_bar(
    workspace: Workspace, solo_id: UUID, bar: int, text: str, *, everywhere: bool, reader: Reader = Reader()
) -> Answer:
    """Write the chords of one bar: in this bar of the recording alone, or `everywhere` that the form plays it.

    Right behind its last bar the chart goes on.

    Raises : ChartUnreadable; BarBeyondChart; NotThere.
    """
    loaded = load(workspace, solo_id)
    ground = loaded.ground
    there = ground.timeline.bars.number(bar)
    if there is None or bar < 1:
        raise NotThere(f"There is no bar {bar} here.", bar=bar)
    here = ground.timeline.played.get(bar)
    meter = ground.timeline.facts_at(there.tick).meter
    first = not ground.settings.form
    chords = read_bar(text, meter, opens=first if here is None else opens(ground.chart, here), new_id=new_id)
    if here is None:
        chart = with_next_bar(ground.chart, bar, chords, new_id=new_id)
    else:
        chart = with_bar(ground.chart, here, chords, everywhere=everywhere, new_id=new_id)
    label = f"write bar {bar}: {text.strip() or '%'}"
    return commit(workspace, loaded, label, reader, ground=ground_with(ground, chart))


def read_sheet(workspace: Workspace, solo_id: UUID) -> Sheet:
    """The chart in rows of bars. Raises : NotThere."""
    return view_sheet(load(workspace, solo_id).ground)


def with_chord(ground: Ground, chord_id: str, symbol: str, bar: int | None) -> Chart:
    """The chart with another symbol for a chord. A bar that is played once needs no exception to change alone.

    Raises : NotThere.
    """
    chart = ground.chart
    played = [b for b in play(chart) if any(chord.id == chord_id for chord in b.written.chords)]
    if not played:
        raise NotThere("This chord is not in the chart any more.", chord=chord_id)
    here = ground.timeline.played.get(bar) if bar is not None and len(played) > 1 else None
    if here is None:
        return with_symbol(chart, chord_id, symbol)
    chords = tuple(
        c.model_copy(update={"id": new_id()} | ({"symbol": symbol} if c.id == chord_id else {}))
        for c in here.written.chords
    )
    return with_bar(chart, here, chords, everywhere=False, new_id=new_id)


def read_draft(workspace: Workspace, solo_id: UUID) -> tuple[str, str | None]:
    """The chart in force as text, and this writer's faulty text if there is one."""
    with transaction(workspace.pool) as db:
        _, _, ground_id = workspace.solo(db, solo_id)
        ground, _ = workspace.ground(db, ground_id)
        return chart_text(ground), draft(db, workspace.scope, ground_id)


def chart_text(ground: Ground) -> str:
    """The ground's chart as text, with its pick-up in pulses."""
    pickup = ground.settings.pickup_ticks
    pulses = pickup // ground.timeline.facts_at(0).meter.pulses[0] if pickup else None
    return print_chart(ground.chart, pickup_pulses=pulses or None)
