"""Bytes a pixel of checking one drawing, above the program on a drawing of 64×64: PNG of 8 and 16 bits, transparent, painted, and vectors.

    cargo build --release -p eddymist-bench -p eddymist-cli
    python3 bench/memory.py target/release/eddymist-bench target/release/eddymist

Prints a name, a unit and a value a line. Wants numpy and Pillow as in tests/reference/requirements.txt.
"""
import json
import os
import struct
import subprocess
import sys
import tempfile
import time
import zlib

import numpy as np
from PIL import Image

Image.MAX_IMAGE_PIXELS = None
BENCH, EDDYMIST = (os.path.abspath(p) for p in sys.argv[1:3])


def peak(guide, path):
    """The most memory of `check` on a drawing, bytes: of its own process or of the one that reads the picture, whichever takes more."""
    asked = subprocess.Popen([EDDYMIST, "check", "--guide", guide, path, "--json"], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    most = 0
    while asked.poll() is None:
        for pid in [asked.pid, *children(asked.pid)]:
            try:
                most = max(most, int(open(f"/proc/{pid}/status").read().split("VmHWM:")[1].split()[0]))
            except (OSError, IndexError):
                pass
        time.sleep(0.001)
    if asked.returncode not in (0, 3):
        sys.exit(f"{path}: {asked.returncode}")
    return most * 1024


def children(pid):
    try:
        return [int(c) for task in os.listdir(f"/proc/{pid}/task") for c in open(f"/proc/{pid}/task/{task}/children").read().split()]
    except OSError:
        return []


def write16(path, rgba):
    """A PNG of 16 bits a channel: Pillow writes none in colour."""
    h, w, _ = rgba.shape
    rows = np.zeros((h, 1 + 8 * w), np.uint8)
    rows[:, 1:] = (rgba.astype(np.uint16) * 257).astype(">u2").reshape(h, -1).view(np.uint8)
    part = lambda kind, data: struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
    head = struct.pack(">IIBBBBB", w, h, 16, 6, 0, 0, 0)
    open(path, "wb").write(b"\x89PNG\r\n\x1a\n" + part(b"IHDR", head) + part(b"IDAT", zlib.compress(rows.tobytes(), 1)) + part(b"IEND", b""))


with tempfile.TemporaryDirectory() as d:
    guide = f"{d}/guide.json"
    role = {"name": "line", "from": {"rest": True}, "weight_px": {"target": 6, "tolerance": 0.2}}
    json.dump({"format": "eddymist/line-guide", "version": 1, "name": "g", "page": {"width_px": 1200, "height_px": 900}, "roles": [role]}, open(guide, "w"))
    idle_drawing = np.full((64, 64, 4), 255, np.uint8)
    idle_drawing[20:26, 8:56, :3] = 0
    Image.fromarray(idle_drawing).save(f"{d}/idle.png")
    idle = min(peak(guide, f"{d}/idle.png") for _ in range(3))
    print(f"the program on 64×64\tMiB\t{idle / 2**20:.1f}")
    for ground in ("White", "WhiteFills", "PaintedPage", "MostlyBlack"):
        subprocess.run([BENCH, "handed-in", "write", ground, "5", f"{d}/one"], check=True, stdout=subprocess.DEVNULL)
        one = np.asarray(Image.open(f"{d}/one.png").convert("RGBA"))
        many = np.tile(one, (4, 4, 1))
        pixels = many.shape[0] * many.shape[1]
        Image.fromarray(many).save(f"{d}/many.png", compress_level=1)
        print(f"{ground}, PNG, {pixels / 1e6:.1f} megapixels\tbytes a pixel\t{(peak(guide, f'{d}/many.png') - idle) / pixels:.1f}")
        write16(f"{d}/deep.png", many)
        print(f"{ground}, PNG of 16 bits\tbytes a pixel\t{(peak(guide, f'{d}/deep.png') - idle) / pixels:.1f}")
        # The same vectors, four times as large along both sides: a page of as many pixels.
        svg = open(f"{d}/one.svg").read()
        open(f"{d}/large.svg", "w").write(svg.replace('width="1200"', 'width="4800"', 1).replace('height="900"', 'height="3600"', 1))
        print(f"{ground}, SVG of {pixels / 1e6:.1f} megapixels\tbytes a pixel\t{(peak(guide, f'{d}/large.svg') - idle) / pixels:.1f}")
