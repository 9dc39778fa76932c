#!/usr/bin/env python3
"""Small odd files that are in order, and small broken ones: pip install pillow==13.0.0, python3 make_odd.py

Beside each picture stands what Pillow reads from it (its sides, and some of its pixels as RGBA): `expected.json` is an outside reference, held
by core/formats/tests/odd.rs. Files that are to be refused have the word that the sentence must have.
"""
import io, json, struct, zipfile, zlib
from pathlib import Path
from PIL import Image, ImageDraw, PngImagePlugin

HERE = Path(__file__).parent
expected = {"pictures": {}, "refused": {}, "vectors": {}, "strokes": {}, "archives": {}}


def drawing(mode, size=(24, 17)):
    picture = Image.new("RGBA", size, (255, 255, 255, 255))
    d = ImageDraw.Draw(picture)
    d.line((2, 3, 20, 12), fill=(27, 30, 36, 255), width=3)
    d.rectangle((14, 2, 18, 4), fill=(208, 32, 144, 255))
    d.point((5, 14), fill=(0, 0, 0, 128))
    if mode in ("P", "1"):
        return picture.convert("RGB").convert(mode)
    return picture.convert(mode)


def keep(name, data):
    (HERE / name).write_bytes(data)
    picture = Image.open(io.BytesIO(data))
    w, h = picture.size
    if picture.mode.startswith("I;16") or picture.mode == "I":
        at = lambda x, y: [round(picture.getpixel((x, y)) / 257)] * 3 + [255]
    else:
        rgba = picture.convert("RGBA")
        at = lambda x, y: list(rgba.getpixel((x, y)))
    expected["pictures"][name] = {"width": w, "height": h, "pixels": [[x, y, *at(x, y)] for y in range(1, h, 5) for x in range(1, w, 6)]}


def saved(picture, kind, **how):
    out = io.BytesIO()
    picture.save(out, kind, **how)
    return out.getvalue()


def refuse(name, data, word):
    (HERE / name).write_bytes(data)
    expected["refused"][name] = word


def chunk(name, data, crc=None):
    return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data) if crc is None else crc)


