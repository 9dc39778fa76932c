"""Pictures in other lights than sRGB, and what they are in it, at the versions in ../reference/requirements.txt: python tests/light/make_light.py

Profiles are written by hand after ICC.1:2010 (v2, D50): grey and RGB, with an exponent, the identity or a table as their curve. What a picture
is in sRGB is LittleCMS's answer (through Pillow, relative colorimetric) where it can be asked, else the formula's: IEC 61966-2-1 for sRGB, CIE
15 for L*, and W3C PNG for gAMA. expected.json: pixels [x, y, r, g, b] of each file, in 255ths.
"""
import io
import json
import pathlib
import struct
import zlib

import numpy as np
from PIL import Image, ImageCms

HERE = pathlib.Path(__file__).parent
W, H = 32, 4
expected = {}
# Display primaries of a wide gamut, adapted to D50 (ICC.1, annex E, Bradford): the columns of the matrix.
WIDE = [(0.51512, 0.2412, -0.00105), (0.29198, 0.69225, 0.04189), (0.1571, 0.06657, 0.78407)]
SRGB = [(0.43607, 0.22249, 0.01392), (0.38515, 0.71687, 0.09708), (0.14307, 0.06061, 0.7141)]


def fixed(v):
    return struct.pack(">i", round(v * 65536))


def xyz(v):
    return b"XYZ \0\0\0\0" + b"".join(map(fixed, v))


def curve(gamma=None, table=None):
    if table is not None:
        return b"curv\0\0\0\0" + struct.pack(">I", len(table)) + struct.pack(f">{len(table)}H", *table)
    if gamma is None:
        return b"curv\0\0\0\0" + struct.pack(">I", 0)
    return b"curv\0\0\0\0" + struct.pack(">IH", 1, round(gamma * 256))


def profile(space, tags):
    text = b"made for tests\0"
    tags = {b"desc": b"desc\0\0\0\0" + struct.pack(">I", len(text)) + text + bytes(78), b"cprt": b"text\0\0\0\0none\0", b"wtpt": xyz((0.9642, 1, 0.8249)), **tags}
    place, data, table = 128 + 4 + 12 * len(tags), b"", struct.pack(">I", len(tags))
    for name, body in tags.items():
        body += bytes(-len(body) % 4)
        table += name + struct.pack(">II", place + len(data), len(body))
        data += body
    head = struct.pack(">I4sI4s4s4s", 0, b"none", 0x02400000, b"mntr", space, b"XYZ ")
    head += bytes(12) + b"acsp" + bytes(28) + fixed(0.9642) + fixed(1) + fixed(0.8249)
    head = head.ljust(128, b"\0")
    whole = head + table + data
    return struct.pack(">I", len(whole)) + whole[4:]


def grey(c):
    return profile(b"GRAY", {b"kTRC": c})


def rgb(columns, c):
    return profile(b"RGB ", {n: xyz(v) for n, v in zip((b"rXYZ", b"gXYZ", b"bXYZ"), columns)} | {n: c for n in (b"rTRC", b"gTRC", b"bTRC")})


def one_table(exponent):
    """An RGB profile of one table, for all purposes: primaries of sRGB under an exponent, in Lab (ICC.1:2010, lut16Type)."""
    n = 17
    level = (np.arange(n) / (n - 1)) ** exponent
    light = np.stack(np.meshgrid(level, level, level, indexing="ij"), axis=-1).reshape(-1, 3)
    at = (light @ np.array(SRGB)) / np.array([0.9642, 1, 0.8249])
    f = np.where(at > 216 / 24389, np.cbrt(at), (24389 / 27 * at + 16) / 116)
    lab = np.stack([116 * f[:, 1] - 16, 500 * (f[:, 0] - f[:, 1]), 200 * (f[:, 1] - f[:, 2])], axis=1)
    table = np.round(np.stack([lab[:, 0] * 652.8, (lab[:, 1] + 128) * 256, (lab[:, 2] + 128) * 256], axis=1)).clip(0, 65535).astype(">u2")
    unit = b"".join(fixed(float(i == j)) for i in range(3) for j in range(3))
    straight = struct.pack(">HH", 0, 65535)
    body = b"mft2\0\0\0\0" + bytes([3, 3, n, 0]) + unit + struct.pack(">HH", 2, 2) + 3 * straight + table.tobytes() + 3 * straight
    whole = profile(b"RGB ", {b"A2B0": body})
    return whole[:12] + b"scnr" + whole[16:20] + b"Lab " + whole[24:]


