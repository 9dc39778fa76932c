"""Golden values for pens and tablets, at the versions in requirements.txt: python tests/reference/make_pens.py

homography.json  skimage.transform.ProjectiveTransform over the finder squares of a sheet, exact and with a noise of 0.3 px
edges.json       skimage.measure.find_contours on blurred straight edges
spectrum.json    scipy.signal.periodogram above 15 Hz of a pressure series, its parabola taken out (numpy.polyfit)
welch.json       interval of a difference of means by scipy.stats.t at the Welch–Satterthwaite degrees of freedom
nib.json         scipy.optimize.curve_fit of the ellipse's and the spring's law
tost.json        statsmodels.stats.weightstats: two one-sided tests and the interval of a difference, the variances unlike
noncentral_f.json  scipy.stats.ncf
"""
import json
import pathlib

import numpy as np
from scipy.optimize import curve_fit
from scipy.signal import periodogram
from scipy.special import ndtr
from scipy.stats import ncf
from scipy.stats import t as student
from skimage.measure import find_contours
from skimage.transform import ProjectiveTransform
from statsmodels.stats.weightstats import CompareMeans, DescrStatsW, ttost_ind

HERE = pathlib.Path(__file__).parent
# The A4 sheet's marks (top left corners, clockwise) and the middles of a mark's finder squares, mm.
MARKS = [(10.0, 17.5), (184.25, 17.5), (184.25, 263.75), (10.0, 263.75)]
FINDERS = [(2.625, 2.625), (13.125, 2.625), (2.625, 13.125)]


def write(name, value):
    (HERE / name).write_text(json.dumps(value) + "\n")


def homography():
    rng = np.random.default_rng(21)
    mm = np.array([(x + u, y + v) for x, y in MARKS for u, v in FINDERS])
    cases = []
    for noise, keystone in ((0.0, 0.0), (0.0, 2e-5), (0.3, 0.0), (0.3, 2e-5)):
        for _ in range(3):
            a, k = rng.uniform(-0.08, 0.08), rng.uniform(11, 24)
            h = np.array([[k * np.cos(a), -k * np.sin(a), rng.uniform(50, 300)], [k * np.sin(a), k * np.cos(a), rng.uniform(50, 300)], [keystone, -keystone, 1]])
            px = ProjectiveTransform(h)(mm) + rng.normal(scale=noise, size=mm.shape) if noise else ProjectiveTransform(h)(mm)
            found = ProjectiveTransform.from_estimate(mm, px)
            at = np.array([(20, 30), (105, 148.5), (190, 280), (60, 200)])
            cases.append({"noise": noise, "px": px.tolist(), "at": at.tolist(), "mapped": found(at).tolist()})
    write("homography.json", cases)


def edges():
    cases = []
    for width, sigma, level in ((9.3, 0.8, 0.95), (14.7, 1.2, 0.9), (6.4, 0.9, 0.85)):
        # A line along x on 400 × 60 px, reflectance 1 on paper; a slope of one in a hundred moves it over the pixels.
        y, x = np.mgrid[0:60, 0:400] + 0.5
        d = y - 30 - 0.01 * (x - 200)
        ink = level * (ndtr((d + width / 2) / sigma) - ndtr((d - width / 2) / sigma))
        across = []
        for c in find_contours(ink, 0.6 * level):
            inside = c[(c[:, 1] > 60) & (c[:, 1] < 340)]
            across.append(np.mean(inside[:, 0] + 0.5 - 30 - 0.01 * (inside[:, 1] + 0.5 - 200)))
        cases.append({"width": width, "sigma": sigma, "level": level, "at_60": float(max(across) - min(across))})
    write("edges.json", cases)


