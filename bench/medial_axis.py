"""Ours beside scikit-image's medial axis on the same drawing in the same run (packages as in tests/reference/requirements.txt):

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

with tempfile.TemporaryDirectory() as folder:
    path = folder + "/drawing.png"
    out = subprocess.run([sys.argv[1], "drawing", path], capture_output=True, text=True, check=True).stdout
    print(out, end="")
    ours = next(float(line.split("\t")[2]) for line in out.splitlines() if line.startswith("decoded pixels to widths\t"))
    mask = np.asarray(Image.open(path).convert("L")) < 160
times = []
for _ in range(5):
    start = time.perf_counter()
    medial_axis(mask, return_distance=True)
    times.append(1000 * (time.perf_counter() - start))
theirs = statistics.median(times)
print(f"scikit-image medial_axis(mask, return_distance=True)\tms\t{theirs:.1f}")
print(f"ours is faster by\tratio\t{theirs / ours:.1f}")
