#!/usr/bin/env python3
"""Makes the documents' fonts from the web fonts: static regular and bold, as TTF, latin and
latin-ext merged.

Needs fonttools and brotli (pip install fonttools brotli) and `npm ci` in web/.
Run it only when the fonts change;
its results are kept in crates/documents/fonts.
"""
import tempfile
from pathlib import Path

from fontTools.merge import Merger
from fontTools.ttLib import TTFont
from fontTools.varLib import instancer

ROOT = Path(__file__).resolve().parent.parent
for family in ("next", "mono"):
    name = f"atkinson-hyperlegible-{family}"
    files = ROOT / "web/node_modules/@fontsource-variable" / name / "files"
    for weight, style in ((400, "Regular"), (700, "Bold")):
        parts = []
        with tempfile.TemporaryDirectory() as tmp:
            for subset in ("latin", "latin-ext"):
                font = TTFont(files / f"{name}-{subset}-wght-normal.woff2")
                font.flavor = None
                font = instancer.instantiateVariableFont(
                    font, {"wght": weight}, updateFontNames=False
                )
                path = f"{tmp}/{subset}.ttf"
                font.save(path)
                parts.append(path)
            merged = Merger().merge(parts)
        label = f"Atkinson Hyperlegible {family.capitalize()}"
        for record in list(merged["name"].names):
            if record.nameID in (16, 17, 21, 22, 25):
                merged["name"].removeNames(nameID=record.nameID)
        for name_id, text in (
            (1, label),
            (2, style),
            (4, f"{label} {style}"),
            (6, f"{label.replace(' ', '')}-{style}"),
        ):
            merged["name"].setName(text, name_id, 3, 1, 0x409)
        merged["OS/2"].usWeightClass = weight
        merged["OS/2"].fsSelection = 0x20 if weight == 700 else 0x40
        merged["head"].macStyle = 1 if weight == 700 else 0
        fonts = ROOT / "crates/documents/fonts"
        target = fonts / f"AtkinsonHyperlegible{family.capitalize()}-{style}.ttf"
        merged.save(target)
        print(target.name, target.stat().st_size)
