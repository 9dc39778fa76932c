"""Ours beside scikit-image's medial axis on the same drawing in the same run, in turns, so that both meet the same machine
(packages as in tests/reference/requirements.txt):

    cargo build --release -p eddymist-bench && python bench/medial_axis.py target/release/eddymist-bench
"""
import statistics
import subprocess
import sys
import tempfile
import time

import numpy as np
from PIL import Image
from skimage.morphology import medial_axis

ROUNDS = 7
ours, decoding, theirs = [], [], []
with tempfile.TemporaryDirectory() as folder:
    path = folder + "/drawing.png"
    for _ in range(ROUNDS):
        out = subprocess.run([sys.argv[1], "drawing", path], capture_output=True, text=True, check=True).stdout
        figures = dict(line.rsplit("\t", 1) for line in out.splitlines())
        ours.append(float(figures["decoded pixels to widths\tms"]))
        decoding.append(float(figures["decoding the PNG, 1920x1080\tms"]))
        mask = np.asarray(Image.open(path).convert("L")) < 160
        for _ in range(3):
            start = time.perf_counter()
            medial_axis(mask, return_distance=True)
            theirs.append(1000 * (time.perf_counter() - start))
print(out, end="")
for name, of in (("median", statistics.median), ("best", min)):
    print(f"decoded pixels to widths, {name} of {ROUNDS} rounds\tms\t{of(ours):.1f}")
    print(f"scikit-image medial_axis(mask, return_distance=True), {name}\tms\t{of(theirs):.1f}")
    print(f"ours is faster by, {name}\tratio\t{of(theirs) / of(ours):.1f}")
    print(f"widths over decoding the PNG, {name}\tratio\t{of(ours) / of(decoding):.2f}")
