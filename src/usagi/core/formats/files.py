"""The file formats of export and import: their names, endings, writers and readers."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

from usagi.core.chart.printing import print_chart
from usagi.core.degrees.spoken import Reader
from usagi.core.document.solo import Ground
from usagi.core.document.writing import NewId
from usagi.core.errors import UsagiError
from usagi.core.formats.document_json import SoloDocument, read_document, write_document
from usagi.core.formats.holds import Symbolic, not_held
from usagi.core.formats.jams import reading as jams_reading
from usagi.core.formats.jams.writing import write_jams
from usagi.core.formats.laid.laying import Laid, lay
from usagi.core.formats.midi import reading as midi_reading
from usagi.core.formats.midi.tracks import is_midi
from usagi.core.formats.midi.writing import write_midi
from usagi.core.formats.musicxml import reading as musicxml_reading
from usagi.core.formats.musicxml.container import packed
from usagi.core.formats.musicxml.writing import write_musicxml
from usagi.core.formats.other_tabs import reading as tab_reading
from usagi.core.formats.other_tabs.times import Lengths
from usagi.core.formats.score import FileUnreadable, Part, Score
from usagi.core.formats.tables import beats_table, notes_table, sections_table
from usagi.core.formats.text_tab import write_tab
from usagi.core.meter.counting import School


class FormatUnknown(UsagiError):
    """A kind of file that is not known, or that goes only the other way."""

    code = "format-unknown"


@dataclass(frozen=True, slots=True)
class Going:
    """Export options: degrees under the notes, swing as played, the style of degrees and counts."""

    degrees: bool = False
    as_played: bool = True
    reader: Reader = Reader()
    school: School = School.A


@dataclass(frozen=True, slots=True)
class Coming:
    """Import options: the part, the note lengths of a tablature, the fingering."""

    part: str | None = None
    lengths: Lengths | None = None
    way: int = 0
    ground: Ground | None = None  # one that is here: what was played is laid on its steps


Write = Callable[[SoloDocument, Going], bytes]
Parts = Callable[[bytes], list[Part]]
Read = Callable[[bytes, Coming], Score]


@dataclass(frozen=True)
class FileKind:
    """One kind of file. `endings` begin with the one that is written; `holds` names its column of what is held."""

    name: str
    says: str
    endings: tuple[str, ...]
    media_type: str
    write: Write
    parts: Parts | None = None
    read: Read | None = None
    holds: Symbolic | None = None

    @property
    def comes_in(self) -> bool:
        return self.read is not None or self.name == DOCUMENT


DOCUMENT: Final = "document"


KINDS: Final = (
    FileKind(DOCUMENT, "Solo document (JSON)", (".json",), "application/json", lambda d, _: write_document(d)),
    FileKind(
        "musicxml", "MusicXML", (".musicxml", ".xml"), "application/vnd.recordare.musicxml+xml",
        lambda d, how: write_musicxml(d, degrees=how.degrees, reader=how.reader),
        musicxml_reading.read_parts, lambda data, how: musicxml_reading.read_musicxml(data, part=how.part),
        Symbolic.MUSICXML,
    ),
    FileKind(
        "mxl", "MusicXML, compressed", (".mxl",), "application/vnd.recordare.musicxml",
        lambda d, how: packed(write_musicxml(d, degrees=how.degrees, reader=how.reader)),
        musicxml_reading.read_parts, lambda data, how: musicxml_reading.read_musicxml(data, part=how.part),
        Symbolic.MUSICXML,
    ),
    FileKind(
        "midi", "MIDI", (".mid", ".midi"), "audio/midi", lambda d, how: write_midi(d, as_played=how.as_played),
        midi_reading.read_parts,
        lambda data, how: midi_reading.read_midi(data, part=how.part, ground=how.ground), Symbolic.MIDI,
    ),
    FileKind(
        "jams", "JAMS", (".jams",), "application/json", lambda d, _: write_jams(d),
        jams_reading.read_parts,
        lambda data, how: jams_reading.read_jams(data, part=how.part, ground=how.ground), Symbolic.JAMS,
    ),
    FileKind(
        "tab", "Text tablature", (".txt", ".tab"), "text/plain",
        lambda d, how: write_tab(d, school=how.school, reader=how.reader).encode(),
        tab_reading.read_parts, lambda data, how: tab_reading.read_tab_by_others(data, lengths=how.lengths),
        Symbolic.TAB,
    ),
    FileKind("chart", "Chart as text", (".chart",), "text/plain", lambda d, _: _chart(d)),
    FileKind("notes", "Notes as a table (CSV)", (".notes.csv", ".csv"), "text/csv",
             lambda d, how: notes_table(d, how.reader)),
    FileKind("beats", "Beats as a table (CSV)", (".beats.csv",), "text/csv", lambda d, _: beats_table(d)),
    FileKind("sections", "Sections as a table (CSV)", (".sections.csv",), "text/csv", lambda d, _: sections_table(d)),
)  # fmt: skip


def _chart(document: SoloDocument) -> bytes:
    """The chart as text; a chord that stands on no beat cannot be written there."""
    settings, timeline = document.ground.settings, document.ground.timeline
    pulse = timeline.bars.bars[-1].meter.pulses[0]
    pickup = settings.pickup_ticks // pulse if settings.pickup_ticks % pulse == 0 else 0
    try:
        return print_chart(document.ground.chart, pickup_pulses=pickup or None).encode()
    except ValueError as fault:
        raise UsagiError(f"This chart cannot be written as text: {fault}.") from fault


def kind_named(name: str) -> FileKind:
    """Raises : FormatUnknown."""
    found = next((kind for kind in KINDS if kind.name == name), None)
    if found is None:
        known = ", ".join(kind.name for kind in KINDS)
        raise FormatUnknown(f"There is no format “{name}”; there are {known}.", format=name)
    return found


def kind_of_file(name: str) -> FileKind:
    """The kind that a file name means by its ending, the longest that fits. Raises : FormatUnknown."""
    low = name.casefold()
    fitting = [(len(ending), kind) for kind in KINDS for ending in kind.endings if low.endswith(ending)]
    if not fitting:
        known = ", ".join(kind.endings[0] for kind in KINDS)
        raise FormatUnknown(f"“{name}” has no ending that is known here; there are {known}.")
    return max(fitting, key=lambda one: one[0])[1]


def kind_of_bytes(data: bytes, name: str) -> FileKind:
    """What a file that came in is: by what it begins with, else by its name. Raises : FormatUnknown, FileUnreadable."""
    if not data.strip():
        raise FileUnreadable("This file is empty.")
    start = data[:4_000].lstrip(b"\xef\xbb\xbf \t\r\n")
    if is_midi(data):
        return kind_named("midi")
    if data[:4] == b"PK\x03\x04":
        return kind_named("mxl")
    if start[:1] == b"<" or start[:4] in (b"\xff\xfe<\0", b"\xfe\xff\0<"):
        return kind_named("musicxml")
    if start[:1] == b"{":
        return kind_named("jams" if b'"annotations"' in data and b'"schema"' not in start[:200] else DOCUMENT)
    kind = kind_of_file(name) if "." in name else kind_named("tab")
    return kind if kind.comes_in else kind_named("tab")


def written(document: SoloDocument, kind: FileKind, how: Going = Going()) -> bytes:
    """The document as a file."""
    return kind.write(document, how)


def left_behind(document: SoloDocument, kind: FileKind) -> list[str]:
    """What of a document the file will not hold, in words."""
    return [] if kind.holds is None else not_held(document, kind.holds)


def parts_in(data: bytes, kind: FileKind) -> list[Part]:
    """The parts that a file has to choose from; a document is one. Raises : FileUnreadable."""
    if kind.parts is not None:
        return kind.parts(data)
    return [Part("1", "solo", len(read_document(data).solo.notes), True)] if kind.name == DOCUMENT else []


def read_in(data: bytes, kind: FileKind, how: Coming, new_id: NewId) -> Laid:
    """A file as a document on a ground of its own.

    Raises : FormatUnknown, when this kind does not come in; FileUnreadable, PartUnknown, LengthsMissing; the errors of
    documents.
    """
    if kind.name == DOCUMENT:
        return Laid(read_document(data), ())
    return lay(score_in(data, kind, how), new_id, way=how.way)


def score_in(data: bytes, kind: FileKind, how: Coming) -> Score:
    """What a file of another program says. Raises : as `read_in`."""
    if kind.read is None:
        raise FormatUnknown(f"{kind.says} does not hold a solo that could come in here.", format=kind.name)
    return kind.read(data, how)
