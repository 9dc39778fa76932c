"""Handed-in drawings by two renderers from outside, at the versions in requirements.txt, with the program in target/release:

    python tests/reference/make_handed_in.py

handed_in/GROUND.png   by cairo (through cairocffi) or by skia (through skia-python), as DRAWN says: the very outlines that the generator
                       (core/sim/src/handed_in) lays down, written by `eddymist-bench handed-in write` as SVG and drawn here anew
"""
import pathlib
import re
import subprocess
import tempfile
import xml.etree.ElementTree as ET

import cairocffi as cairo
import skia

HERE = pathlib.Path(__file__).parent
BENCH = HERE.parent.parent / "target/release/eddymist-bench"
SVG = "{http://www.w3.org/2000/svg}"
DRAWN = {"WhiteFills": "skia", "PaintedFills": "cairo", "PaintedPage": "skia", "MostlyBlack": "cairo", "HalfTransparent": "skia", "SeveralInks": "cairo"}
SEED = 77


def rings(d):
    for ring in re.findall(r"M([^Z]*)Z", d):
        yield [tuple(map(float, p.split())) for p in ring.split("L")]


def parts(text):
    root = ET.fromstring(text)
    page = [s.get("stop-color") for s in root.iter(SVG + "stop")][:1]
    for group in root.findall(SVG + "g"):
        yield page, float(group.get("opacity")), [(p.get("fill"), list(rings(p.get("d")))) for p in group.findall(SVG + "path")]
        page = []


def rgb(colour):
    return [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]


def by_cairo(text, size, out):
    surface = cairo.ImageSurface(cairo.FORMAT_ARGB32, *size)
    c = cairo.Context(surface)
    c.set_antialias(cairo.ANTIALIAS_BEST)
    for page, opacity, shapes in parts(text):
        if page:
            c.set_source_rgb(*rgb(page[0]))
            c.paint()
        c.push_group()
        for fill, paths in shapes:
            for ring in paths:
                c.move_to(*ring[0])
                for p in ring[1:]:
                    c.line_to(*p)
                c.close_path()
            c.set_source_rgb(*rgb(fill))
            c.fill()
        c.pop_group_to_source()
        c.paint_with_alpha(opacity)
    surface.write_to_png(str(out))


def by_skia(text, size, out):
    surface = skia.Surface(*size)
    canvas = surface.getCanvas()
    canvas.clear(skia.ColorTRANSPARENT)
    for page, opacity, shapes in parts(text):
        if page:
            canvas.clear(skia.Color4f(*rgb(page[0]), 1))
        canvas.saveLayerAlpha(None, round(255 * opacity))
        for fill, paths in shapes:
            path = skia.Path()
            for ring in paths:
                path.addPoly([skia.Point(*p) for p in ring], True)
            canvas.drawPath(path, skia.Paint(AntiAlias=True, Color4f=skia.Color4f(*rgb(fill), 1)))
        canvas.restore()
    surface.makeImageSnapshot().save(str(out), skia.kPNG)


for ground, renderer in DRAWN.items():
    with tempfile.TemporaryDirectory() as folder:
        subprocess.run([BENCH, "handed-in", "write", ground, str(SEED), f"{folder}/d"], check=True)
        text = pathlib.Path(folder, "d.svg").read_text()
    size = [int(v) for v in re.search(r'width="(\d+)" height="(\d+)"', text).groups()]
    (by_cairo if renderer == "cairo" else by_skia)(text, size, HERE / "handed_in" / f"{ground}.png")
