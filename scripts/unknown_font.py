"""Makes web/src/theme/fonts/unknown.woff2: a font with nothing but the mark that stands for a character which no font of a machine
has. It comes first in every list of fonts, whose first one has that mark; most fonts draw a box.

    pip install fonttools brotli && python3 scripts/unknown_font.py
"""

from fontTools.fontBuilder import FontBuilder
from fontTools.pens.ttGlyphPen import TTGlyphPen

# Those of Atkinson Hyperlegible, so that lines stand where they stood.
UNITS, ASCENT, DESCENT = 1000, 984, -316
WIDTH, MIDDLE, HALF = 420, 250, 90


def diamond():
    pen = TTGlyphPen(None)
    x = WIDTH // 2
    pen.moveTo((x, MIDDLE - HALF))
    pen.lineTo((x - HALF, MIDDLE))
    pen.lineTo((x, MIDDLE + HALF))
    pen.lineTo((x + HALF, MIDDLE))
    pen.closePath()
    return pen.glyph()


builder = FontBuilder(UNITS, isTTF=True)
builder.setupGlyphOrder([".notdef", "mark"])
# A font must have some character: one of those that nobody uses.
builder.setupCharacterMap({0x10FFFD: "mark"})
builder.setupGlyf({".notdef": diamond(), "mark": diamond()})
builder.setupHorizontalMetrics({".notdef": (WIDTH, WIDTH // 2 - HALF), "mark": (WIDTH, WIDTH // 2 - HALF)})
builder.setupHorizontalHeader(ascent=ASCENT, descent=DESCENT)
builder.setupOS2(sTypoAscender=ASCENT, sTypoDescender=DESCENT, usWinAscent=ASCENT, usWinDescent=-DESCENT)
builder.setupNameTable({"familyName": "Clear Bend Unknown", "styleName": "Regular"})
builder.setupPost()
builder.font.flavor = "woff2"
builder.font["head"].created = builder.font["head"].modified = 0
builder.save("web/src/theme/fonts/unknown.woff2")
