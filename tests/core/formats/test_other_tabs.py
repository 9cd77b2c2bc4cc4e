"""Tablature as people write it in mail."""

from __future__ import annotations

import pytest

from core.formats.asking import brought_in
from usagi.core.formats.other_tabs.reading import LengthsMissing, read_tab_by_others, says_lengths
from usagi.core.formats.other_tabs.times import Lengths
from usagi.core.formats.score import FileUnreadable
from usagi.core.meter.ticks import QUARTER

EIGHTH = QUARTER // 2
MAIL = """Harbour Walk - solo
by Ada Finch
Tuning: E A D G B E    Capo: none
Tempo: 96 bpm, 4/4

This is how I hear it, corrections welcome.

[Solo]
    Am                F
e|-----------------|------5h8p5------|
B|--5--5b7-5----8--|-5/8------8-5----|
G|-5---------7bf~--|-----------------|
D|-----------------|-------------7---|
A|-----------------|-----------------|
E|-----------------|-----------------|

     Dm7         x3
E4||:---------|-8^--8p5----:||
B3||:*-6-5h6--|------------:||
G3||:---------|------7s5-q-:||
D3||:*--------|------------:||
A2||:---------|------------:||
E2||:---------|------------:||

h = hammer on, p = pull off
"""


def read(text: str, lengths: Lengths | None = Lengths.SPACING):
    return read_tab_by_others(text.encode(), lengths=lengths)


