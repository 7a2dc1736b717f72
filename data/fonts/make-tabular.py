#!/usr/bin/env python3
"""Makes the application's fonts from Debian's fonts-inter: the same letters, with figures of equal width.

Qt 6.4 cannot switch on the font's own 'tnum' feature, so the figures that it names take the place of the
ordinary ones. The family gets a name of its own, as the Open Font License asks of changed versions.
Needs: python3-fonttools, fonts-inter. Usage: make-tabular.py (writes beside this file)
"""
import pathlib
from fontTools.ttLib import TTFont

SOURCE = pathlib.Path("/usr/share/fonts/opentype/inter")
FAMILY = "Cobbleway Text"


def tabular(font):
    """Glyph substitutions of the feature 'tnum'."""
    table = font["GSUB"].table
    lookups = {i for r in table.FeatureList.FeatureRecord if r.FeatureTag == "tnum" for i in r.Feature.LookupListIndex}
    found = {}
    for index in lookups:
        for sub in table.LookupList.Lookup[index].SubTable:
            sub = getattr(sub, "ExtSubTable", sub)
            found.update(getattr(sub, "mapping", {}))
    return found


def rename(font, style):
    for record in list(font["name"].names):
        if record.nameID in (1, 16):
            font["name"].setName(FAMILY, record.nameID, record.platformID, record.platEncID, record.langID)
        elif record.nameID == 4:
            font["name"].setName(f"{FAMILY} {style}", 4, record.platformID, record.platEncID, record.langID)
        elif record.nameID == 6:
            font["name"].setName(f"CobblewayText-{style}", 6, record.platformID, record.platEncID, record.langID)
    if "CFF " in font:
        cff = font["CFF "].cff
        cff.fontNames = [f"CobblewayText-{style}"]
        cff.topDictIndex[0].FamilyName = FAMILY
        cff.topDictIndex[0].FullName = f"{FAMILY} {style}"


for style in ("Regular", "Medium", "SemiBold", "Bold"):
    font = TTFont(SOURCE / f"Inter-{style}.otf")
    swap = tabular(font)
    digits = {ord(c) for c in "0123456789+-.,:%"} | {0x2212, 0x2013}
    for sub in font["cmap"].tables:
        for code in digits & set(sub.cmap):
            sub.cmap[code] = swap.get(sub.cmap[code], sub.cmap[code])
    rename(font, style)
    font.save(pathlib.Path(__file__).parent / f"CobblewayText-{style}.otf")
    print(style, len(swap), "substitutions")
