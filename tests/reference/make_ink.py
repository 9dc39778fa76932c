"""Golden values for the ink from outside libraries, at the versions in requirements.txt: python tests/reference/make_ink.py

shapes.json   shapely: a nib of any shape swept along a course, as the union of the convex hulls of its triangles at neighbouring
              placements; and its width across some directions, by the bounds of the turned shape
blur.json     scipy.ndimage.gaussian_filter, no ink beyond the picture
wilson.json   scipy.stats.binomtest(...).proportion_ci(method="wilson")
average.json  scipy.integrate.cumulative_trapezoid: a value's mean over a window of time that shrinks toward the ends
"""
import json
import pathlib

import numpy as np
from scipy.integrate import cumulative_trapezoid
from scipy.ndimage import gaussian_filter
from scipy.stats import binomtest
from shapely import MultiPoint, Polygon, constrained_delaunay_triangles, transform, unary_union

HERE = pathlib.Path(__file__).parent
rng = np.random.default_rng(11)

SHAPES = {
    "triangle": [[[-0.5, -0.3], [0.5, -0.3], [0.0, 0.4]]],
    "oblong": [[[-0.5, -0.1], [0.5, -0.1], [0.5, 0.1], [-0.5, 0.1]]],
    "heptagon": [[[0.5 * np.cos(a), 0.4 * np.sin(a)] for a in np.linspace(0, 2 * np.pi, 7, endpoint=False)]],
    "ell": [[[-0.5, -0.5], [0.5, -0.5], [0.5, -0.2], [-0.2, -0.2], [-0.2, 0.5], [-0.5, 0.5]]],
    "star": [[[(0.5 if k % 2 == 0 else 0.2) * np.cos(k * np.pi / 5), (0.5 if k % 2 == 0 else 0.2) * np.sin(k * np.pi / 5)] for k in range(10)]],
    "two pieces": [[[-0.5, -0.2], [-0.2, -0.2], [-0.2, 0.2], [-0.5, 0.2]], [[0.1, -0.1], [0.5, -0.3], [0.4, 0.3]]],
}


def write(name, value):
    (HERE / name).write_text(json.dumps(value) + "\n")


def placed(points, x, y, length, angle):
    c, s = np.cos(angle), np.sin(angle)
    p = np.asarray(points) * length
    return np.column_stack([x + c * p[:, 0] - s * p[:, 1], y + s * p[:, 0] + c * p[:, 1]])


def wilson():
    cases = []
    for right, of in [(0, 5), (1, 20), (10, 20), (13, 20), (20, 20), (37, 50), (501, 1000)]:
        ci = binomtest(right, of).proportion_ci(confidence_level=0.95, method="wilson")
        cases.append({"right": right, "of": of, "low": ci.low, "high": ci.high})
    write("wilson.json", cases)


def shapes():
    cases = []
    for name, rings in SHAPES.items():
        whole = unary_union([Polygon(r) for r in rings])
        pieces = [np.asarray(t.exterior.coords)[:-1] for t in constrained_delaunay_triangles(whole).geoms]
        for course in ("bend", "corner", "wander"):
            u = np.linspace(0, 1, 40)
            if course == "bend":
                xy = np.column_stack([20 * u, 4 * np.sin(4 * u)])
                angle = np.full(40, 0.3)
            elif course == "corner":
                xy = np.where(u[:, None] < 0.5, np.column_stack([20 * u, 0 * u]), np.column_stack([10 + 0 * u, 20 * (u - 0.5)]))
                angle = np.full(40, 1.1)
            else:
                xy = np.cumsum(rng.normal(0, 0.5, (40, 2)), axis=0)
                angle = 0.4 + 0.6 * u
            length = 1.0 + 0.6 * np.sin(5 * u)
            nibs = np.column_stack([xy, length, angle]).round(6)
            hulls = [MultiPoint(np.vstack([placed(p, *a), placed(p, *b)])).convex_hull for a, b in zip(nibs, nibs[1:]) for p in pieces]
            cases.append({"name": f"{name}, {course}", "rings": [np.round(np.array(r), 9).tolist() for r in rings], "nibs": nibs.tolist(), "area": unary_union(hulls).area})
        across = []
        for d in np.arange(0, 180, 15):
            turned = transform(whole, lambda p, d=d: placed(p, 0, 0, 1, -np.radians(d)))
            _, low, _, high = turned.bounds
            across.append([float(d), high - low])
        cases[-1]["across"] = across
    write("shapes.json", cases)


def blur():
    cases = []
    for sigma in (0.6, 1.5, 4.0):
        picture = (rng.random((24, 31)) > 0.6).astype(float)
        cases.append({"sigma": sigma, "picture": picture.astype(int).tolist(), "blurred": gaussian_filter(picture, sigma, mode="constant", truncate=3.5).round(6).tolist()})
    write("blur.json", cases)


def average():
    t = np.cumsum(rng.uniform(3, 12, 60))
    x = np.cumsum(rng.normal(0, 1, 60))
    whole = cumulative_trapezoid(x, t, initial=0)

    def integral(at):
        # Exact between samples: the antiderivative of a straight line.
        i = np.clip(np.searchsorted(t, at, side="right") - 1, 0, len(t) - 2)
        w = (at - t[i]) / (t[i + 1] - t[i])
        return whole[i] + (at - t[i]) * (x[i] + 0.5 * w * (x[i + 1] - x[i]))

    cases = []
    for window in (20.0, 45.0, 150.0):
        half = np.minimum(window / 2, np.minimum(t - t[0], t[-1] - t))
        mean = [x[k] if half[k] <= 0 else float((integral(t[k] + half[k]) - integral(t[k] - half[k])) / (2 * half[k])) for k in range(len(t))]
        cases.append({"window": window, "t": t.tolist(), "x": x.tolist(), "mean": mean})
    write("average.json", cases)


if __name__ == "__main__":
    shapes()
    blur()
    average()
    wilson()
