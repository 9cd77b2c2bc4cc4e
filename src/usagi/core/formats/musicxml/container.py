"""The XML of a MusicXML file: plain or compressed, in any encoding that XML has, without entities of its own."""

from __future__ import annotations

import io
import zipfile
import zlib
from typing import Final

from lxml import etree

from usagi.core.formats.score import FileUnreadable

MOST_BYTES: Final = 16_000_000  # of XML, unpacked; its tree takes ten times as much memory
MOST_FILES: Final = 200
ROOTS: Final = ("score-partwise", "score-timewise")


def root_of(data: bytes) -> etree._Element:
    """The root of a score, timewise scores turned partwise. Raises : FileUnreadable."""
    xml = _unpacked(data) if data[:4] == b"PK\x03\x04" else data
    if len(xml) > MOST_BYTES:
        raise FileUnreadable(f"This file is too long: {MOST_BYTES // 1_000_000} MB of XML at most.")
    root = _parsed(xml)
    if root.tag not in ROOTS:
        raise FileUnreadable(f"This is not a MusicXML score: its XML begins with <{str(root.tag)[:40]}>.")
    return _partwise(root) if root.tag == "score-timewise" else root


def _parsed(xml: bytes) -> etree._Element:
    parser = etree.XMLParser(
        resolve_entities=False, load_dtd=False, no_network=True, huge_tree=False, remove_comments=True, remove_pis=True
    )
    try:
        root = etree.fromstring(xml, parser)
    except (etree.XMLSyntaxError, ValueError) as fault:
        place = getattr(fault, "position", None)
        where = f" at line {place[0]}, column {place[1]}" if place and place[0] else ""
        raise FileUnreadable(f"This file is no XML that can be read{where}.") from fault
    internal = root.getroottree().docinfo.internalDTD
    if internal is not None and any(True for _ in internal.iterentities()):
        raise FileUnreadable("This file defines entities of its own, which a score does not need: it is not read.")
    return root


def _unpacked(data: bytes) -> bytes:
    """The score in a compressed file: the one that its container names, else its only one."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            names = archive.namelist()
            if len(names) > MOST_FILES:
                raise FileUnreadable("This compressed file holds too many files to be a score.")
            name = _named(archive, names)
            return _read(archive, name)
    except (zipfile.BadZipFile, zlib.error, EOFError, OSError, NotImplementedError, RuntimeError, ValueError) as fault:
        raise FileUnreadable("This compressed file is damaged and cannot be unpacked.") from fault


def _named(archive: zipfile.ZipFile, names: list[str]) -> str:
    if "META-INF/container.xml" in names:
        container = _parsed(_read(archive, "META-INF/container.xml"))
        for one in container.iter():
            path = one.get("full-path")
            if isinstance(one.tag, str) and one.tag.endswith("rootfile") and path in names:
                return str(path)
    scores = [n for n in names if n.endswith((".xml", ".musicxml")) and not n.startswith("META-INF/")]
    if not scores:
        raise FileUnreadable("This compressed file holds no score.")
    return scores[0]


def _read(archive: zipfile.ZipFile, name: str) -> bytes:
    """One file of an archive, no more of it than a score may have, whatever its head says."""
    with archive.open(name) as file:
        data = file.read(MOST_BYTES + 1)
    if len(data) > MOST_BYTES:
        raise FileUnreadable(f"This compressed file is too long: {MOST_BYTES // 1_000_000} MB unpacked at most.")
    return data


def packed(xml: bytes, name: str = "score.musicxml") -> bytes:
    """A score as a compressed file (.mxl). The same score gives the same bytes."""
    container = (
        '<?xml version="1.0" encoding="UTF-8"?>\n<container>\n <rootfiles>\n'
        f'  <rootfile full-path="{name}" media-type="application/vnd.recordare.musicxml+xml"/>\n'
        " </rootfiles>\n</container>\n"
    )
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        kind = zipfile.ZipInfo("mimetype")
        archive.writestr(kind, "application/vnd.recordare.musicxml", compress_type=zipfile.ZIP_STORED)
        for path, content in (("META-INF/container.xml", container.encode()), (name, xml)):
            archive.writestr(zipfile.ZipInfo(path), content, compress_type=zipfile.ZIP_DEFLATED)
    return out.getvalue()


def _partwise(root: etree._Element) -> etree._Element:
    """A timewise score with the parts outside and the measures inside."""
    parts: dict[str, etree._Element] = {}
    for measure in root.findall("measure"):
        for part in measure.findall("part"):
            own = parts.setdefault(part.get("id", ""), etree.Element("part", id=part.get("id", "")))
            copy = etree.SubElement(own, "measure", dict(measure.attrib))
            copy.extend(list(part))
        root.remove(measure)
    root.extend(parts.values())
    return root
