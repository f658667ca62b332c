#!/usr/bin/env python3
"""Gives the shipped faces family names of their own.

The monospaced faces of B612 carry the family name "B612" in their legacy name record, like the proportional ones, so
that a font matcher may take one for the other. Run once on fresh copies of the font files; needs python3-fonttools.
"""
import sys
from fontTools.ttLib import TTFont

for path in sys.argv[1:]:
    font = TTFont(path)
    family = "Metrodos B612 Mono" if "Mono" in path else "Metrodos B612"
    style = "Bold" if "Bold" in path else "Italic" if "Italic" in path else "Regular"
    table = font["name"]
    for record in list(table.names):
        if record.nameID in (16, 17, 21, 22):
            table.removeNames(nameID=record.nameID)
    for name_id, text in ((1, family), (2, style), (4, f"{family} {style}"), (6, f"{family} {style}".replace(" ", ""))):
        table.setName(text, name_id, 3, 1, 0x409)
        table.setName(text, name_id, 1, 0, 0)
    if "CFF " in font:
        font["CFF "].cff.fontNames[0] = f"{family} {style}".replace(" ", "")
    font["OS/2"].usWeightClass = 700 if style == "Bold" else 400
    font.save(path)