def places(text: str, lengths: Lengths | None = Lengths.SPACING) -> list[tuple[float, int, int | None]]:
    """Eighths from bar 1, string and fret of every note."""
    return [
        (n.tick / EIGHTH, n.string or 0, None if n.fret is None else n.fret // 100) for n in read(text, lengths).notes
    ]


def six(top: str, *others: str) -> str:
    """A system whose lower strings are empty."""
    lines = [top, *others]
    body = top[top.index("|") : top.rindex("|") + 1]
    empty = "".join("|" if sign == "|" else "-" for sign in body)
    return "\n".join(lines + [f"{name}{empty}" for name in "eBGDAE"[len(lines) :]])


def test_a_mail_is_read_with_its_head_chords_repeats_and_signs() -> None:
    found = read(MAIL)
    assert (found.title, found.player, found.capo) == ("Harbour Walk - solo", "Ada Finch", 0)
    assert found.anchors[1][1] - found.anchors[0][1] == pytest.approx(60 / 96)
    assert len(found.bars) == 2 + 3 * 2 and found.bars[0].section == "Solo"
    assert [symbol for _, symbol in found.chords] == ["Am", "F", "Dm7", "Dm7", "Dm7"]
    assert [tick // QUARTER for tick, _ in found.chords] == [0, 4, 8, 16, 24]
    kinds = [n.fields.get("attack", {}).get("kind", "picked") for n in found.notes[:12]]
    assert kinds[6:12] == ["picked", "slide", "picked", "hammer-on", "pull-off", "picked"]
    bent = [n for n in found.notes if n.course]
    assert [max(q for _, q in n.course) for n in bent[:2]] == [4, 4]


def test_every_line_that_could_not_be_read_is_listed() -> None:
    said = [line for line in read(MAIL).messages if "was not read" in line]
    assert said == [
        "Line 6 was not read: This is how I hear it, corrections welcome.",
        "Line 20 was not read: “q” at column 26 is no sign of a note.",
    ]


@pytest.mark.parametrize(
    ("names", "tuning"),
    [
        (["e", "B", "G", "D", "A", "E"], (64, 59, 55, 50, 45, 40)),
        (["E4", "B3", "G3", "D3", "A2", "D2"], (64, 59, 55, 50, 45, 38)),
        (["1", "2", "3", "4", "5", "6"], (64, 59, 55, 50, 45, 40)),
        (["d", "B", "G", "D", "G", "D"], (62, 59, 55, 50, 43, 38)),
        (["eb", "Bb", "Gb", "Db", "Ab", "Eb"], (63, 58, 54, 49, 44, 39)),
        (["[e]", "[B]", "[G]", "[D]", "[A]", "[E]"], (64, 59, 55, 50, 45, 40)),
        (["", "", "", "", "", ""], (64, 59, 55, 50, 45, 40)),
    ],
)
def test_strings_are_named_in_any_usual_way(names: list[str], tuning: tuple[int, ...]) -> None:
    text = "\n".join(f"{name:>3}|--5--{i}--|" for i, name in enumerate(names))
    found = read(text)
    assert found.tuning == tuning
    assert [n.fret for n in sorted(found.notes, key=lambda n: (n.tick, n.string or 0))][6:] == [
        0,
        100,
        200,
        300,
        400,
        500,
    ]


@pytest.mark.parametrize("names", ["EADGBe", "654321"])
def test_strings_from_the_lowest_on_are_turned_round(names: str) -> None:
    text = "\n".join(f"{name}|--{i}-----|" for i, name in enumerate(names))
    assert [(n.string, n.fret) for n in sorted(read(text).notes, key=lambda n: -(n.string or 0))] == [
        (6 - i, i * 100) for i in range(6)
    ]


def test_counts_tell_the_time_also_when_they_leave_out_what_is_not_played() -> None:
    full = "   1 & 2 & 3 & 4 &\n" + six("e|-5-8-5---------|", "B|-------8-5-----|", "G|-----------7---|")
    assert says_lengths(full.encode())
    assert [at for at, _, _ in places(full, None)] == [0, 1, 2, 3, 4, 5]
    loose = "   1   2 + 3     4\n" + six("e|-5---8-5-8-----7-|")
    assert [at for at, _, _ in places(loose, None)] == [0, 2, 3, 4, 6]


def test_a_line_of_lengths_tells_the_time_and_the_meter() -> None:
    text = "   Q. E Q\n" + six("e|-5--8-5--|")
    found = read(text, None)
    assert [n.tick / EIGHTH for n in found.notes] == [0, 3, 4] and str(found.bars[0].meter) == "3/4"


def test_lengths_are_asked_for_where_there_are_none() -> None:
    text = six("e|-5-8-7-5-|-8-7-5---|")
    assert not says_lengths(text.encode())
    with pytest.raises(LengthsMissing, match="Choose: spacing, quarters, eighths, triplets, sixteenths"):
        read(text, None)
    assert [at for at, _, _ in places(text, Lengths.EIGHTHS)] == [0, 1, 2, 3, 8, 9, 10]
    assert [at for at, _, _ in places(text, Lengths.QUARTERS)] == [0, 2, 4, 6, 8, 10, 12]


@pytest.mark.parametrize(
    ("written", "fret", "field", "value"),
    [
        ("(7)", 700, "ghost", True), ("x", None, "dead", True), ("<12>", 1200, "attack", "harmonic"), ("[12]", 1200, "attack", "harmonic"),
        ("T12", 1200, "attack", "tapped"), ("7~~~", 700, "vibrato", "finger"), ("7v", 700, "vibrato", "finger"), ("/7", 700, "attack", "slide"),
    ],
)  # fmt: skip
def test_signs_of_others(written: str, fret: int | None, field: str, value: object) -> None:
    note = read(six(f"e|-5-{written}--------|")).notes[1]
    found = note.fields[field]
    kind = found.get("kind") if isinstance(found, dict) else getattr(found, "by", found)
    assert (note.fret, kind) == (fret, value)


@pytest.mark.parametrize(
    ("written", "levels"),
    [
        ("7b9", [0, 4]),
        ("7b(9)", [0, 4]),
        ("7bf", [0, 4]),
        ("7bfull", [0, 4]),
        ("7b1/2", [0, 2]),
        ("7b9r7", [0, 4, 4, 0]),
        ("7^", [0, 4]),
    ],
)
def test_bends_of_others(written: str, levels: list[int]) -> None:
    assert [quarters for _, quarters in read(six(f"e|-{written}-----------|")).notes[0].course] == levels


def test_words_behind_the_last_bar_line_are_no_notes_and_may_say_how_often() -> None:
    text = six("e|-5-8-7-5-|   x2", "B|---------|", "G|---------|  (let it breathe)")
    found = read(text)
    assert len(found.bars) == 2 and [n.fret for n in found.notes] == [500, 800, 700, 500] * 2


def test_a_bar_that_begins_late_in_its_counts_is_a_pick_up() -> None:
    text = "   4 &   1 & 2 & 3 & 4 &\n" + six("e|-5-8-|-7-----5-------|")
    found = read(text, None)
    assert found.pickup_ticks == QUARTER and [n.tick / EIGHTH for n in found.notes] == [-2, -1, 0, 3]


def test_it_comes_in_on_a_guitar_of_its_own_strings() -> None:
    laid = brought_in("\n".join(f"{name}|--3--5--|" for name in "GDAE").encode(), "tab", lengths=Lengths.SPACING)
    assert laid.document.solo.settings.tuning == (43, 38, 33, 28) and len(laid.document.solo.notes) == 8


@pytest.mark.parametrize(
    "text", ["", "dear all", "e|-----|", "e|---|\nB|---|\nG|---|", "a\nb\n" * 30_000, "x" * 3_000_000]
)
def test_a_text_without_tablature_is_refused(text: str) -> None:
    with pytest.raises(FileUnreadable):
        read(text)


def test_an_answered_mail_with_a_line_of_lengths_and_palm_mutes() -> None:
    text = "\n".join(
        [
            "Ada wrote:",
            "> Intro",
            ">      Q   E E H      W",
            "> " + "\n> ".join(six("e|---------------|---------|", "B|---8---6-5-----|-5-------|").splitlines()),
            ">      PM----|",
        ]
    )
    assert places(text, None) == [(0, 2, 8), (2, 2, 6), (3, 2, 5), (8, 2, 5)]
    found = read(text, None)
    assert [n.fields.get("palm_mute", False) for n in found.notes] == [True, True, False, False]
    assert found.bars[0].section == "Intro" and found.messages == ()


def test_a_line_of_lengths_that_does_not_fit_its_notes_is_listed() -> None:
    text = "   Q  Q\n" + six("e|--5--7--8--|")
    assert read(text).messages == ("Line 1 was not read: it does not say when each note of bar 1 comes.",)


def test_a_string_may_break_off() -> None:
    text = "e|--5--7--8--\nB|-----\nG|---\nD|--\nA|-\nE|-"
    assert [place[1:] for place in places(text)] == [(1, 5), (1, 7), (1, 8)]


@pytest.mark.parametrize(
    ("names", "at"),
    [("eBG", (1, 64)), ("EBGD", (1, 64)), ("DAE", (4, 50)), ("GDAE", (1, 43)), ("EADG", (4, 28)), ("BGDAE", (2, 59))],
)
def test_strings_that_are_left_out_are_told_by_the_names_of_the_others(names: str, at: tuple[int, int]) -> None:
    lines = [f"{name}|{'--0--' if i == 0 else '-----'}|" for i, name in enumerate(names)]
    note = read("\n".join(lines)).notes[0]
    assert (note.string, note.midi) == at


def test_a_system_of_its_lower_strings_stands_on_them() -> None:
    text = six("e|--5--|") + "\n\nD|--5--|\nA|-----|\nE|--3--|"
    assert [place[1:] for place in places(text)] == [(1, 5), (4, 5), (6, 3)]


def test_counts_that_stand_within_a_note_do_not_cut_it() -> None:
    text = "  1   &   2   &   3   &   4   &\n" + six("e|11b13------11b13r11-----9---10|")
    assert places(text, None) == [(0, 1, 11), (3, 1, 11), (6, 1, 9), (7, 1, 10)]
    assert [[q for _, q in n.course] for n in read(text, None).notes[:2]] == [[0, 4], [0, 4, 4, 0]]


def test_a_string_may_be_full_of_signs() -> None:
    """Words and letters that others write for bends and harmonics, and groups in parentheses."""
    found = read(six("e|-----------------------------|", "B|8h10p8(8h10)8bend10-PH12--NH7|"))
    assert [n.fret // 100 for n in found.notes] == [8, 10, 8, 8, 10, 8, 12, 7]
    kinds = [n.fields.get("attack", {}).get("kind", "picked") for n in found.notes]
    assert kinds == ["picked", "hammer-on", "pull-off", "picked", "hammer-on", "picked", "harmonic", "harmonic"]
    assert found.notes[5].course[-1][1] == 4 and found.notes[6].fields["attack"]["how"] == "pinched"


def test_licks_with_a_number_and_words_are_sections() -> None:
    text = f"Lick #1 (slow)\n{six('e|--5--|')}\n\nLICK 2:\n{six('e|--7--|')}"
    assert [bar.section for bar in read(text).bars] == ["Lick #1", "LICK 2"]


@pytest.mark.parametrize(
    ("line", "meter"),
    [
        ("3/4", "3/4"),
        ("Time: 6/8", "6/8"),
        ("time signature 12/8", "12/8"),
        ("A waltz in 3/4", "3/4"),
        ("96 bpm, 5/4, straight", "5/4"),
        ("7/8 time", "7/8"),
        ("Tune down 1/2 step", "4/4"),
        ("bend it 1/2, not full", "4/4"),
        ("capo 2, tuned 1/2 step down", "4/4"),
        ("1/2", "4/4"),
        ("page 3/4 of the book", "4/4"),
    ],
)
def test_a_meter_stands_alone_or_with_its_word(line: str, meter: str) -> None:
    found = read(f"{line}\n\n" + six("e|-5-8-7-5-3-1-|"))
    assert [str(bar.meter) for bar in found.bars] == [meter]
    assert [n.fret for n in found.notes] == [500, 800, 700, 500, 300, 100]


@pytest.mark.parametrize("line", ["Tune down 1/2 step", "tuned a half-step down", "Tuning: 1/2 step down"])
def test_a_half_step_down_is_a_tuning(line: str) -> None:
    assert read(f"{line}\n\n" + six("e|-5-8-7-|")).tuning == (63, 58, 54, 49, 44, 39)


@pytest.mark.parametrize("sizes", ["     full   1/2   1½", "      Full  1/2   1½", "     full   1/2  1 1/2"])
def test_sizes_over_the_strings_are_those_of_the_bends_under_them(sizes: str) -> None:
    found = read(f"{sizes}\n" + six("e|---8b-----8b---8b--10b11-|"))
    assert [max(quarters for _, quarters in n.course) for n in found.notes] == [4, 2, 6, 2]
    assert [str(bar.meter) for bar in found.bars] == ["4/4"]


@pytest.mark.parametrize("width", [20, 40, 60, 100, 140])
@pytest.mark.parametrize("head", ["", "3/4\n\n", "6/8\n\n", "12/8\n\n", "shuffle\n\n"])
def test_a_note_near_the_end_of_the_last_bar_stays_in_it(width: int, head: str) -> None:
    for back in (1, 2, 3):
        body = "5" + "-" * (width - back - 2) + "8" + "-" * (back - 1)
        found = read(head + six(f"e|{body}|"))
        end = sum(bar.meter.bar_ticks for bar in found.bars)
        assert [n.fret for n in found.notes] == [500, 800]
        assert 0.7 * end < found.notes[1].tick < end


def test_tabs_between_the_signs_of_a_string_are_dashes() -> None:
    rows = ["e|\t5\t7\t|", *(f"{name}|\t\t\t|" for name in "BGDAE")]
    assert [fret for _, _, fret in places("\n".join(rows))] == [5, 7]


def test_so_many_repeats_are_played_as_often_as_goes_and_that_is_said() -> None:
    for behind in ("   x1000000000", "\nx1000000000"):
        found = read(six("e|-5-8-7-5-|") + behind) if behind[0] == "\n" else read(six(f"e|-5-8-7-5-|{behind}"))
        assert len(found.bars) == 16
        assert any("it is played 16 times" in words for words in found.messages)
    assert len(read(six("e|-5-8-7-5-|   x3")).bars) == 3


@pytest.mark.parametrize("line", ["[Solo]", "(x2)", "x2", "[second chorus]", "[Verse 2]"])
def test_sections_and_repeats_are_no_titles(line: str) -> None:
    found = read(f"{line}\n\n" + six("e|-5-8-7-5-|"))
    assert found.title == ""
    assert found.bars[0].section == (line.strip("[]") if line.startswith("[") else None)


def test_tablature_in_a_web_page_is_read_and_rtf_is_refused_as_such() -> None:
    tab = six("e|-5-8-7-5-|")
    for page in (f"<html><body><p>Mine</p><pre>\n{tab}\n</pre></body></html>", f"<PRE class=t>{tab}</PRE>"):
        found = read(page)
        assert [n.fret for n in found.notes] == [500, 800, 700, 500] and not found.messages
    with pytest.raises(FileUnreadable, match=r"word processor \(RTF\)"):
        read("{\\rtf1\\ansi " + tab.replace("\n", "\\par\n") + "}")
