"""Line drawings by many hands whose files state how wide their strokes are, from Debian's openclipart-svg 1:0.18+dfsg-19 (public domain):

    apt-get download openclipart-svg && dpkg-deb -x openclipart-svg_*.deb clip && python tests/reference/make_clip_art.py clip

clip_art/NAME.svg    the drawing, its page as large as the PNG's; metadata left out
clip_art/NAME.png    the same by cairo (CairoSVG), on white
clip_art/widths.json the width of NAME's strokes, px: as svgelements reads it from the file, all transforms applied; all strokes of a drawing
                     have one width
"""
import json
import pathlib
import sys
import xml.etree.ElementTree as ET

import cairosvg
from PIL import Image
from svgelements import SVG, Shape

HERE = pathlib.Path(__file__).parent / "clip_art"
OWN = "{http://www.w3.org/2000/svg}"
CHOSEN = {
    "buildings/brick_frouke_01": 900,
    "electronics/antenna": 800,
    "geography/carte_de_france_01": 1000,
    "people/clothing/earring_frouke_01": 900,
    "shapes/star_double_tom_webb_": 700,
    "signs_and_symbols/icthus_rick_beton_r": 500,
    "unsorted/pavement_frouke_01": 1600,
}


def stroke(file):
    drawing = SVG.parse(str(file), reify=True)
    widths = [float(e.stroke_width) for e in drawing.elements() if isinstance(e, Shape) and e.stroke is not None and e.stroke.value is not None]
    assert max(widths) < 1.001 * min(widths), file
    return widths[0], float(drawing.width), float(drawing.height)


def bare(file, size):
    """Without metadata, its page `size` px wide and high."""
    root = ET.parse(file).getroot()
    for parent in list(root.iter()):
        for child in [c for c in parent if c.tag.startswith("{") and not c.tag.startswith(OWN) or c.tag.endswith(("metadata", "foreignObject"))]:
            parent.remove(child)
        # What a drawing program keeps for itself, and links.
        for key in [k for k in parent.attrib if k.startswith("{") or k == "requiredExtensions"]:
            del parent.attrib[key]
    if "viewBox" not in root.attrib:
        root.set("viewBox", f"0 0 {size[2]:g} {size[3]:g}")
    root.set("width", str(size[0]))
    root.set("height", str(size[1]))
    ET.register_namespace("", "http://www.w3.org/2000/svg")
    return ET.tostring(root)


widths = {}
for name, longest in CHOSEN.items():
    file = pathlib.Path(sys.argv[1]) / "usr/share/openclipart/svg" / f"{name}.svg"
    width, w, h = stroke(file)
    k = longest / max(w, h)
    short = name.rsplit("/", 1)[1].split("_")[0]
    svg = HERE / f"{short}.svg"
    svg.write_bytes(bare(file, (round(w * k), round(h * k), w, h)))
    cairosvg.svg2png(url=str(svg), write_to=str(HERE / f"{short}.png"), background_color="white")
    png = Image.open(HERE / f"{short}.png")
    assert abs(png.width / (w * k) - 1) < 0.005
    png.convert("L").save(HERE / f"{short}.png", optimize=True)
    widths[short] = round(width * k, 4)
(HERE / "widths.json").write_text(json.dumps(widths, indent=1) + "\n")
