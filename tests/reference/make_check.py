"""Golden values for the line check, at the versions in requirements.txt: python tests/reference/make_check.py

trends.json   scipy.stats.theilslopes, and pymannkendall's Hamed and Rao modification of the Mann-Kendall test, on series with and
              without trend, autocorrelation and equal values
islands.json  skimage.measure.label and regionprops on random pictures of ink and paper: pieces of ink over corners and pieces of
              paper over sides that do not touch the border, with their areas and middles
borders.json  skimage.measure.find_contours at one half, and the area that each encloses, on smooth random pictures
"""
import json
import pathlib

import numpy as np
import pymannkendall
from scipy.ndimage import gaussian_filter
from scipy.stats import theilslopes
from skimage.measure import find_contours, label, regionprops

HERE = pathlib.Path(__file__).parent


def series():
    rng = np.random.default_rng(56)
    for n in (6, 9, 14, 32, 60):
        for slope in (0.0, 0.02, -0.1):
            for keep in (0.0, 0.6):
                noise = rng.normal(scale=0.1, size=n)
                for i in range(1, n):
                    noise[i] += keep * noise[i - 1]
                y = 6 + slope * np.arange(n) + noise
                yield y
                yield np.round(y, 1)


cases = []
for y in series():
    found = pymannkendall.hamed_rao_modification_test(y)
    cases.append({"y": y.tolist(), "slope": float(theilslopes(y).slope), "p": float(found.p)})
(HERE / "trends.json").write_text(json.dumps(cases) + "\n")


def islands(mask, connectivity):
    out = []
    for r in regionprops(label(mask, connectivity=connectivity)):
        t, l, b, rr = r.bbox
        if t > 0 and l > 0 and b < mask.shape[0] and rr < mask.shape[1]:
            # Middles of pixels at .5, as everywhere here.
            out.append([float(r.area), float(r.centroid[1] + 0.5), float(r.centroid[0] + 0.5)])
    return sorted(out)


rng = np.random.default_rng(57)
cases = []
for density in (0.15, 0.3, 0.45, 0.6, 0.8):
    for smooth in (0.0, 1.0):
        field = rng.normal(size=(30, 42))
        field = gaussian_filter(field, smooth) if smooth else field
        ink = field < np.quantile(field, density)
        cases.append({"width": 42, "ink": "".join("#" if v else "." for v in ink.ravel()), "islands": islands(ink, 2), "holes": islands(~ink, 1)})
(HERE / "islands.json").write_text(json.dumps(cases) + "\n")

cases = []
for smooth in (3.0, 4.0, 5.0):
    for _ in range(3):
        field = gaussian_filter(rng.normal(size=(32, 40)), smooth)
        field = np.round(np.clip(0.5 + 0.35 * field / field.std(), 0, 1) * 255)
        field[0, :] = field[-1, :] = field[:, 0] = field[:, -1] = 0
        areas = []
        for c in find_contours(field / 255, 0.5):
            x, y = c[:, 1], c[:, 0]
            areas.append(abs(0.5 * float(np.dot(x[:-1], y[1:]) - np.dot(x[1:], y[:-1]))))
        cases.append({"width": 40, "coverage": field.astype(int).ravel().tolist(), "areas": sorted(areas)})
(HERE / "borders.json").write_text(json.dumps(cases) + "\n")
