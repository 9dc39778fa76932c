"""Golden values for pressure and ink of the same strokes, at the versions in requirements.txt: python tests/reference/make_pairs.py

warping.json  dtw (dtw-python): where on a line each node of a stroke that goes over it is, ends free, steps of the asymmetric pattern
rising.json   scipy.optimize.isotonic_regression and scipy.interpolate.make_lsq_spline of widths by raw pressure, with noise
"""
import json
import pathlib

import numpy as np
from dtw import asymmetric, dtw
from scipy.interpolate import make_lsq_spline
from scipy.optimize import isotonic_regression

HERE = pathlib.Path(__file__).parent


def write(name, value):
    (HERE / name).write_text(json.dumps(value) + "\n")


def evenly(points, step):
    way = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    at = np.arange(0, way[-1], step)
    return np.stack([np.interp(at, way, points[:, k]) for k in (0, 1)], axis=1), at


def warping():
    rng = np.random.default_rng(8)
    cases = []
    for k in range(4):
        u = np.linspace(0, 1, 2000)
        curve = np.stack([20 + 90 * u, 40 + (6 + 3 * k) * np.sin((5 + 2 * k) * u)], axis=1)
        line, _ = evenly(curve, 0.2)
        # Half as many places: a step of the pattern may pass over one.
        coarse, at = evenly(curve, 0.4)
        part = curve[(u > 0.05 * k) & (u < 1 - 0.04 * k)]
        slow = np.stack([0.8 * np.sin(3 * u[: len(part)] * (1 + j) + k) for j in (1, 2)], axis=1)
        nodes, _ = evenly(part + slow + rng.normal(scale=0.004, size=part.shape), 0.5)
        cost = np.sum((nodes[:, None, :] - coarse[None, :, :]) ** 2, axis=2)
        path = dtw(cost, step_pattern=asymmetric, open_begin=True, open_end=True)
        place = np.zeros(len(nodes))
        place[path.index1] = at[path.index2]
        cases.append({"line": line.round(4).tolist(), "nodes": nodes.round(4).tolist(), "mm": place.round(2).tolist()})
    write("warping.json", cases)


def rising():
    rng = np.random.default_rng(9)
    cases = []
    for bend in (0.6, 1.0, 2.2):
        x = np.sort(rng.beta(1.4, 1.6, 900))
        y = np.log(0.2 + 1.1 * x**bend) + rng.normal(scale=0.05, size=x.size)
        steps = isotonic_regression(y).x
        knots = np.concatenate([[x[0]] * 4, np.quantile(x, np.linspace(0, 1, 7)[1:-1]), [x[-1]] * 4])
        at = np.linspace(np.quantile(x, 0.05), np.quantile(x, 0.95), 30)
        cases.append({
            "points": np.stack([x, y], axis=1).round(6).tolist(),
            "isotonic_rms": float(np.sqrt(np.mean((y - steps) ** 2))),
            "at": at.round(6).tolist(),
            "spline": make_lsq_spline(x, y, knots, 3)(at).round(6).tolist(),
        })
    write("rising.json", cases)


warping()
rising()
