"""Make the fonts of the handout (README.md).

The page's variable fonts become static ones at the weights that are printed, cut down to the signs that are printed.
"""

from __future__ import annotations

from io import BytesIO
from pathlib import Path

from fontTools import subset
from fontTools.ttLib import TTFont
from fontTools.varLib import instancer

ROOT = Path(__file__).parents[1]
FONTS = ROOT / "src/usagi/media/fonts"
WEB = ROOT / "web"
MODULES = WEB / "node_modules" / "@fontsource-variable"
READING = MODULES / "atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-wght-normal.woff2"
NAMING = MODULES / "literata/files/literata-latin-wght-normal.woff2"
SIGNS = WEB / "src/assets/accidentals.woff2"
WIDTHS = ROOT / "src/usagi/core/handout/widths.py"
LATIN = [*range(0x20, 0x7F), *range(0xA0, 0x180), 0x2013, 0x2014, 0x2018, 0x2019, 0x201C, 0x201D, 0x2026, 0x2022]


def made(source: Path, name: str, weight: int | None, codes: list[int]) -> TTFont:
    """A static font under a name of its own."""
    font = TTFont(source)
    if weight is not None:
        font = instancer.instantiateVariableFont(font, {"wght": weight})
    options = subset.Options(layout_features=["kern"], name_IDs=["*"], notdef_outline=True)
    cutter = subset.Subsetter(options)
    cutter.populate(unicodes=codes)
    cutter.subset(font)
    for record in list(font["name"].names):
        if record.nameID in (1, 4, 6, 16):
            font["name"].setName(f"Usagi {name}" if record.nameID != 6 else f"Usagi-{name}", record.nameID, 3, 1, 0x409)
    font.flavor = None
    return font


def widths(fonts: dict[str, TTFont], signs: TTFont) -> str:
    """The text of `core/handout/widths.py`."""
    lines = [
        '"""How wide each sign is, in thousandths of the size of the type. Made by making/fonts.py."""',
        "",
        "from __future__ import annotations",
        "",
        "from typing import Final",
        "",
        "# fmt: off",
    ]
    for name, font in [*fonts.items(), ("SIGNS", signs)]:
        scale = 1_000 / font["head"].unitsPerEm
        advances = {chr(code): round(font["hmtx"][glyph][0] * scale) for code, glyph in font.getBestCmap().items()}
        lines.append(f"{name}: Final = {{")
        row = "   "
        for sign, width in sorted(advances.items()):
            item = f" {sign!r}: {width},".replace("'\"'", '"\\""') if sign != "'" else f' "\'": {width},'
            if len(row) + len(item) > 118:
                lines.append(row)
                row = "   "
            row += item
        lines += [row, "}"]
    return "\n".join([*lines, "# fmt: on", ""])


def main() -> None:
    signs = sorted(TTFont(SIGNS).getBestCmap())
    fonts = {}
    for source, name, weight, codes in (
        (READING, "Reading", 400, LATIN),
        (READING, "ReadingBold", 700, LATIN),
        (NAMING, "Naming", 600, LATIN),
        (SIGNS, "Signs", None, signs),
    ):
        out = BytesIO()
        fonts[name] = made(source, name, weight, codes)
        fonts[name].save(out)
        (FONTS / f"{name}.ttf").write_bytes(out.getvalue())
    faces = {"READING": fonts["Reading"], "BOLD": fonts["ReadingBold"], "NAMING": fonts["Naming"]}
    WIDTHS.write_text(widths(faces, fonts["Signs"]))


if __name__ == "__main__":
    main()
