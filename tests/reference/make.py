"""Golden values from outside libraries, at the versions in requirements.txt: python tests/reference/make.py

pchip.json      scipy.interpolate.PchipInterpolator (Fritsch and Butland 1984)
edt.json        scipy.ndimage.distance_transform_edt, squared
isotonic.json   sklearn.isotonic.IsotonicRegression, weighted
t_interval.json scipy.stats.t.interval of a mean
one_euro.json   OneEuroFilter, by the filter's authors
areas.json      shapely.unary_union of the convex hulls of neighbouring nib placements, 720 points a nib
"""
import json
import pathlib

import numpy as np
from OneEuroFilter import OneEuroFilter
from scipy.interpolate import PchipInterpolator
from scipy.ndimage import distance_transform_edt
from scipy.stats import t as student
from shapely import MultiPoint, unary_union
from sklearn.isotonic import IsotonicRegression

HERE = pathlib.Path(__file__).parent
rng = np.random.default_rng(7)


def write(name, value):
    (HERE / name).write_text(json.dumps(value) + "\n")


def pchip():
    cases = []
    for n in (2, 3, 5, 9):
        for _ in range(4):
            x = np.cumsum(rng.uniform(0.02, 1, n))
            y = rng.normal(size=n) if len(cases) % 2 else np.cumsum(rng.uniform(0, 1, n))
            at = np.linspace(x[0], x[-1], 23)
            cases.append({"knots": np.c_[x, y].tolist(), "at": np.c_[at, PchipInterpolator(x, y)(at)].tolist()})
    write("pchip.json", cases)


def edt():
    mask = rng.random((40, 56)) > 0.12
    mask[10:30, 8:40] = True
    mask[[0, -1]] = False
    mask[:, [0, -1]] = False
    squared = np.rint(distance_transform_edt(mask) ** 2).astype(int)
    write("edt.json", {"width": 56, "height": 40, "mask": mask.astype(int).ravel().tolist(), "squared": squared.ravel().tolist()})


def isotonic():
    cases = []
    for n in (4, 9, 30):
        x = np.sort(rng.uniform(0, 1, n))
        y = x + rng.normal(scale=0.3, size=n)
        w = rng.uniform(0.5, 4, n)
        fitted = IsotonicRegression().fit_transform(x, y, sample_weight=w)
        cases.append({"points": np.c_[x, y, w].tolist(), "fitted": fitted.tolist()})
    write("isotonic.json", cases)


def nib(x, y, a, b, angle):
    t = np.linspace(0, 2 * np.pi, 720, endpoint=False)
    u, v = a * np.cos(t), b * np.sin(t)
    return np.c_[x + np.cos(angle) * u - np.sin(angle) * v, y + np.sin(angle) * u + np.cos(angle) * v]


def areas():
    s = np.linspace(0, 1, 160)
    courses = {
        "straight": np.c_[60 * s, 0 * s],
        "curved": np.c_[40 * s, 8 * np.sin(5 * s)],
        "cornered": np.c_[np.where(s < 0.5, 40 * s, 20 - 30 * (s - 0.5)), np.where(s < 0.5, 0, 36 * (s - 0.5))],
        "self-crossing": np.c_[9 * np.sin(6.6 * s), 7 * np.sin(9.9 * s + 0.4)],
    }
    cases = []
    for name, points in courses.items():
        for ratio, angle, turning in ((1, 0, 0), (0.35, 0.6, 0), (0.5, -0.3, 2.2)):
            a = 0.15 + 0.75 * np.sin(np.pi * s) ** 2
            placed = [(float(p[0]), float(p[1]), float(r), float(r * ratio), angle + turning * float(k)) for p, r, k in zip(points, a, s)]
            hulls = [MultiPoint(np.r_[nib(*p), nib(*q)]).convex_hull for p, q in zip(placed, placed[1:])]
            cases.append({"name": f"{name} {ratio} {turning}", "nibs": placed, "area": unary_union(hulls).area})
    write("areas.json", cases)


def one_euro():
    cases = []
    for cutoff, beta in ((1.0, 0.0), (0.5, 0.05), (3.0, 0.4)):
        noise = np.random.default_rng(11)
        t = np.cumsum(noise.uniform(0.004, 0.012, 80))
        x = 10 * np.sin(3 * t) + noise.normal(scale=0.2, size=80)
        f = OneEuroFilter(freq=120, mincutoff=cutoff, beta=beta, dcutoff=1.0)
        samples = [[float(a), float(b), float(f(b, a))] for a, b in zip(t, x)]
        cases.append({"min_cutoff_hz": cutoff, "speed_coefficient": beta, "samples": samples})
    write("one_euro.json", cases)


def t_interval():
    cases = []
    for n in (3, 5, 12):
        v = 6 + np.random.default_rng(n).normal(scale=0.4, size=n)
        interval = student.interval(0.95, n - 1, loc=v.mean(), scale=v.std(ddof=1) / np.sqrt(n))
        cases.append({"values": v.tolist(), "interval": [float(i) for i in interval]})
    write("t_interval.json", cases)


if __name__ == "__main__":
    pchip()
    edt()
    isotonic()
    areas()
    one_euro()
    t_interval()