def pngs():
    for mode, name in [("1", "bilevel"), ("L", "grey"), ("LA", "grey-alpha"), ("RGB", "rgb"), ("RGBA", "rgba"), ("P", "palette")]:
        keep(f"png-{name}.png", saved(drawing(mode), "PNG"))
    keep("png-one-pixel.png", saved(Image.new("L", (1, 1), 7), "PNG"))
    keep("png-one-row.png", saved(drawing("L").crop((0, 5, 24, 6)), "PNG"))
    keep("png-16-bit.png", saved(drawing("L").convert("I").point(lambda v: v * 257).convert("I;16"), "PNG"))
    clear = drawing("P")
    keep("png-palette-clear.png", saved(clear, "PNG", transparency=clear.getpixel((0, 0))))
    for bits in (2, 4):
        keep(f"png-palette-{bits}-bits.png", saved(drawing("RGB").quantize(1 << bits), "PNG", bits=bits))
    info = PngImagePlugin.PngInfo()
    info.add_text("Comment", "odd " * 200, zip=True)
    info.add_itxt("Title", "ein Bär", "de", "Titel")
    keep("png-texts.png", saved(drawing("RGB"), "PNG", pnginfo=info, dpi=(300, 300)))
    whole = saved(drawing("RGB"), "PNG")
    head, data = whole[:33], b"".join(part for part in [whole[33:-12]])
    body = data[8:-4]
    split = b"".join(chunk(b"IDAT", body[i : i + 7]) for i in range(0, len(body), 7))
    keep("png-data-in-sevens.png", head + split + whole[-12:])
    keep("png-empty-data-first.png", head + chunk(b"IDAT", b"") + data + whole[-12:])
    keep("png-words-after-its-end.png", whole + b"and more")
    refuse("png-bad-sum.png", whole[:33] + data[:-4] + b"\0\0\0\0" + whole[-12:], "damaged")
    refuse("png-no-data.png", head + whole[-12:], "damaged")
    refuse("png-no-sides.png", whole[:8] + chunk(b"IHDR", struct.pack(">IIBBBBB", 0, 0, 8, 2, 0, 0, 0)) + data + whole[-12:], "damaged")
    refuse("png-cut.png", whole[: len(whole) // 2], "damaged")
    refuse("png-kind-of-pixel.png", whole[:8] + chunk(b"IHDR", struct.pack(">IIBBBBB", 24, 17, 3, 2, 0, 0, 0)) + data + whole[-12:], "damaged")


def tiffs():
    for mode, name in [("1", "bilevel"), ("L", "grey"), ("RGB", "rgb"), ("RGBA", "rgba")]:
        keep(f"tiff-{name}.tif", saved(drawing(mode), "TIFF"))
    for how, name in [("tiff_lzw", "lzw"), ("packbits", "packbits"), ("tiff_deflate", "deflate")]:
        keep(f"tiff-{name}.tif", saved(drawing("RGB"), "TIFF", compression=how))
    keep("tiff-fax.tif", saved(drawing("1"), "TIFF", compression="group4"))
    keep("tiff-16-bit.tif", saved(drawing("L").convert("I").point(lambda v: v * 257).convert("I;16"), "TIFF"))
    two = io.BytesIO()
    drawing("L").save(two, "TIFF", save_all=True, append_images=[Image.new("L", (9, 9), 3)])
    keep("tiff-two-pages.tif", two.getvalue())
    plain = bytearray(saved(drawing("L"), "TIFF"))
    refuse("tiff-no-directory.tif", bytes(plain[:4]) + struct.pack("<I", 1 << 30) + bytes(plain[8:]), "damaged")
    refuse("tiff-cut.tif", bytes(plain[: len(plain) // 2]), "damaged")
    kinds_of_tiff()


def tiff(data, bits, photometric, size=(24, 17), order="<", big=False, **tags):
    """One strip; tags by their numbers' names below, values as lists."""
    names = {"compression": 259, "fill": 266, "planes": 284, "table": 320, "tile_width": 322, "tile_length": 323, "tile_offsets": 324, "tile_counts": 325, "extra": 338, "format": 339}
    head = 16 if big else 8
    entries = {256: [size[0]], 257: [size[1]], 258: bits, 259: [1], 262: [photometric], 273: [head], 277: [len(bits)], 278: [size[1]], 279: [len(data)]}
    entries |= {names[k]: v for k, v in tags.items()}
    if 324 in entries:
        del entries[273], entries[278], entries[279]
    at = head + len(data) + len(data) % 2
    beyond, table = b"", b""
    wide, count = ("Q", "Q") if big else ("I", "H")
    room = 8 if big else 4
    place = at + struct.calcsize(order + count) + len(entries) * (20 if big else 12) + room
    for tag, values in sorted(entries.items()):
        kind, code = (4, "I") if tag in (273, 279, 324, 325) else (3, "H")
        body = struct.pack(f"{order}{len(values)}{code}", *values)
        if len(body) > room:
            place_of, beyond = place + len(beyond), beyond + body + bytes(len(body) % 2)
            body = struct.pack(order + wide, place_of)
        table += struct.pack(f"{order}HH{wide}", tag, kind, len(values)) + body.ljust(room, b"\0")
    mark = b"II" if order == "<" else b"MM"
    start = mark + (struct.pack(order + "HHHQ", 43, 8, 0, at) if big else struct.pack(order + "HI", 42, at))
    return start + data + bytes(len(data) % 2) + struct.pack(order + count, len(entries)) + table + bytes(room) + beyond


def packed(values, bits, width=24):
    rows = [values[i : i + width] for i in range(0, len(values), width)]
    text = ("".join(f"{v:0{bits}b}" for v in row) for row in rows)
    return b"".join(int(t.ljust(-len(t) // 8 * -8, "0"), 2).to_bytes(-len(t) // -8, "big") for t in text)


def kinds_of_tiff():
    turned = bytes(int(f"{v:08b}"[::-1], 2) for v in range(256))
    grey = list(drawing("L").tobytes())
    for bits in (1, 2, 4, 8):
        few = drawing("RGB").quantize(1 << bits)
        colours = (few.getpalette() + [0] * 768)[: 3 << bits]
        table = [257 * colours[3 * i + k] for k in range(3) for i in range(1 << bits)]
        for order, name in (("<", ""), (">", "-large-end-first")):
            keep(f"tiff-table-{bits}{name}.tif", tiff(packed(list(few.tobytes()), bits), [bits], 3, order=order, table=table))
    for bits in (2, 4):
        values = [v >> (8 - bits) for v in grey]
        keep(f"tiff-grey-{bits}.tif", tiff(packed(values, bits), [bits], 1))
        keep(f"tiff-grey-{bits}-white-is-nought.tif", tiff(packed([(1 << bits) - 1 - v for v in values], bits), [bits], 0))
        keep(f"tiff-grey-{bits}-bits-turned.tif", tiff(packed(values, bits).translate(turned), [bits], 1, fill=[2]))
    keep("tiff-large.tif", tiff(bytes(grey), [8], 1, big=True))
    rgba = drawing("RGBA")
    rgba.paste((90, 30, 200, 70), (3, 6, 12, 15))
    multiplied = rgba.convert("RGBa")
    keep("tiff-alpha-multiplied.tif", tiff(multiplied.tobytes(), [8] * 4, 2, extra=[1]))
    keep("tiff-alpha-beside.tif", tiff(rgba.tobytes(), [8] * 4, 2, extra=[2]))
    veiled = [v for pixel in zip(grey, rgba.getchannel("A").tobytes()) for v in pixel]
    keep("tiff-grey-alpha.tif", tiff(bytes(veiled), [8] * 2, 1, extra=[2]))
    # Pillow does not read it with 16 bits: the same numbers as with 8.
    (HERE / "tiff-grey-alpha-16-bit.tif").write_bytes(tiff(struct.pack(f"<{len(veiled)}H", *(257 * v for v in veiled)), [16] * 2, 1, extra=[2]))
    expected["pictures"]["tiff-grey-alpha-16-bit.tif"] = expected["pictures"]["tiff-grey-alpha.tif"]
    keep("tiff-jpeg.tif", saved(drawing("RGB").convert("YCbCr"), "TIFF", compression="jpeg", quality=95))
    keep("tiff-jpeg-grey.tif", saved(drawing("L"), "TIFF", compression="jpeg", quality=95))
    three = drawing("RGB").tobytes()
    refuse("tiff-lab.tif", tiff(three, [8] * 3, 8), "CIELab")
    refuse("tiff-signed.tif", tiff(bytes(grey), [8], 1, format=[2]), "signed")
    refuse("tiff-12-bits.tif", tiff(packed([16 * v for v in grey], 12), [12], 1), "12 bits")
    refuse("tiff-lzma.tif", tiff(bytes(grey), [8], 1, compression=[34925]), "LZMA")
    refuse("tiff-fax-3.tif", tiff(bytes(grey), [1], 1, compression=[3]), "fax")
    tiles = b"".join(bytes(256) for _ in range(12))
    place = {"tile_width": [16], "tile_length": [16], "tile_offsets": [8 + 256 * i for i in range(12)], "tile_counts": [256] * 12}
    refuse("tiff-planes-in-tiles.tif", tiff(tiles, [8] * 3, 2, planes=[2], **place), "colour planes")
    refuse("tiff-colours-unheard-of.tif", tiff(bytes(grey), [8], 77), "not read")
    refuse("tiff-short-table.tif", tiff(packed([v >> 4 for v in grey], 4), [4], 3, table=[0] * 12), "colour table")


def jpegs():
    for mode, name in [("L", "grey"), ("RGB", "rgb")]:
        keep(f"jpeg-{name}.jpg", saved(drawing(mode), "JPEG", quality=95, subsampling=0))
    keep("jpeg-progressive.jpg", saved(drawing("RGB"), "JPEG", quality=95, progressive=True, subsampling=0))
    whole = saved(drawing("RGB"), "JPEG", quality=95)
    refuse("jpeg-cut.jpg", whole[: len(whole) // 3], "damaged")
    begins = whole.index(b"\xff\xda") + 14
    for share, name in ((0.4, "in-the-middle"), (0.95, "near-its-end")):
        refuse(f"jpeg-cut-{name}.jpg", whole[: begins + int(share * (len(whole) - begins))], "its end is missing")
    refuse("jpeg-end-of-noughts.jpg", whole[: begins + (len(whole) - begins) // 2] + bytes(len(whole) // 2), "damaged")
    small = saved(drawing("L", (8, 8)), "JPEG")
    within = whole[:20] + b"\xff\xe4" + struct.pack(">H", len(small) + 2) + small + whole[20:]
    keep("jpeg-small-within.jpg", within)
    refuse("jpeg-small-within-noughts.jpg", within[: len(within) - len(whole) // 8] + bytes(len(whole) // 8), "its end is missing")
    keep("jpeg-bytes-between.jpg", whole[:20] + bytes(3) + whole[20:])


def vectors():
    line = '<path d="M4 20H60" stroke="#000" stroke-width="4"/>'
    space = 'xmlns="http://www.w3.org/2000/svg"'
    files = {
        "svg-mark-of-order.svg": "\ufeff" + f'<svg {space} width="64" height="40">{line}</svg>',
        "svg-view-box-only.svg": f'<svg {space} viewBox="0 0 64 40">{line}</svg>',
        "svg-in-mm.svg": f'<svg {space} width="16.9333mm" height="10.5833mm" viewBox="0 0 64 40">{line}</svg>',
        "svg-comment-before.svg": f'<!-- {"a long licence " * 100} --><svg {space} width="64" height="40">{line}</svg>',
        "svg-line-ends.svg": f'<?xml version="1.0"?>\r\n<svg {space}\r\n width="64"\r\n height="40">\r\n{line}\r\n</svg>\r\n',
        "svg-style-sheet.svg": f'<svg {space} width="64" height="40"><style>path {{ stroke: #000; stroke-width: 4 }}</style><path d="M4 20H60"/></svg>',
        "svg-name-space.svg": f'<s:svg xmlns:s="http://www.w3.org/2000/svg" width="64" height="40"><s:path d="M4 20H60" stroke="#000" stroke-width="4"/></s:svg>',
        "svg-in-svg.svg": f'<svg {space} width="64" height="40"><svg x="0" y="0" width="64" height="40">{line}</svg></svg>',
    }
    for name, text in files.items():
        (HERE / name).write_text(text, encoding="utf-8", newline="")
        expected["vectors"][name] = {"width": 64, "height": 40}
    (HERE / "svg-sixteen-bits.svg").write_bytes(f'<svg {space} width="64" height="40">{line}</svg>'.encode("utf-16"))
    expected["vectors"]["svg-sixteen-bits.svg"] = {"width": 64, "height": 40}
    refuse("svg-open-tag.svg", f'<svg {space} width="64" height="40"><g>{line}</svg>'.encode(), "XML")
    refuse("svg-of-nothing.svg", b"<?xml version='1.0'?>", "XML")
    refuse("svg-no-size.svg", f'<svg {space} width="0" height="40">{line}</svg>'.encode(), "")
    refuse("svg-another-root.svg", b"<html><body><p>no drawing</p></body></html>", "")


def strokes():
    points = ", ".join(f"{x} {x % 3}" for x in range(6))
    files = {
        "ink-mark-of-order.inkml": ("\ufeff" + f"<ink><trace>{points}</trace></ink>", 6),
        "ink-name-space.inkml": (f'<i:ink xmlns:i="http://www.w3.org/2003/InkML"><i:trace>{points}</i:trace></i:ink>', 6),
        "ink-line-ends.inkml": (f"<?xml version='1.0'?>\r\n<ink>\r\n<trace>\r\n{points}\r\n</trace>\r\n</ink>\r\n", 6),
        "ink-empty-traces.inkml": (f"<ink><trace/><trace> </trace><trace>{points}</trace></ink>", 6),
        "ink-close-signs.inkml": ("<ink><trace>1-2,3+4,.5-.5,1e1-1E-1</trace></ink>", 4),
        "ink-no-strokes.inkml": ("<ink><annotation type='scale'>card</annotation></ink>", 0),
    }
    for name, (text, n) in files.items():
        (HERE / name).write_text(text, encoding="utf-8", newline="")
        expected["strokes"][name] = n


def archives():
    drawn = saved(drawing("L"), "PNG")
    def made(name, entries, comment=b"", how=zipfile.ZIP_DEFLATED):
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", how) as z:
            for entry, data in entries:
                z.writestr(zipfile.ZipInfo(entry), data, compress_type=how)
            z.comment = comment
        (HERE / name).write_bytes(out.getvalue())
        return out.getvalue()
    made("zip-stored.zip", [("a.png", drawn)], how=zipfile.ZIP_STORED)
    made("zip-comment.zip", [("a.png", drawn)], comment=b"PK\x05\x06 not the end " * 9)
    made("zip-names.zip", [("Schuß/Bär.png", drawn), ("a b/\u202ec.png", drawn), ("dir/", b""), ("notes.txt", b"x")])
    made("zip-nothing.zip", [])
    made("zip-in-zip.zip", [("inner.zip", b"PK"), ("a.png", drawn)])
    expected["archives"] = {"zip-stored.zip": 1, "zip-comment.zip": 1, "zip-names.zip": 2, "zip-nothing.zip": 0, "zip-in-zip.zip": 1}


pngs(), tiffs(), jpegs(), vectors(), strokes(), archives()
(HERE / "expected.json").write_text(json.dumps(expected, separators=(",", ":")))
