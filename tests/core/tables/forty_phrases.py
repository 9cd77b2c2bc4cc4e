"""Forty invented phrases and the order in which a player put them, the easiest first; written down before any was
worked out.

A line is notes as `string:fret`, eighths unless q (quarter), s (sixteenth) or t (triplet eighth) follows; `^4` bends by
so many quarter tones, `+` joins what is struck together. The number is beats a minute.
"""

from __future__ import annotations

BOX = "1:8 1:5 2:8 2:5 3:7 3:5 4:7 4:5"
UP = "4:5 4:7 3:5 3:7 2:5 2:8 1:5 1:8"
CLIMB = "4:5 4:7 3:5 3:7 3:9 2:8 2:10 1:8 1:10 1:12 1:10 1:8 2:10 2:8 3:9 3:7"
SKIPS = "1:8 3:7 1:5 3:5 2:8 4:7 2:5 4:5"
STRETCH = "5:1 5:5 4:1 4:5 3:1 3:5 2:1 2:5"


def sixteenths(line: str) -> str:
    return " ".join(f"{one}s" for one in line.split())


def triplets(line: str) -> str:
    return " ".join(f"{one}t" for one in line.split())


# In the order of the player's judgement.
PHRASES: tuple[tuple[str, float, str], ...] = (
    ("open strings, quarters", 80, "3:0q 3:2q 2:0q 2:1q"),
    ("four quarters in one position", 70, "2:5q 2:8q 3:5q 3:7q"),
    ("six quarters down a box", 90, "1:5q 1:8q 2:5q 2:8q 3:5q 3:7q"),
    ("two double stops, quarters", 80, "1:5+2:5q 1:8+2:8q"),
    ("eighths in a box, slow", 80, "2:5 2:8 3:5 3:7 3:5 2:8 2:5q"),
    ("a curl", 90, "2:8^1q 2:5 3:7q 3:5q"),
    ("a half-step bend", 90, "2:8^2q 2:5 3:7q"),
    ("eighths in a box", 110, "2:5 2:8 3:5 3:7 4:5 4:7 3:5q"),
    ("a whole bend in the middle of the neck", 90, "2:8^4q 2:5 3:7 3:5q"),
    ("a whole bend on the third string", 90, "3:7^4q 2:5 2:8q"),
    ("a whole bend high up", 100, "2:15^4q 2:12 1:12q"),
    ("a small shift up one string", 100, "1:8 1:10 1:12q 2:10"),
    ("a box down in eighths", 120, BOX),
    ("eighths that climb a position", 120, "3:5 3:7 2:5 2:8 2:10 1:8 1:10 1:12"),
    ("a shift of seven frets", 100, "2:5 2:8 2:12q 1:12 1:15q"),
    ("double stops up the neck", 120, "1:5+2:5 1:7+2:8 1:8+2:10 1:10+2:12"),
    ("strings skipped", 120, SKIPS),
    ("sixteenths, slow", 90, sixteenths(BOX)),
    ("triplets in a box", 120, triplets(f"{BOX} 1:8 1:5 2:8 2:5")),
    ("a long line in one box", 110, f"{BOX} {UP} {BOX} {UP}"),
    ("a box down and up, faster", 140, f"{BOX} {UP}"),
    ("a step and a half on the third string", 100, "3:9^6q 2:8"),
    ("a step and a half high up", 100, "2:15^6q 2:12"),
    ("a whole bend near the nut, thin string", 90, "1:3^4q 1:3 2:3q"),
    ("a stretch near the nut", 120, STRETCH),
    ("bends in a row", 100, "2:8^4 2:8^4 2:8^2 3:7^4"),
    ("triplets, faster", 140, triplets(f"{BOX} 1:8 1:5 2:8 2:5")),
    ("strings skipped, fast", 160, SKIPS),
    ("a long line that climbs and comes down", 110, f"{CLIMB} {CLIMB}"),
    ("a whole bend at the first fret", 100, "2:1^4q 2:1 3:2q"),
    ("two whole steps high up", 100, "2:15^8q 1:12q"),
    ("sixteenths", 120, sixteenths(f"{BOX} {UP}")),
    ("a stretch near the nut, fast", 160, STRETCH),
    ("triplets that climb", 120, triplets(f"{CLIMB} 3:5 3:7 2:5 2:8 1:5 1:8 1:10 1:12")),
    ("a long line that climbs, faster", 140, f"{CLIMB} {CLIMB}"),
    ("a bend into a run", 130, f"2:8^4 {sixteenths(BOX)}"),
    ("sixteenths over a shift", 130, sixteenths(CLIMB)),
    ("sixteenths, fast", 150, sixteenths(f"{BOX} {UP}")),
    ("sixteenths, very fast", 180, sixteenths(f"{BOX} {UP}")),
    ("everything at once", 160, f"{sixteenths(CLIMB)} 1:15^4q {sixteenths(CLIMB)}"),
)