def srgb(light):
    light = np.clip(light, 0, 1)
    return np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)


def lightness(v):
    """Relative luminance of L*/100 (CIE 15)."""
    f = (100 * v + 16) / 116
    return np.where(100 * v > 8, f**3, 100 * v / 903.2963)


ramp = np.tile(np.linspace(0, 255, W).round().astype(np.uint8), (H, 1))
colours = np.stack([ramp, ramp[:, ::-1], np.full_like(ramp, 90)], axis=2)


def keep(name, want):
    want = np.asarray(want)
    if want.ndim == 2:
        want = np.stack([want] * 3, axis=2)
    expected[name] = [[x, 1, *map(float, np.round(want[1, x], 2))] for x in range(0, W, 3)]


def by_cms(image, icc, mode):
    return np.asarray(ImageCms.profileToProfile(image, ImageCms.ImageCmsProfile(io.BytesIO(icc)), ImageCms.createProfile("sRGB"), outputMode="RGB")).astype(float)


for name, c in [("grey-18", curve(1.8)), ("grey-22", curve(2.2)), ("grey-lightness", curve(table=[round(65535 * float(lightness(np.array(i / 1023)))) for i in range(1024)]))]:
    image, icc = Image.fromarray(ramp, "L"), grey(c)
    image.save(HERE / f"{name}.png", icc_profile=icc)
    keep(f"{name}.png", by_cms(image, icc, "RGB"))
image, icc = Image.fromarray(colours, "RGB"), one_table(1.8)
image.save(HERE / "scanner-table.png", icc_profile=icc)
keep("scanner-table.png", by_cms(image, icc, "RGB"))
for name, icc in [("wide-22", rgb(WIDE, curve(2.2))), ("linear", rgb(SRGB, curve()))]:
    image = Image.fromarray(colours, "RGB")
    for kind, more in [("png", {}), ("tif", {}), ("jpg", {"quality": 100, "subsampling": 0})]:
        image.save(HERE / f"{name}.{kind}", icc_profile=icc, **more)
        pixels = Image.open(HERE / f"{name}.{kind}").convert("RGB")
        keep(f"{name}.{kind}", by_cms(pixels, icc, "RGB"))


def png(name, data, depth, kind, chunks):
    def chunk(tag, body):
        return struct.pack(">I", len(body)) + tag + body + struct.pack(">I", zlib.crc32(tag + body))

    rows = b"".join(b"\0" + row.tobytes() for row in data)
    head = struct.pack(">IIBBBBB", W, H, depth, kind, 0, 0, 0)
    (HERE / name).write_bytes(b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + b"".join(chunk(*c) for c in chunks) + chunk(b"IDAT", zlib.compress(rows)) + chunk(b"IEND", b""))


# 16 bits of linear light, by gAMA 1 and by a profile; gAMA 1/1.8; gAMA as every file has it, which means sRGB; code points of linear light.
fine = np.tile(np.linspace(0, 65535, W).round().astype(">u2"), (H, 1))
light = fine.astype(float) / 65535
png("linear-16-gama.png", fine, 16, 0, [(b"gAMA", struct.pack(">I", 100000))])
keep("linear-16-gama.png", 255 * srgb(light))
linear = grey(curve())
png("linear-16-profile.png", fine, 16, 0, [(b"iCCP", b"linear\0\0" + zlib.compress(linear))])
keep("linear-16-profile.png", 255 * srgb(light))
png("gama-18.png", ramp, 8, 0, [(b"gAMA", struct.pack(">I", 55556))])
keep("gama-18.png", 255 * srgb((ramp / 255.0) ** 1.8))
png("gama-of-srgb.png", ramp, 8, 0, [(b"gAMA", struct.pack(">I", 45455))])
keep("gama-of-srgb.png", ramp)
png("code-points-linear.png", colours, 8, 2, [(b"cICP", bytes([1, 8, 0, 1]))])
keep("code-points-linear.png", 255 * srgb(colours / 255.0))
# Nothing said, and turned by its EXIF data: a quarter to the right.
exif = Image.Exif()
exif[0x0112] = 6
Image.fromarray(colours, "RGB").save(HERE / "turned.jpg", quality=100, subsampling=0, exif=exif.tobytes())
turned = np.asarray(Image.open(HERE / "turned.jpg")).astype(float)[::-1].transpose(1, 0, 2)
expected["turned.jpg"] = [[1, y, *map(float, turned[y, 1])] for y in range(0, W, 3)]
(HERE / "expected.json").write_text(json.dumps(expected, indent=1) + "\n")
