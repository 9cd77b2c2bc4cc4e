"""Commands on listening: `score` needs no server and no database; `corrections` writes what the studio keeps for it."""

from __future__ import annotations

import argparse
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from usagi.core.errors import UsagiError
from usagi.core.formats.document_json import SoloDocument, read_document
from usagi.core.listening.hints import Company, Hints, Side, Texture
from usagi.core.pitch.names import parse_pitch


def add_commands(commands: Any) -> None:
    score = commands.add_parser("score", help="compare what is heard in sound with what documents say")
    score.add_argument("files", nargs="+", type=Path, metavar="FILE", help="solo documents")
    score.add_argument("--sound", type=Path, required=True, metavar="FOLDER", help="where their sound files are")
    score.add_argument(
        "--hint",
        action="append",
        default=[],
        metavar="HINT",
        help=f"one of: {', '.join(_WORDS)}, lowest E3, highest D6",
    )
    score.add_argument("--json", action="store_true", help="one JSON object a document, and one for all")
    score.set_defaults(run=score_documents)
    corrections = commands.add_parser("corrections", help="write the corrections that the studio keeps, for score")
    corrections.add_argument("folder", type=Path, metavar="FOLDER")
    corrections.add_argument("--demo", action="store_true", help="of the demo's studio")
    corrections.set_defaults(run=write_corrections)


_WORDS: dict[str, dict[str, Any]] = {
    **{str(t): {"texture": t} for t in Texture if t is not Texture.AUTO},
    **{str(c): {"company": c} for c in Company if c is not Company.UNKNOWN},
    **{str(s): {"side": s} for s in Side if s is not Side.BOTH},
    "more": {"more": 1},
    "fewer": {"more": -1},
    "half a step down": {"half_step_down": True},
    "quick": {"quick": True},
}


def read_hints(words: list[str]) -> Hints:
    """Hints as they are typed.

    >>> read_hints(["one line", "lowest E3"]).lowest
    52
    """
    found: dict[str, Any] = {}
    for word in words:
        name, _, pitch = word.partition(" ")
        if name in ("lowest", "highest") and pitch:
            found[name] = parse_pitch(pitch)
        elif word in _WORDS:
            found |= _WORDS[word]
        else:
            raise UsagiError(f"“{word}” is no hint: {', '.join(_WORDS)}, lowest E3, highest D6.")
    return Hints(**found)


def score_documents(args: argparse.Namespace) -> int:
    from usagi.flows.listening.scoring import (  # mir_eval and the net, which most do without
        Score,
        hear_document,
        sounds_in,
    )

    hints = read_hints(args.hint)
    if not args.sound.is_dir():
        raise UsagiError(f"{args.sound} is no folder.")
    sounds = sounds_in(args.sound)
    every = Score()
    for file, document in _documents(args.files):
        truth, heard = hear_document(document, sounds, hints)
        one = Score()
        for score in (one, every):
            score.add(truth, heard.notes)
        print(_printed(one.told(str(file)), as_json=args.json))
    print(_printed(every.told("all"), as_json=args.json))
    return 0


def _documents(files: list[Path]) -> Iterator[tuple[Path, SoloDocument]]:
    for file in files:
        try:
            data = file.read_bytes()
        except OSError as fault:
            raise UsagiError(f"{file} cannot be opened: {fault.strerror}.") from fault
        yield file, read_document(data)


def _printed(told: dict[str, Any], *, as_json: bool) -> str:
    if as_json:
        return json.dumps(told, ensure_ascii=False)
    bands = ", ".join(f"{b['notes']} {b['band']} ({_number(b['right'])} right)" for b in told["by_confidence"])
    techniques = ", ".join(f"{name} {_number(told[name]['f'])}" for name in ("bends", "slides", "vibrato"))
    return (
        f"{told['file']}: {told['notes']} notes, {told['offered']} offered, F {_number(told['f'])} "
        f"(precision {_number(told['precision'])}, recall {_number(told['recall'])}); "
        f"onsets {_number(told['f_onset'])}; {techniques}; {bands}"
    )


def _number(value: float | None) -> str:
    return "–" if value is None else f"{value:.3f}"


def write_corrections(args: argparse.Namespace) -> int:
    from usagi.cli.studio import studio_workspace  # the database's libraries, which score does without
    from usagi.flows.listening.corrections import corrected
    from usagi.flows.sound.pieces import file_parts

    args.folder.mkdir(parents=True, exist_ok=True)
    count = 0
    with studio_workspace(demo=args.demo) as workspace:
        for one in corrected(workspace):
            (args.folder / one.name).write_bytes(one.document)
            if one.sound is not None:
                sound = args.folder / f"{one.sound.sha256[:16]}{Path(one.sound.file_name).suffix}"
                if not sound.exists():
                    sound.write_bytes(b"".join(file_parts(workspace, one.sound.id, 0, one.sound.bytes or 0)))
            count += 1
    print(f"{count} span{'' if count == 1 else 's'} written to {args.folder}.")
    return 0