def spectrum():
    cases = []
    for rate, n in ((100, 160), (133, 200), (200, 260)):
        rng = np.random.default_rng(n)
        t = np.arange(n) / rate
        raw = 0.5 + 0.05 * np.sin(2 * np.pi * 0.7 * t) + 0.004 * rng.normal(size=n)
        part = raw[n // 5 : n - n // 5]
        x = np.linspace(-1, 1, len(part))
        rest = part - np.polyval(np.polyfit(x, part, 2), x)
        f, p = periodogram(rest, fs=rate, detrend=False, scaling="spectrum")
        keep = f[1 : (len(part) - 1) // 2 + 1] > 15
        fast = p[1 : (len(part) - 1) // 2 + 1][keep].sum() * ((len(part) - 1) / 2) / keep.sum()
        cases.append({"rate_hz": rate, "raw": raw.tolist(), "sd": float(np.sqrt(fast))})
    write("spectrum.json", cases)


def welch():
    rng = np.random.default_rng(5)
    cases = []
    for _ in range(6):
        n1, n2 = (int(n) for n in rng.integers(3, 12, 2))
        m1, m2, s1, s2 = rng.uniform(0.4, 0.6), rng.uniform(0.4, 0.6), rng.uniform(0.01, 0.05), rng.uniform(0.01, 0.05)
        v1, v2 = s1**2 / n1, s2**2 / n2
        df = (v1 + v2) ** 2 / (v1**2 / (n1 - 1) + v2**2 / (n2 - 1))
        half = student.ppf(0.975, df) * np.sqrt(v1 + v2)
        cases.append({"before": [m1, s1, n1], "after": [m2, s2, n2], "interval": [m2 - m1 - half, m2 - m1 + half]})
    write("welch.json", cases)


def nib():
    rng = np.random.default_rng(9)
    deg = np.arange(0, 360, 15.0)
    rad = np.radians(deg)

    def ellipse(t, length, breadth, angle):
        return np.hypot(length * np.sin(t - angle), breadth * np.cos(t - angle))

    def spring(t, w0, q, pull):
        return w0 + q * np.maximum(0, np.cos(t - pull))

    cases = []
    for law, f, true, start in (
        ("ellipse", ellipse, (1.2, 0.4, 0.6), (1.0, 0.5, 0.5)),
        ("ellipse", ellipse, (0.9, 0.6, -0.8), (1.0, 0.5, -0.7)),
        ("spring", spring, (0.5, 0.3, 4.6), (0.4, 0.2, 4.5)),
        ("spring", spring, (0.3, 0.6, 1.0), (0.4, 0.4, 1.1)),
    ):
        w = f(rad, *true) + rng.normal(scale=0.004, size=len(rad))
        cases.append({"law": law, "widths": np.c_[deg, w].tolist(), "fitted": [float(v) for v in curve_fit(f, rad, w, start)[0]]})
    write("nib.json", cases)


def tost():
    rng = np.random.default_rng(25)
    cases = []
    for _ in range(40):
        pen = rng.normal(0.6, 0.02, rng.integers(3, 40))
        brush = rng.normal(0.6 + 0.02 * rng.uniform(-2.5, 2.5), 0.02 * rng.uniform(0.05, 1.2), rng.integers(3, 40))
        margin = float(np.std(pen, ddof=1))
        p = ttost_ind(brush, pen, -margin, margin, usevar="unequal")[0]
        interval = CompareMeans(DescrStatsW(brush), DescrStatsW(pen)).tconfint_diff(usevar="unequal")
        cases.append({"pen": pen.tolist(), "brush": brush.tolist(), "p": float(p), "interval": [float(v) for v in interval]})
    write("tost.json", cases)


def noncentral_f():
    cases = []
    for d1, d2, nc in ((7, 21, 0), (7, 21, 24), (7, 21, 3.5), (7, 5, 12), (7, 29, 80), (7, 29, 400), (3, 60, 7)):
        for q in (0.001, 0.05, 0.3, 0.6, 0.95, 0.999):
            f = float(ncf.ppf(q, d1, d2, nc)) if nc else float(q * 4)
            cases.append({"f": f, "d1": d1, "d2": d2, "noncentrality": nc, "p": float(ncf.cdf(f, d1, d2, nc))})
    write("noncentral_f.json", cases)


if __name__ == "__main__":
    homography()
    edges()
    spectrum()
    welch()
    nib()
    tost()
    noncentral_f()
