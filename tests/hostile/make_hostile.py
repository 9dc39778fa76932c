#!/usr/bin/env python3
"""Files that mean harm, made with nothing but Python's own library (3.11): python3 make_hostile.py

Each is small and asks for much: memory, time, or both. What becomes of them is in app/cli/tests/attacks.rs and
web/e2e/hostile.spec.ts. Kinds from common practice: repeated references, nested expansion, overlapping entries of an
archive (after D. Fifield, "A better zip bomb", WOOT 2019), sizes that lie.
"""
import base64, io, struct, zipfile, zlib
from pathlib import Path

HERE = Path(__file__).parent


def png(width, height, rows=None, kind=0, bits=1):
    """A PNG of one value; without `rows` only its head is true and its data ends early."""
    def chunk(name, data):
        return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))
    row = b"\0" * (1 + (width * bits * {0: 1, 2: 3, 6: 4}[kind] + 7) // 8)
    packed = zlib.compressobj(9)
    data = b"".join(packed.compress(row) for _ in range(height if rows is None else rows)) + packed.flush()
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, bits, kind, 0, 0, 0)) + chunk(b"IDAT", data) + chunk(b"IEND", b"")


def ora(name, layers, picture, width, height):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=9) as z:
        z.writestr("mimetype", "image/openraster")
        stack = "".join(f'<layer name="l{i}" src="a.png"/>' for i in range(layers))
        z.writestr("stack.xml", f'<image w="{width}" h="{height}"><stack>{stack}</stack></image>')
        z.writestr("a.png", picture)
    (HERE / name).write_bytes(out.getvalue())


def svg(name, body, size="1920 1080", head=""):
    w, h = size.split()
    text = f'<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="{w}" height="{h}">{body}</svg>'
    (HERE / name).write_text(head + text)


def overlapping(name, size, times):
    """One packed run of zeros that many entries name as theirs."""
    packer = zlib.compressobj(9, zlib.DEFLATED, -15)
    data = b"".join(packer.compress(b"\0" * (1 << 20)) for _ in range(size >> 20)) + packer.flush()
    crc = 0
    for _ in range(size >> 20):
        crc = zlib.crc32(b"\0" * (1 << 20), crc)
    local = struct.pack("<IHHHHHIIIHH", 0x04034B50, 20, 0, 8, 0, 0, crc, len(data), size, 5, 0) + b"a.png" + data
    entries = b""
    for i in range(times):
        label = f"d{i}.png".encode()
        entries += struct.pack("<IHHHHHHIIIHHHHHII", 0x02014B50, 20, 20, 0, 8, 0, 0, crc, len(data), size, len(label), 0, 0, 0, 0, 0, 0) + label
    end = struct.pack("<IHHHHIIH", 0x06054B50, 0, 0, times, times, len(entries), len(local), 0)
    (HERE / name).write_bytes(local + entries + end)


def many_entries(name, said):
    """An archive whose end says that it has more entries than it has."""
    body = b"PK\x03\x04" + b"\0" * 26
    large = struct.pack("<IQHHIIQQQQ", 0x06064B50, 44, 45, 45, 0, 0, said, said, 0, len(body))
    locator = struct.pack("<IIQI", 0x07064B50, 0, len(body), 1)
    end = struct.pack("<IHHHHIIH", 0x06054B50, 0, 0, 0xFFFF, 0xFFFF, 0xFFFFFFFF, 0xFFFFFFFF, 0)
    (HERE / name).write_bytes(body + large + locator + end)


def main():
    big = png(10_900, 10_900)
    ora("six-layers-of-one-picture.ora", 6, big, 10_900, 10_900)
    ora("a-thousand-layers.ora", 1000, png(1000, 1000), 1000, 1000)
    ora("size-that-lies.ora", 1, big, 8, 8)
    svg("opacity-in-opacity.svg", '<g opacity=".9">' * 200 + '<path d="M0 0h1900v1000" stroke="#000"/>' + "</g>" * 200)
    svg("hundreds-of-groups.svg", "".join(f'<g id="g{i}"><path d="M9 {i}h900" stroke="#000"/></g>' for i in range(400)))
    raster = base64.b64encode(png(30_000, 30_000, rows=4)).decode()
    svg("raster-of-900-megapixels.svg", f'<path d="M0 0h99" stroke="#000"/><image width="9" height="9" href="data:image/png;base64,{raster}"/>')
    uses = "".join(f'<g id="u{i}">' + f'<use xlink:href="#u{i - 1}"/>' * 10 + "</g>" for i in range(1, 12))
    svg("use-of-use.svg", f'<defs><path id="u0" d="M0 0h99v9" stroke="#000"/>{uses}</defs><use xlink:href="#u11"/>')
    svg("deep.svg", "<g>" * 10_000 + "</g>" * 10_000)
    entities = '<!DOCTYPE svg [<!ENTITY a "' + "x" * 20_000 + '">]>'
    svg("entities.svg", "<text>" + "&a;" * 20_000 + "</text>", head=entities)
    svg("filters.svg", '<filter id="f" x="0" y="0" width="1" height="1">' + '<feTurbulence numOctaves="9000" baseFrequency="9"/>' * 200
        + '</filter><path d="M0 0h1900v1000z" filter="url(#f)"/>', size="320 180")
    masks = "".join(f'<mask id="m{i}"><g mask="url(#m{i - 1})">' + f'<path d="M0 0h1900v{i}" fill="#fff" mask="url(#m{i - 1})"/>' * 4 + "</g></mask>" for i in range(1, 9))
    svg("masks-in-masks.svg", f'<mask id="m0"><path d="M0 0h9v9" fill="#fff"/></mask>{masks}<path d="M0 0h1900v1000z" mask="url(#m8)"/>')
    svg("size-of-a-continent.svg", '<path d="M0 0h99" stroke="#000"/>', size="1e9 1e9")
    overlapping("zeros-named-often.zip", 200 << 20, 40)
    overlapping("zeros.zip", 200 << 20, 4)
    many_entries("says-a-million.zip", 1_000_000)
    (HERE / "head-of-a-giant.png").write_bytes(png(100_000, 100_000, rows=1))
    (HERE / "ends-early.png").write_bytes(png(4000, 3000, rows=9, kind=6, bits=8))


main()
