"""Strokes by people's hands, from the tests of graphomotor 0.2.1 (Child Mind Institute; LGPL 2.1, recorded/LICENSE):

    pip download --no-deps --no-binary :all: graphomotor==0.2.1 && tar xzf graphomotor-*.tar.gz
    python tests/reference/make_recorded.py graphomotor-0.2.1

recorded/NAME.csv  stroke, x, y, seconds: the columns of the recording that say where the stylus was and when, shortened to five digits; x and y are
                   hundredths of the page, y upwards; no pressure was recorded
recorded.json      filtered: every 50th x of the first stroke through OneEuroFilter 0.2.1 (1.5 Hz, 0.05) at the reports' own times
                   speed: at every 50th place from the 50th on, the way straight back to where the stylus was 80 ms before, per second (NumPy's interp)
                   arc: every 50th place's distance along the spiral r = 1.075 θ that the hand was to trace, by dynamic time warping of place (dtw-python)

                   area: of a line 0.4 mm wide along all strokes, a page of 100 mm, stroke by stroke (shapely's buffer)

spiral-NAME follow that spiral; memory is one drawn from memory; alphabet is handwriting.
"""
import csv
import json
import pathlib
import shutil
import sys

import dtw
import numpy as np
from OneEuroFilter import OneEuroFilter
from shapely.geometry import LineString

HERE = pathlib.Path(__file__).parent
CHOSEN = {
    "spiral-a": "sample_data/[5000000]6*-spiral_trace1_Dom.csv",
    "spiral-b": "sample_batch_data/[[]5000002]*spiral_trace1_Dom.csv",
    "spiral-c": "sample_batch_data/[[]5000002]*spiral_trace2_NonDom.csv",
    "spiral-d": "sample_batch_data/[[]5000002]*spiral_trace5_NonDom.csv",
    "spiral-e": "sample_batch_data/[[]5000001]*spiral_trace5_NonDom.csv",
    "spiral-f": "sample_batch_data/[[]5000002]*spiral_trace4_Dom.csv",
    "memory": "sample_batch_data/[[]5000002]*spiral_recall1_NonDom.csv",
    "alphabet": "sample_data/*Alpha_AtoZ.csv",
}


def arc(theta):
    return 1.075 * 0.5 * (theta * np.sqrt(1 + theta**2) + np.arcsinh(theta))


def along(x, y):
    """The distance along the spiral of every place, by warping the recording onto it: both in equal steps, so that a fast hand is followed too."""
    theta = np.interp(np.arange(0, arc(8 * np.pi), 0.4), arc(np.linspace(0, 8 * np.pi, 200_000)), np.linspace(0, 8 * np.pi, 200_000))
    spiral = 50 + 1.075 * theta[:, None] * np.stack([np.cos(theta), np.sin(theta)], axis=1)
    way = np.concatenate([[0], np.cumsum(np.hypot(np.diff(x), np.diff(y)))])
    steps = np.arange(0, way[-1], 0.5)
    hand = np.stack([np.interp(steps, way, x), np.interp(steps, way, y)], axis=1)
    warped = dtw.dtw(hand, spiral, step_pattern="asymmetric", open_end=True)
    s = np.zeros(len(steps))
    s[warped.index1] = arc(theta[warped.index2])
    return np.interp(way, steps, s)


out = {}
root = pathlib.Path(sys.argv[1])
for name, pattern in CHOSEN.items():
    (file,) = (root / "tests").glob(pattern.replace("sample_data/[5", "sample_data/[[]5"))
    rows = [[int(r["line_number"]), float(r["x"]), float(r["y"]), float(r["seconds"])] for r in csv.DictReader(open(file))]
    rows = [[a, round(x, 3), round(y, 3), round(t, 4)] for a, x, y, t in rows]
    with open(HERE / "recorded" / f"{name}.csv", "w", newline="") as f:
        csv.writer(f, lineterminator="\n").writerows([["stroke", "x", "y", "seconds"], *rows])
    _, x, y, t = np.array([r for r in rows if r[0] == 0]).T
    filtered = OneEuroFilter(120.0, 1.5, 0.05, 1.0)
    smooth = [filtered(a, 1 + b) for a, b in zip(x, t)]  # a time of nought it takes for none
    out[name] = {"filtered": [round(v, 6) for v in smooth[::50]]}
    then = np.maximum(t - 0.08, t[0])
    back = np.hypot(x - np.interp(then, t, x), y - np.interp(then, t, y)) / np.maximum(t - then, 1e-9)
    out[name]["speed"] = [round(float(v), 4) for v in back[50::50]]
    lines = [[(r[1], r[2]) for r in rows if r[0] == k] for k in sorted({r[0] for r in rows})]
    out[name]["area"] = round(sum(LineString(a).buffer(0.2, quad_segs=64).area for a in lines if len(set(a)) > 1), 4)
    if name.startswith("spiral"):
        out[name]["arc"] = [round(float(v), 3) for v in along(x, y)[::50]]
shutil.copy(root / "LICENSE", HERE / "recorded" / "LICENSE")
(HERE / "recorded.json").write_text(json.dumps(out) + "\n")
